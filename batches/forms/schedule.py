"""A stored batch on the clock: its method, its timeline, and giving it another time."""

from dataclasses import dataclass

from django.db import transaction

from balmcore.display import CELSIUS, Display
from balmcore.errors import Problem
from balmcore.making.method import method_for
from balmcore.making.steps import USUAL_PACE, Pace, Setup
from balmcore.physics.cooling import COOLING_METHODS
from balmcore.tables import Tables
from balmcore.trials.experience import Experience
from batches import estimates
from batches.batch_plan import BatchPlan, portions_of
from batches.clock.datetimes import datetime_field
from batches.clock.scheduling import propose_schedule, schedule_batch
from batches.models import Batch
from batches.supply.costs import Cost, cost_of
from workshop.models import Preferences
from workshop.web import Fields


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


def setup_of(batch: Batch, tables: Tables, show: Display = CELSIUS, pace: Pace = USUAL_PACE) -> Setup:
    """What a stored batch's method is worked out for, by what is really in its pot and how fast the bench is."""
    composition = batch.weighed_in(tables)
    return BatchPlan.of(batch).setup(
        composition, batch.to_kind(tables), composition.total, show, portions_of(batch, tables), pace
    )


def clock_of(
    batch: Batch, tables: Tables, prefs: Preferences, experience: Experience
) -> tuple[Setup, estimates.Clock | None, str]:
    """A stored batch's setup and clock, and why there is none where its method cannot be."""
    setup = setup_of(batch, tables, prefs.show, experience.pace)
    try:
        return setup, estimates.clock_of(setup, method_for(setup), batch.starts_at), ""
    except Problem as problem:
        return setup, None, problem.sentence


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
    return OnClock(typed or now, shown, estimates.cooling_choices(setup), cost, said or why_not)


def read(data: Fields) -> ScheduleInputs:
    """The fields for the time as posted."""
    return ScheduleInputs(data.text("when", 10), data.text("moment", 40), data.text("cooling", 30))


@transaction.atomic
def reschedule(typed: ScheduleInputs, batch: Batch, tables: Tables, experience: Experience) -> str:
    """Give a batch another time or way of cooling; returns a word on what had to give way.

    Raises :class:`Problem`, and stores nothing, when that cannot be.
    """
    if batch.is_over:
        raise Problem(f"This batch was {batch.get_state_display().lower()}: its times stay as they were.")
    if typed.cooling not in COOLING_METHODS:
        raise Problem("Choose how it cools.")
    made = method_for(setup_of(batch, tables, pace=experience.pace).handled(cooling=typed.cooling))
    schedule = propose_schedule(made, typed.when, typed.moment, batch.pk) if typed.when else None
    batch.cooling = typed.cooling
    schedule_batch(batch, schedule)
    batch.save(update_fields=("cooling", "starts_at", "length_min", "occupies"))
    return schedule.note if schedule else ""
