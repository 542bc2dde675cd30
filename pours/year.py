"""A formula's year as one picture: each pour by its day and its firmness, how it was judged, cooled, and whether it
grained; from which a few are taken side by side."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from urllib.parse import urlencode

from balmcore.display import near_day_words
from balmcore.tables import Tables
from balmcore.trials.comparison import MOST
from formulas.models import Formula
from pours.faults import faults_seen
from pours.models import Pour

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 1160.0, 380.0, 46.0, 18.0, 16.0, 30.0
LEAST_SPAN, MARGIN, DOT, APART = 30.0, 6.0, 8.0, 17.0
LETTERS = "ABCDEF"
# How a dot is drawn, by where its pour cooled.
SHAPES = {
    Pour.Cooling.COUNTER: "M{l},{y}a{r},{r} 0 1 0 {d},0a{r},{r} 0 1 0 -{d},0z",
    Pour.Cooling.REFRIGERATOR: "M{l},{t}h{d}v{d}h-{d}z",
    Pour.Cooling.FREEZER: "M{x},{t}l{r},{r}l-{r},{r}l-{r},-{r}z",
    Pour.Cooling.OTHER: "M{x},{t}l{r},{d}h-{d}z",
}


@dataclass(frozen=True)
class Mark:
    """A pour in the picture: where it lies, its shape, whether it grained (None where nobody looked), the letter
    that it was picked by, and the address at which it is picked or put back."""

    pour: Pour
    x: float
    y: float
    shape: str
    firmness: float
    is_measured: bool
    grained: bool | None
    letter: str
    toggle: str

    @property
    def words(self) -> str:
        """What it is, for who points at it or reads it."""
        told = "measured" if self.is_measured else "predicted, not tested"
        verdict = self.pour.get_verdict_display() if self.pour.verdict else "not judged"
        grain = "" if self.grained is None else ", grained" if self.grained else ", no grain"
        return (
            f"Batch {self.pour.batch_id}{f', {self.pour.finish}' if self.pour.finish else ''}, version "
            f"{self.pour.batch.version.number}, {near_day_words(self.pour.poured_on)}: {told} {self.firmness:.0f}, "
            f"{verdict.lower()}, {self.pour.get_cooling_display().lower()}{grain}"
        )


@dataclass(frozen=True)
class Year:
    """The picture. ``window`` are the heights between which its kind should be; ``picked`` the numbers of the pours
    that were picked, ``compare`` where they lie side by side, empty for fewer than two."""

    formula: Formula
    first: date
    last: date
    marks: tuple[Mark, ...]
    window: tuple[float, float]
    months: tuple[tuple[float, str], ...]
    levels: tuple[tuple[float, str], ...]
    picked: tuple[int, ...]
    compare: str
    is_full: bool
    earlier: date | None
    later: date | None
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    right: float = WIDTH - RIGHT
    foot: float = HEIGHT - BOTTOM

    @property
    def window_height(self) -> float:
        """How high the window of its kind is."""
        return self.window[1] - self.window[0]


def year(formula: Formula, tables: Tables, until: date, picked: Sequence[int], address: str) -> Year:
    """The pours of a formula in the year that ends with a day. ``picked`` are the numbers that were taken so far; those
    of other years stay. A fixed number of queries."""
    first = until - timedelta(days=364)
    every = Pour.objects.filter(batch__version__formula=formula)
    rows = every.filter(poured_on__range=(first, until)).select_related("batch__version", "finish")
    pours = list(rows.prefetch_related("checks").order_by("poured_on", "pk"))
    kept = tuple(dict.fromkeys(picked))[:MOST]
    kind = formula.to_kind(tables)
    values = [_firmness(pour) for pour in pours]
    low = min([kind.firm_low, *(value for value, _ in values)]) - MARGIN
    high = max([kind.firm_high, *(value for value, _ in values)]) + MARGIN
    if high - low < LEAST_SPAN:
        low, high = (low + high - LEAST_SPAN) / 2, (low + high + LEAST_SPAN) / 2

    def x_of(day: date) -> float:
        return LEFT + (WIDTH - LEFT - RIGHT) * (day - first).days / 364

    def y_of(value: float) -> float:
        return HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * (value - low) / (high - low)

    def at(numbers: Sequence[int], day: date) -> str:
        return f"{address}?{urlencode([('until', day.isoformat()), *(('pour', pk) for pk in numbers)])}"

    marks: list[Mark] = []
    for pour, (value, is_measured) in zip(pours, values, strict=True):
        x, y = _free(x_of(pour.poured_on), y_of(value), marks)
        others = [pk for pk in kept if pk != pour.pk]
        letter = LETTERS[kept.index(pour.pk)] if pour.pk in kept else ""
        toggle = at(others if letter else [*kept, pour.pk], until)
        seen = faults_seen(pour.standing).get("grain")
        marks.append(Mark(pour, x, y, _shape(pour.cooling, x, y), value, is_measured, seen, letter, toggle))
    months = tuple((x_of(day), f"{day:%b}") for day in _months(first, until))
    step = 10 if high - low <= 80 else 20
    levels = tuple(
        (y_of(level), f"{level}") for level in range(int(low // step + 1) * step, int(high) + 1, step) if level >= 0
    )
    earlier = every.filter(poured_on__lt=first).exists()
    later = every.filter(poured_on__gt=until).exists()
    return Year(
        formula,
        first,
        until,
        tuple(marks),
        (y_of(kind.firm_high), y_of(kind.firm_low)),
        months,
        levels,
        kept,
        urlencode([("pour", pk) for pk in kept]) if len(kept) > 1 else "",
        len(kept) == MOST,
        until - timedelta(days=365) if earlier else None,
        until + timedelta(days=365) if later else None,
    )


def last_day(formula: Formula, today: date) -> date:
    """The day with which its latest year ends: today, or that of its last pour where that lies further back than a
    year."""
    last = Pour.objects.filter(batch__version__formula=formula).order_by("-poured_on").first()
    if last is None or (today - last.poured_on).days < 365:
        return today
    return last.poured_on


def _firmness(pour: Pour) -> tuple[float, bool]:
    """Its firmness as it was tested last, or as it was predicted, and whether that is a test."""
    tested = pour.tested
    if tested is None or tested.measured is None:
        return pour.predicted, False
    return tested.measured, True


def _free(x: float, y: float, marks: Sequence[Mark]) -> tuple[float, float]:
    """A place beside what lies there already."""
    while any(abs(mark.x - x) < APART and abs(mark.y - y) < APART for mark in marks):
        x += APART
    if x > WIDTH - RIGHT:
        x, y = WIDTH - RIGHT - DOT, y - APART
    return round(x, 1), round(y, 1)


def _shape(cooling: str, x: float, y: float) -> str:
    r = DOT
    numbers = {"x": x, "y": y, "l": round(x - r, 1), "t": round(y - r, 1), "r": r, "d": 2 * r}
    return SHAPES[Pour.Cooling(cooling)].format(**numbers)


def _months(first: date, last: date) -> list[date]:
    """The first days of the months between two days."""
    days, day = [], (first.replace(day=1) + timedelta(days=32)).replace(day=1)
    while day <= last:
        days.append(day)
        day = (day + timedelta(days=32)).replace(day=1)
    return days
