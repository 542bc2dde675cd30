"""How long a composition keeps: as long as its shortest-lived oil, and never beyond a lot it is made from.

An antioxidant slows rancidity and preserves nothing. Ingredients below 2 % do not decide. Fingers carry water and
germs into a jar: once open it keeps three quarters of that; a stick, a bar or a tube is not dipped into.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from math import floor

from balmcore.composition import Composition
from balmcore.display import day_words, figure, percent_words
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence

COUNTS_FROM = 0.02  # of the whole: less of an oil does not spoil it
SLOWED_FROM, SLOWED = 0.002, 1.5  # so much antioxidant lengthens the life of every oil by so much
DAYS_A_MONTH = 365.25 / 12  # a mean month of the calendar
OPEN_JAR = 0.75  # of its life is left to what is dipped into: a usual caution
DIPPED = ("tin", "jar", "pot")  # kinds of containers that fingers go into


@dataclass(frozen=True)
class Life:
    """How many months a composition keeps while it is closed, the ingredient that turns first, and whether an
    antioxidant lengthens it."""

    months: float
    decides: Ingredient
    is_slowed: bool

    @property
    def words(self) -> str:
        """``18 months: sunflower oil turns first``."""
        return f"{figure(self.months)} months: {in_sentence(self.decides.name)} turns first"

    @property
    def sentence(self) -> str:
        """What decides, what an open jar takes off, and what an antioxidant adds and does not."""
        first = in_sentence(self.decides.name)
        if self.is_slowed:
            added = "Its antioxidant adds a third of that and preserves nothing."
        else:
            least, longer = percent_words(SLOWED_FROM * 100), figure(self.months * SLOWED)
            added = f"{least} of an antioxidant would make it {longer}; it preserves nothing."
        jar = floor(self.months * OPEN_JAR)
        return f"Keeps about {figure(self.months)} months, {jar} in an open jar: {first} turns first. {added}"


def life(composition: Composition) -> Life | None:
    """How long a composition keeps, whatever its lots; None when no life in it is known."""
    whole = composition.expanded
    total = float(whole.total)
    leaves = [(line.ingredient, float(line.share) / total) for line in whole.lines if line.share]
    known = [item for item, share in leaves if share >= COUNTS_FROM - 1e-9 and item.shelf_months]
    if not known:
        return None
    slowed = sum(share for item, share in leaves if item.group == "antioxidant") >= SLOWED_FROM - 1e-9
    first = min(known, key=lambda item: item.shelf_months or 0.0)
    return Life((first.shelf_months or 0.0) * (SLOWED if slowed else 1.0), first, slowed)


@dataclass(frozen=True)
class Keeps:
    """The day until which something keeps, the ingredient that decides it, and whether it is by the day of its lot."""

    until: date
    decides: Ingredient
    is_by_lot: bool = False

    @property
    def sentence(self) -> str:
        """Until when, and why: ``Best before 3 May 2027: sunflower oil turns first.``."""
        name = in_sentence(self.decides.name)
        why = f"the lot of {name} ends then" if self.is_by_lot else f"{name} turns first"
        return f"Best before {day_words(self.until)}: {why}."

    def open_months(self, made: date, container_kind: str) -> int:
        """Whole months for which it may be used once it is open: three quarters of its life where fingers go in."""
        months = (self.until - made).days / DAYS_A_MONTH
        return max(0, floor(months * (OPEN_JAR if container_kind in DIPPED else 1.0) + 1e-6))


def keeps(made: date, composition: Composition, lots: Mapping[str, date]) -> Keeps | None:
    """How long what was made on a day keeps; ``lots`` are the best-before days of the lots that went
    in, the earliest of each ingredient. None when nothing in it has a known life.

    An oil lasts its shelf months from the day it was made, half as long again with an antioxidant; a
    lot's own day comes before that.
    """
    whole = composition.require_mass()
    total = float(whole.total)
    days = [
        Keeps(lots[line.key], line.ingredient, True)
        for line in whole.lines
        if line.key in lots and float(line.share) / total >= COUNTS_FROM
    ]
    if found := life(whole):
        days.append(Keeps(made + timedelta(days=round(found.months * DAYS_A_MONTH)), found.decides))
    return min(days, key=lambda keep: keep.until, default=None)
