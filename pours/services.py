"""Writing down what came of a melt, at the bench or in a form: prediction for what was really weighed, pieces, what
stayed, verdict; and putting it right."""

from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from decimal import Decimal

from django.db import IntegrityError, transaction
from django.utils import timezone

from balmcore.advice.shelf_life import keeps
from balmcore.composition import Composition
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.making.method import FOLLOW_UPS
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Tables
from batches.models import Batch, BatchContainer
from batches.services import mark_poured
from batches.showing.queries import best_before_of, name_lots
from bench.hooks import Filled
from formulas.models import Version
from formulas.services import advance_stage
from pantry.models import Entry, Lot
from pantry.queries import lots_of, tools
from pantry.services import book_entry, correct_leftover_parts, draw, keep_leftover
from pours.hooks import pieces_gone
from pours.models import COOLED_IN, FollowUp, Pour, PouredPiece
from workshop.services import bump_records_revision


class StalePour(Problem):
    """The pour was saved in another tab since the page was opened."""


@transaction.atomic
def record_pour(batch: Batch, filled: Filled, tables: Tables) -> Pour:
    """A new pour of a batch, or of a finish of it, with its prediction at 21 degrees. Its containers leave stock, and
    days on which to look at it again are written down; what stayed becomes a lot where it is kept.

    Raises :class:`StalePour` when another tab recorded it first.
    """
    return record_pours(batch, [filled], tables)[0]


def record_pours(batch: Batch, all_filled: Sequence[Filled], tables: Tables) -> list[Pour]:
    """The same for several finishes. It belongs into a transaction in which ``batch`` was read for a page."""
    pours = [_record(batch, filled, tables) for filled in all_filled]
    known = batch.pours.count() if len(pours) < len(batch.finishes.all()) else len(pours)
    if known >= len(batch.finishes.all()):
        mark_poured(batch)
    bump_records_revision()
    if any(pour.verdict for pour in pours):
        advance_stage(batch.version, Version.Stage.JUDGED)
    return pours


def _record(batch: Batch, filled: Filled, tables: Tables) -> Pour:
    if batch.state == Batch.State.OFF:
        raise Problem("This batch was called off: it has no pour.")
    name_lots(batch)
    composition, best_before = batch.to_composition(tables, filled.finish), best_before_of(batch)
    pour = Pour(batch=batch, finish=filled.finish)
    _set_columns(pour, filled)
    _predict(pour, composition, best_before)
    if filled.keeps_leftover and filled.leftover_g:
        pour.leftover_lot = _keep_leftover(pour, tables)
    try:
        pour.save()
    except IntegrityError:
        raise StalePour("Another tab recorded this pour meanwhile. Open it from the pours page.") from None
    _write_pieces(pour, filled)
    _set_counts(pour, filled)
    plan_follow_ups(pour)
    return pour


@transaction.atomic
def change_pour(pour: Pour, filled: Filled, tables: Tables, revision: int) -> Pour:
    """Put a pour right: its columns, its pieces and what stayed, with what hangs on them: containers come back or leave
    stock, and the lot of what stayed holds what is said now.

    Raises :class:`StalePour` when another tab saved since ``revision``, and :class:`Problem` for fewer pieces than went
    somewhere, and for less left over than was used of it.
    """
    if not Pour.objects.filter(pk=pour.pk, revision=revision).update(revision=revision + 1):
        raise StalePour(
            "Another tab saved this pour meanwhile. What you typed is kept here; save again to let yours stand."
        )
    pour.revision, stayed, poured_on = revision + 1, pour.leftover_g, pour.poured_on
    _set_columns(pour, filled)
    if pour.leftover_lot is not None:
        _correct_leftover(pour.leftover_lot, stayed or Decimal(0), pour.leftover_g or Decimal(0))
    elif filled.keeps_leftover and filled.leftover_g:
        pour.leftover_lot = _keep_leftover(pour, tables)
    gone = max(pieces_gone.ask(pour), default=0)
    if len(filled.pieces) < gone:
        raise Problem(
            f"{gone} of its pieces went somewhere, and only {len(filled.pieces)} were filled: which is wrong?", "pieces"
        )
    pour.save()
    move_follow_ups(pour, poured_on)
    pour.pieces.all().delete()
    _write_pieces(pour, filled)
    _set_counts(pour, filled)
    bump_records_revision()
    if pour.verdict:
        advance_stage(pour.batch.version, Version.Stage.JUDGED)
    return pour


def follow_correction(batch: Batch, tables: Tables) -> None:
    """What hangs on the weights and lots of a poured batch, once one was corrected: prediction and best before of its
    pours, and what a leftover consists of. It belongs into the transaction of the correction."""
    best_before = best_before_of(batch)
    for pour in batch.pours.all():
        composition = batch.to_composition(tables, pour.finish)
        _predict(pour, composition, best_before)
        pour.save(update_fields=("predicted", "predicted_sigma", "best_before"))
        if pour.leftover_lot is not None:
            correct_leftover_parts(pour.leftover_lot, composition)
    bump_records_revision()


