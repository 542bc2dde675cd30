"""A melt that no pitcher holds at once: made in rounds, one pitcher after another."""

from collections.abc import Callable, Iterator
from dataclasses import replace

from balmcore.errors import Problem
from balmcore.making.steps import AGAIN, Setup, Step
from balmcore.wording import in_sentence, listed

MOST_ROUNDS = 80  # beyond any day at a stove


def in_rounds(setup: Setup, steps_of: Callable[[int], Iterator[Step]]) -> Iterator[Step]:
    """The steps of each pitcher in turn, ``steps_of`` its number; as they are where there is one.

    Raises :class:`Problem` for more pitchers than anybody fills in a day.
    """
    many = setup.rounds
    if many > MOST_ROUNDS:
        raise Problem(
            f"That is {many} times {in_sentence(setup.vessels.pitcher.name)}: take a larger one, or make it in several "
            "batches.",
            "pitcher",
        )
    for number in range(1, many + 1):
        steps = list(steps_of(number))
        waits = number < many and setup.portions
        for place, step in enumerate(steps):
            text = step.text
            if many > 1 and step.key == "melt":
                text = f"{setup.mass(setup.left_g / many)} in this pitcher. {text}"
            if waits and place == len(steps) - 1:
                text += f" Covered, it stays warm {setup.heat.keeps} until the last pitcher is ready."
            yield _numbered(replace(step, text=text), number, many) if many > 1 else step


def _numbered(step: Step, number: int, many: int) -> Step:
    """A step with its pitcher's number; what all finishes are filled from has none."""
    if step.key.startswith("finish_"):
        return step
    key = step.key if number == many else f"{step.key}{AGAIN}{number}"
    return replace(step, key=key, title=f"{step.title}, pitcher {number} of {many}", round=number)


def rounds_told(setup: Setup) -> str:
    """Into how many pitchers a whole goes that none holds; empty where one holds it."""
    if setup.rounds == 1:
        return ""
    return f"In {setup.rounds} pitchers, one after another, {setup.mass(setup.total_g / setup.rounds)} in each."


def each_pitcher(setup: Setup) -> str:
    """What of every line goes into each of several pitchers; empty where one holds all."""
    if setup.rounds == 1:
        return ""
    part = setup.total_g / float(setup.composition.total) / setup.rounds
    each = [f"{setup.mass(float(line.share) * part)} {in_sentence(line.ingredient.name)}"
            for line in setup.composition.lines if line.share]  # fmt: skip
    return (
        f"Into each: {listed(each)}. Where one pitcher does for all, clean bowls hold the others until they are melted."
    )
