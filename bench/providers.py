"""What pages of the apps below show of the bench."""

from django.urls import reverse

from batches.hooks import BenchLinks, bench_links
from batches.models import Batch


@bench_links.register
def links(batch: Batch) -> BenchLinks:
    """Where a batch is made, and weighed."""
    names = ("bench", "weigh", "correct", "call_off")
    return BenchLinks(*(reverse(f"bench:{name}", args=[batch.pk]) for name in names))
