"""What the tests of pours teach the model, and how much better it then says what came out.

Worked out anew only when a test was written down or set aside, and then only for the new ones: what one
test says of the model stays as it is. :attr:`Preferences.pours_said` tells when.
"""

from dataclasses import dataclass
from datetime import datetime
from itertools import groupby

from balmcore.tables import Tables
from balmcore.tables.correction import GROUP_NAMES
from balmcore.trials.calibration import OVERALL, Calibration, Learned, Reading, corrected, learned_words
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
    """What was learned of one group: its name, the sentence, and how far the points lie from the model."""

    name: str
    sentence: str
    learned: Learned


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


class _Kept:
    """What this process worked out last; ``tables`` are held so that their identity stays theirs."""

    stamp: int = 0
    tables: Tables | None = None
    by_tests: Tables | None = None
    calibration = Calibration(())
    readings: dict[tuple[int, datetime], Reading] = {}


_kept = _Kept()


def calibration(tables: Tables, prefs: Preferences) -> Calibration:
    """What all tests teach, none of those set aside."""
    _renew(tables, prefs)
    return _kept.calibration


def by_tests(tables: Tables, prefs: Preferences) -> Tables:
    """The tables as the maker's own tests say; as they are where there are none, or where the maker would
    rather see the model. No query as long as nothing was tested."""
    if not prefs.by_own_tests or not prefs.pours_said:
        return tables
    _renew(tables, prefs)
    return _kept.by_tests or tables


def _renew(tables: Tables, prefs: Preferences) -> None:
    plain = tables.plain
    if _kept.stamp == prefs.pours_said and _kept.tables is plain:
        return
    if _kept.tables is not plain:
        _kept.readings.clear()
    wanted = list(Check.objects.filter(measured__isnull=False, aside="").values_list("pk", "created"))
    missing = [pk for pk, created in wanted if (pk, created) not in _kept.readings]
    _kept.readings.update(_readings(missing, plain))
    _kept.readings = {key: _kept.readings[key] for key in wanted}
    _kept.calibration = Calibration(list(_kept.readings.values()))
    _kept.by_tests = corrected(plain, _kept.calibration.correction) if wanted else None
    _kept.stamp, _kept.tables = prefs.pours_said, plain


def _readings(checks: list[int], tables: Tables) -> dict[tuple[int, datetime], Reading]:
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
                reading = Reading(composition, row.test_c, row.measured, row.measured_sigma, pour.batch.overrun)
                found[row.pk, row.created] = reading
    return found


def lessons(tables: Tables, prefs: Preferences, most: int = 40) -> Lessons:
    """What the tests teach, the newest ``most`` of them in figures, those first that do not fit."""
    known = calibration(tables, prefs)
    fits = dict(zip(_kept.readings, (~known.unfit).tolist(), strict=True))
    tested = Check.objects.filter(measured__isnull=False).exclude(aside=Check.Aside.MISTAKE)
    rows = list(tested.select_related("pour__batch__version__formula").order_by("-checked_on", "-pk")[:most])
    untaught = _readings([row.pk for row in rows if (row.pk, row.created) not in _kept.readings], tables.plain)
    found = []
    for row in rows:
        key = (row.pk, row.created)
        reading = _kept.readings.get(key) or untaught[key]
        firmness = max(0.0, reading.plain + known.correction.points(reading.parts))
        found.append(Lesson(row, reading.plain, firmness, fits.get(key, True), key in _kept.readings))
    found.sort(key=lambda lesson: lesson.fits)
    before, after = known.errors
    groups = tuple(
        GroupLesson(_name(one, tables), learned_words(one, tables), one) for one in known.learned if one.readings
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
        name = f"{row.check.pour.batch.version}: measured {own:.0f}"
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
