"""Beginning a rehearsal, and forgetting it."""

from django.db import transaction

from batches.models import Batch
from bench.models import BenchRun


@transaction.atomic
def begin_rehearsal(batch: Batch, speed: int) -> BenchRun:
    """A rehearsal of a batch from its first step; an earlier one is forgotten."""
    BenchRun.objects.filter(batch=batch, is_rehearsal=True).delete()
    return BenchRun.objects.create(batch=batch, is_rehearsal=True, speed=speed)


def end_rehearsal(run: BenchRun) -> None:
    """Forget a rehearsal: nothing of it stays."""
    run.delete()
