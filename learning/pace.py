"""How fast this bench is: seconds a piece, how the stove melts, what whipping gains; from what was done at it."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from itertools import groupby, pairwise

from balmcore.errors import Problem
from balmcore.making.method import method_for
from balmcore.making.method.pouring import REWARM_MIN
from balmcore.tables import Tables
from balmcore.trials.experience import BenchPace
from balmcore.trials.rates import Middle, middle
from batches.batch_plan import setup_of
from batches.models import Batch
from bench.models import Event
from bench.state import CLOSING

NEWEST = 40  # benches that are counted
SECONDS_A_PIECE = (2.0, 300.0)
TIMES_AS_LONG = (0.25, 4.0)
WHIPPED_MIN = (2.0, 60.0)


def bench_pace(tables: Tables) -> BenchPace:
    """How fast this bench is, by what was done at it step by step."""
    pieces: dict[str, list[float]] = defaultdict(list)
    heating: dict[str, list[float]] = defaultdict(list)
    overruns: dict[str, list[float]] = defaultdict(list)
    whipped: dict[str, list[float]] = defaultdict(list)
    for batch, events in _benches():
        kinds = {row.name: row.kind for row in batch.containers.all()}
        overruns[batch.whipper] += [event.data["overrun"] for event in events if event.kind == Event.Kind.MEASURED]
        closing = [event for event in events if event.kind in CLOSING]
        for before, event in pairwise(closing):
            rewarmed = sum(each.kind == Event.Kind.REWARMED and each.step == event.step for each in events)
            seconds = (event.at - before.at).total_seconds() - rewarmed * REWARM_MIN * 60
            if event.kind == Event.Kind.FILLED and event.pieces:
                each = seconds / len(event.pieces)
                if SECONDS_A_PIECE[0] <= each <= SECONDS_A_PIECE[1]:
                    pieces[kinds.get(event.pieces[0][0], "")].append(each)
            elif event.step == "whip" and event.kind == Event.Kind.DONE:
                whipped[batch.whipper] += [seconds / 60] if WHIPPED_MIN[0] <= seconds / 60 <= WHIPPED_MIN[1] else []
            elif event.step == "melt" and event.kind == Event.Kind.DONE:
                heating[batch.heating] += _times_as_long(batch, seconds / 60, tables)
    return BenchPace(_middles(pieces), _middles(heating), _middles(overruns), _middles(whipped))


def _middles(by_key: Mapping[str, list[float]]) -> dict[str, Middle]:
    """What is usual by each key that shows it."""
    return {key: found for key, each in by_key.items() if (found := middle(each))}


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
