"""What the pantry holds: containers, ingredients by role, lots and what they cost."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from django.core.paginator import Page, Paginator
from django.db.models import Prefetch, Q, QuerySet
from django.utils import timezone

from balmcore.display import figure
from balmcore.making.cost import Paid, Price, blended
from balmcore.making.stock import draw, first_to_expire
from balmcore.tables import ROLES, Container, Ingredient, Role, Tables, shipped
from pantry.hooks import with_unfit
from pantry.models import OWN_INGREDIENT, Entry, GoesWith, Lot, OwnContainer, OwnIngredient, Preparation

SOON_DAYS = 60
ITEMS_PER_PAGE, LOTS_LISTED = 40, 3


def containers() -> dict[str, Container]:
    """All containers by key, the maker's own first."""
    own = {
        row.key: Container(
            row.key,
            row.name,
            row.kind,
            row.capacity_ml,
            row.fill,
            row.diameter_mm or 0.0,
            row.height_mm or 0.0,
            row.empty_g,
            (),
            "",
            is_own=True,
        )
        for row in OwnContainer.objects.all()
    }
    return {**own, **shipped().containers}


def goes_with() -> dict[str, frozenset[str]]:
    """The containers that each thing goes around, by its key; what goes around none in particular has none."""
    found: dict[str, set[str]] = {}
    for row in GoesWith.objects.select_related("around"):
        found.setdefault(row.around.key, set()).add(row.container_key)
    return {key: frozenset(keys) for key, keys in found.items()}


def tools(known: Mapping[str, Container] | None = None) -> frozenset[str]:
    """The keys of what comes back, among some containers or all: moulds, pitchers and bowls, which are needed at one
    time and never used up."""
    every = containers() if known is None else known
    return frozenset(key for key, each in every.items() if each.is_tool)


@dataclass(frozen=True)
class Drawer:
    """The ingredients of one role."""

    role: Role
    items: tuple[Ingredient, ...]


def drawers(tables: Tables, words: str = "") -> list[Drawer]:
    """Ingredients by role, narrowed to names and INCI names that hold every word."""
    parts = words.lower().split()[:8]
    found = [
        item
        for item in tables.ingredients.values()
        if item.key != "aroma" and all(part in f"{item.name} {item.inci} {item.group}".lower() for part in parts)
    ]
    return [Drawer(role, items) for role in ROLES if (items := tuple(i for i in found if i.role == role))]


def name_of(key: str, tables: Tables, containers_by_key: Mapping[str, Container] | None = None) -> str:
    """The name of an ingredient or a container; of one taken away since, its key."""
    if (item := tables.ingredients.get(key)) is not None:
        return item.name
    found = (containers_by_key if containers_by_key is not None else containers()).get(key)
    return found.name if found else key


def _by_item(lots: Iterable[Lot]) -> dict[str, list[Lot]]:
    found: dict[str, list[Lot]] = {}
    for lot in lots:
        found.setdefault(lot.item_key, []).append(lot)
    return found


def serving(lots: Iterable[Lot]) -> list[Lot]:
    """The lots that can serve, the first to expire first."""
    known = {lot.pk: lot for lot in lots}
    return [known[each.pk] for each in first_to_expire(lot.to_lot() for lot in known.values())]


def serving_for(lots: Iterable[Lot], amount: Decimal, chosen: int | None = None) -> tuple[dict[Lot, Decimal], Decimal]:
    """The lots that an amount is taken from, with what each gives, and what they lack: the one chosen, then the first
    to expire."""
    known = {lot.pk: lot for lot in lots}
    taken, short = draw((lot.to_lot() for lot in known.values()), amount, chosen)
    return {known[pk]: part for pk, part in taken.items()}, short


@dataclass(frozen=True)
class LotRow:
    """A lot on the shelf. ``full`` is how much of it is left, 0 to 100."""

    lot: Lot
    full: int
    is_soon: bool


@dataclass(frozen=True)
class Stock:
    """All lots of one ingredient or container, those that serve first on top. ``left`` counts good
    lots alone, ``worth`` what they cost, None when a price is missing; ``more`` are lots not listed."""

    key: str
    name: str
    is_container: bool
    left: Decimal
    worth: Decimal | None
    lots: tuple[LotRow, ...]
    more: int = 0


@dataclass(frozen=True)
class StockPage:
    """One page of the stock, by name."""

    items: tuple[Stock, ...]
    page: Page


