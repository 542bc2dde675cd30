"""What a batch holds of lots that are not good, wherever something is done with it; and the yes asked before."""

from collections.abc import Collection

from balmcore.errors import Problem
from balmcore.tables import Tables
from batches.hooks import unfit_among
from batches.models import Batch

MOST_LETTERS = 400


class Unfit(Problem):
    """A batch holds something of a lot that is not good, and nobody said that they know."""


def unfit_of(batch: Batch, tables: Tables) -> str:
    """What of a batch is not to be used, in a sentence without its stop; empty where nothing is."""
    return unfit_among([batch], tables).get(batch.pk, "")


def unasked(batches: Collection[Batch], tables: Tables) -> dict[int, str]:
    """What of some batches is not to be used, by number, where nobody said that they know it."""
    known = {batch.pk: batch.known_unfit for batch in batches}
    return {pk: said for pk, said in unfit_among(batches, tables).items() if said != known[pk]}


def require_fit(batch: Batch, tables: Tables) -> str:
    """Raises :class:`Unfit` before anything more is weighed, filled, printed, given or sold of a batch that holds
    something of a lot that is not good, until its maker said that they know just that. Returns
    what they know."""
    found = unfit_of(batch, tables)
    if found and found != batch.known_unfit:
        raise Unfit(f"{found}: do not use it or hand it on. If it goes on all the same, say first that you know.")
    return found


def know(batch: Batch, tables: Tables) -> str:
    """Write down that its maker knows what is not to be used of it; returns that."""
    found = unfit_of(batch, tables)
    Batch.objects.filter(pk=batch.pk).update(known_unfit=found[:MOST_LETTERS])
    return found
