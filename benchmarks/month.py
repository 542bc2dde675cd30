"""Two years of a workshop: 2,000 pours of nine products, 500 lots, 5,000 pieces out, sixty versions of a formula."""

import random
import time
from collections import Counter
from datetime import date, timedelta
from decimal import Decimal
from io import BytesIO
from itertools import cycle, islice
from typing import TYPE_CHECKING, Protocol

from django.db.models import Model
from openpyxl import load_workbook

from balmcore.composition import Composition

if TYPE_CHECKING:
    from benchmarks.visitor import Visitor

POURS, LOTS, OUT, VERSIONS = 2000, 500, 5000, 60


class Reports(Protocol):
    """Prints a figure with its aim."""

    def line(self, what: str, figure: float, aim: float, unit: str, beside: str = "") -> None:
        """One line."""


def month(report: Reports) -> None:
    """The pages that a month of batches asks for, warm and the first time, and that their queries stay the same."""
    from benchmarks.visitor import Visitor
    from formulas.models import Formula
    from pours.models import Pour

    many = _versions()
    client = Visitor()
    few = {}
    newest = Pour.objects.order_by("-pk").first()
    year = Formula.objects.filter(versions__batches__pours__isnull=False).first()
    assert newest is not None
    assert year is not None
    paths = (
        ("the sheet for a stall", "/labels/stall", 200),
        ("versions of a formula with 60", f"/formulas/{many}/versions", 80),
        ("the due list", "/due", 60),
        ("the first page", "/", 100),
        ("a market day", "/labels/market", 250),
        ("labels and pieces", "/labels/", 100),
        ("a formula's year", f"/pours/year/{year.pk}", 250),
        ("the count sheet", "/pantry/count", 300),
        ("the batches", "/batches/", 150),
        ("found: 312", "/find?q=312", 150),
    )

    for _, path, _ in paths:
        few[path] = client.queries(path)
    fill()
    pours = list(Pour.objects.order_by("-pk").values_list("pk", flat=True)[:40:7])
    first = [client.milliseconds(f"/pours/{pk}/") for pk in pours]
    report.line(
        "(o) a pour's page, the first time", max(first[1:]), 60, "ms", f"first of the process {first[0]:.0f} ms"
    )
    report.line("    again", client.quickest(f"/pours/{pours[0]}/"), 60, "ms")
    for name, path, aim in paths:
        taken = client.quickest(path)
        report.line(f"    {name}", taken, aim, "ms", f"{client.queries(path) - few[path]:+d} queries")
    for kind in ("csv", "xlsx"):
        for name in ("pours", "batches", "pantry"):
            start = time.perf_counter()
            answer = client.get(f"/{name}/list.{kind}")
            content = answer.getvalue()
            taken = (time.perf_counter() - start) * 1e3
            rows = _rows_of(content, kind)
            report.line(
                f"    {name} as {kind}, for each 500 rows", taken / max(rows / 500, 1), 300, "ms", f"{rows} rows"
            )
    report.line("    a notebook of sixty rows, looked at and brought", _notebook(client), 3000, "ms")


def _notebook(client: "Visitor") -> float:
    """Sixty pours of five balms as a table: read, shown, and made."""
    rows = [
        f"Skerry {n % 5};{n % 28 + 1}/0{n % 9 + 1}/2025;{18 + n % 5} g beeswax, {82 - n % 5} g olive oil;gel;21"
        for n in range(60)
    ]
    table = "\n".join(["Name;Day;Ingredients;Firmness;Tested at", *rows])
    start = time.perf_counter()
    assert client.post("/pours/notebook", {"pasted": table}).status_code == 200
    asked = {"pasted": table, "bring": "1", "take": [str(n) for n in range(1, 61)]}
    assert client.post("/pours/notebook", asked).status_code == 302
    return (time.perf_counter() - start) * 1e3


def _rows_of(content: bytes, kind: str) -> int:
    """How many rows a list has below its header."""
    if kind == "csv":
        return content.count(b"\n") - 1
    return sum(1 for _ in load_workbook(BytesIO(content), read_only=True).active.rows) - 1


