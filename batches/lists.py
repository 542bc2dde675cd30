"""Batches as rows for a spreadsheet, with the maker's unit in the header."""

from collections.abc import Iterator
from decimal import Decimal

from balmcore.display import Display
from batches.clock.datetimes import datetime_field
from batches.models import Batch
from workshop.sheets import Value

AT_ONCE = 200


def header(show: Display) -> tuple[str, ...]:
    """The names of the columns."""
    return (
        "Batch", "Formula", "Version", "State", "Planned on", "Starts at", f"In the pot, {show.mass}", "Filled into",
        "Cooling",
    )  # fmt: skip


def rows(show: Display) -> Iterator[tuple[Value, ...]]:
    """One row for each batch, the newest first."""
    for batch in Batch.objects.all().for_list().iterator(chunk_size=AT_ONCE):
        total = sum((line.mass_g for line in batch.lines.all()), Decimal(0))
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
