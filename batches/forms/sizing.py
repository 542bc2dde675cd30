"""A plan of so much as a recipe makes: as many containers as that takes, filled alike, and the rest in the jug."""

from collections.abc import Sequence
from decimal import Decimal
from math import ceil, log

from balmcore.making.scaling import MOST_PIECES
from balmcore.tables import Container

FEW = 5  # pieces that one makes of a recipe at a time


def fitting(size_g: Decimal, containers: Sequence[Container]) -> Container:
    """The container of which so much fills a few."""
    return min(containers, key=lambda one: abs(log(float(size_g) / (one.capacity_ml * one.fill) / FEW)))


def pieces_of(size_g: Decimal, loss_g: Decimal, net_g: float) -> tuple[int, float]:
    """How many pieces of at most ``net_g`` a melt of ``size_g`` fills when ``loss_g`` of it stay in the jug, and the
    grams of each, cut to a tenth; what that leaves stays in the jug as well.

    >>> pieces_of(Decimal("154.8"), Decimal("3"), 51.0)
    (3, 50.6)
    """
    left = float(size_g - loss_g) if loss_g < size_g else float(size_g)
    count = min(max(1, ceil(left / net_g - 1e-6)), MOST_PIECES)
    each = min(left / count, net_g)
    return count, int(each * 10 + 1e-6) / 10 or each
