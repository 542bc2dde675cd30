"""Recording a pour: prediction for what was really weighed, measurement, verdict."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from django.db import IntegrityError, transaction

from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Tables, shipped
from balmcore.trials.press import Measured, press, thumb
from batches.models import Batch, BatchFinish
from batches.services import mark_poured
from formulas.models import Version
from formulas.services import advance_stage
from pantry.models import Entry
from pantry.services import draw, keep_leftover
from pours.models import Pour, PouredPiece


class StalePour(Problem):
    """The pour was saved in another tab since the page was opened."""


@dataclass(frozen=True)
class Test:
    """A firmness test as read from the form: ``method`` is "", "press" or "thumb"."""

    method: str
    rod_mm: int | None = None
    press_g: float | None = None
    thumb: str = ""
    test_c: float | None = None


def measure(test: Test, batch: Batch, finish: BatchFinish | None = None) -> Measured | None:
    """The measured firmness, None without a test. Raises :class:`Problem` for an unfit one."""
    if test.method == Pour.Method.PRESS:
        if test.rod_mm is None or test.press_g is None:
            raise Problem("A press test needs the rod and the peak reading.", "press_g")
        return press(test.press_g, test.rod_mm, float(batch.resolution_g), _widest_mm(batch, finish))
    if test.method == Pour.Method.THUMB:
        return thumb(test.thumb)
    return None


def _widest_mm(batch: Batch, finish: BatchFinish | None) -> float | None:
    """Width of the widest piece, in which one would test; None when any is not known."""
    known, rows = shipped().containers, batch.containers_of(finish)
    widths = [known[row.container_key].diameter_mm for row in rows if row.container_key in known]
    return max(widths) if widths and len(widths) == len(rows) else None


def _best_before(batch: Batch) -> dict[str, date]:
    """The earliest best before of what lots gave to each line of a batch."""
    found: dict[str, date] = {}
    for line in batch.lines.all():
        days = [draw.lot.best_before for draw in line.draws.all() if draw.grams > 0 and draw.lot.best_before]
        if days:
            found[line.ingredient_key] = min(days)
    return found


@transaction.atomic
def record_pour(
    batch: Batch,
    tables: Tables,
    pour: Pour | None,
    fields: Mapping[str, Any],
    test: Test,
    measured: Measured | None,
    pieces: Sequence[tuple[str, Decimal]],
    revision: int = 0,
    keep_rest: bool = False,
    finish: BatchFinish | None = None,
) -> Pour:
    """Store a pour of a batch or of a finish, new or changed, with its prediction at the temperature of the test.

    ``fields`` are the plain columns (day, room, cooling, rest, notes, verdict); ``measured`` is what
    :func:`measure` says of ``test``. A new pour takes
    its containers out of stock; with ``keep_rest`` what stayed in the jug becomes a lot. Raises
    :class:`StalePour` when another tab saved first.
    """
    composition = batch.to_composition(tables, finish)
    prediction = predict(composition, batch.overrun)
    at = test.test_c if test.test_c is not None else WINDOW_C
    is_new = pour is None
    if pour is None:
        pour = Pour(batch=batch, finish=finish)
    elif not Pour.objects.filter(pk=pour.pk, revision=revision).update(revision=revision + 1):
        raise StalePour(
            "Another tab saved this pour meanwhile. What you typed is kept here; save again to let yours stand."
        )
    else:
        pour.revision = revision + 1
    for name, value in fields.items():
        setattr(pour, name, value)
    pour.method, pour.rod_mm, pour.press_g, pour.thumb, pour.test_c = (
        test.method,
        test.rod_mm,
        test.press_g,
        test.thumb,
        test.test_c,
    )
    pour.predicted, pour.predicted_sigma = prediction.firmness_at(at), prediction.sigma
    pour.measured = measured.firmness if measured else None
    pour.measured_sigma = measured.sigma if measured else None
    try:
        with transaction.atomic():
            pour.save()
    except IntegrityError:
        raise StalePour("Another tab recorded this pour meanwhile. Open it from the pours page.") from None
    pour.pieces.all().delete()
    PouredPiece.objects.bulk_create(PouredPiece(pour=pour, name=name, mass_g=grams) for name, grams in pieces)
    if is_new:
        for row in batch.containers_of(finish):
            used = draw(row.container_key, Decimal(row.count), Entry.Kind.USED, f"Batch {batch.pk}, {batch.version}")
            pour.container_lots.add(*(entry.lot_id for entry in used.entries))
    if keep_rest and pour.rest_g and pour.rest_lot is None:
        note = f"Batch {batch.pk}, {batch.version}"
        named = f"Rest of {batch.version}{f', {finish}' if finish else ''}"
        pour.rest_lot = keep_leftover(named, composition, pour.rest_g, note, _best_before(batch))
        pour.save(update_fields=("rest_lot",))
    if is_new and batch.pours.count() >= max(1, len(batch.finishes.all())):
        mark_poured(batch)
    if pour.verdict:
        advance_stage(batch.version, Version.Stage.JUDGED)
    return pour
