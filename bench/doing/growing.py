"""More of a line went in than was planned: what everything else has to become so that percentages stay."""

from collections.abc import Mapping
from decimal import ROUND_FLOOR, Decimal

from balmcore.tables import Tables
from batches.models import Batch, BatchLine


def rescaled_targets(batch: Batch, line: BatchLine, tables: Tables) -> dict[str, Decimal]:
    """The targets that keep the percentages of a batch when one line is over: by slot, and ``base.N`` for
    what a finish takes; on the scale's grid, scents rounded down."""
    factor, step = (line.actual_g or Decimal(0)) / line.target_g, batch.resolution_g
    scents = {each.slot for each in batch.lines.all() if tables.ingredient(each.ingredient_key).aromatic}
    plan = {
        # What was planned within a limit stays within it: rounded down, it is never more of the whole.
        key: (value * factor / step).to_integral_value(ROUND_FLOOR if key in scents else None) * step
        if not _is_drops(batch, key)
        else value
        for key, value in targets(batch).items()
    }
    plan[line.slot] = line.actual_g or Decimal(0)
    return plan


def _is_drops(batch: Batch, key: str) -> bool:
    return any(line.slot == key and line.drops for line in batch.lines.all())


def targets(batch: Batch) -> dict[str, Decimal]:
    """What is to be weighed, by slot, and what finishes take, as ``base.N``."""
    found = {line.slot: line.target_g for line in batch.lines.all()}
    return found | {f"base.{finish.pk}": finish.base_g for finish in batch.finishes.all()}


def reopened_slots(batch: Batch, plan: Mapping[str, Decimal]) -> list[str]:
    """The lines weighed already of which more is wanted now."""
    return [
        line.slot
        for line in batch.lines.all()
        if line.actual_g is not None and plan[line.slot] - line.actual_g >= batch.resolution_g
    ]
