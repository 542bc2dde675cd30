"""A batch's place on the clock, among the other batches."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from django.utils import timezone

from balmcore.errors import Problem
from balmcore.making.schedule import NAMES, Placed, Use, by_what, collision, ready_by, start_at, uses
from balmcore.making.steps import Method
from batches.clock.datetimes import format_time, parse_datetime
from batches.models import Batch, uses_of

NEAR_DAYS = 3  # batches further away cannot be in the way
DAWN = 6  # hours: what begins before is worth a word


def minute_of(moment: datetime) -> float:
    """A moment on the core's clock."""
    return moment.timestamp() / 60


def moment_of(minute: float) -> datetime:
    """A minute of the core's clock as a moment, to the whole minute."""
    return datetime.fromtimestamp(round(minute) * 60, tz=UTC)


def busy(around: datetime, besides: int | None = None) -> list[Use]:
    """What other batches not yet poured occupy in the days around a moment."""
    span = timedelta(days=NEAR_DAYS)
    others = Batch.objects.unpoured().filter(starts_at__range=(around - span, around + span))
    if besides is not None:
        others = others.exclude(pk=besides)
    return [
        use.moved(minute_of(starts_at))
        for starts_at, occupies in others.values_list("starts_at", "occupies")
        if starts_at is not None
        for use in uses_of(occupies)
    ]


def _placed(made: Method, when: str, moment: datetime, now: datetime, besides: int | None = None) -> Placed:
    """Where a method starts for a wish: start at a moment, or be ready by it.

    Raises ``Problem`` when it is too late for that.
    """
    taken = busy(moment, besides)
    if when == Batch.When.READY:
        return ready_by(made, minute_of(moment), minute_of(now), taken)
    return start_at(made, minute_of(moment), taken)


@dataclass(frozen=True)
class Schedule:
    """A start for a method, with what it occupies from then on; ``note`` says what had to give way
    or is odd about it."""

    start: datetime
    length_min: float
    uses: tuple[Use, ...]
    note: str = ""


def propose_schedule(made: Method, when: str, text: str, besides: int | None = None) -> Schedule:
    """Where a method starts for a wish as typed.

    Raises ``Problem`` for what is no time, or when it is too late for that.
    """
    now = timezone.now()
    wanted, note = parse_datetime(text, now)
    return schedule_for(made, when, wanted, now, besides, note)


def schedule_for(
    made: Method, when: str, moment: datetime, now: datetime, besides: int | None = None, note: str = ""
) -> Schedule:
    """Where a method starts for a wish: start at a moment, or be ready by it.

    Raises ``Problem`` when it is too late for that.
    """
    found = _placed(made, when, moment, now, besides)
    start = moment_of(found.start)
    notes = [note]
    if found.moved_for:
        notes.append(f"Moved, as another batch has {found.moved_for} then.")
    if timezone.localtime(start).hour < DAWN:
        notes.append(f"It begins in the night, at {format_time(start)}.")
    return Schedule(start, made.length, uses(made), " ".join(word for word in notes if word))


def schedule_batch(batch: Batch, schedule: Schedule | None) -> None:
    """Give a batch its place on the clock, or none; it is not stored yet.

    Raises :class:`Problem` when another batch took something of it in the meantime.
    """
    batch.starts_at = None
    if schedule is None:
        return
    batch.starts_at = schedule.start
    start = minute_of(schedule.start)
    taken = collision([use.moved(start) for use in schedule.uses], by_what(busy(schedule.start, batch.pk)))
    if taken is not None:
        raise Problem(f"Another batch has taken {NAMES[taken.what]} for that time meanwhile: ask once more.", "moment")
    batch.length_min = schedule.length_min
    batch.occupies = [[use.what, round(use.start, 2), round(use.end, 2)] for use in schedule.uses]
