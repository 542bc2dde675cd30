"""What pages of the apps below show of the bench."""

from django.urls import reverse

from batches.models import Batch
from batches.points import bench_address


@bench_address.register
def address(batch: Batch) -> str:
    """Where a batch is made step by step."""
    return reverse("bench:bench", args=[batch.pk])