def stock(tables: Tables, words: str = "", empty: bool = False, page: str = "") -> StockPage:
    """The items that have lots, by name; empty lots only when asked for. Of an item with many lots
    those that serve next are listed. Two queries."""
    containers_by_key = containers()
    parts = words.lower().split()[:8]
    found: list[tuple[str, list[Lot]]] = []
    for key, lots in _by_item(with_unfit(Lot.objects.all() if empty else Lot.objects.filter(left__gt=0))).items():
        name = name_of(key, tables, containers_by_key)
        told = f"{name} {' '.join(f'{lot.supplier} {lot.code} {lot.state}' for lot in lots)}".lower()
        if all(part in told for part in parts):
            found.append((name, lots))
    found.sort(key=lambda item: (item[1][0].is_container, item[0].lower()))
    paged = Paginator(found, ITEMS_PER_PAGE).get_page(page)
    return StockPage(tuple(_stock(name, lots, LOTS_LISTED) for name, lots in paged.object_list), paged)


def stock_of(key: str, name: str) -> Stock | None:
    """All lots of one ingredient, empty ones too; None when there never was one."""
    lots = with_unfit(Lot.objects.filter(item_key=key))
    return _stock(name, lots, len(lots)) if lots else None


def _stock(name: str, lots: list[Lot], listed: int) -> Stock:
    good = [lot for lot in lots if lot.is_fit]
    ordered = serving(lots)
    served = {lot.pk for lot in ordered}
    ordered += [lot for lot in lots if lot.pk not in served]
    holding = [lot for lot in good if lot.left]  # what is used up is worth nothing, whatever it cost
    costs = [None if lot.price is None else lot.price * lot.left / lot.received for lot in holding]
    known = [cost for cost in costs if cost is not None]
    today = timezone.localdate()
    return Stock(
        lots[0].item_key,
        name,
        lots[0].is_container,
        sum((lot.left for lot in good), Decimal(0)),
        sum(known, Decimal(0)) if len(known) == len(costs) else None,
        tuple(_lot_row(lot, today) for lot in ordered[:listed]),
        max(len(ordered) - listed, 0),
    )


def _lot_row(lot: Lot, today: date) -> LotRow:
    soon = lot.best_before is not None and (lot.best_before - today).days <= SOON_DAYS
    return LotRow(lot, round(100 * lot.left / lot.received) if lot.left < lot.received else 100, soon)


def lots_of(keys: Iterable[str], with_used_up: bool = True) -> dict[str, list[Lot]]:
    """All lots of some items, by key, or those that hold something; items that have none are left out."""
    lots = Lot.objects.filter(item_key__in=set(keys))
    return _by_item(with_unfit(lots if with_used_up else lots.filter(left__gt=0)))


def ever_of(keys: Iterable[str]) -> dict[str, list[Lot]]:
    """What was ever received of some items, by key, for what it was bought at; whether it is fit is not asked."""
    return _by_item(Lot.objects.filter(item_key__in=set(keys)))


def usual_life(lot: Lot, tables: Tables) -> str:
    """How long what is in a lot usually keeps, where no best before was written down; empty for containers and for
    what does not turn."""
    item = tables.ingredients.get(lot.item_key)
    if lot.best_before or item is None or not item.shelf_months:
        return ""
    return f"No best before was written down. It usually keeps {figure(item.shelf_months)} months: smell it before use."


def earliest_best_before(lots: Mapping[str, Iterable[Lot]]) -> dict[str, date]:
    """The earliest best before among some lots, by item; items without one are left out."""
    days = {key: [lot.best_before for lot in own if lot.best_before] for key, own in lots.items()}
    return {key: min(own) for key, own in days.items() if own}


def held_by(lots: Mapping[str, Iterable[Lot]]) -> dict[str, Decimal]:
    """What the good ones among some lots hold, by item."""
    return {key: sum((lot.left for lot in own if lot.is_fit), Decimal(0)) for key, own in lots.items()}


def stocked(tables: Tables) -> list[str]:
    """The ingredients that good lots hold something of."""
    keys = Lot.objects.filter(state=Lot.State.GOOD).values_list("item_key", flat=True).distinct()
    return [key for key, left in in_stock(key for key in keys if key in tables.ingredients).items() if left > 0]


def in_stock(keys: Iterable[str]) -> dict[str, Decimal]:
    """What good lots hold of some items, by key; items that never had a lot are left out."""
    return held_by(lots_of(keys))


