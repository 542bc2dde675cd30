"""How long a composition keeps: as long as its shortest-lived oil, and never beyond a lot it is made from.

An antioxidant slows rancidity and preserves nothing. Ingredients below 2 % do not decide.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from balmcore.composition import Composition
from balmcore.tables import Ingredient

COUNTS_FROM = 0.02
SLOWED_FROM, SLOWED = 0.002, 1.5  # so much antioxidant lengthens the life of every oil by so much
DAYS_A_MONTH = 365.25 / 12


def shortest(composition: Composition) -> Ingredient | None:
    """The ingredient that turns first, None when no life is known. An antioxidant slows
    rancidity and is not counted as lengthening anything."""
    known = [line.ingredient for line in composition.expanded.lines if line.share and line.ingredient.shelf_months]
    return min(known, key=lambda item: item.shelf_months or 0.0, default=None)


@dataclass(frozen=True)
class Keeps:
    """The day until which something keeps, and the ingredient that decides it."""

    until: date
    decides: Ingredient


def keeps(made: date, composition: Composition, lots: Mapping[str, date]) -> Keeps | None:
    """How long what was made on a day keeps; ``lots`` are the best-before days of the lots that went
    in, the earliest of each ingredient. None when nothing in it has a known life.

    An oil lasts its shelf months from the day it was made, half as long again with an antioxidant; a
    lot's own day comes before that.
    """
    whole = composition.require_mass()
    total = float(whole.total)
    leaves = [(line.ingredient, float(line.share) / total) for line in whole.expanded.lines]
    slowed = sum(share for item, share in leaves if item.group == "antioxidant") >= SLOWED_FROM - 1e-9
    days = [
        Keeps(made + timedelta(days=round(item.shelf_months * DAYS_A_MONTH * (SLOWED if slowed else 1.0))), item)
        for item, share in leaves
        if share >= COUNTS_FROM and item.shelf_months
    ]
    days += [
        Keeps(lots[line.key], line.ingredient)
        for line in whole.lines
        if line.key in lots and float(line.share) / total >= COUNTS_FROM
    ]
    return min(days, key=lambda keep: keep.until, default=None)
