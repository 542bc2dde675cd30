"""The shopping list: what chosen batches need, what is in stock, what to buy."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from urllib.parse import urlencode

from django.urls import reverse

from balmcore.making.stock import Packs, packs
from balmcore.tables import Tables
from batches.models import Batch
from batches.supply.reserving import day_of, holds, still_needs
from pantry.models import Lot
from pantry.orders.services import coming_words, on_order, ordered
from pantry.queries import containers, ever_of, held_by, last_bought, lots_of, name_of, tools


@dataclass(frozen=True)
class Wanted:
    """One thing to buy. ``is_new`` when no lot of it was ever written down; ``ordered`` is on order already, and
    ``comes`` says when."""

    key: str
    name: str
    is_container: bool
    needed: Decimal
    held: Decimal
    packs: Packs
    cost: Decimal | None
    is_new: bool
    ordered: Decimal = Decimal(0)
    comes: str = ""

    @property
    def missing(self) -> Decimal:
        """What the stock lacks."""
        return self.needed - self.held

    @property
    def is_coming(self) -> bool:
        """True when what is on order is enough."""
        return self.ordered >= self.missing

    @property
    def receive(self) -> str:
        """Where to write it down once it is bought."""
        return f"{reverse('pantry:stock')}?{self._known}#receive"

    @property
    def order(self) -> str:
        """Where to write down that it is on order."""
        return f"{reverse('pantry:orders')}?{self._known}"

    @property
    def _known(self) -> str:
        amount = f"{self.packs.amount.normalize():f}{'' if self.is_container else ' g'}"
        return urlencode({"item": self.key, "amount": amount})


@dataclass(frozen=True)
class ShoppingList:
    """The list for some batches; ``coming`` is missing, and on order."""

    batches: Sequence[Batch]
    wanted: tuple[Wanted, ...]
    coming: tuple[Wanted, ...] = ()

    @property
    def cost(self) -> Decimal:
        """What it comes to, as far as prices are known."""
        return sum((item.cost for item in self.wanted if item.cost is not None), Decimal(0))


def shopping(batches: Sequence[Batch], tables: Tables) -> ShoppingList:
    """What these batches still need and the stock lacks, in packs bought before."""
    containers_by_key = containers()
    comes_back = tools(containers_by_key)
    needed: dict[tuple[str, bool], Decimal] = {}
    for key, is_container, amount in _needs(batches, comes_back):
        needed[key, is_container] = needed.get((key, is_container), Decimal(0)) + amount
    keys = [key for key, _ in needed]
    lots = lots_of(keys, with_used_up=False)
    held, taken = held_by(lots), holds(lots, besides=batches, comes_back=comes_back)
    for key, own in lots.items():  # what other planned batches hold is not there for these
        held[key] -= sum((hold.amount for lot in own if lot.is_fit for hold in taken.get(lot.pk, ())), Decimal(0))
    lacking = {each: amount for each, amount in needed.items() if amount > held.get(each[0], Decimal(0))}
    orders, by = on_order(key for key, _ in lacking), min((day_of(batch) for batch in batches), default=None)
    ever = ever_of(key for key, _ in lacking)
    wanted = []
    for (key, is_container), amount in lacking.items():
        there, had = held.get(key, Decimal(0)), ever.get(key, [])
        under_way = orders.get(key, [])
        coming = ordered(under_way)
        buy = packs(
            max(amount - there - coming, Decimal(0)),
            sorted({lot.received for lot in had if lot.origin == Lot.Origin.BOUGHT}),
        )
        last = last_bought(had, buy.size)
        paid = None if last is None or last.price is None else last.price / last.received * buy.amount
        wanted.append(
            Wanted(
                key,
                name_of(key, tables, containers_by_key),
                is_container,
                amount,
                there,
                buy,
                paid,
                not had,
                coming,
                coming_words(under_way, by) if under_way else "",
            )
        )
    wanted.sort(key=lambda item: (item.is_container, item.name.lower()))
    return ShoppingList(
        batches,
        tuple(item for item in wanted if not item.is_coming),
        tuple(item for item in wanted if item.is_coming),
    )


def _needs(batches: Iterable[Batch], comes_back: Collection[str]) -> Iterable[tuple[str, bool, Decimal]]:
    """What is not weighed and not filled yet: key, container or not, amount; what comes back is not bought."""
    for batch in batches:
        for key, is_container, amount, _ in still_needs(batch, comes_back):
            yield key, is_container, amount
