"""What the tests of pours teach the model, and how much better it then says what came out."""

from collections.abc import Iterable
from dataclasses import dataclass

from django.db.models import Count, Max, QuerySet, Sum

from balmcore.physics.firmness import WINDOW_C
from balmcore.tables import Tables
from balmcore.trials.calibration import Calibration, Reading, learned_words
from pours.models import Pour
from pours.queries import for_list


@dataclass(frozen=True)
class Lesson:
    """One tested pour: the model's firmness at the temperature of its test, that as corrected by all tests,
    what was measured, and whether it fits the others."""

    pour: Pour
    at_c: float
    plain: float
    corrected: float
    measured: float
    fits: bool


@dataclass(frozen=True)
class Lessons:
    """All of them, in words and figures. ``before`` and ``after`` are root mean squares of what was off, each
    pour told by the others alone."""

    words: tuple[str, ...]
    rows: tuple[Lesson, ...]
    before: float
    after: float


def _tested() -> QuerySet[Pour]:
    return Pour.objects.filter(measured__isnull=False, measured_sigma__isnull=False)


def calibration(tables: Tables) -> Calibration:
    """What all tests teach; worked out anew only when a pour was tested or changed since. One query."""
    told = (Count("pk"), Max("pk"), Sum("revision"), Sum("measured"), Sum("predicted"))
    stamp = tuple(_tested().aggregate(*told).values())
    if _kept.get("of") != (stamp, id(tables)):
        _kept.update({"of": (stamp, id(tables)), "tables": tables, "known": Calibration(_readings(_tested(), tables))})
    known = _kept["known"]
    assert isinstance(known, Calibration)
    return known


# The last calibration of this process, with what it was worked out for; the tables are held so that their
# number stays theirs.
_kept: dict[str, object] = {}


def _readings(pours: Iterable[Pour], tables: Tables) -> list[Reading]:
    rows = for_list(pours) if isinstance(pours, QuerySet) else pours
    return [
        Reading(
            pour.to_composition(tables),
            WINDOW_C if pour.test_c is None else pour.test_c,
            float(pour.measured or 0),
            float(pour.measured_sigma or 0),
            pour.batch.overrun,
        )
        for pour in rows
    ]


def lessons(tables: Tables) -> Lessons:
    """What every tested pour teaches, newest first."""
    pours = list(for_list(_tested()))
    readings = _readings(pours, tables)
    known = Calibration(readings)
    rows = []
    for pour, reading, fits in zip(pours, readings, ~known.unfit, strict=True):
        found = known.predict(reading.composition, reading.temp_c, reading.overrun)
        rows.append(Lesson(pour, reading.temp_c, found.plain, found.firmness, reading.firmness, bool(fits)))
    before, after = known.errors
    return Lessons(tuple(learned_words(one, tables) for one in known.learned), tuple(rows), before, after)
