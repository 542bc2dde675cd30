"""What the bench asks of the apps above it, see :mod:`workshop.hooks`."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from balmcore.tables import Tables
from batches.models import Batch, BatchFinish
from workshop.hooks import Hook


@dataclass(frozen=True)
class Filled:
    """What came of one finish at the bench, or of the whole melt: pieces with their grams, None for one
    that was not weighed, what stayed in the jug, and whether that is kept as stock."""

    finish: BatchFinish | None
    pieces: Sequence[tuple[str, Decimal | None]]
    stayed_g: Decimal | None
    keeps_leftover: bool
    notes: str


# Records the pours of a batch that is made; returns the address of the first.
record_pours: Hook[[Batch, Sequence[Filled], Tables], str] = Hook()
