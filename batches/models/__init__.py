"""A batch: one version scaled to containers, what it becomes, and what was really weighed."""

from batches.models.batch import DEFAULT_PITCHER, LADDER_CUP, Batch
from batches.models.parts import BatchAround, BatchContainer, BatchFinish
from batches.models.uses import to_row, uses_of
from batches.models.weighed import BatchLine, Draw, Rest

__all__ = [
    "DEFAULT_PITCHER",
    "LADDER_CUP",
    "Batch",
    "BatchAround",
    "BatchContainer",
    "BatchFinish",
    "BatchLine",
    "Draw",
    "Rest",
    "to_row",
    "uses_of",
]
