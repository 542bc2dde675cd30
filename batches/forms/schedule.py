"""A stored batch on the clock: its method, its timeline, and giving it another time."""

from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from balmcore.errors import Problem
from balmcore.making.method import method_for
from balmcore.making.steps import Setup
from balmcore.physics.cooling import COOLING_METHODS
from balmcore.tables import Tables
from balmcore.trials.experience import Experience
from batches.batch_plan import setup_of
from batches.clock.datetimes import datetime_field, format_time
from batches.clock.days import after_it, carry, settle
from batches.clock.scheduling import PLACE_FIELDS, propose_schedule, schedule_batch
from batches.models import Batch
from batches.showing import estimates
from batches.supply.costs import Cost, cost_of
from workshop.models import Preferences
from workshop.web import Fields

DRIFT_S = 90  # by which two ends are told as two


@dataclass(frozen=True)
class ScheduleInputs:
    """What stands in the fields for the time."""

    when: str
    moment: str
    cooling: str


@dataclass(frozen=True)
class OnClock:
    """A batch's clock, its ways of cooling and its cost; ``said`` is why a wish was not met."""

    typed: ScheduleInputs
    clock: estimates.Clock | None
    choices: list[estimates.Choice]
    cost: Cost
    said: str = ""
    drift: str = ""


def clock_of(
    batch: Batch, tables: Tables, prefs: Preferences, experience: Experience
) -> tuple[Setup, estimates.Clock | None, str]:
    """A stored batch's setup and clock, and why there is none where its method cannot be."""
    setup = setup_of(batch, tables, prefs.show, experience.pace)
    try:
        return setup, estimates.clock_of(setup, method_for(setup), batch.starts_at), ""
    except Problem as problem:
        return setup, None, problem.sentence


def drift(batch: Batch, shown: estimates.Clock | None) -> str:
    """A word where a batch's method is by now longer or shorter than the place that it has on the clock, as what is in
    its pot or the pace of the bench has changed; empty where they agree."""
    if shown is None or shown.ready is None or batch.ready_at is None or batch.is_over:
        return ""
    if abs((shown.ready - batch.ready_at).total_seconds()) < DRIFT_S:
        return ""
    return (
        f"The day keeps its place until {format_time(batch.ready_at)}; by what is in it and your pace of today it is "
        f"ready {format_time(shown.ready)}. Put it there once more, and the day knows."
    )


def stored(
    batch: Batch,
    tables: Tables,
    prefs: Preferences,
    experience: Experience,
    typed: ScheduleInputs | None = None,
    said: str = "",
) -> OnClock:
    """The batch as it stands on the clock."""
    start = batch.starts_at
    now = ScheduleInputs(Batch.When.START if start else "", datetime_field(start) if start else "", batch.cooling)
    setup, shown, why_not = clock_of(batch, tables, prefs, experience)
    cost = cost_of(batch, setup.pieces, tables, prefs)
    return OnClock(typed or now, shown, estimates.cooling_choices(setup), cost, said or why_not, drift(batch, shown))


def read(data: Fields) -> ScheduleInputs:
    """The fields for the time as posted."""
    return ScheduleInputs(data.text("when", 10), data.text("moment", 40), data.text("cooling", 30))


@transaction.atomic
def reschedule(
    typed: ScheduleInputs, batch: Batch, tables: Tables, experience: Experience, carries: bool = False
) -> str:
    """Give a batch another time or way of cooling, and where it ``carries`` them those after it on its day as much
    later or earlier; returns a word on what had to give way.

    Raises :class:`Problem`, and stores nothing, when that cannot be.
    """
    if batch.is_over:
        raise Problem(f"This batch was {batch.get_state_display().lower()}: its times stay as they were.")
    if typed.cooling not in COOLING_METHODS:
        raise Problem("Choose how it cools.")
    before, others = batch.starts_at, after_it(batch) if carries and typed.when else []
    own = frozenset(one.pk for one in (batch, *others))
    setup = setup_of(batch, tables, pace=experience.pace).handled(cooling=typed.cooling)
    method_for(setup)
    schedule = propose_schedule(setup, typed.when, typed.moment, own) if typed.when else None
    batch.cooling = typed.cooling
    schedule_batch(batch, schedule, own)
    batch.save(update_fields=("cooling", *PLACE_FIELDS))
    said = [schedule.note] if schedule else []
    if before is not None:
        if others and batch.starts_at is not None:
            carry(others, batch.starts_at - before)
            said.append(f"{len(others)} more moved along with it.")
        said.append(settle(timezone.localdate(before), tables, experience))
    return " ".join(word for word in said if word)
