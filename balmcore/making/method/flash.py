"""The flash-point rule, asked at every step: from its flash point on, what a scent gives off can be lit by a spark.

A scent whose flash point no table knows counts as :data:`UNKNOWN_FLASH_C`, and that is said.
"""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from balmcore.display import Display
from balmcore.making.steps import FINISH, Setup, Step
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence, listed

UNKNOWN_FLASH_C = 40.0  # as strict as the lightest citrus oils; our figure
BEGINS = ("melt", "mix")  # with these a pot begins


def flash_c(scent: Ingredient) -> float:
    """The flash point of a scent in degrees C, :data:`UNKNOWN_FLASH_C` where it is not known."""
    return UNKNOWN_FLASH_C if scent.flash_c is None else scent.flash_c


def scents_of(items: Iterable[Ingredient]) -> tuple[Ingredient, ...]:
    """The aromatics among some ingredients, those of earlier melts in them too."""
    return tuple(dict.fromkeys(leaf for item in items for leaf, _ in item.parts if leaf.group == "aromatic"))


def flash_caution(items: Iterable[Ingredient], temp_c: float, show: Display) -> str:
    """What is to be said where some ingredients are together in a melt of a temperature; empty below every flash
    point."""
    over = [scent for scent in scents_of(items) if temp_c >= flash_c(scent)]
    if not over:
        return ""
    known = listed([f"{in_sentence(scent.name)} ({_point(scent, show)})" for scent in over])
    return (
        f"{show.temp_text(temp_c)} is above the flash point of {known}: no flame, spark or hot plate near. Keep a lid "
        "on and the window open."
    )


def _point(scent: Ingredient, show: Display) -> str:
    text = show.temp_text(flash_c(scent))
    return f"not known, counted as {text}" if scent.flash_c is None else text


def with_flash_points(setup: Setup, steps: Iterable[Step]) -> Iterator[Step]:
    """The steps, each with the lowest flash point of what is in the pot by then and, where it is warmer than that, with
    the caution."""
    items = {item.key: item for item in setup.composition.ingredients}
    present: dict[str, Ingredient] = {}
    for step in steps:
        if step.base_key in BEGINS:
            present = {}
        present.update((key, items[key]) for key in step.adds if key in items)
        here = list(present.values())
        if step.key.startswith(FINISH):
            portion = setup.portions[int(step.key.removeprefix(FINISH))]
            here += [one.ingredient for one in portion.finish.add]
        scents = scents_of(here)
        if not scents:
            yield step
            continue
        temps = [step.aim_c] if step.aim else []
        hottest = max([*temps, *step.temps_c.tolist()], default=setup.handling.room_c)
        told = flash_caution(here, hottest, setup.show)
        yield replace(step, flash_c=min(map(flash_c, scents)), flash=told, caution=f"{step.caution} {told}".strip())
