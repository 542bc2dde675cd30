"""What was done at the bench, as it is read afterwards: also what was skipped, out of order, or taken back."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from balmcore.display import Display
from balmcore.wording import listed
from batches.models import Batch
from bench.models import Event

PLAIN = {
    Event.Kind.DONE: "done",
    Event.Kind.SKIPPED: "passed over",
    Event.Kind.RESCALED: "so that percentages stay",
    Event.Kind.FILLED: "filled",
}


@dataclass(frozen=True)
class Entry:
    """One thing that was done: when, at which step, what, and what to know of it."""

    at: datetime
    title: str
    what: str
    beside: str
    photo: str
    is_undone: bool


def record_of(batch: Batch, show: Display) -> list[Entry]:
    """Everything done at the bench for a batch, in order; empty for one that was made without it."""
    events = Event.objects.filter(run__batch=batch, run__is_rehearsal=False)
    return [_entry(event, show) for event in events if event.kind != Event.Kind.TIMER]


def last_of(events: Sequence[Event], show: Display) -> str:
    """What was done last, as undoing would take it back: ``Castor oil: 2 g added``; empty where nothing was."""
    if not events:
        return ""
    entry = _entry(events[-1], show)
    return ": ".join(part for part in (entry.title, entry.what or entry.beside) if part)


def photos_of(events: Sequence[Event]) -> list[tuple[str, str]]:
    """The photographs among some events, with the step each was taken at."""
    return [(event.data["file"], event.title) for event in events if event.kind == Event.Kind.PHOTO]


def _entry(event: Event, show: Display) -> Entry:
    what = PLAIN.get(Event.Kind(event.kind), "")
    if event.grams is not None:
        verb = "added" if event.kind == Event.Kind.ADDED else "taken" if event.kind == Event.Kind.TAKEN else "weighed"
        what = f"{show.mass_text(event.grams)} {verb}"
    if event.kind == Event.Kind.MEASURED:
        what = f"{event.data['overrun'] * 100:.0f} % more room"
    if event.kind == Event.Kind.FILLED:
        what = f"{len(event.data['pieces'])} filled"
    beside = [f"at {show.temp_text(event.temp_c)}"] if event.temp_c is not None else []
    if before := event.data.get("before"):
        beside.append(f"before {listed(before[:3])}{' and others' if len(before) > 3 else ''}")
    if event.text:
        beside.append(event.text)
    if event.is_undone:
        beside.append("taken back")
    return Entry(event.at, event.title, what, "; ".join(beside), event.data.get("file", ""), event.is_undone)
