"""What lies in stock: which lot serves first, how much it lets one make, what has to be bought."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_CEILING, ROUND_FLOOR, Decimal
from itertools import chain

from balmcore.composition import Composition
from balmcore.making.scaling import Piece

NEVER = date.max


@dataclass(frozen=True)
class Lot:
    """What is left of one purchase: an amount in grams, or in pieces for containers."""

    pk: int
    left: Decimal
    best_before: date | None = None
    bought: date | None = None
    is_good: bool = True
    is_past: bool = False


def first_to_expire(lots: Iterable[Lot]) -> list[Lot]:
    """Good lots that hold something, in the order in which they should be used up: the first to expire first, and what
    is past its date last."""
    usable = [lot for lot in lots if lot.is_good and lot.left > 0]
    return sorted(usable, key=lambda lot: (lot.is_past, lot.best_before or NEVER, lot.bought or NEVER, lot.pk))


def draw(lots: Iterable[Lot], amount: Decimal, chosen: int | None = None) -> tuple[dict[int, Decimal], Decimal]:
    """How much leaves which lot, and what is missing: the lot chosen serves first, whatever its date; then the first to
    expire of those within their date. What is past its date serves where it is chosen alone."""
    return Shelf(lots).draw(amount, chosen)


class Shelf:
    """The lots of one item in the order in which they serve, drawn from again and again; ``left`` is what each still
    holds."""

    def __init__(self, lots: Iterable[Lot]) -> None:
        self._lots = first_to_expire(lots)
        self.left = {lot.pk: lot.left for lot in self._lots}

    def draw(
        self, amount: Decimal, chosen: int | None = None, but: Collection[int] = ()
    ) -> tuple[dict[int, Decimal], Decimal]:
        """As :func:`draw`, from what is left; nothing of those in ``but``."""
        taken: dict[int, Decimal] = {}
        for lot in chain((lot for lot in self._lots if lot.pk == chosen), self._lots):
            if amount <= 0:
                break
            part = min(amount, self.left[lot.pk])
            if part > 0 and lot.pk not in but and (not lot.is_past or lot.pk == chosen):
                taken[lot.pk] = part
                self.left[lot.pk] -= part
                amount -= part
        return taken, amount


@dataclass(frozen=True)
class Most:
    """The largest batch that the stock allows, and the ingredient that runs out with it.
    ``uncounted`` are lines of which no lot is written down."""

    total_g: Decimal
    key: str
    uncounted: tuple[str, ...]


ALMOST_G = Decimal("0.000001")  # less is what a float leaves out


def most(composition: Composition, stock: Mapping[str, Decimal]) -> Most | None:
    """The largest batch by the stock of each line, None when no line is in stock at all."""
    lines = [line for line in composition.lines if line.share]
    counted = [line for line in lines if line.key in stock]
    if not counted:
        return None
    least = min(counted, key=lambda line: stock[line.key] / line.share)
    total = stock[least.key] / least.share * composition.total
    return Most(total, least.key, tuple(line.key for line in lines if line.key not in stock))


def pieces_from(total_g: Decimal, loss_g: Decimal, net_g: float) -> int:
    """How many pieces of ``net_g`` a batch of ``total_g`` fills when ``loss_g`` stays in the jug."""
    if net_g <= 0 or total_g <= loss_g:
        return 0
    return int(((total_g - loss_g) / Decimal(str(net_g))).to_integral_value(ROUND_FLOOR))


def counts_from(
    total_g: Decimal, loss_g: Decimal, pieces: Sequence[Piece], resolution_g: Decimal = Decimal("0.1")
) -> list[int]:
    """How many of each piece a batch of ``total_g`` fills, their parts of the whole kept. None is lost to what rounding
    to the scale's step took off the whole."""
    whole = sum(piece.net_g * piece.count for piece in pieces)
    filled = total_g - loss_g + resolution_g / 2
    return [
        pieces_from(filled * Decimal(str(piece.net_g * piece.count / whole)) + ALMOST_G, Decimal(0), piece.net_g)
        for piece in pieces
    ]


@dataclass(frozen=True)
class Packs:
    """So many packs of one size; ``size`` None when none was ever bought and the amount stands bare."""

    amount: Decimal
    size: Decimal | None
    count: int


def packs(missing: Decimal, sizes: Sequence[Decimal]) -> Packs:
    """The missing amount rounded up to packs of a size bought before, the least left over first.

    >>> packs(Decimal(700), [Decimal(500), Decimal(250)])
    Packs(amount=Decimal('750'), size=Decimal('250'), count=3)
    """
    usable = [size for size in sizes if size > 0]
    if not usable:
        return Packs(missing, None, 1)

    def bought(size: Decimal) -> Packs:
        count = int((missing / size).to_integral_value(ROUND_CEILING))
        return Packs(count * size, size, count)

    return min((bought(size) for size in usable), key=lambda pack: (pack.amount, pack.count))
