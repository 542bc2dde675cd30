"""What was done at the bench, as it is read afterwards: also what was skipped, out of order, or taken back."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.utils import timezone

from balmcore.display import Display
from balmcore.tables import Tables
from balmcore.wording import listed
from batches.models import Batch
from bench.models import Event

PLAIN = {
    Event.Kind.DONE: "done",
    Event.Kind.SKIPPED: "passed over",
    Event.Kind.RESCALED: "so that percentages stay",
    Event.Kind.FILLED: "filled",
    Event.Kind.REWARMED: "the window begins anew",
}
WEIGHTS = (Event.Kind.WEIGHED, Event.Kind.CORRECTED, Event.Kind.TAKEN)
VERBS = {Event.Kind.ADDED: "added", Event.Kind.TAKEN: "taken", Event.Kind.DONE: "lighter"}


@dataclass(frozen=True)
class Entry:
    """One thing that was done: when, at which step, what, and what to know of it. ``day`` is told where it is another
    one than that of the entry before."""

    at: datetime
    day: str
    title: str
    what: str
    beside: str
    photo: str
    is_undone: bool


def record_of(batch: Batch, tables: Tables, show: Display) -> list[Entry]:
    """Everything done and weighed for a batch, in order; empty for one of which nothing was written down."""
    events = Event.objects.filter(run__batch=batch, run__is_rehearsal=False)
    found, day = [], None
    for event in events:
        if event.kind == Event.Kind.TIMER:
            continue
        today = timezone.localdate(event.at)
        found.append(_entry(event, tables, show, "" if day in (None, today) else show.day(today)))
        day = today
    return found


def last_of(events: Sequence[Event], tables: Tables, show: Display) -> str:
    """What was done last, as undoing would take it back: ``Castor oil: 2 g added``; empty where nothing was."""
    if not events:
        return ""
    entry = _entry(events[-1], tables, show)
    return ": ".join(part for part in (entry.title, entry.what or entry.beside) if part)


def weights_at(events: Sequence[Event], step: str, show: Display) -> list[str]:
    """The weights that were written down at a step, in order: ``34.6 g``, or ``34.6 g, was 43.6 g``."""
    found = []
    for event in events:
        if event.step == step and event.grams is not None and event.kind in WEIGHTS:
            was = (
                ""
                if event.was_g is None or event.kind == Event.Kind.WEIGHED
                else f", was {show.mass_text(event.was_g)}"
            )
            found.append(f"{show.mass_text(event.grams)}{was}")
    return found


def photos_of(events: Sequence[Event]) -> list[tuple[str, str]]:
    """The photographs among some events, with the step each was taken at."""
    return [(event.data["file"], event.title) for event in events if event.kind == Event.Kind.PHOTO]


def _what(event: Event, show: Display) -> str:
    """What was done, in a few words."""
    kind, grams = Event.Kind(event.kind), event.grams
    if kind is Event.Kind.CORRECTED:
        was = "nothing" if event.was_g is None else show.mass_text(event.was_g)
        return f"{'not weighed after all' if grams is None else show.mass_text(grams)}, was {was}"
    if kind is Event.Kind.PIECES:
        return f"{event.data['count']} more"
    if kind is Event.Kind.MEASURED:
        return f"{event.data['overrun'] * 100:.0f} % more room"
    if kind is Event.Kind.FILLED:
        return f"{len(event.data['pieces'])} filled"
    if grams is None:
        return PLAIN.get(kind, "")
    is_again = kind is Event.Kind.TAKEN and event.was_g is not None
    before = f", was {show.mass_text(event.was_g or 0)}" if is_again else ""
    return f"{show.mass_text(grams)} {VERBS.get(kind, 'weighed')}{before}"


def _entry(event: Event, tables: Tables, show: Display, day: str = "") -> Entry:
    what = _what(event, show)
    beside = [f"at {show.temp_text(event.temp_c)}"] if event.temp_c is not None else []
    if before := event.data.get("before"):
        beside.append(f"before {listed(before[:3])}{' and others' if len(before) > 3 else ''}")
    if event.is_from_sheet:
        beside.append("on the weigh sheet")
    if event.text:
        beside.append(event.text)
    if event.is_undone:
        beside.append("taken back")
    title = event.title or tables.ingredient(event.slot.partition(".")[0]).name
    return Entry(event.at, day, title, what, "; ".join(beside), event.data.get("file", ""), event.is_undone)
