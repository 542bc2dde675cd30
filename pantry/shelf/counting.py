"""The count sheet: every lot of the shelves on one page, what was counted, and what all of it is worth."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal

from django.db import transaction

from balmcore import units
from balmcore.errors import Problem
from balmcore.tables import ROLES, Tables
from pantry.models import Entry, Lot
from pantry.queries import containers, name_of
from pantry.services import MOST, book_entry
from workshop.models import Preferences
from workshop.web import Fields

CONTAINERS = "containers"
MOST_LOTS = 2000


@dataclass(frozen=True)
class CountRow:
    """A lot to be counted: what its account says, what was typed, and what is wrong with that."""

    lot: Lot
    name: str
    kind: str
    typed: str = ""
    problem: str = ""
    density_g_ml: float | None = None


@dataclass(frozen=True)
class Worth:
    """What the lots of one kind are worth at what was paid, to the cent; ``unpriced`` are those without a price."""

    kind: str
    amount: Decimal
    unpriced: int


@dataclass(frozen=True)
class CountSheet:
    """The rows by kind and name, and the worth of each kind and of all."""

    rows: tuple[CountRow, ...]
    worth: tuple[Worth, ...]
    reason: str = ""

    @property
    def total(self) -> Decimal:
        """What all of it is worth, as far as prices are known."""
        return sum((each.amount for each in self.worth), Decimal(0))

    @property
    def unpriced(self) -> int:
        """How many lots have no price."""
        return sum(each.unpriced for each in self.worth)

    @property
    def problems(self) -> int:
        """How many rows could not be read."""
        return sum(bool(row.problem) for row in self.rows)


def count_sheet(tables: Tables, words: str = "", data: Fields | None = None) -> CountSheet:
    """The lots that hold something, narrowed to names and suppliers that hold every word, with what was typed."""
    by_key = containers()
    parts = words.lower().split()[:8]
    rows = []
    for lot in Lot.objects.filter(left__gt=0)[:MOST_LOTS]:
        name = name_of(lot.item_key, tables, by_key)
        if not all(part in f"{name} {lot.supplier} {lot.code}".lower() for part in parts):
            continue
        item = tables.ingredients.get(lot.item_key)
        kind = CONTAINERS if lot.is_container or item is None else str(item.role)
        rows.append(
            CountRow(
                lot,
                name,
                kind,
                data.text(f"count-{lot.pk}", 60).strip() if data else "",
                "",
                item.density_g_ml if item else None,
            )
        )
    order = [*map(str, ROLES), CONTAINERS]
    rows.sort(key=lambda row: (order.index(row.kind), row.name.lower(), row.lot.pk))
    worth = [_worth(kind, [row.lot for row in rows if row.kind == kind]) for kind in order]
    return CountSheet(tuple(rows), tuple(each for each in worth if each), data.text("reason", 120) if data else "")


def _worth(kind: str, lots: list[Lot]) -> Worth | None:
    if not lots:
        return None
    priced = [lot.price * lot.left / lot.received for lot in lots if lot.price is not None]
    return Worth(kind, round(sum(priced, Decimal(0)), 2), len(lots) - len(priced))


def book_counts(sheet: CountSheet, prefs: Preferences) -> tuple[CountSheet, int]:
    """Bring every lot that was counted to what was typed, all at once with one reason; returns the sheet with what
    could not be read, and how many entries were made: none while a row is wrong."""
    counted, rows = dict[int, Decimal](), []
    for row in sheet.rows:
        problem = ""
        if row.typed:
            try:
                counted[row.lot.pk] = _amount(row, prefs)
            except Problem as refusal:
                problem = refusal.sentence
        rows.append(replace(row, problem=problem))
    found = CountSheet(tuple(rows), sheet.worth, sheet.reason)
    return found, 0 if found.problems else _book(counted, sheet.reason)


def _amount(row: CountRow, prefs: Preferences) -> Decimal:
    if not row.lot.is_container:
        amount = units.mass_g(row.typed, prefs.mass_unit, prefs.kitchen, row.density_g_ml)
    else:
        amount = units.number(row.typed)
        if amount < 0 or amount != amount.to_integral_value():
            raise Problem(f"“{row.typed[:40]}” is not a number of pieces.")
    if amount > MOST:
        raise Problem(f"“{row.typed[:40]}” is more than a lot holds.")
    return amount


@transaction.atomic
def _book(counted: Mapping[int, Decimal], reason: str) -> int:
    """One entry a lot for what differs."""
    made = 0
    for lot in Lot.objects.filter(pk__in=counted):
        if counted[lot.pk] != lot.left:
            book_entry(lot, counted[lot.pk] - lot.left, Entry.Kind.CORRECTED, reason or "Counted.")
            made += 1
    return made
