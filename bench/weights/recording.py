"""A weight is one event of a batch's making, whether it comes from a step, the weigh sheet or the scale, or is written
down the next day; by it the line's weight stands, and its grams leave their lots or go back."""

from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal

from django.utils import timezone

from balmcore.errors import Problem
from balmcore.making.bench.steps import weighing_key
from batches.models import Batch, BatchLine
from bench.models import BenchRun, Event, fresh_revision
from bench.weights import draws


class StaleBatch(Problem):
    """Weights of this batch were saved in another tab since the page was opened."""


def step_of(line: BatchLine) -> str:
    """The key of the step at which a line is weighed."""
    return weighing_key(line.slot, line.drops)


def set_weight(batch: Batch, line: BatchLine, grams: Decimal | None) -> None:
    """What a line weighs from now on: its grams leave their lots, or go back. It belongs into the transaction that
    writes the event."""
    line.actual_g = grams
    line.save(update_fields=("actual_g", "lot"))
    draws.reconcile(line)
    if batch.is_over:
        return
    begun = any(each.actual_g is not None for each in batch.lines.all())
    state = Batch.State.WEIGHING if begun else Batch.State.PLANNED
    if batch.state != state:
        batch.state = state
        batch.save(update_fields=("state",))


def record_weights(
    batch: Batch,
    actual_g: Mapping[str, Decimal | None],
    revision: int,
    lots: Mapping[str, int | None] | None = None,
    at: datetime | None = None,
) -> BenchRun:
    """Write down what some lines weigh in all, by their slot, as the weigh sheet says it; None clears one. Each that is
    new or another one is an event ``at`` that moment. What is weighed leaves its lot: the one chosen in ``lots``, then
    the first to expire. Returns the making as it stands then.

    It belongs into a transaction in which ``batch`` was read for a page. Raises :class:`StaleBatch` when its making
    moved on since ``revision``, and :class:`Problem` when it was poured.
    """
    if batch.is_over:
        raise Problem(f"This batch was {batch.get_state_display().lower()}: its weights stay as they were.")
    run = run_of(batch)
    if run.revision != revision:
        raise StaleBatch(
            "Another tab wrote weights of this batch down. What you typed is kept below; look at both, then go on."
        )
    events: list[Event] = []
    moved = False
    for line in batch.lines.all():
        if line.slot not in actual_g:
            continue
        before, lot_before, grams = line.actual_g, line.lot_id, actual_g[line.slot]
        if lots and line.slot in lots:
            line.lot_id = draws.choose_lot(line, lots[line.slot])
        if (before, lot_before) == (grams, line.lot_id):
            continue  # what was only said again is no news to another tab
        set_weight(batch, line, grams)
        moved = True
        if before != grams:
            events.append(correction_of(run, line, before, grams, at or timezone.now()))
    if moved:
        run.revision = fresh_revision()
        run.save()
        Event.objects.bulk_create(events)
    return run


def run_of(batch: Batch) -> BenchRun:
    """The making of a batch; one not begun is not stored yet."""
    return BenchRun.objects.filter(batch=batch, is_rehearsal=False).first() or BenchRun(batch=batch)


def correction_of(
    run: BenchRun, line: BatchLine, before: Decimal | None, grams: Decimal | None, at: datetime, why: str = ""
) -> Event:
    """The event of a line that weighs something from now on: the first is a weight, whatever follows corrects it."""
    kind = Event.Kind.WEIGHED if before is None else Event.Kind.CORRECTED
    data = {"was": None if before is None else str(before)}
    return Event(
        run=run,
        kind=kind,
        step=step_of(line),
        slot=line.slot,
        grams=grams,
        data=data,
        at=at,
        text=why,
        is_from_sheet=True,
    )


def weight_after(event: Event, before: Decimal | None) -> Decimal | None:
    """What a line weighs after an event at it: so many grams more, or all of them where it was put right."""
    if event.kind == Event.Kind.CORRECTED:
        return event.grams
    return (before or Decimal(0)) + (event.grams or Decimal(0))
