"""A batch's method and its place on the clock, among the other batches."""

from datetime import UTC, datetime, timedelta

from django.utils import timezone

from balmcore.errors import Problem
from balmcore.making.method import method
from balmcore.making.scaling import filled_density, pieces_of
from balmcore.making.schedule import NAMES, Placed, Use, by_what, collision, ready_by, start_at, uses
from balmcore.making.steps import Bench, Method
from balmcore.tables import Container, library
from balmcore.units import CELSIUS, Display
from batches import clock
from batches.models import JUG, Batch
from pantry.queries import containers

NEAR_DAYS = 3  # batches further away cannot be in the way
DAWN = 6  # hours: what begins before is worth a word


def pitcher_of(key: str) -> Container:
    """The pitcher of a batch; the half-litre jug for one that was taken away since."""
    known = library().containers
    return known.get(key) or containers().get(key) or known[JUG]


def bench_of(batch: Batch, show: Display = CELSIUS) -> Bench:
    """The bench of a stored batch, for what is really in its pot."""
    formula = batch.true_composition
    fillings = tuple(batch.fillings)
    return Bench(
        formula=formula,
        kind=batch.version.formula.kind,
        fillings=fillings,
        pieces=pieces_of(fillings, filled_density(formula, batch.pour_c, batch.overrun)),
        vessels=batch.vessels,
        pitcher=pitcher_of(batch.vessel_key),
        total_g=float(formula.total),
        pour_c=batch.pour_c,
        overrun=batch.overrun,
        room_c=batch.room_c,
        school=batch.cooling,
        show=show,
    )


def minute_of(moment: datetime) -> float:
    """A moment on the core's clock."""
    return moment.timestamp() / 60


def moment_of(minute: float) -> datetime:
    """A minute of the core's clock as a moment, to the whole minute."""
    return datetime.fromtimestamp(round(minute) * 60, tz=UTC)


def busy(around: datetime, besides: int | None = None) -> list[Use]:
    """What other batches not yet poured occupy in the days around a moment."""
    span = timedelta(days=NEAR_DAYS)
    others = Batch.objects.filter(pour=None, starts_at__range=(around - span, around + span))
    if besides is not None:
        others = others.exclude(pk=besides)
    return [
        Use(what, start, end).moved(minute_of(starts_at))
        for starts_at, occupies in others.values_list("starts_at", "occupies")
        if starts_at is not None
        for what, start, end in occupies
    ]


def placed(made: Method, when: str, moment: datetime, now: datetime, besides: int | None = None) -> Placed:
    """Where a method starts for a wish: start at a moment, or be ready by it.

    Raises ``Problem`` when it is too late for that.
    """
    taken = busy(moment, besides)
    if when == Batch.When.READY:
        return ready_by(made, minute_of(moment), minute_of(now), taken)
    return start_at(made, minute_of(moment), taken)


def put(made: Method, when: str, text: str, besides: int | None = None) -> tuple[datetime, str]:
    """Where a method starts for a wish as typed, and a word on what had to give way or is odd.

    Raises ``Problem`` for what is no time, or when it is too late for that.
    """
    now = timezone.now()
    wanted, note = clock.moment(text, now)
    found = placed(made, when, wanted, now, besides)
    start = moment_of(found.start)
    notes = [note]
    if found.moved_for:
        notes.append(f"Moved, as another batch has {found.moved_for} then.")
    if timezone.localtime(start).hour < DAWN:
        notes.append(f"It begins in the night, at {clock.hour(start)}.")
    return start, " ".join(word for word in notes if word)


def place(batch: Batch, start: datetime | None) -> None:
    """Store a batch's start with what it occupies then; None takes it off the clock.

    Raises :class:`Problem` when another batch took something of it in the meantime.
    """
    batch.starts_at = start
    if start is not None:
        made = method(bench_of(_fresh(batch)))
        own = uses(made)
        taken = collision([use.moved(minute_of(start)) for use in own], by_what(busy(start, batch.pk)))
        if taken is not None:
            raise Problem(
                f"Another batch has taken {NAMES[taken.what]} for that time meanwhile: ask once more.", "moment"
            )
        batch.length_min = made.length
        batch.occupies = [[use.what, round(use.start, 2), round(use.end, 2)] for use in own]
    batch.save(update_fields=("starts_at", "length_min", "occupies"))


def _fresh(batch: Batch) -> Batch:
    return Batch.objects.prefetch_related("lines", "containers").select_related("version__formula").get(pk=batch.pk)
