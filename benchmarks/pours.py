"""Pours by the thousand: what they teach, and finding one again."""

import random
import statistics
from datetime import date, timedelta
from typing import Protocol

from django.db.models import Model


class Reports(Protocol):
    """Prints a figure with its aim."""

    def line(self, what: str, figure: float, aim: float, unit: str, beside: str = "") -> None:
        """One line."""


def learning(report: Reports) -> None:
    """Calibration over 2,000 tests, six pours side by side, and the log of 10,000 with a text search."""
    from benchmarks.visitor import Visitor
    from learning import experience
    from pours.models import Check, Pour
    from workshop.services import bump_records_revision

    client, chance = Visitor(), random.Random(5)
    fill(10_000)
    pours = list(Pour.objects.order_by("-pk").values_list("pk", flat=True)[:2000])
    Check.objects.bulk_create(
        (
            Check(pour_id=pk, checked_on=date.today(), method="press", rod_mm=6, readings=[200.0], test_c=20 + n % 5,
                  predicted=50, predicted_sigma=9, measured=50 + chance.gauss(0, 5), measured_sigma=4, grain="none",
                  notes="sand under the finger" if n % 700 == 0 else "smooth")
            for n, pk in enumerate(pours)
        ),
        batch_size=200,
    )  # fmt: skip

    usual = client.quickest("/pours/learned", 3)
    experience.forget()
    bump_records_revision()
    first = client.milliseconds("/pours/learned")
    later = []
    for _ in range(5):
        bump_records_revision()
        later.append(client.milliseconds("/pours/learned"))
    again = statistics.median(later)
    report.line("(l) what 2,000 tests teach, once at the start", first, 6000, "ms")
    report.line("    after one more test", again - usual, 150, "ms", f"the page itself {usual:.0f} ms")
    six = "&".join(f"pour={pk}" for pk in pours[:6])
    report.line("(m) six pours side by side", client.quickest(f"/pours/compare?{six}"), 150, "ms")
    path = "/pours/?q=sand+finger"
    report.line("(n) the log of 10,000 pours, a text search", client.quickest(path), 100, "ms")
    report.line("    queries", client.queries(path), 18, "")


def _columns(row: Model) -> dict[str, object]:
    """A row's own columns, but for its number and its batch."""
    skip = ("id", "batch_id")
    return {
        field.attname: getattr(row, field.attname) for field in row._meta.concrete_fields if field.attname not in skip
    }


def fill(count: int) -> None:
    """Bring the workshop to ``count`` pours by repeating a poured batch."""
    from batches.models import Batch, BatchContainer, BatchLine
    from pours.models import Pour

    model = Pour.objects.order_by("pk").first()
    assert model is not None
    missing = count - Pour.objects.count()
    lines, containers = list(model.batch.lines.all()), list(model.batch.containers.all())
    plain = {
        "version": model.batch.version,
        "state": Batch.State.POURED,
        "resolution_g": model.batch.resolution_g,
        "pour_c": model.batch.pour_c,
    }
    batches = Batch.objects.bulk_create(Batch(**plain) for _ in range(missing))
    for line in lines:
        BatchLine.objects.bulk_create((BatchLine(batch=batch, **_columns(line)) for batch in batches), batch_size=500)
    for row in containers:
        BatchContainer.objects.bulk_create((BatchContainer(batch=batch, **_columns(row)) for batch in batches), 500)
    skip = ("id", "batch_id", "poured_on")
    same = {f.attname: getattr(model, f.attname) for f in Pour._meta.concrete_fields if f.attname not in skip}
    days = (date.today() - timedelta(days=n % 900) for n in range(missing))
    Pour.objects.bulk_create(
        [Pour(batch=batch, poured_on=day, **same) for batch, day in zip(batches, days, strict=True)], batch_size=200
    )
