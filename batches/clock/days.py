"""Several batches of one day: laid out together, moved along, and the first of them with its bench made ready."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.db import transaction
from django.utils import timezone

from balmcore.errors import Problem
from balmcore.making.day import DayJob, lay_out
from balmcore.tables import Tables
from balmcore.trials.experience import Experience
from batches.batch_plan import setup_of
from batches.clock.datetimes import format_time
from batches.clock.scheduling import (
    PLACE_FIELDS,
    Schedule,
    busy,
    is_ready_for,
    minute_of,
    moment_of,
    of_day,
    schedule_batch,
)
from batches.models import Batch
from workshop.services import preferences


@dataclass(frozen=True)
class Laid:
    """A batch of a day with the place that is proposed for it."""

    batch: Batch
    schedule: Schedule

    @property
    def ready(self) -> datetime:
        """When its last label is on."""
        return self.schedule.start + timedelta(minutes=self.schedule.length_min)


def _job(batch: Batch, tables: Tables, experience: Experience) -> DayJob:
    """A batch as it is put on the clock of a day."""
    return DayJob.of(str(batch.pk), setup_of(batch, tables, pace=experience.pace))


def propose_day(batches: Sequence[Batch], start: datetime, tables: Tables, experience: Experience) -> list[Laid]:
    """The batches laid out from a moment on, clear of all others, by their start.

    Raises :class:`Problem` for none, for one that is begun, and for one that has no method.
    """
    if begun := next((batch for batch in batches if batch.state != Batch.State.PLANNED), None):
        raise Problem(f"Batch {begun.pk} is begun: its time stays.", "batches")
    chosen = frozenset(batch.pk for batch in batches)
    jobs = [_job(batch, tables, experience) for batch in batches]
    day = lay_out(jobs, minute_of(start), busy(start, chosen), preferences().room, is_ready_for(start, chosen))
    by_pk = {batch.pk: batch for batch in batches}
    length = {job.name: job for job in jobs}
    laid = []
    for slot in day.slots:
        job = length[slot.name].first if slot.is_first else length[slot.name].after
        laid.append(
            Laid(by_pk[int(slot.name)], Schedule(moment_of(slot.start), job.length, job.uses, "", not slot.is_first))
        )
    return laid


@transaction.atomic
def keep_day(laid: Sequence[Laid], tables: Tables, experience: Experience) -> None:
    """Give batches the places that are proposed for them; the days that they leave keep a bench made ready.

    Raises :class:`Problem`, and keeps nothing, when something was taken in the meantime.
    """
    left = {timezone.localdate(each.batch.starts_at) for each in laid if each.batch.starts_at}
    # All of them leave their places first: each other's old ones are not in their way.
    Batch.objects.filter(pk__in=[each.batch.pk for each in laid]).update(starts_at=None)
    for each in laid:
        schedule_batch(each.batch, each.schedule)
        each.batch.save(update_fields=PLACE_FIELDS)
    for on in left:
        settle(on, tables, experience)


def after_it(batch: Batch) -> list[Batch]:
    """The planned batches of its day that begin after it: those that may be moved along."""
    if batch.starts_at is None:
        return []
    same = of_day(timezone.localdate(batch.starts_at))
    later = [one for one in same if one.starts_at and (one.starts_at, one.pk) > (batch.starts_at, batch.pk)]
    return [one for one in later if one.state == Batch.State.PLANNED]


def carry(others: Sequence[Batch], by: timedelta) -> None:
    """Move batches by so much on the clock; they are stored.

    Raises :class:`Problem` where another batch is in the way of one of them, naming both.
    """
    own = frozenset(batch.pk for batch in others)
    for batch in others:
        assert batch.starts_at is not None
        moved = Schedule(batch.starts_at + by, batch.length_min, tuple(batch.uses), "", batch.is_made_ready)
        if moved.start < timezone.now():
            raise Problem(f"Batch {batch.pk} would begin at {format_time(moved.start)}, which has passed.", "moment")
        try:
            schedule_batch(batch, moved, own)
        except Problem as problem:
            raise Problem(f"Batch {batch.pk} cannot be moved along: {problem.sentence}", "moment") from problem
        batch.save(update_fields=PLACE_FIELDS)


def settle(on: date, tables: Tables, experience: Experience) -> str:
    """Give the first batch of a day the time to make its bench ready, where one before it has gone; returns a word on
    it, empty where nothing changed."""
    first = next(iter(of_day(on)), None)
    if first is None or not first.is_made_ready or first.state != Batch.State.PLANNED:
        return ""
    first = Batch.objects.for_page().get(pk=first.pk)
    job = _job(first, tables, experience)
    full, short = job.first, job.after
    assert first.starts_at is not None
    start = max(first.starts_at - timedelta(minutes=round(full.length - short.length)), timezone.now())
    try:
        schedule_batch(first, Schedule(start, full.length, full.uses))
    except Problem:  # something else has a part of that time: it keeps its place, and is told of
        return f"Batch {first.pk} is now the first of that day, and has no time to make the bench ready: move it."
    first.save(update_fields=PLACE_FIELDS)
    return f"Batch {first.pk} is now the first of that day: it begins at {format_time(start)}, to make the bench ready."
