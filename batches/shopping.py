"""The shopping list: what chosen batches need, what is in stock, what to buy."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from urllib.parse import urlencode

from django.urls import reverse

from balmcore.making.stock import Packs, packs
from balmcore.tables import Tables
from batches.models import Batch
from batches.services import LADDER_CUP
from pantry.queries import containers, held_by, lots_of, name_of, pack_sizes, prices_of


@dataclass(frozen=True)
class Wanted:
    """One thing to buy. ``is_new`` when no lot of it was ever written down."""

    key: str
    name: str
    is_container: bool
    needed: Decimal
    held: Decimal
    packs: Packs
    cost: Decimal | None
    is_new: bool

    @property
    def missing(self) -> Decimal:
        """What the stock lacks."""
        return self.needed - self.held

    @property
    def receive(self) -> str:
        """Where to write it down once it is bought."""
        amount = f"{self.packs.amount.normalize():f}{'' if self.is_container else ' g'}"
        return f"{reverse('pantry:stock')}?{urlencode({'item': self.key, 'amount': amount})}"


@dataclass(frozen=True)
class ShoppingList:
    """The list for some batches."""

    batches: Sequence[Batch]
    wanted: tuple[Wanted, ...]

    @property
    def cost(self) -> Decimal:
        """What it comes to, as far as prices are known."""
        return sum((item.cost for item in self.wanted if item.cost is not None), Decimal(0))


def shopping(batches: Sequence[Batch], tables: Tables) -> ShoppingList:
    """What these batches still need and the stock lacks, in packs bought before."""
    needed: dict[tuple[str, bool], Decimal] = {}
    for key, is_container, amount in _needs(batches):
        needed[key, is_container] = needed.get((key, is_container), Decimal(0)) + amount
    keys = [key for key, _ in needed]
    lots, sizes, containers_by_key = lots_of(keys), pack_sizes(keys), containers()
    held, cost = held_by(lots), prices_of(lots)
    wanted = []
    for (key, is_container), amount in needed.items():
        there = held.get(key, Decimal(0))
        if amount <= there:
            continue
        buy = packs(amount - there, sizes.get(key, []))
        paid = cost[key].each * buy.amount if key in cost else None
        wanted.append(
            Wanted(
                key, name_of(key, tables, containers_by_key), is_container, amount, there, buy, paid, key not in held
            )
        )
    return ShoppingList(batches, tuple(sorted(wanted, key=lambda item: (item.is_container, item.name.lower()))))


def _needs(batches: Iterable[Batch]) -> Iterable[tuple[str, bool, Decimal]]:
    """What is not weighed and not filled yet: key, container or not, amount."""
    for batch in batches:
        if batch.is_over:
            continue
        for line in batch.lines.all():
            if line.actual_g is None and line.target_g:
                yield line.ingredient_key, False, line.target_g
        for row in batch.containers.all():
            if row.container_key != LADDER_CUP:
                yield row.container_key, True, Decimal(row.count)
