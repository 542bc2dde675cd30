"""A day as a picture: each batch a row, and what it needs at each minute."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from balmcore.making.schedule import HANDS, NAMES, by_what
from batches.clock.datetimes import format_time
from batches.clock.days import Laid

WIDTH, LEFT, RIGHT, TOP, ROW, BAR = 1160.0, 230.0, 18.0, 8.0, 46.0, 30.0
LOOKS = {HANDS: "hands", "stove": "stove", "refrigerator": "cold", "freezer": "cold"}
WORDS = {HANDS: "hands", "stove": "stove", "refrigerator": "refrigerator", "freezer": "freezer"}


@dataclass(frozen=True)
class Piece:
    """A stretch of a row: where it lies, its look, and what it is for who points at it."""

    x: float
    y: float
    width: float
    height: float
    look: str
    name: str


@dataclass(frozen=True)
class Row:
    """A batch: its number, name and times, and its stretches."""

    y: float
    number: int
    name: str
    times: str
    pieces: tuple[Piece, ...]


@dataclass(frozen=True)
class Lanes:
    """The picture of a day; ``crowded`` says how much of each thing is needed at once, of how many."""

    rows: tuple[Row, ...]
    hours: tuple[tuple[float, str], ...]
    crowded: tuple[str, ...]
    height: float
    title: str
    width: float = WIDTH
    left: float = LEFT

    @property
    def right(self) -> float:
        """Where the rows end."""
        return self.width - RIGHT

    @property
    def foot(self) -> float:
        """Where the hours stand."""
        return self.height - 22


def lanes(laid: Sequence[Laid], room: Mapping[str, int]) -> Lanes | None:
    """A day's batches as rows over the hours; None without any."""
    if not laid:
        return None
    first = min(each.schedule.start for each in laid)
    start = timezone.localtime(first).replace(minute=0, second=0, microsecond=0)
    end = max(each.ready for each in laid)
    hours = max(1, -(-int((end - start).total_seconds() // 60 + 1) // 60))
    scale = (WIDTH - LEFT - RIGHT) / (hours * 60)

    def x_of(moment: datetime) -> float:
        return LEFT + (moment - start).total_seconds() / 60 * scale

    rows = []
    for n, each in enumerate(laid):
        top = TOP + n * ROW + (ROW - BAR) / 2
        begins = each.schedule.start
        pieces = [Piece(x_of(begins), top, (x_of(each.ready) - x_of(begins)), BAR, "wait", "waits by itself")]
        for use in sorted(each.schedule.uses, key=lambda use: use.what == HANDS):
            at, until = (begins + timedelta(minutes=m) for m in (use.start, use.end))
            hands = use.what == HANDS
            pieces.append(
                Piece(
                    x_of(at), top if hands else top + BAR / 2, x_of(until) - x_of(at), BAR / 2, LOOKS[use.what],
                    f"{WORDS[use.what]} {format_time(at)} to {format_time(until)}",
                )
            )  # fmt: skip
        rows.append(
            Row(
                top + BAR / 2,
                each.batch.pk,
                each.batch.version.formula.name,
                f"{format_time(begins)} to {format_time(each.ready)}",
                tuple(pieces),
            )
        )
    every = 1 if hours <= 14 else 2
    marks = tuple(
        (x_of(start + timedelta(hours=hour)), format_time(start + timedelta(hours=hour)))
        for hour in range(0, hours + 1, every)
    )
    many = "1 batch" if len(laid) == 1 else f"{len(laid)} batches"
    title = f"{many} on one clock, from {format_time(first)} to {format_time(end)}."
    return Lanes(tuple(rows), marks, tuple(_crowded(laid, room)), TOP + len(laid) * ROW + 30, title)


def _crowded(laid: Sequence[Laid], room: Mapping[str, int]) -> list[str]:
    """What is needed more than there is of it, as can be after a change of settings or in what was begun late."""
    uses = [
        use for each in laid for use in (use.moved(each.schedule.start.timestamp() / 60) for use in each.schedule.uses)
    ]
    said = []
    for what, own in by_what(uses).items():
        most = max(sum(o.start <= use.start + 1e-6 < o.end - 1e-6 for o in own) for use in own)
        if most > room.get(what, 1):
            said.append(f"{most} batches need {NAMES[what]} at once, and there is room for {room.get(what, 1)}.")
    return said
