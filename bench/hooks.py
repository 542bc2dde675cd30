"""What the bench asks of the apps above it, see :mod:`workshop.hooks`."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from balmcore.tables import Tables
from batches.models import Batch, BatchFinish
from workshop.hooks import Hook

Pieces = Sequence[tuple[str, Decimal | None]]


@dataclass(frozen=True)
class Filled:
    """What came of a melt, or of one finish of it, whether it is said at the bench or in a form: every piece that was
    filled, by the name of its container, with its grams or None for one that was not weighed; what stayed in the jug,
    and whether that is kept as stock; the day, room and cooling, None for today and as it was planned."""

    finish: BatchFinish | None
    pieces: Pieces
    leftover_g: Decimal | None = None
    keeps_leftover: bool = False
    notes: str = ""
    poured_on: date | None = None
    room_c: float | None = None
    cooling: str | None = None
    cooling_note: str = ""
    verdict: str = ""


# Records the pours of a batch that is made; returns the address of the first.
record_pours: Hook[[Batch, Sequence[Filled], Tables], str] = Hook()
