"""Calling a batch off: what was only weighed goes back to its lots; of what is in a pot already its maker says what
becomes of it."""

from decimal import Decimal
from enum import StrEnum

from django.db import transaction

from balmcore.composition import Composition
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.making.agreeing import LEAST_APART_G, WEIGHED_APART
from balmcore.tables import Tables
from batches.models import Batch, Rest
from batches.showing.queries import best_before_of
from bench.models import Event
from bench.weights import draws
from pantry.models import Lot
from pantry.services import keep_leftover


class Fate(StrEnum):
    """What becomes of a batch that is begun: nothing was melted and all goes back, it was thrown away, or it is kept as
    a rest that another melt can take."""

    BACK = "back"
    THROWN = "thrown"
    KEPT = "kept"


def has_begun(batch: Batch) -> bool:
    """True where anything of it was weighed."""
    return any(line.actual_g is not None for line in batch.lines.all())


def fates(batch: Batch) -> tuple[Fate, ...]:
    """What can become of a batch that is begun: what was in the heat goes back to no lot."""
    return tuple(fate for fate in Fate if fate is not Fate.BACK or not _is_warm(batch))


def _is_warm(batch: Batch) -> bool:
    """True where its bench says that something of it was warmed."""
    done = Event.objects.at_steps().filter(run__batch=batch, kind=Event.Kind.DONE)
    return done.exclude(step__in=("prepare",)).exists()


def in_it(batch: Batch, tables: Tables) -> Composition:
    """What was weighed into it by now, in grams; what gave its water off without it, and what stands in the glass of a
    finish only where its portion was taken."""
    taken = {finish.pk for finish in batch.finishes.all() if finish.taken_g is not None}
    grams: dict[str, Decimal] = {}
    for line in batch.lines.all():
        if line.actual_g and (line.finish_id is None or line.finish_id in taken):
            grams[line.ingredient_key] = grams.get(line.ingredient_key, Decimal(0)) + line.actual_g
    whole = Composition.of(grams, tables)
    is_dry = Event.objects.at_steps().filter(run__batch=batch, kind=Event.Kind.DONE, step="water_off").exists()
    return whole.without_volatiles if is_dry else whole


def require_open(batch: Batch) -> None:
    """Raises :class:`Problem` for a batch that cannot be called off: poured, called off already, or with filled
    pieces."""
    # Asked anew: somebody may have poured it, or called it off, since it was read for the page.
    now = Batch.objects.filter(pk=batch.pk).values_list("state", flat=True).first()
    if now is None or now == Batch.State.OFF:
        raise Problem("This batch was called off already.")
    if now == Batch.State.POURED:
        raise Problem("This batch was poured: its record stays.")
    if Event.objects.at_steps().filter(run__batch=batch, kind=Event.Kind.FILLED).exists():
        raise Problem("Pieces of it are filled: write them into the log, and melt them again from there.")


@transaction.atomic
def call_off(batch: Batch, fate: Fate, tables: Tables, grams: Decimal | None = None) -> Lot | None:
    """Take a batch back that was not poured. What was not begun is gone; what was thrown away or kept stays as a record
    of what left which lot. Returns the lot of what is kept, of which there are ``grams``, or all of it.

    Raises :class:`Problem` for a poured one, one with filled pieces, and for more than was in it.
    """
    require_open(batch)
    if fate not in fates(batch):
        raise Problem("It was warm already: nothing of it goes back to its lots. Throw it away, or keep it.")
    if fate is Fate.BACK or not has_begun(batch):
        _give_back(batch)
        return None
    kept = _keep(batch, tables, grams) if fate is Fate.KEPT else None
    said = "Thrown away." if kept is None else f"Kept: {mass_words(kept.received)}."
    Batch.objects.filter(pk=batch.pk).update(state=Batch.State.OFF, off_why=said, starts_at=None)
    return kept


def _give_back(batch: Batch) -> None:
    for line in batch.lines.all():
        line.actual_g = None
        draws.reconcile(line)
    batch.delete()


def _keep(batch: Batch, tables: Tables, grams: Decimal | None) -> Lot:
    made = in_it(batch, tables)
    if not made.total:
        raise Problem("Nothing is in the pot yet: it goes back to its lots, or is thrown away.")
    if grams is not None and not 0 < grams <= made.total * (1 + WEIGHED_APART) + LEAST_APART_G:
        raise Problem(f"{mass_words(made.total)} were weighed into it: {mass_words(grams)} cannot be kept.", "grams")
    note = f"Batch {batch.pk}, {batch.version}, called off"
    lot = keep_leftover(f"{batch.version}, called off", made, grams or made.total, note, best_before_of(batch))
    Rest.objects.create(batch=batch, lot=lot)
    return lot
