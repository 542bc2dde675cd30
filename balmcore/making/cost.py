"""What a batch costs: ingredients, containers and labels, per piece and per 100 g."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from balmcore.making.scaling import Piece, added_up

NOTHING_AROUND: Mapping[str, Sequence[str]] = {}  # nothing goes around any piece


@dataclass(frozen=True)
class Price:
    """What one gram or one piece cost, and where that figure comes from. ``is_estimate`` where some of it is still to
    be bought, at the last price; not whole where a part of it has no price, which then counts nothing."""

    each: Decimal
    source: str
    is_estimate: bool = False
    is_whole: bool = True


@dataclass(frozen=True)
class Paid:
    """A part of an amount: so much of one lot, what each gram or piece of it cost, None where that is not known."""

    amount: Decimal
    each: Decimal | None
    source: str
    is_estimate: bool = False


def blended(parts: Sequence[Paid]) -> Price | None:
    """The price of an amount that comes in parts, each at what was paid for it; None where no part has one.

    >>> blended([Paid(Decimal(100), Decimal("0.5"), "lot 1"), Paid(Decimal(300), Decimal("0.1"), "lot 2")]).each
    Decimal('0.2')
    """
    known = [(part.amount, part.each) for part in parts if part.each is not None and part.amount > 0]
    whole = sum((part.amount for part in parts), Decimal(0))
    if not known or whole <= 0:
        return None
    source = " and ".join(dict.fromkeys(part.source for part in parts if part.each is not None and part.amount > 0))
    cost = sum((amount * each for amount, each in known), Decimal(0))
    is_estimate = any(part.is_estimate for part in parts if part.amount > 0)
    return Price(cost / whole, source, is_estimate, sum(amount for amount, _ in known) == whole)


@dataclass(frozen=True)
class Item:
    """One line of a bill: an amount in grams or pieces and what it comes to; ``cost`` is None when no price is known,
    and not whole where a part of it has none."""

    key: str
    amount: Decimal
    cost: Decimal | None
    source: str
    is_whole: bool = True
    is_estimate: bool = False


@dataclass(frozen=True)
class PieceCost:
    """What one piece of a container costs: its share of the melt, its container, its label and what goes around it; not
    the whole of it where a price of one of these is not known."""

    key: str
    count: int
    melt: Decimal
    container: Decimal | None
    label: Decimal
    is_whole: bool = True
    around: Decimal = Decimal(0)

    @property
    def total(self) -> Decimal:
        """Melt, container, label and what goes around it; what has no price counts nothing."""
        return self.melt + (self.container or Decimal(0)) + self.label + self.around


@dataclass(frozen=True)
class Bill:
    """The whole bill. ``unpriced`` are keys that no price is known of; they count nothing."""

    items: tuple[Item, ...]
    pieces: tuple[PieceCost, ...]
    melt: Decimal
    total: Decimal
    per_100_g: Decimal
    unpriced: tuple[str, ...]

    @property
    def is_estimate(self) -> bool:
        """True where some of it is still to be bought, at the last price."""
        return any(item.is_estimate for item in self.items)


def bill(
    lines: Mapping[str, Decimal],
    pieces: Sequence[Piece],
    prices: Mapping[str, Price],
    label: Decimal = Decimal(0),
    around: Mapping[str, Sequence[str]] = NOTHING_AROUND,
) -> Bill:
    """The bill of a batch: grams by ingredient, pieces, and prices per gram or per piece; ``around`` is what goes
    around each piece of a container.

    What stays in the jug is paid for by the pieces: each carries its part of the whole melt by
    weight. ``per_100_g`` is of the melt alone, as it is weighed.
    """
    melt_items = tuple(_item(key, grams, prices) for key, grams in lines.items())
    melt = sum((item.cost for item in melt_items if item.cost is not None), Decimal(0))
    product = sum((Decimal(str(piece.net_g)) * piece.count for piece in pieces), Decimal(0))
    costs = tuple(
        PieceCost(
            piece.key,
            piece.count,
            melt * Decimal(str(piece.net_g)) / product if product else Decimal(0),
            prices[piece.key].each if piece.key in prices else None,
            label,
            all(key in prices and prices[key].is_whole for key in (piece.key, *around.get(piece.key, ())))
            and all(item.cost is not None and item.is_whole for item in melt_items if item.amount),
            sum((prices[key].each for key in around.get(piece.key, ()) if key in prices), Decimal(0)),
        )
        for piece in pieces
    )
    items = (
        *melt_items,
        *(_item(piece.key, Decimal(piece.count), prices) for piece in pieces),
        *(_item(key, count, prices) for key, count in wrapped(pieces, around).items()),
    )
    unpriced = tuple(item.key for item in items if item.cost is None or not item.is_whole)
    total = sum((cost.total * cost.count for cost in costs), Decimal(0)) if product else melt
    weighed = sum(lines.values(), Decimal(0))
    return Bill(items, costs, melt, total, melt / weighed * 100 if weighed else Decimal(0), unpriced)


def wrapped(pieces: Sequence[Piece], around: Mapping[str, Sequence[str]]) -> dict[str, Decimal]:
    """How many there are of what goes around pieces, by key."""
    return added_up(*({key: Decimal(piece.count)} for piece in pieces for key in around.get(piece.key, ())))


def _item(key: str, amount: Decimal, prices: Mapping[str, Price]) -> Item:
    price = prices.get(key)
    if price is None:
        return Item(key, amount, None, "no price known")
    return Item(key, amount, amount * price.each, price.source, price.is_whole, price.is_estimate)


def per_gram(shares: Mapping[str, Decimal], prices: Mapping[str, Price]) -> Decimal | None:
    """Cost of a gram of a composition by shares adding to 1, None when a price is missing."""
    if any(key not in prices for key, share in shares.items() if share):
        return None
    return sum((share * prices[key].each for key, share in shares.items() if share), Decimal(0))