def _predict(pour: Pour, composition: Composition, best_before: Mapping[str, date]) -> None:
    prediction = predict(composition, pour.batch.overrun)
    pour.predicted, pour.predicted_sigma = prediction.firmness_at(WINDOW_C), prediction.sigma
    kept = keeps(pour.poured_on, composition, best_before)
    pour.best_before = kept.until if kept else None


def _set_columns(pour: Pour, filled: Filled) -> None:
    pour.poured_on = filled.poured_on or timezone.localdate()
    pour.room_c = filled.room_c
    pour.cooling = COOLED_IN.get(pour.batch.cooling, Pour.Cooling.OTHER) if filled.cooling is None else filled.cooling
    pour.cooling_note, pour.verdict = filled.cooling_note, filled.verdict
    pour.leftover_g, pour.notes = filled.leftover_g, filled.notes[:4000]


def _keep_leftover(pour: Pour, tables: Tables) -> Lot:
    """What stayed in the jug as a lot, with the composition that it truly has."""
    batch = pour.batch
    named = f"Rest of {batch.version}{f', {pour.finish}' if pour.finish else ''}"
    note, grams = f"Batch {batch.pk}, {batch.version}", pour.leftover_g or Decimal(0)
    return keep_leftover(named, pour.to_composition(tables), grams, note, best_before_of(batch))


def _correct_leftover(lot: Lot, was: Decimal, stayed: Decimal) -> None:
    used = was - lot.left
    if stayed == was:
        return
    if stayed < used:
        raise Problem(f"{mass_words(used)} of what stayed were used already: less cannot have stayed.", "leftover_g")
    book_entry(lot, stayed - was, Entry.Kind.CORRECTED, "What stayed in the jug was put right.")


def _write_pieces(pour: Pour, filled: Filled) -> None:
    rows = [PouredPiece(pour=pour, name=name, mass_g=grams) for name, grams in filled.pieces if grams is not None]
    PouredPiece.objects.bulk_create(rows)


def _set_counts(pour: Pour, filled: Filled) -> None:
    """How many of each container were really filled: so many left stock for it with what goes around them, and no
    more."""
    rows, note = pour.containers, f"Batch {pour.batch.pk}, {pour.batch.version}"
    comes_back = tools()
    lots: set[int] = set()
    for row, count in zip(rows, shared_out(rows, filled), strict=True):
        more = count - (row.filled or 0)
        for key in (row.container_key, *row.around_keys):
            if more > 0 and key not in comes_back:
                used = draw(lots_of([key]).get(key, ()), Decimal(more), Entry.Kind.USED, note)
                lots |= {entry.lot_id for entry in used.entries}
            elif more < 0:
                _put_back(pour, key, -more, note)
        row.filled = count
    BatchContainer.objects.bulk_update(rows, ["filled"])
    if lots:
        pour.container_lots.add(*lots)


def shared_out(rows: Sequence[BatchContainer], filled: Filled) -> list[int]:
    """How many pieces are of each row of containers; of those of one name, as many as planned are of the first."""
    counts = Counter(name for name, _ in filled.pieces)
    found = []
    for n, row in enumerate(rows):
        is_last = not any(other.name == row.name for other in rows[n + 1 :])
        count = counts[row.name] if is_last else min(counts[row.name], row.count)
        counts[row.name] -= count
        found.append(count)
    return found


def _put_back(pour: Pour, key: str, count: int, note: str) -> None:
    """Containers that were not filled after all go back to the lot they came from, if one was kept."""
    for lot in pour.container_lots.filter(item_key=key).order_by("-pk")[:1]:
        book_entry(lot, Decimal(count), Entry.Kind.RETURNED, note)


def move_follow_ups(pour: Pour, was: date) -> None:
    """The looks still to come, by as many days as the pour's day was put right; none onto a day that has one."""
    by, today = pour.poured_on - was, timezone.localdate()
    if not by:
        return
    order = "due_on" if by.days < 0 else "-due_on"
    ahead = list(pour.follow_ups.filter(answer=None, due_on__gt=today).order_by(order))
    taken = set(pour.follow_ups.exclude(pk__in=[look.pk for look in ahead]).values_list("due_on", flat=True))
    for look in ahead:
        if look.due_on + by not in taken:
            look.due_on += by
            look.save(update_fields=("due_on",))


def plan_follow_ups(pour: Pour) -> None:
    """The days on which a pour should be looked at: a day, three days, two weeks, three months after it."""
    FollowUp.objects.bulk_create(
        FollowUp(pour=pour, due_on=pour.poured_on + timedelta(days=days), words=words) for days, words in FOLLOW_UPS
    )
