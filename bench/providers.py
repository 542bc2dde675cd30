"""What pages of the apps below show of the bench."""

from django.urls import reverse

from batches.hooks import bench_address
from batches.models import Batch


@bench_address.register
def address(batch: Batch) -> str:
    """Where a batch is made step by step."""
    return reverse("bench:bench", args=[batch.pk])
