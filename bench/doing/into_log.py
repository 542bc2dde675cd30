"""From the bench into the log: the pours of what was filled."""

from django.db import transaction

from balmcore.errors import Problem
from bench.hooks import Filled, record_pours
from bench.models import Event
from bench.services import StepCommand
from bench.state import LOGGED


@transaction.atomic
def log(command: StepCommand) -> str:
    """Write the pours of what was filled down; returns where they stand. Raises :class:`Problem`."""
    bench = command.bench
    if not bench.is_filled:
        raise Problem("Not every piece is filled yet.")
    if bench.run.is_rehearsal:
        raise Problem("This was a rehearsal: it leaves nothing in the log.")
    if bench.is_logged:
        raise Problem("The pours are in the log already.")
    filled = []
    notes = "\n".join(f"{event.title}: {event.text}" for event in bench.standing if event.kind == Event.Kind.NOTE)
    for view in bench.steps:
        event = view.event
        if event is None or event.kind != Event.Kind.FILLED:
            continue
        filled.append(
            Filled(
                bench.finish_of(view.step.finish),
                event.pieces,
                event.stayed_g,
                bool(event.data["keep"]),
                "\n".join(part for part in (event.text, notes) if part),
                room_c=bench.batch.room_c,
            )
        )
    if not filled:
        raise Problem("Nothing was filled: there is no pour to write down.")
    command.write(Event.Kind.DONE, step=LOGGED, title="Into the log")
    return next(iter(record_pours.ask(bench.batch, filled, bench.tables)), "")
