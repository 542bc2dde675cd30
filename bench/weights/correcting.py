"""A weight or a lot corrected afterwards, also once a batch was poured: stock, recall, label and cost follow."""

from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from balmcore.errors import Problem
from balmcore.making.weighing import weight_question
from balmcore.tables import Tables
from balmcore.wording import in_sentence
from batches.hooks import batch_corrected
from batches.models import Batch, BatchLine
from bench.models import fresh_revision
from bench.weights import draws
from bench.weights.reading import weight_g
from bench.weights.recording import correction_of, run_of, set_weight
from pantry.models import Lot
from workshop.models import Preferences
from workshop.web import Fields

NO_LOT, AS_BEFORE = "none", ""
MIN_REASON_LENGTH = 3


@dataclass(frozen=True)
class Correction:
    """What a line weighs in all, and from which lot: a number, :data:`NO_LOT`, or :data:`AS_BEFORE`. ``was_missing`` is
    for a lot that was received without these grams."""

    line: BatchLine
    grams: Decimal
    lot: str = AS_BEFORE
    reason: str = ""
    was_missing: bool = False


def read(data: Fields, batch: Batch, tables: Tables, prefs: Preferences) -> Correction:
    """A correction as posted. Raises :class:`Problem`, also for a weight that is probably a slip and not confirmed."""
    line = batch.line_of(data.text("line", 80))
    if line is None:
        raise Problem("Choose the ingredient to correct.", "line")
    item, text = tables.ingredient(line.ingredient_key), data.text("grams", 80)
    before = line.actual_g or Decimal(0)
    is_same = not text.strip() or text.strip() == prefs.show.mass_number(before)
    grams = before if is_same else weight_g(text, item, prefs)
    if not is_same and not data.text("sure", 5):
        wanted = line.target_g or before
        if asked := weight_question(text, grams, wanted, batch.resolution_g, None, prefs.show):
            raise Problem(f"{asked.text} Type it again, or tick “This weight is right”.", "grams")
    return Correction(
        line, grams, data.text("lot", 20), data.text("reason", 200).strip(), bool(data.text("was_missing"))
    )


@transaction.atomic
def correct(batch: Batch, wanted: Correction, tables: Tables) -> str:
    """Carry a correction out; returns what was done. Raises :class:`Problem`."""
    line, before = wanted.line, wanted.line.actual_g
    if batch.state == Batch.State.OFF or before is None:
        raise Problem("Only what was weighed can be corrected.", "line")
    changes_weight = wanted.grams != before
    had_lots = line.drawn_g > 0
    if (changes_weight or (had_lots and wanted.lot)) and len(wanted.reason) < MIN_REASON_LENGTH:
        raise Problem("Say why it is corrected, such as “misread the scale”.", "reason")
    if not changes_weight and not wanted.lot:
        raise Problem("Nothing was changed: type another weight, or choose another lot.", "grams")
    if wanted.lot == NO_LOT:
        draws.release(line)
        line.actual_g, line.lot_id = wanted.grams, None
        line.save(update_fields=("actual_g", "lot"))
    elif wanted.was_missing:
        draws.add_to_account(line, _lot_of(line, wanted.lot))
    else:
        if wanted.lot:
            line.lot_id = draws.choose_lot(line, _lot_of(line, wanted.lot).pk)
        set_weight(batch, line, wanted.grams)
    run = run_of(batch)
    run.revision = fresh_revision()
    run.save()
    correction_of(run, line, before, wanted.grams, timezone.now(), wanted.reason).save()
    if batch.is_over:
        batch_corrected.ask(Batch.objects.for_page().get(pk=batch.pk), tables)
    name = in_sentence(tables.ingredient(line.ingredient_key).name)
    return f"The {name} of batch {batch.pk} is corrected. Stock, cost, label and recall go by it."


def _lot_of(line: BatchLine, text: str) -> Lot:
    lot = Lot.objects.filter(pk=int(text) if text.isdecimal() else 0, item_key=line.ingredient_key).first()
    if lot is None:
        raise Problem("Choose the lot that it came from.", "lot")
    return lot
