"""How long a composition keeps: as long as its shortest-lived oil, and never beyond a lot it is made from.

An antioxidant slows rancidity and preserves nothing. What bears water has no shelf life. Oils below 2 %, extras below
1 % and aromatics below 0.3 % do not decide. Fingers carry water and germs into a jar: once open it keeps three quarters
of that; a stick, a bar or a tube is not dipped into.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from math import floor

from balmcore.composition import Composition
from balmcore.display import day_words, figure, percent_words
from balmcore.tables import Ingredient, Role
from balmcore.wording import in_sentence

COUNTS_FROM = 0.02  # of the whole: less of an oil does not spoil it
EXTRAS_FROM, SCENTS_FROM = 0.01, 0.003  # of the whole, which keep no longer than they do themselves
# So much antioxidant lengthens by so much the life of an oil that turns and keeps no longer than this many months.
SLOWED_FROM, SLOWED, SLOWED_TO = 0.002, 1.5, 24.0
MOST_MONTHS = 24.0  # nothing made at home is promised beyond
STABLE = frozenset({"jojoba_oil", "squalane", "mct_oil"})  # that do not turn rancid, with all of these groups
STABLE_GROUPS = ("mineral", "mineral_wax", "silicone")
DAYS_A_MONTH = 365.25 / 12  # a mean month of the calendar
OPEN_JAR = 0.75  # of its life is left to what is dipped into: a usual caution
DIPPED = ("tin", "jar", "pot")  # kinds of containers that fingers go into


@dataclass(frozen=True)
class Life:
    """How many months a composition keeps while it is closed, the ingredient that turns first, and whether an
    antioxidant lengthens it. ``with_antioxidant`` is what it would keep with one. What bears water keeps no months,
    and the ingredient is the one that brings it."""

    months: float
    decides: Ingredient
    is_slowed: bool
    with_antioxidant: float

    @property
    def is_wet(self) -> bool:
        """True for what bears water, and so has no shelf life."""
        return self.decides.stays_wet

    @property
    def words(self) -> str:
        """``18 months: sunflower oil turns first``."""
        if self.is_wet:
            return f"no months: {in_sentence(self.decides.name)} bears water"
        return f"{figure(self.months)} months: {in_sentence(ends_first(self.decides, self.months))}"

    @property
    def headline(self) -> str:
        """How long, and how long in an open jar."""
        if self.is_wet:
            return "Has no shelf life"
        return f"Keeps about {figure(self.months)} months, {floor(self.months * OPEN_JAR)} in an open jar"

    @property
    def sentence(self) -> str:
        """What decides, what an open jar takes off, and what an antioxidant adds and does not."""
        return f"{self.headline}: {self.reason}"

    @property
    def reason(self) -> str:
        """What decides it, and what an antioxidant adds and does not."""
        first = in_sentence(self.decides.name)
        if self.is_wet:
            return f"{first} bears water, which spoils within days. Make it fresh and keep it cold."
        ends = ends_first(self.decides, self.months)
        if self.is_slowed:
            added = "Its antioxidant adds a third of that and preserves nothing."
        elif self.with_antioxidant > self.months:
            least, longer = percent_words(SLOWED_FROM * 100), figure(self.with_antioxidant)
            added = f"{least} of an antioxidant would make it {longer}; it preserves nothing."
        else:
            added = "An antioxidant would add nothing to that."
        return f"{ends}. {added}"


def turns(item: Ingredient) -> bool:
    """True for what goes rancid, and what an antioxidant helps: no hydrocarbon, no silicone, no scent."""
    is_stable = item.group in STABLE_GROUPS or bool({item.key, item.like} & STABLE)
    return not is_stable and item.role != Role.EXTRA


def ends_first(item: Ingredient, months: float) -> str:
    """What ends the life of a composition, in words: ``sunflower oil turns first``."""
    name = in_sentence(item.name)
    if months >= MOST_MONTHS:
        return "the most for anything made at home"
    return f"{name} turns first" if turns(item) else f"{name} keeps no longer"


def _counts_from(item: Ingredient) -> float:
    if item.aromatic:
        return SCENTS_FROM
    return EXTRAS_FROM if item.role == Role.EXTRA else COUNTS_FROM


def life(composition: Composition) -> Life | None:
    """How long a composition keeps, whatever its lots; None when no life in it is known."""
    whole = composition.expanded
    total = float(whole.total)
    leaves = [(line.ingredient, float(line.share) / total) for line in whole.lines if line.share]
    if wet := [item for item, _ in leaves if item.stays_wet]:
        return Life(0.0, wet[0], False, 0.0)
    known = [item for item, share in leaves if share >= _counts_from(item) - 1e-9 and item.shelf_months]
    if not known:
        return None
    slowed = sum(share for item, share in leaves if item.group == "antioxidant") >= SLOWED_FROM - 1e-9
    first = min(known, key=lambda item: (_months(item, slowed), item.shelf_months))
    months = _months(first, slowed)
    return Life(months, first, months > _months(first, False), min(_months(item, True) for item in known))


def _months(item: Ingredient, slowed: bool) -> float:
    """How long one ingredient keeps, at most as long as is promised of any."""
    own = item.shelf_months or 0.0
    return min(MOST_MONTHS, own * (SLOWED if slowed and turns(item) and own <= SLOWED_TO else 1.0))


@dataclass(frozen=True)
class Keeps:
    """The day until which something keeps, the ingredient that decides it, and whether it is by the day of its lot.
    What bears water keeps no day beyond that on which it was made."""

    until: date
    decides: Ingredient
    is_by_lot: bool = False
    months: float = 0.0

    @property
    def is_wet(self) -> bool:
        """True for what has no shelf life, because it bears water."""
        return self.decides.stays_wet

    @property
    def sentence(self) -> str:
        """Until when, and why: ``Best before 3 May 2027: sunflower oil turns first.``."""
        name = in_sentence(self.decides.name)
        if self.is_wet:
            return f"No best before: {name} bears water, which spoils within days. Make it fresh and keep it cold."
        why = f"the lot of {name} ends then" if self.is_by_lot else ends_first(self.decides, self.months)
        return f"Best before {day_words(self.until)}: {why}."

    def open_months(self, made: date, container_kind: str) -> int:
        """Whole months for which it may be used once it is open: three quarters of its life where fingers go in."""
        months = (self.until - made).days / DAYS_A_MONTH
        return max(0, floor(months * (OPEN_JAR if container_kind in DIPPED else 1.0) + 1e-6))


def keeps(made: date, composition: Composition, lots: Mapping[str, date]) -> Keeps | None:
    """How long what was made on a day keeps; ``lots`` are the best-before days of the lots that went
    in, the earliest of each ingredient. None when nothing in it has a known life.

    An oil lasts its shelf months from the day it was made, half as long again with an antioxidant (see
    :func:`life`); a lot's own day comes before that.
    """
    whole = composition.require_mass()
    total = float(whole.total)
    days = [
        Keeps(lots[line.key], line.ingredient, True)
        for line in whole.lines
        if line.key in lots and float(line.share) / total >= COUNTS_FROM
    ]
    if found := life(whole):
        days.append(
            Keeps(made + timedelta(days=round(found.months * DAYS_A_MONTH)), found.decides, months=found.months)
        )
    return min(days, key=lambda keep: keep.until, default=None)
