"""What is left by product and size, a market day written down, and what it came to."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from hashlib import sha256

from django.db import transaction

from balmcore.display import day_words
from balmcore.errors import Problem
from balmcore.tables import Tables
from batches.batch_plan import setup_of
from batches.fitness import unasked
from batches.models import Batch
from batches.supply.costs import cost_of
from pieces.accounts import sizes_left, with_left
from pieces.models import Handout, Market, Price
from pours.models import Pour
from workshop.models import Preferences

Key = tuple[int, str, str]  # formula, finish, size


@dataclass(frozen=True)
class Product:
    """A product in one size: the pours that hold pieces of it with how many, the first to expire first, and its price;
    ``past`` are past their date and stay at home."""

    key: Key
    name: str
    size: str
    stock: tuple[tuple[Pour, int], ...]
    past: int = 0
    price: Decimal | None = None

    @property
    def slot(self) -> str:
        """Its place in a form, the same as long as there is any of it."""
        formula, finish, size = self.key
        return f"{formula}.{sha256(f'{finish}|{size}'.encode()).hexdigest()[:8]}"

    @property
    def left(self) -> int:
        """How many can be taken along."""
        return sum(count for _, count in self.stock)


@dataclass(frozen=True)
class OnHand:
    """Everything of which pieces are left, by name; what is not to be sold, with why; and how many pieces went of which
    nobody said the size, by pour."""

    products: tuple[Product, ...]
    left_out: tuple[tuple[Pour, str], ...]
    unsaid: tuple[tuple[Pour, int], ...]


def on_hand(tables: Tables, today: date) -> OnHand:
    """What is left by product and size. A fixed number of queries."""
    pours = list(with_left().for_list().prefetch_related("handouts").order_by("poured_on", "pk"))
    unfit = unasked([pour.batch for pour in pours], tables)
    found: dict[Key, list[tuple[Pour, int]]] = {}
    past: dict[Key, int] = {}
    unsaid = []
    for pour in pours:
        left, without = sizes_left(pour, pour.handouts.all())
        if without:
            unsaid.append((pour, without))
        for size, count in left.items():
            key = (pour.batch.version.formula_id, str(pour.finish or ""), size)
            # Of what went without a size nobody knows which: so many fewer of each may be there.
            count = min(count, sum(left.values()) - without)
            if count <= 0 or pour.batch_id in unfit:
                continue
            if pour.best_before and pour.best_before < today:
                past[key] = past.get(key, 0) + count
            else:
                found.setdefault(key, []).append((pour, count))
    prices = {(row.formula_id, row.finish_name, row.size): row.each for row in Price.objects.all()}
    products = [_product(key, own, past.get(key, 0), prices.get(key)) for key, own in found.items()]
    return OnHand(
        tuple(sorted(products, key=lambda product: (product.name.lower(), product.size))),
        tuple((pour, unfit[pour.batch_id]) for pour in pours if pour.batch_id in unfit),
        tuple(unsaid),
    )


def _product(key: Key, stock: list[tuple[Pour, int]], past: int, price: Decimal | None) -> Product:
    stock.sort(key=lambda pair: (pair[0].best_before or date.max, pair[0].poured_on, pair[0].pk))
    first = stock[0][0]
    name = first.batch.version.formula.name + (f", {first.finish}" if first.finish else "")
    return Product(key, name, key[2], tuple(stock), past, price)


@dataclass(frozen=True)
class Sale:
    """So many of a product sold, and what for each, where that is said."""

    product: Product
    sold: int
    each: Decimal | None


@transaction.atomic
def write_market(on: date, place: str, sales: Sequence[Sale], today: date) -> Market:
    """A market day with what was sold on it: pieces leave the first to expire first, and a price that was said stays
    with its product.

    Raises :class:`Problem` for a day still to come, for nothing sold, and for a piece that was not poured by then.
    """
    if on > today:
        raise Problem("That day is still to come.", "on")
    if not any(sale.sold for sale in sales):
        raise Problem("Nothing was sold by this: say how many came back of what you took along.", "whole")
    market = Market.objects.create(on=on, place=place[:120])
    for sale in sales:
        formula, finish, size = sale.product.key
        if sale.each is not None:
            Price.objects.update_or_create(
                formula_id=formula, finish_name=finish, size=size, defaults={"each": sale.each}
            )
        to_go = sale.sold
        for pour, left in sale.product.stock:
            if not (count := min(to_go, left if pour.poured_on <= on else 0)):
                continue
            Handout.objects.create(
                pour=pour, how=Handout.How.SOLD, count=count, on=on, size=size, market=market, each=sale.each
            )
            to_go -= count
        if to_go:
            raise Problem(
                f"{sale.product.name}: {to_go} of them were not yet poured on {day_words(on)}.", sale.product.slot
            )
    return market


@dataclass(frozen=True)
class Line:
    """A product of a market day: how many, what it took in, and what it had cost; each None where it is not known, and
    a cost that is not whole is at least that."""

    name: str
    size: str
    sold: int
    taken_in: Decimal | None
    cost: Decimal | None
    is_whole: bool


@dataclass(frozen=True)
class Account:
    """What a market day came to, by product."""

    lines: tuple[Line, ...]

    @property
    def sold(self) -> int:
        """Pieces sold in all."""
        return sum(line.sold for line in self.lines)

    @property
    def taken_in(self) -> Decimal:
        """What was taken in, as far as prices were said."""
        return sum((line.taken_in for line in self.lines if line.taken_in is not None), Decimal(0))

    @property
    def cost(self) -> Decimal:
        """What it had cost, as far as that is known."""
        return sum((line.cost for line in self.lines if line.cost is not None), Decimal(0))

    @property
    def is_whole(self) -> bool:
        """True where nothing of it is missing."""
        return all(line.is_whole and line.cost is not None and line.taken_in is not None for line in self.lines)


def account_of(market: Market, tables: Tables, prefs: Preferences) -> Account:
    """What a market day came to: each piece at what was paid for what is in it."""
    rows = list(market.handouts.select_related("pour__batch__version__formula", "pour__finish"))
    costs = _piece_costs({row.pour.batch_id for row in rows}, tables, prefs)
    by_product: dict[tuple[str, str], list[Handout]] = {}
    for row in rows:
        by_product.setdefault((row.pour.name, row.size), []).append(row)
    lines = []
    for (name, size), own in sorted(by_product.items(), key=lambda pair: (pair[0][0].lower(), pair[0][1])):
        each = [(row.count, costs.get((row.pour.batch_id, row.size))) for row in own]
        known = [(count, cost) for count, cost in each if cost is not None]
        said = [(row.count, row.each) for row in own if row.each is not None]
        lines.append(
            Line(
                name,
                size,
                sum(row.count for row in own),
                sum((count * price for count, price in said), Decimal(0)) if len(said) == len(own) else None,
                sum((count * cost for count, (cost, _) in known), Decimal(0)) if known else None,
                len(known) == len(own) and all(is_whole for _, (_, is_whole) in known),
            )
        )
    return Account(tuple(lines))


def _piece_costs(
    batches: Iterable[int], tables: Tables, prefs: Preferences
) -> Mapping[tuple[int, str], tuple[Decimal, bool]]:
    """What a piece of some batches cost, by batch and the name of its container, and whether that is the whole."""
    found = {}
    for batch in Batch.objects.for_page().filter(pk__in=set(batches)):
        cost = cost_of(batch, setup_of(batch, tables).pieces, tables, prefs)
        for name, piece in cost.pieces if cost.is_known else ():
            found[batch.pk, name] = (piece.total, piece.is_whole)
    return found
