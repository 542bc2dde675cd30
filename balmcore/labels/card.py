"""A recipe on one card: what goes into the pot, in percent and grams, in which steps, with its cautions."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from balmcore.advice.caution import Caution
from balmcore.advice.safety import Wearer, cautions
from balmcore.composition import Composition, percent_text
from balmcore.display import Display
from balmcore.errors import Problem
from balmcore.making.method import method_for, usual_setup
from balmcore.making.scaling import on_grid
from balmcore.making.steps import BURNS, Step
from balmcore.tables import Container, Kind

FOOT = (
    "Keep cool, dark and dry. Try it on a small place first. Local rules and the suppliers' papers come first; none of "
    "this is medical advice."
)


@dataclass(frozen=True)
class Card:
    """A card as it is read. ``rows`` are name, percent and mass, as text; ``steps`` a title and what to do."""

    title: str
    about: str
    mass: str
    rows: tuple[tuple[str, str, str], ...]
    total: str
    steps: tuple[tuple[str, str], ...]
    cautions: tuple[str, ...]

    @property
    def notes(self) -> tuple[str, ...]:
        """Everything below the steps: what burns, what is to be watched, who decides."""
        return (BURNS, *self.cautions, FOOT)


def card(
    title: str,
    about: str,
    composition: Composition,
    kind: Kind,
    grams: Decimal,
    containers: Mapping[str, Container],
    wearer: Wearer,
    room_c: float,
    show: Display,
    told: tuple[Caution, ...] = (),
) -> Card:
    """The card of a composition for so many grams in the pot, to the scale's step. Raises :class:`Problem` for no
    grams, and for nothing in it."""
    if grams <= 0:
        raise Problem(f"Say of how much: {show.mass_words(100)}.", "grams")
    composition.require_mass()
    step = Decimal(str(show.resolution_g))
    grams = max(step, (grams / step).to_integral_value(ROUND_HALF_UP) * step)
    masses, _ = on_grid(composition, grams, step)
    rows = tuple(
        (line.ingredient.name, percent_text(line.share), show.mass_number(masses[line.key]))
        for line in composition.lines
        if line.share
    )
    said = tuple(f"{found.line}. {found.text}".strip() for found in (*told, *cautions(composition, wearer)))
    try:
        method = _steps(composition, kind, grams, containers, room_c, show)
        steps = tuple((step.title, _words(step, show)) for step in method)
    except Problem as problem:
        steps = (("No method", problem.sentence),)
    return Card(title, about, show.mass, rows, show.mass_number(grams), steps, said)


def _words(step: Step, show: Display) -> str:
    at = show.temp_text(step.aim_c)
    aim = f"{step.aim.capitalize()} {at}. " if step.aim and at not in step.text else ""
    into = f"{'; '.join(entry.name for entry in step.into)}. " if step.into else ""
    caution = step.caution.replace(BURNS, "")  # it stands below, once
    return f"{aim}{into}{step.text} {caution}".strip()


def _steps(
    composition: Composition,
    kind: Kind,
    grams: Decimal,
    containers: Mapping[str, Container],
    room_c: float,
    show: Display,
) -> tuple[Step, ...]:
    """The method for as many usual containers of the kind as the grams fill."""
    return method_for(usual_setup(composition, kind, float(grams), containers, room_c, show)).steps
