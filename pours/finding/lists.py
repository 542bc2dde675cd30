"""The pours of the log as rows for a spreadsheet, with the maker's units in the header."""

from collections.abc import Iterator

from balmcore.display import Display
from balmcore.physics.firmness import WINDOW_C
from balmcore.tables import Tables
from pours.faults import FAULTS, faults_seen
from pours.finding.log import Filters, narrowed
from pours.models import Pour, last_tested
from workshop.files.sheets import Value

AT_ONCE = 200


def header(show: Display) -> tuple[str, ...]:
    """The names of the columns."""
    degrees, window = f"°{show.temp}", show.temp_text(WINDOW_C)
    return (
        "Formula", "Version", "Batch", "Finish", "Poured on", "Cooling", f"Room, {degrees}", f"Predicted at {window}",
        "Last test on", f"Test at, {degrees}", "Predicted for the test", "Measured", f"Firmness at {window}",
        *(fault.capitalize() for fault in FAULTS), "Checks", "Verdict", "Notes",
    )  # fmt: skip


def rows(filters: Filters, tables: Tables, show: Display) -> Iterator[tuple[Value, ...]]:
    """One row for each pour that passes the filters, read so many at once."""
    found = narrowed(filters, tables).select_related("batch__version__formula", "finish").prefetch_related("checks")
    for pour in found.iterator(chunk_size=AT_ONCE):
        yield _row(pour, show)


def _row(pour: Pour, show: Display) -> tuple[Value, ...]:
    version, standing = pour.batch.version, pour.standing
    tested, seen = last_tested(standing), faults_seen(standing)

    def degrees(temp_c: float | None) -> float | None:
        return None if temp_c is None else round(float(show.in_temp(temp_c)), 1)

    def points(firmness: float | None) -> float | None:
        return None if firmness is None else round(firmness, 1)

    return (
        version.formula.name,
        version.number,
        pour.batch_id,
        pour.finish.name if pour.finish else "",
        pour.poured_on,
        pour.get_cooling_display(),
        degrees(pour.room_c),
        points(pour.predicted),
        tested.checked_on if tested and tested.is_day_known else None,
        degrees(tested.test_c if tested else None),
        points(tested.predicted if tested else None),
        points(tested.measured if tested else None),
        points(tested.firmness_21 if tested else None),
        *({True: "yes", False: "no", None: ""}[seen.get(fault)] for fault in FAULTS),
        len(standing),
        pour.get_verdict_display() if pour.verdict else "",
        pour.notes,
    )
