"""What the tests of pours teach the model, and how much better it then says what came out.

Worked out anew only when a test was written down or set aside, and then only for the new ones: what one
test says of the model stays as it is. :attr:`Preferences.records_revision` tells when.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from itertools import groupby
from threading import Lock

from balmcore.tables import Tables
from balmcore.trials.calibration import OVERALL, Calibration, FirmnessReading, Learned, corrected, learned_words
from learning.lessons import supply
from learning.lessons.trust import course, most_to_teach
from pours.models import Check, Pour
from workshop.models import Preferences
from workshop.pictures.graph import Graph, graph

Key = tuple[int, datetime, date]  # of a check: its number and moment, and the day of its pour
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
    """What was learned of one group: the sentence, and how far its tests were off before and are after."""

    sentence: str
    learned: Learned
    before: float
    after: float


@dataclass(frozen=True)
class Lessons:
    """All of them, in words and figures. ``errors`` are root mean squares of what was off, by the model and as told by
    the other pours alone, over all tests; ``fitting`` the same over those that fit, but for so many ``unfit``.
    ``course`` is what came out through time, ``picture`` measured against said, ``supply`` a change of material,
    ``teaches`` the one pour that would teach most."""

    groups: tuple[GroupLesson, ...]
    rows: tuple[Lesson, ...]
    errors: tuple[float, float]
    fitting: tuple[float, float]
    unfit: int
    course: Graph | None
    picture: Graph | None
    supply: supply.Told | None
    teaches: str

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
    readings: Mapping[Key, FirmnessReading]
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
        wanted = list(Check.objects.tests().filter(exclusion="").values_list("pk", "created", "pour__poured_on"))
        known.update(_readings([key[0] for key in wanted if key not in known], plain))
        readings = {key: known[key] for key in wanted if key in known}
        learned = Calibration(list(readings.values()), *supply.answers())
        found = corrected(plain, learned.correction) if wanted else None
        _kept = _Kept(prefs.records_revision, plain, readings, learned, found)
        return _kept


def forget_lessons() -> None:
    """Work everything out anew the next time: what a server does once, when it starts."""
    global _kept
    _kept = _Kept(0, None, {}, Calibration(()), None)


def _readings(checks: list[int], tables: Tables) -> dict[Key, FirmnessReading]:
    """The readings of some checks, by number and moment, and the day of their pour."""
    found: dict[Key, FirmnessReading] = {}
    for start in range(0, len(checks), 500):
        rows = Check.objects.filter(pk__in=checks[start : start + 500]).order_by("pour", "pk")
        pours = Pour.objects.filter(checks__in=rows).distinct().for_reading().in_bulk()
        for pour_pk, own in groupby(rows, key=lambda row: row.pour_id):
            pour = pours[pour_pk]
            composition = pour.to_composition(tables)
            for row in own:
                assert row.measured is not None and row.measured_sigma is not None and row.test_c is not None
                found[row.pk, row.created, pour.poured_on] = FirmnessReading(
                    composition,
                    row.test_c,
                    row.measured,
                    row.measured_sigma,
                    pour.batch.overrun,
                    pour.pk,
                    pour.poured_on,
                )
    return found


def lessons(tables: Tables, prefs: Preferences, most: int = 40) -> Lessons:
    """What the tests teach, the newest ``most`` of them in figures, those first that do not fit."""
    kept = _renewed(tables, prefs)
    known = kept.calibration
    fits = dict(zip(kept.readings, (~known.unfit).tolist(), strict=True))
    points = dict(zip(kept.readings, known.points.tolist(), strict=True))
    rows = list(
        Check.objects.tests()
        .select_related("pour__batch__version__formula", "pour__finish")
        .order_by("-checked_on", "-pk")[:most]
    )
    untaught = _readings([row.pk for row in rows if _key(row) not in kept.readings], tables.plain)
    found = []
    for row in rows:
        key = _key(row)
        reading = kept.readings.get(key) or untaught[key]
        gained = points[key] if key in points else known.correction.points(reading.parts)
        firmness = max(0.0, reading.plain + gained)
        found.append(Lesson(row, reading.plain, firmness, fits.get(key, True), key in kept.readings))
    found.sort(key=lambda lesson: lesson.fits)
    groups = tuple(
        GroupLesson(
            learned_words(one, tables),
            one,
            *known.errors_of(one.group),
        )
        for one in known.learned
        if one.pours
    )
    return Lessons(
        groups,
        tuple(found),
        known.errors,
        known.errors_of(OVERALL, fitting=True),
        int(known.unfit.sum()),
        course(known, prefs.show) if len(found) > 1 else None,
        _picture(found) if len(found) > 1 else None,
        supply.told(known, tables, prefs.show),
        most_to_teach(known.correction, tables.plain, prefs.show),
    )


def _key(check: Check) -> Key:
    return check.pk, check.created, check.pour.poured_on


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
