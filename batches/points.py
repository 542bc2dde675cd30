"""What pages of batches show of the apps above: those register, see :mod:`workshop.points`."""

from collections.abc import Collection

from balmcore.tables import Tables
from batches.models import Batch
from workshop.points import Point

# Where to go on from a batch that is weighed or poured: the address of its pour.
pour_address: Point[[Batch], str] = Point()
# Where a batch that is not poured is made step by step.
bench_address: Point[[Batch], str] = Point()
# Those of some batches that hold something of a lot not fit to use, by number: what to say of each.
unfit_batches: Point[[Collection[Batch], Tables], dict[int, str]] = Point()


def unfit_among(batches: Collection[Batch], tables: Tables) -> dict[int, str]:
    """Everybody's answer on what is not fit to use, as one."""
    return {pk: said for answer in unfit_batches.ask(batches, tables) for pk, said in answer.items()}
