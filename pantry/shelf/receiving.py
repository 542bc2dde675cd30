"""Several lots received at once: one supplier, one day, a row for each; typed, or pasted from a list."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from django.db import transaction

from balmcore.errors import Problem
from balmcore.tables import Container, Tables
from balmcore.wording import called
from pantry.forms import ReceiveForm
from pantry.models import Lot
from pantry.services import receive
from workshop.files.tables_in import rows_of_text
from workshop.models import Preferences
from workshop.web import Fields

COLUMNS = ("item", "amount", "price", "best_before", "code")
# What people call the columns; without such a row they are taken in our order.
CALLED = {
    "item": ("ingredient", "item", "what", "name", "product", "article"),
    "amount": ("amount", "how much", "quantity", "qty", "weight", "size"),
    "price": ("price", "paid", "cost", "total"),
    "best_before": ("best before", "expiry", "expires", "use by", "bbe"),
    "code": ("lot", "batch", "code", "lot number", "charge"),
}
ROWS, MORE, MOST = 10, 5, 60


@dataclass
class LotRow:
    """A row as it stands in the form, with what is wrong with each cell of it."""

    cells: dict[str, str]
    problems: dict[str, str] = field(default_factory=dict)

    @property
    def is_empty(self) -> bool:
        """Nothing was written into it."""
        return not any(self.cells.values())


@dataclass
class Delivery:
    """The whole form; ``pasted`` is what could not be laid into rows, ``said`` what is wrong with the whole."""

    supplier: str
    bought: str
    rows: list[LotRow]
    pasted: str = ""
    said: str = ""

    @property
    def count(self) -> int:
        """How many rows say anything."""
        return sum(not row.is_empty for row in self.rows)

    @property
    def problems(self) -> int:
        """How many rows cannot be received as they are."""
        return sum(bool(row.problems) for row in self.rows)


def read(data: Fields) -> Delivery:
    """The form as it was posted, with what was pasted laid into rows and more of them where they are asked for."""
    columns = [data.texts(name)[:MOST] for name in COLUMNS]
    rows = [LotRow(dict(zip(COLUMNS, cells, strict=True))) for cells in zip(*columns, strict=False)]
    found = Delivery(data.text("supplier", 120), data.text("bought", 40), rows, data.text("pasted", 20_000))
    if found.pasted.strip():
        try:
            laid = _laid(rows_of_text(found.pasted))
        except Problem as problem:
            found.said = problem.sentence
        else:
            found.rows = [row for row in found.rows if not row.is_empty] + laid
            left_out = len(found.rows) - MOST
            found.rows, found.pasted = found.rows[:MOST], ""
            found.said = f"{left_out} rows more than {MOST} were left out: receive these first." if left_out > 0 else ""
    wanted = max(ROWS, found.count + MORE) if data.text("more") or len(found.rows) < ROWS else len(found.rows)
    found.rows += [LotRow(dict.fromkeys(COLUMNS, "")) for _ in range(min(wanted, MOST) - len(found.rows))]
    return found


def _laid(rows: Sequence[Sequence[str]]) -> list[LotRow]:
    """Pasted rows in our columns: by their names where the first row has them, else in our order."""
    if not rows:
        return []
    places: dict[str, int] = {}
    for at, title in enumerate(rows[0]):
        if name := called(title, CALLED):
            places.setdefault(name, at)
    if len(places) > 1 and "item" in places:
        body = rows[1:]
    else:
        places, body = {name: at for at, name in enumerate(COLUMNS)}, rows
    return [
        LotRow({name: row[at] if (at := places.get(name, len(row))) < len(row) else "" for name in COLUMNS})
        for row in body
    ]


@transaction.atomic
def receive_all(
    found: Delivery, prefs: Preferences, tables: Tables, containers_by_key: Mapping[str, Container]
) -> list[Lot]:
    """Every row as a lot, or none of them: what is wrong is noted beside its cell, and nothing is booked."""
    shared = {"supplier": found.supplier, "bought": found.bought, "opened": ""}
    forms = []
    for row in found.rows:
        if row.is_empty:
            continue
        known = {"prefs": prefs, "tables": tables, "containers_by_key": containers_by_key}
        form = ReceiveForm({**row.cells, **shared}, **known)
        row.problems = {} if form.is_valid() else {name: f"{says[0]}" for name, says in form.errors.items()}
        forms.append(form)
    if not forms:
        found.said = "Nothing to receive: write at least one row."
    elif found.problems:
        found.said = f"Nothing is in stock yet: {found.problems} of {len(forms)} rows have something to put right."
    for name in ("supplier", "bought"):
        if wrong := next((f"{form.errors[name][0]}" for form in forms if name in form.errors), ""):
            found.said = f"{found.said} {wrong}"
    return [] if found.said else [receive(form.purchase()) for form in forms]
