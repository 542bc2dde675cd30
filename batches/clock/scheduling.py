"""A batch's place on the clock, among the other batches."""

from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta

from django.utils import timezone

from balmcore.errors import Problem
from balmcore.making.method import method_for
from balmcore.making.schedule import NAMES, Job, Placed, Use, by_what, collision, ready_by, start_at
from balmcore.making.steps import Setup
from batches.clock.datetimes import format_time, parse_datetime
from batches.models import Batch, to_row, uses_of
from workshop.services import preferences

NEAR_DAYS = 3  # batches further away cannot be in the way
DAWN = 6  # hours: what begins before is worth a word


def minute_of(moment: datetime) -> float:
    """A moment on the core's clock."""
    return moment.timestamp() / 60


def moment_of(minute: float) -> datetime:
    """A minute of the core's clock as a moment, to the whole minute."""
    return datetime.fromtimestamp(round(minute) * 60, tz=UTC)


def busy(around: datetime, besides: frozenset[int] = frozenset()) -> list[Use]:
    """What other batches not yet poured occupy in the days around a moment, and which of them."""
    span = timedelta(days=NEAR_DAYS)
    others = Batch.objects.unpoured().filter(starts_at__range=(around - span, around + span)).exclude(pk__in=besides)
    return [
        replace(use.moved(minute_of(starts_at)), by=f"batch {pk}")
        for pk, starts_at, occupies in others.values_list("pk", "starts_at", "occupies")
        if starts_at is not None
        for use in uses_of(occupies)
    ]


def of_day(on: date) -> list[Batch]:
    """The batches that have a time on a day and were not called off, by that time."""
    near = Batch.objects.exclude(state=Batch.State.OFF).filter(starts_at__isnull=False)
    start = datetime.combine(on, datetime.min.time(), timezone.get_current_timezone())
    around = near.filter(starts_at__range=(start - timedelta(hours=2), start + timedelta(hours=27)))
    ordered = around.for_list().order_by("starts_at", "pk")
    return [batch for batch in ordered if batch.starts_at and timezone.localdate(batch.starts_at) == on]


def is_ready_for(moment: datetime, besides: frozenset[int]) -> bool:
    """True when a batch of the same day begins before: it leaves the bench ready."""
    morning = timezone.localtime(moment).replace(hour=0, minute=0, second=0, microsecond=0)
    earlier = Batch.objects.exclude(state=Batch.State.OFF).filter(starts_at__gte=morning, starts_at__lt=moment)
    return earlier.exclude(pk__in=besides).exists()


@dataclass(frozen=True)
class Schedule:
    """A start for a method, with what it occupies from then on; ``is_made_ready`` where an earlier batch of the day
    leaves the bench ready. ``note`` says what had to give way or is odd about it."""

    start: datetime
    length_min: float
    uses: tuple[Use, ...]
    note: str = ""
    is_made_ready: bool = False


def propose_schedule(setup: Setup, when: str, text: str, besides: frozenset[int] = frozenset()) -> Schedule:
    """Where a method starts for a wish as typed.

    Raises ``Problem`` for what is no time, or when it is too late for that.
    """
    now = timezone.now()
    wanted, note = parse_datetime(text, now)
    return schedule_for(setup, when, wanted, now, besides, note)


def schedule_for(
    setup: Setup,
    when: str,
    moment: datetime,
    now: datetime,
    besides: frozenset[int] = frozenset(),
    note: str = "",
) -> Schedule:
    """Where a method starts for a wish: start at a moment, or be ready by it. On a bench that an earlier batch of the
    day leaves ready it is made ready in less.

    Raises ``Problem`` when it is too late for that.
    """
    taken, room = busy(moment, besides), preferences().room

    def placed(is_ready: bool) -> tuple[Job, Placed]:
        job = Job.of(method_for(replace(setup, is_made_ready=is_ready)))
        if when == Batch.When.READY:
            return job, ready_by(job, minute_of(moment), minute_of(now), taken, room)
        return job, start_at(job, minute_of(moment), taken, room)

    is_ready = is_ready_for(moment, besides)
    if is_ready:
        try:
            job, found = placed(True)
            is_ready = is_ready_for(moment_of(found.start), besides)
        except Problem:
            is_ready = False
    if not is_ready:
        job, found = placed(False)
    start = moment_of(found.start)
    notes = [note]
    if found.moved_for:
        notes.append(f"Moved, as {found.in_the_way or 'another batch'} has {found.moved_for} then.")
    if timezone.localtime(start).hour < DAWN:
        notes.append(f"It begins in the night, at {format_time(start)}.")
    return Schedule(start, job.length, job.uses, " ".join(word for word in notes if word), is_ready)


PLACE_FIELDS = ("starts_at", "length_min", "occupies", "is_made_ready")


def schedule_batch(batch: Batch, schedule: Schedule | None, besides: frozenset[int] = frozenset()) -> None:
    """Give a batch its place on the clock, or none; it is not stored yet.

    Raises :class:`Problem` when another batch, none of ``besides``, took something of it in the meantime.
    """
    batch.starts_at, batch.is_made_ready = None, False
    if schedule is None:
        return
    start, others = minute_of(schedule.start), by_what(busy(schedule.start, besides | {batch.pk or 0}))
    if taken := collision(schedule.uses, others, preferences().room, start):
        raise Problem(f"{taken.by.capitalize()} has {NAMES[taken.what]} at that time: ask once more.", "moment")
    batch.starts_at = schedule.start
    batch.length_min, batch.is_made_ready = schedule.length_min, schedule.is_made_ready
    batch.occupies = [to_row(use) for use in schedule.uses]
