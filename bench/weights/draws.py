"""Grams leave their lots as they are weighed, and go back when a weight is put right."""

from collections.abc import Iterable
from decimal import Decimal

from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.wording import as_sentence
from batches.models import BatchLine, Draw
from pantry import services
from pantry.hooks import with_unfit
from pantry.models import Entry, Lot


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
        drawn = services.draw(line.ingredient_key, -extra, Entry.Kind.WEIGHED, _note(line), line.lot_id)
        missing = drawn.missing
        after += Draw.objects.bulk_create(
            Draw(line=line, lot=entry.lot, entry=entry, grams=-entry.amount) for entry in drawn.entries
        )
    vars(line).setdefault("_prefetched_objects_cache", {})["draws"] = [*before, *after]
    return missing


def attach(line: BatchLine, lot_pk: int | None, received_after: bool) -> tuple[Lot, Decimal]:
    """Say afterwards from which lot the grams came that no lot gave to a line; returns it, and how many.

    With ``received_after`` the lot was written down without them: they are put into its account and
    taken out of it, so that a recall finds the batch and what is left stays as it was counted. It
    belongs into a transaction. Raises :class:`Problem`.
    """
    lot = Lot.objects.filter(pk=lot_pk or 0, item_key=line.ingredient_key).first()
    if lot is None:
        raise Problem("Choose the lot that it came from.")
    outside = line.outside_g
    if outside <= 0:
        raise Problem("Every gram of this line came from a lot already.")
    note = _note(line)
    if received_after:
        services.book_entry(lot, outside, Entry.Kind.CORRECTED, f"Written down after this was taken. {note}")
    elif lot.left < outside:
        raise Problem(
            f"Of {lot} only {mass_words(lot.left)} are left, and {mass_words(outside)} are to come from it. If it was "
            "written down without them, say so."
        )
    entry = services.book_entry(lot, -outside, Entry.Kind.WEIGHED, f"Said afterwards. {note}")
    Draw.objects.create(line=line, lot=lot, entry=entry, grams=outside)
    return lot, outside


def _given(draws: Iterable[Draw]) -> dict[int, Decimal]:
    """What each lot gave to a line by now, in the order in which they were drawn on."""
    given: dict[int, Decimal] = {}
    for draw in draws:
        given[draw.lot_id] = given.get(draw.lot_id, Decimal(0)) + draw.grams
    return {pk: grams for pk, grams in given.items() if grams > 0}


def _give_back(line: BatchLine, lot_pk: int, grams: Decimal) -> Draw:
    lot = Lot.objects.get(pk=lot_pk)
    entry = services.book_entry(lot, grams, Entry.Kind.RETURNED, _note(line))
    return Draw.objects.create(line=line, lot=lot, entry=entry, grams=-grams)


def _note(line: BatchLine) -> str:
    return f"Batch {line.batch_id}, {line.batch.version}"
