"""A rehearsal laid over a batch: its weights are in its events alone, and nothing of it is saved."""

from collections.abc import Callable, Sequence
from decimal import Decimal

from batches.models import Batch, BatchLine
from bench.models import Event
from bench.weights.recording import weight_after


def rehearse(batch: Batch, events: Sequence[Event]) -> None:
    """Lay the events of a rehearsal that stand over a batch in memory, as if it had not been begun."""
    lines: list[BatchLine] = list(batch.lines.all())
    for line in lines:
        line.actual_g = None
        vars(line).setdefault("_prefetched_objects_cache", {})["draws"] = []
    batch.drop_shift, batch.driven_off_g = 0.0, None
    for finish in batch.finishes.all():
        finish.taken_g = None
    vars(batch)["_prefetched_objects_cache"]["lines"] = lines
    for event in events:
        if act := _ACTS.get(event.kind):
            act(batch, event, lines)


def _weighed(batch: Batch, event: Event, lines: list[BatchLine]) -> None:
    if not any(line.slot == event.slot for line in lines):
        key, _, number = event.slot.partition(".")
        finish = next((row for row in batch.finishes.all() if str(row.pk) == number), None)
        new = BatchLine(batch=batch, finish=finish, ingredient_key=key, target_g=Decimal(0), position=len(lines))
        vars(new)["_prefetched_objects_cache"] = {"draws": []}
        lines.append(new)
    batch.drop_shift = event.data.get("shift", batch.drop_shift)
    line = next(line for line in lines if line.slot == event.slot)
    line.actual_g = weight_after(event, line.actual_g)


def _taken(batch: Batch, event: Event, lines: list[BatchLine]) -> None:
    for finish in batch.finishes.all():
        if str(finish.pk) == event.data["finish"]:
            finish.taken_g = event.grams


def _rescaled(batch: Batch, event: Event, lines: list[BatchLine]) -> None:
    after = event.data["after"]
    for line in lines:
        line.target_g = Decimal(after.get(line.slot, line.target_g))
    for finish in batch.finishes.all():
        finish.base_g = Decimal(after.get(f"base.{finish.pk}", finish.base_g))


def _measured(batch: Batch, event: Event, lines: list[BatchLine]) -> None:
    batch.overrun = event.data["overrun"]


def _done(batch: Batch, event: Event, lines: list[BatchLine]) -> None:
    if event.step == "water_off":
        batch.driven_off_g = event.grams


def _more_pieces(batch: Batch, event: Event, lines: list[BatchLine]) -> None:
    for row in batch.containers.all():
        if row.pk == event.data["container"]:
            row.count += event.data["count"]


_ACTS: dict[str, Callable[[Batch, Event, list[BatchLine]], None]] = {
    Event.Kind.WEIGHED: _weighed,
    Event.Kind.CORRECTED: _weighed,
    Event.Kind.ADDED: _weighed,
    Event.Kind.TAKEN: _taken,
    Event.Kind.RESCALED: _rescaled,
    Event.Kind.MEASURED: _measured,
    Event.Kind.PIECES: _more_pieces,
    Event.Kind.DONE: _done,
}
