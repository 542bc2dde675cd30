"""Lots as rows for a spreadsheet, with the maker's unit in the header."""

from collections.abc import Iterator

from balmcore.display import Display
from balmcore.tables import Tables
from pantry.models import Lot
from pantry.queries import containers, name_of
from workshop.files.sheets import Value


def header(show: Display) -> tuple[str, ...]:
    """The names of the columns."""
    return (
        "Item",
        "Lot",
        "Supplier",
        "Code",
        "Bought",
        "Opened",
        "Best before",
        f"Left, {show.mass} or pieces",
        "State",
    )


def rows(tables: Tables, show: Display) -> Iterator[tuple[Value, ...]]:
    """One row for each lot that holds something, by item."""
    containers_by_key = containers()
    for lot in Lot.objects.filter(left__gt=0).order_by("item_key", "best_before", "pk"):
        left = float(lot.left) if lot.is_container else round(float(show.in_mass(float(lot.left))), 3)
        name = name_of(lot.item_key, tables, containers_by_key)
        days = (lot.bought, lot.opened, lot.best_before)
        yield (name, lot.pk, lot.supplier, lot.code, *days, left, lot.get_state_display())