def prices(keys: Iterable[str] | None = None) -> dict[str, Price]:
    """What a gram or a piece of each item costs: by the lot that serves next, or else by the one
    bought last. Items whose price is not known are left out; None asks for all."""
    lots = Lot.objects.filter(price__isnull=False)
    if keys is not None:
        lots = lots.filter(item_key__in=set(keys))
    return prices_of(_by_item(lots))


def prices_of(lots: Mapping[str, Sequence[Lot]]) -> dict[str, Price]:
    """What a gram or a piece of each item costs, as :func:`prices` says, from lots read already."""
    found = {}
    for key, every in lots.items():
        own = [lot for lot in every if lot.price is not None]
        if not own:
            continue
        chosen = next(iter(serving(own)), None) or max(own, key=lambda lot: (lot.bought or date.min, lot.pk))
        assert chosen.price is not None
        found[key] = Price(chosen.price / chosen.received, _from(chosen))
    return found


def paid_for(
    needs: Mapping[str, Decimal], lots: Mapping[str, Sequence[Lot]], comes_back: Collection[str]
) -> dict[str, Price]:
    """What a gram or a piece of each amount costs, lot by lot, as they would serve; what no lot has is an estimate, at
    the price of the lot bought last. What comes back costs nothing a piece."""
    found = {key: Price(Decimal(0), "it comes back") for key in comes_back if key in needs}
    for key, amount in needs.items():
        own = lots.get(key, ())
        if key in found or not own:
            continue
        taken, short = serving_for(own, amount)
        parts = [paid(lot, part) for lot, part in taken.items()]
        last = last_bought(own)
        if short and last is not None:
            parts.append(replace(paid(last, short), source=f"as {_from(last)}", is_estimate=True))
        elif short:
            parts.append(Paid(short, None, ""))
        if price := blended(parts):
            found[key] = price
    return found


def last_bought(lots: Iterable[Lot], size: Decimal | None = None) -> Lot | None:
    """The lot with a price that was bought last, of a pack of one size where there is one."""
    own = [lot for lot in lots if lot.price is not None]
    same = [lot for lot in own if size is not None and lot.received == size]
    return max(same or own, key=lambda lot: (lot.bought or date.min, lot.pk), default=None)


def paid(lot: Lot, amount: Decimal) -> Paid:
    """So much of a lot, at what was paid for it."""
    return Paid(amount, None if lot.price is None else lot.price / lot.received, _from(lot))


def _from(lot: Lot) -> str:
    return f"{lot}{', ' + lot.supplier if lot.supplier else ''}"


def suppliers() -> list[str]:
    """Those that anything was bought from, by name."""
    names = Lot.objects.exclude(supplier="").values_list("supplier", flat=True)
    return list(names.order_by("supplier").distinct())


def with_account(lots: QuerySet[Lot]) -> QuerySet[Lot]:
    """Lots with their entries."""
    return lots.prefetch_related(Prefetch("entries", Entry.objects.order_by("at", "pk")))


def preparations() -> tuple[list[Preparation], list[Preparation]]:
    """What is under way, the next to be ready first, and what was finished, newest first."""
    rows = list(Preparation.objects.select_related("lot"))
    done = sorted((row for row in rows if row.finished_on), key=lambda row: (row.finished_on, row.pk), reverse=True)
    return [row for row in rows if not row.finished_on], done


def ending(until: date) -> QuerySet[Lot]:
    """Good lots that hold something and are best before a day, the first on top; none that was smelled since."""
    found = Lot.objects.filter(state=Lot.State.GOOD, left__gt=0, best_before__lte=until, smelled=None)
    return found.order_by("best_before", "pk")


def own_ingredient(key: str) -> OwnIngredient | None:
    """An ingredient of one's own by its key; None for any other."""
    number = key.removeprefix(OWN_INGREDIENT)
    return OwnIngredient.objects.filter(pk=number).first() if number != key and number.isdecimal() else None


def unnamed_herbs() -> QuerySet[OwnIngredient]:
    """Infusions of earlier versions, whose herbs were read by their name: nobody has said so."""
    return OwnIngredient.objects.filter(is_herb_open=True)


def due(until: date) -> QuerySet[Preparation]:
    """Preparations under way that are ready by a day."""
    return Preparation.objects.filter(Q(finished_on=None) & Q(ready_on__lte=until))
