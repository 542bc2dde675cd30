"""How fast this bench is: seconds a piece, how the stove melts, what whipping gains; from what was done at it."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby, pairwise

from balmcore.errors import Problem
from balmcore.making.method import method_for
from balmcore.making.steps import USUAL_PACE, Pace
from balmcore.tables import Tables, shipped
from balmcore.trials.rates import Middle, middle
from batches.forms.schedule import setup_of
from batches.models import Batch
from bench.models import Event
from bench.state import CLOSING
from workshop.models import Preferences

NEWEST = 40  # benches that are counted
SECONDS_A_PIECE = (2.0, 300.0)
TIMES_AS_LONG = (0.25, 4.0)


@dataclass(frozen=True)
class BenchPace:
    """What is usual, each None before there are four cases: seconds a piece by the kind of container, times as
    long as reckoned that melting takes, and what whipping gains of the volume."""

    piece_s: dict[str, Middle]
    heating: Middle | None
    overrun: Middle | None

    @property
    def pace(self) -> Pace:
        """As methods go by it."""
        return Pace(
            {kind: found.median for kind, found in self.piece_s.items()}, self.heating.median if self.heating else 1.0
        )


def bench_pace(tables: Tables, prefs: Preferences) -> BenchPace:
    """How fast this bench is; looked up once as long as nothing new was poured."""
    return _counted(prefs.records_revision, tables.plain)


def pace(prefs: Preferences) -> Pace:
    """The same as methods go by it."""
    return bench_pace(shipped(), prefs).pace if prefs.records_revision else USUAL_PACE


@lru_cache(maxsize=2)
def _counted(stamp: int, tables: Tables) -> BenchPace:
    pieces: dict[str, list[float]] = defaultdict(list)
    heating, overruns = [], []
    for batch, events in _benches() if stamp else ():
        kinds = {row.name: row.kind for row in batch.containers.all()}
        overruns += [event.data["overrun"] for event in events if event.kind == Event.Kind.MEASURED]
        closing = [event for event in events if event.kind in CLOSING]
        for before, event in pairwise(closing):
            seconds = (event.at - before.at).total_seconds()
            if event.kind == Event.Kind.FILLED and event.pieces:
                each = seconds / len(event.pieces)
                if SECONDS_A_PIECE[0] <= each <= SECONDS_A_PIECE[1]:
                    pieces[kinds.get(event.pieces[0][0], "")].append(each)
            elif event.step == "melt" and event.kind == Event.Kind.DONE:
                heating += _times_as_long(batch, seconds / 60, tables)
    by_kind = {kind: found for kind, each in pieces.items() if (found := middle(each))}
    return BenchPace(by_kind, middle(heating), middle(overruns))


def _benches() -> Iterator[tuple[Batch, list[Event]]]:
    """The newest batches made step by step, with what was done at each and stands."""
    events = Event.objects.standing().filter(run__batch__state="poured")
    rows = list(events.order_by("run", "pk").select_related("run"))
    by_run = [list(own) for _, own in groupby(rows, key=lambda row: row.run_id)]
    # What was only weighed on the weigh sheet says nothing of how fast it went.
    by_run = [own for own in by_run if not all(event.is_from_sheet for event in own)][-NEWEST:]
    batches = Batch.objects.for_page().in_bulk([own[0].run.batch_id for own in by_run])
    for own in by_run:
        yield batches[own[0].run.batch_id], own


def _times_as_long(batch: Batch, minutes: float, tables: Tables) -> list[float]:
    """How many times as long as reckoned a melt took; nothing where it can no longer be reckoned."""
    try:
        steps = method_for(setup_of(batch, tables)).steps
    except Problem:
        return []
    reckoned = next((step.length for step in steps if step.key == "melt"), 0.0)
    times = minutes / reckoned if reckoned else 0.0
    return [times] if TIMES_AS_LONG[0] <= times <= TIMES_AS_LONG[1] else []
