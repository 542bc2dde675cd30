"""Grams leave their lots as they are weighed, and go back when a weight is put right."""

from collections.abc import Iterable
from decimal import Decimal

from balmcore.errors import Problem
from balmcore.wording import as_sentence
from batches.models import BatchLine, Draw
from batches.supply.sources import lots_for
from pantry import services
from pantry.hooks import with_unfit
from pantry.models import Entry, Lot
from pantry.queries import lots_of


def choose_lot(line: BatchLine, pk: int | None) -> int | None:
    """The lot chosen for a line, if it is one of that ingredient; None for the first to expire.

    Raises :class:`Problem` for a lot of something else, or one that may not be used.
    """
    if pk is None:
        return None
    lot = next(iter(with_unfit(Lot.objects.filter(pk=pk, item_key=line.ingredient_key))), None)
    if lot is None:
        raise Problem("That lot is not one of this ingredient: choose another.")
    if not lot.is_fit and lot.pk != line.lot_id:
        why = f"is not to be used: {lot.unfit}" if lot.unfit else f"is {lot.get_state_display().lower()}"
        raise Problem(as_sentence(f"{lot} {why}, and serves no batch."))
    return lot.pk


def reconcile(line: BatchLine) -> Decimal:
    """Bring what lots gave to a line to what was weighed; returns the grams that no lot had.

    Another lot chosen than gave the grams takes their place: they go back first. It belongs into a
    transaction; the line's prefetched draws are brought up to date.
    """
    wanted = line.actual_g or Decimal(0)
    before = list(line.draws.all())
    after: list[Draw] = []
    given = _given(before)
    if line.lot_id is not None:
        for pk in [pk for pk in given if pk != line.lot_id]:
            after.append(_give_back(line, pk, given.pop(pk)))
    extra = sum(given.values(), Decimal(0)) - wanted
    for pk in reversed(list(given)):
        if extra > 0:
            back = min(extra, given[pk])
            after.append(_give_back(line, pk, back))
            extra -= back
    missing = Decimal(0)
    if extra < 0:
        free = lots_for(line.batch, [line.ingredient_key]).get(line.ingredient_key, ())
        drawn = services.draw(free, -extra, Entry.Kind.WEIGHED, _note(line), line.lot_id)
        entries, missing = drawn.entries, drawn.missing
        if missing:  # what other batches hold: its maker was asked, and took it
            every = lots_of([line.ingredient_key]).get(line.ingredient_key, ())
            drawn = services.draw(every, missing, Entry.Kind.WEIGHED, _note(line), line.lot_id)
            entries, missing = (*entries, *drawn.entries), drawn.missing
        after += Draw.objects.bulk_create(
            Draw(line=line, lot=entry.lot, entry=entry, grams=-entry.amount) for entry in entries
        )
    vars(line).setdefault("_prefetched_objects_cache", {})["draws"] = [*before, *after]
    return missing


def release(line: BatchLine) -> None:
    """All that lots gave to a line goes back: nobody knows from which lot it came."""
    for pk, grams in _given(line.draws.all()).items():
        _give_back(line, pk, grams)


def add_to_account(line: BatchLine, lot: Lot) -> None:
    """The grams of a line that no lot gave are put into the account of one that was received without them, and drawn
    from it: a recall finds the batch, and what is left stays as it was counted."""
    outside = line.outside_g
    services.book_entry(lot, outside, Entry.Kind.CORRECTED, f"Received before this was taken. {_note(line)}")
    entry = services.book_entry(lot, -outside, Entry.Kind.WEIGHED, f"Said afterwards. {_note(line)}")
    Draw.objects.create(line=line, lot=lot, entry=entry, grams=outside, was_added=True)


def _given(draws: Iterable[Draw]) -> dict[int, Decimal]:
    """What each lot gave to a line by now, in the order in which they were drawn on."""
    given: dict[int, Decimal] = {}
    for draw in draws:
        given[draw.lot_id] = given.get(draw.lot_id, Decimal(0)) + draw.grams
    return {pk: grams for pk, grams in given.items() if grams > 0}


def _give_back(line: BatchLine, lot_pk: int, grams: Decimal) -> Draw:
    """Grams go back to their lot; what was put into its account for them leaves it again."""
    lot = Lot.objects.get(pk=lot_pk)
    added = sum((draw.grams for draw in line.draws.all() if draw.lot_id == lot_pk and draw.was_added), Decimal(0))
    entry = services.book_entry(lot, grams, Entry.Kind.RETURNED, _note(line))
    if added > 0:
        services.book_entry(lot, -min(grams, added), Entry.Kind.CORRECTED, f"Taken back. {_note(line)}")
    return Draw.objects.create(line=line, lot=lot, entry=entry, grams=-grams, was_added=added > 0)


def _note(line: BatchLine) -> str:
    return f"Batch {line.batch_id}, {line.batch.version}"
