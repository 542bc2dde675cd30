"""Batches as rows for a spreadsheet, with the maker's unit in the header."""

from collections.abc import Iterator
from decimal import Decimal

from django.db.models import OuterRef, Subquery, Sum
from django.db.models.functions import Coalesce

from balmcore.display import Display
from batches.clock.datetimes import datetime_field
from batches.models import Batch, BatchLine
from workshop.files.sheets import Value

AT_ONCE = 200


def header(show: Display) -> tuple[str, ...]:
    """The names of the columns."""
    return (
        "Batch", "Formula", "Version", "State", "Planned on", "Starts at", f"In the pot, {show.mass}", "Filled into",
        "Cooling",
    )  # fmt: skip


def rows(show: Display) -> Iterator[tuple[Value, ...]]:
    """One row for each batch, the newest first."""
    grams = BatchLine.objects.filter(batch=OuterRef("pk")).order_by().values("batch")
    weighed = Subquery(grams.annotate(total=Sum(Coalesce("actual_g", "target_g"))).values("total"))
    found = (
        Batch.objects.select_related("version__formula")
        .prefetch_related("containers", "finishes")
        .annotate(total=weighed)
    )
    for batch in found.iterator(chunk_size=AT_ONCE):
        total = batch.total or Decimal(0)
        yield (
            batch.pk,
            batch.version.formula.name,
            batch.version.number,
            batch.get_state_display(),
            batch.created.date(),
            datetime_field(batch.starts_at) if batch.starts_at else "",
            round(float(show.in_mass(float(total))), 3),
            batch.pieces_text,
            batch.get_cooling_display(),
        )
