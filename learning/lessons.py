"""What the tests of pours teach the model, and how much better it then says what came out.

Worked out anew only when a test was written down or set aside, and then only for the new ones: what one
test says of the model stays as it is. :attr:`Preferences.records_revision` tells when.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby
from threading import Lock

from balmcore.tables import Tables
from balmcore.tables.correction import GROUP_NAMES
from balmcore.trials.calibration import OVERALL, Calibration, FirmnessReading, Learned, corrected, learned_words
from pours.models import Check, Pour
from workshop.models import Preferences
from workshop.pictures.graph import Graph, graph

MARGIN, SQUARE = 6.0, (560.0, 380.0)


@dataclass(frozen=True)
class Lesson:
    """One tested check: the model's firmness at the temperature of its test, that as corrected by all tests,
    and whether it fits the others; ``is_taught`` is False for one that was set aside."""

    check: Check
    plain: float
    corrected: float
    fits: bool
    is_taught: bool


@dataclass(frozen=True)
class GroupLesson:
    """What was learned of one group: its name, the sentence, and how far its tests were off before and are after."""

    name: str
    sentence: str
    learned: Learned
    before: float
    after: float


@dataclass(frozen=True)
class Lessons:
    """All of them, in words and figures. ``before`` and ``after`` are root mean squares of what was off, each
    test told by the others alone."""

    groups: tuple[GroupLesson, ...]
    rows: tuple[Lesson, ...]
    before: float
    after: float
    picture: Graph | None

    @property
    def untaught(self) -> int:
        """How many tests were set aside."""
        return sum(not row.is_taught for row in self.rows)


@dataclass(frozen=True)
class _Kept:
    """What this process worked out last: for which :attr:`Preferences.records_revision` and which tables, which are
    held so that their identity stays theirs. It is replaced as a whole, as many threads read it."""

    stamp: int
    tables: Tables | None
    readings: Mapping[tuple[int, datetime], FirmnessReading]
    calibration: Calibration
    by_tests: Tables | None


_kept = _Kept(0, None, {}, Calibration(()), None)
_renewing = Lock()


def corrected_tables(tables: Tables, prefs: Preferences) -> Tables | None:
    """The tables as the maker's own tests say, None where there are no tests."""
    return _renewed(tables, prefs).by_tests


def _renewed(tables: Tables, prefs: Preferences) -> _Kept:
    global _kept
    plain, kept = tables.plain, _kept
    if kept.stamp == prefs.records_revision and kept.tables is plain:
        return kept
    with _renewing:
        kept = _kept
        if kept.stamp == prefs.records_revision and kept.tables is plain:
            return kept
        known = dict(kept.readings) if kept.tables is plain else {}
        wanted = list(Check.objects.tests().filter(exclusion="").values_list("pk", "created"))
        known.update(_readings([pk for pk, created in wanted if (pk, created) not in known], plain))
        readings = {key: known[key] for key in wanted if key in known}
        learned = Calibration(list(readings.values()))
        found = corrected(plain, learned.correction) if wanted else None
        _kept = _Kept(prefs.records_revision, plain, readings, learned, found)
        return _kept


def forget_lessons() -> None:
    """Work everything out anew the next time: what a server does once, when it starts."""
    global _kept
    _kept = _Kept(0, None, {}, Calibration(()), None)


def _readings(checks: list[int], tables: Tables) -> dict[tuple[int, datetime], FirmnessReading]:
    """The readings of some checks, by number and moment."""
    found = {}
    for start in range(0, len(checks), 500):
        rows = Check.objects.filter(pk__in=checks[start : start + 500]).order_by("pour", "pk")
        pours = Pour.objects.filter(checks__in=rows).distinct().for_reading().in_bulk()
        for pour_pk, own in groupby(rows, key=lambda row: row.pour_id):
            pour = pours[pour_pk]
            composition = pour.to_composition(tables)
            for row in own:
                assert row.measured is not None and row.measured_sigma is not None and row.test_c is not None
                reading = FirmnessReading(composition, row.test_c, row.measured, row.measured_sigma, pour.batch.overrun)
                found[row.pk, row.created] = reading
    return found


def lessons(tables: Tables, prefs: Preferences, most: int = 40) -> Lessons:
    """What the tests teach, the newest ``most`` of them in figures, those first that do not fit."""
    kept = _renewed(tables, prefs)
    known = kept.calibration
    fits = dict(zip(kept.readings, (~known.unfit).tolist(), strict=True))
    rows = list(
        Check.objects.tests()
        .select_related("pour__batch__version__formula", "pour__finish")
        .order_by("-checked_on", "-pk")[:most]
    )
    untaught = _readings([row.pk for row in rows if (row.pk, row.created) not in kept.readings], tables.plain)
    found = []
    for row in rows:
        key = (row.pk, row.created)
        reading = kept.readings.get(key) or untaught[key]
        firmness = max(0.0, reading.plain + known.correction.points(reading.parts))
        found.append(Lesson(row, reading.plain, firmness, fits.get(key, True), key in kept.readings))
    found.sort(key=lambda lesson: lesson.fits)
    before, after = known.errors
    groups = tuple(
        GroupLesson(_name(one, tables), learned_words(one, tables), one, *known.errors_of(one.group))
        for one in known.learned
        if one.pours
    )
    return Lessons(groups, tuple(found), before, after, _picture(found) if len(found) > 1 else None)


def _name(learned: Learned, tables: Tables) -> str:
    if learned.group == OVERALL:
        return "All together"
    item = tables.ingredients.get(learned.group)
    return GROUP_NAMES.get(learned.group, item.name if item else learned.group).capitalize()


def _picture(rows: list[Lesson]) -> Graph:
    """What was measured, against the model and against the model by the tests: the better, the nearer to the line."""
    measured = [(row, row.check.measured or 0.0) for row in rows]
    values = [each for row, own in measured for each in (row.plain, row.corrected, own)]
    low, high = max(0.0, min(values) - MARGIN), max(values) + MARGIN
    ticks = [(float(at), str(at)) for at in range(0, 140, 10) if low <= at <= high]
    dots = []
    for row, own in measured:
        name = f"{row.check.pour.title}: measured {own:.0f}"
        dots.append((row.plain, own, "model", f"{name}, by the model {row.plain:.0f}"))
        dots.append(
            (row.corrected, own, "unfit" if not row.fits else "tests", f"{name}, by the tests {row.corrected:.0f}")
        )
    moves = [[(row.plain, own), (row.corrected, own)] for row, own in measured]
    return graph(
        [[(low, low), (high, high)], *moves],
        (low, high),
        (low, high),
        ticks,
        ticks,
        "Firmness measured, upwards, against what was said, to the right.",
        size=SQUARE,
        dots=dots,
    )
