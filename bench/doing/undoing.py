"""Taking the last thing at the bench back, with what came of it."""

from decimal import Decimal

from django.db import transaction

from balmcore.errors import Problem
from batches.models import Batch
from bench.models import Event
from bench.services import (
    StepCommand,
    line_of,
    put_count,
    put_driven_off,
    put_overrun,
    put_taken,
    put_targets,
    put_weight,
)
from bench.weights.recording import set_weight


@transaction.atomic
def undo(command: StepCommand) -> Event:
    """Take the last thing back. Raises :class:`Problem` where there is none, or it is in the log."""
    standing = command.bench.standing
    if not standing:
        raise Problem("There is nothing to take back.")
    last = standing[-1]
    if command.bench.is_logged or command.batch.is_over:
        raise Problem("The pours are in the log: change them there.")
    command.move_on()
    last.is_undone = True
    last.save(update_fields=("is_undone",))
    if last.kind in (Event.Kind.WEIGHED, Event.Kind.CORRECTED):
        put_weight(command, last.slot, last.was_g)
    elif last.kind == Event.Kind.ADDED:
        _take_out(command, last)
    elif last.kind == Event.Kind.TAKEN:
        finish = next(row for row in command.batch.finishes.all() if str(row.pk) == last.data["finish"])
        put_taken(command, finish, last.was_g)
    elif last.kind == Event.Kind.RESCALED:
        put_targets(command, {key: Decimal(value) for key, value in last.data["was"].items()})
    elif last.kind == Event.Kind.DONE and last.step == "water_off":
        put_driven_off(command, None)
    elif last.kind == Event.Kind.PIECES:
        put_count(command, last.data["container"], -last.data["count"])
    elif last.kind == Event.Kind.MEASURED:
        put_overrun(command, last.data["was"])
    return last


def _take_out(command: StepCommand, event: Event) -> None:
    if command.bench.run.is_rehearsal:
        return
    line = line_of(command.batch, event.slot)
    set_weight(command.batch, line, event.was_g)
    if "shift_was" in event.data:
        Batch.objects.filter(pk=command.batch.pk).update(drop_shift=event.data["shift_was"])
    if event.data["is_new"]:
        line.delete()