def _versions() -> int:
    """A formula with sixty versions; returns its number."""
    from formulas.models import Formula
    from formulas.services import save_version
    from pantry.tables import workshop_tables

    formula = Formula.objects.order_by("pk").first()
    assert formula is not None
    tables = workshop_tables()
    while (seen := formula.versions.order_by("-number").first()) and seen.number < VERSIONS:
        shares = {line.key: line.share for line in seen.to_composition(tables).lines}
        first, second, *_ = shares
        step = Decimal("0.001") if seen.number % 2 else Decimal("-0.001")
        shares[first], shares[second] = shares[first] + step, shares[second] - step
        current = formula.versions.get(is_current=True)
        save_version(formula, Composition.of(shares, tables), seen=current.pk, made_from=seen.number, note="A step.")
    return formula.pk


def _columns(row: Model, *skip: str) -> dict[str, object]:
    """A row's own columns, but for its number and some."""
    names = ("id", *skip)
    return {f.attname: getattr(row, f.attname) for f in row._meta.concrete_fields if f.attname not in names}


def fill() -> None:
    """Repeat what the demo poured until there are 2,000 pours of it, with their checks; lots and pieces out."""
    from batches.models import Batch, BatchContainer, BatchLine
    from pantry.models import Entry, Lot
    from pieces.models import Handout, Person
    from pours.models import Check, Pour

    chance = random.Random(4)
    models = list(Pour.objects.filter(finish=None).order_by("pk").select_related("batch")[:18])
    missing = POURS - Pour.objects.count()
    chosen = list(islice(cycle(models), missing))
    same = ("batch_id", "finish_id", "leftover_lot_id", "poured_on")
    batches = Batch.objects.bulk_create(
        [Batch(**_columns(pour.batch, "starts_at", "created")) for pour in chosen], batch_size=200
    )
    lines, rows, checks = [], [], []
    parts = {pour.pk: (list(pour.batch.lines.all()), list(pour.batch.containers.all())) for pour in models}
    for pour, batch in zip(chosen, batches, strict=True):
        own_lines, own_rows = parts[pour.pk]
        lines += [BatchLine(batch=batch, **_columns(line, "batch_id", "finish_id", "lot_id")) for line in own_lines]
        rows += [BatchContainer(batch=batch, **_columns(row, "batch_id", "finish_id")) for row in own_rows]
    BatchLine.objects.bulk_create(lines, batch_size=500)
    BatchContainer.objects.bulk_create(rows, batch_size=500)
    pours = Pour.objects.bulk_create(
        [
            Pour(batch=batch, poured_on=date.today() - timedelta(days=n * 730 // missing), **_columns(pour, *same))
            for n, (pour, batch) in enumerate(zip(chosen, batches, strict=True))
        ],
        batch_size=200,
    )
    for pour in pours:
        checks.append(
            Check(pour=pour, checked_on=pour.poured_on, method="press", rod_mm=6, readings=[200.0], test_c=20,
                  predicted=50, predicted_sigma=9, measured=50 + chance.gauss(0, 5), measured_sigma=4, grain="none")
        )  # fmt: skip
    Check.objects.bulk_create(checks, batch_size=200)
    people = Person.objects.bulk_create(Person(name=f"Somebody {n}") for n in range(200))
    # Of most pours everything went; of the last few something is left.
    went = list(zip(pours[120:], chosen[120:], strict=True))
    gone = [
        Handout(pour=pour, how="given", count=1, person=chance.choice(people), on=pour.poured_on)
        for pour, _ in islice(cycle(went), OUT - len(went))
    ]
    given = Counter(handout.pour.pk for handout in gone)
    for pour, model in went:
        if (left := sum(row.made for row in parts[model.pk][1]) - given[pour.pk]) > 0:
            gone.append(Handout(pour=pour, how="sold", count=left, on=pour.poured_on))
    Handout.objects.bulk_create(gone, batch_size=200)
    keys = list(Lot.objects.values_list("item_key", "is_container").distinct())
    lots = Lot.objects.bulk_create(
        Lot(item_key=key, is_container=own, supplier="Ropewalk", bought=date.today(), received=100, left=60, price=5)
        for key, own in islice(cycle(keys), LOTS - Lot.objects.count())
    )
    Entry.objects.bulk_create(Entry(lot=lot, kind="received", amount=60) for lot in lots)
