"""Putting a method on the clock: forwards from a start, backwards from when it should be ready,
and clear of what other batches occupy.

Times are minutes on any common clock; only differences count. Of each thing that is occupied there are as many as a
workshop has: two rings, a second cook.
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from balmcore.errors import Problem
from balmcore.making.steps import Method
from balmcore.wording import minutes_and_hours

HANDS = "hands"
PLAIN_MIN = 5  # clock times are told in these
NAMES = {HANDS: "your hands", "stove": "the stove", "refrigerator": "the refrigerator", "freezer": "the freezer"}
ALMOST = 1e-6

# How many of each thing there are; one of what is not in it.
Room = Mapping[str, int]
ONE_OF_EACH: Room = {}


@dataclass(frozen=True)
class Use:
    """Something occupied from one minute to another, by what ``by`` says; ``alone`` where nothing else may be there
    meanwhile, however much room there is."""

    what: str
    start: float
    end: float
    by: str = ""
    alone: bool = False

    def moved(self, by: float) -> "Use":
        """The same use at another time."""
        return replace(self, start=self.start + by, end=self.end + by)


def uses(method: Method) -> tuple[Use, ...]:
    """What a method occupies, counted from its start: the maker's hands, stove, refrigerator,
    freezer; uses of one thing that touch are one."""
    found: list[Use] = []
    left: dict[str, float] = {}  # since when pieces of an earlier pitcher stand there
    for start, step in method.timed():
        if step.length <= 0:
            continue
        end = start + step.length
        for what in (HANDS if step.hands else "", step.at):
            if what:
                found.append(Use(what, min(start, left.pop(what, start)), end, alone=step.alone and what == step.at))
        if step.left_at:
            left.setdefault(step.left_at, end)
    return tuple(_merged(found))


def _merged(found: Iterable[Use]) -> Iterator[Use]:
    for what in dict.fromkeys(use.what for use in found):
        own = sorted((use for use in found if use.what == what), key=lambda use: use.start)
        current = own[0]
        for use in own[1:]:
            if use.start <= current.end + ALMOST and use.alone == current.alone:
                current = replace(current, end=max(current.end, use.end))
            else:
                yield current
                current = use
        yield current


def collision(
    own: Sequence[Use], busy: Mapping[str, Sequence[Use]], room: Room = ONE_OF_EACH, after: float = 0.0
) -> Use | None:
    """The first thing that is occupied already when it would be needed ``after`` so many minutes, None when all is
    free."""
    for plain in own:
        start, end = plain.start + after, plain.end + after
        others = [o for o in busy.get(plain.what, ()) if start < o.end - ALMOST and o.start < end - ALMOST]
        if not others:
            continue
        if plain.alone:
            return others[0]
        if blocking := next((other for other in others if other.alone), None):
            return blocking
        many = room.get(plain.what, 1)
        # Most are there at once where one of them begins.
        for first in others:
            at = max(first.start, start)
            if sum(other.start <= at + ALMOST and other.end > at + ALMOST for other in others) >= many:
                return first
    return None


def by_what(busy: Iterable[Use]) -> dict[str, list[Use]]:
    """Uses by what they occupy."""
    found: dict[str, list[Use]] = {}
    for use in busy:
        found.setdefault(use.what, []).append(use)
    return found


@dataclass(frozen=True)
class Job:
    """What is put on the clock: how long it takes and what it occupies, counted from its start."""

    length: float
    uses: tuple[Use, ...]

    @classmethod
    def of(cls, method: Method) -> "Job":
        """A method as a job."""
        return cls(method.length, uses(method))

    def at(self, start: float, by: str = "") -> list[Use]:
        """What it occupies when it starts at a minute."""
        return [replace(use.moved(start), by=by) for use in self.uses]


@dataclass(frozen=True)
class Placed:
    """When to start. ``moved_for`` is what was in the way of the time asked for, and ``in_the_way`` what had it; both
    empty when nothing was."""

    start: float
    moved_for: str = ""
    in_the_way: str = ""


def start_at(job: Job, wanted: float, busy: Iterable[Use], room: Room = ONE_OF_EACH) -> Placed:
    """The earliest start not before ``wanted`` at which nothing collides."""
    return _placed(job, wanted, by_what(busy), room, later=True)


def ready_by(job: Job, deadline: float, now: float, busy: Iterable[Use], room: Room = ONE_OF_EACH) -> Placed:
    """The latest start from which all is done by the deadline and nothing collides.

    Raises :class:`Problem` when that start has passed already, with when it can be ready.
    """
    taken = by_what(busy)
    placed = _placed(job, deadline - job.length, taken, room, later=False)
    if placed.start < now:
        whole = minutes_and_hours(job.length)
        late = minutes_and_hours(now - placed.start)
        soonest = _placed(job, now, taken, room, later=True).start + job.length - deadline
        reason = (
            f", with {placed.moved_for} taken by {placed.in_the_way or 'another batch'}" if placed.moved_for else ""
        )
        raise Problem(
            f"It takes {whole} from the first wipe to the last label{reason}: to be ready by then you would have had "
            f"to begin {late} ago. Begun now it is ready {minutes_and_hours(soonest)} later than that. Choose a later "
            "time, a faster way of cooling or fewer pieces.",
            "when",
        )
    return placed


def _placed(job: Job, wanted: float, taken: Mapping[str, Sequence[Use]], room: Room, later: bool) -> Placed:
    def in_the_way(start: float) -> Use | None:
        return collision(job.uses, taken, room, start)

    # Clocks are kept to the minute: half of one would be rounded into what it should be clear of.
    whole = math.ceil if later else math.floor
    start: float = whole(wanted)
    first = in_the_way(start)
    if first is not None:
        # A place that just fits touches the end (or the beginning) of something else.
        touching = {
            whole(other.end - use.start if later else other.start - use.end)
            for use in job.uses
            for other in taken.get(use.what, ())
        }
        if later:
            order = sorted(minute for minute in touching if minute >= start)
        else:
            order = sorted((minute for minute in touching if minute <= start), reverse=True)
        start = next(minute for minute in order if in_the_way(minute) is None)
    # Nobody begins at thirteen minutes past: the next plain time, if that is free as well. What is to be ready by then
    # begins as late as it can, to the minute.
    plain = float(math.ceil(start / PLAIN_MIN) * PLAIN_MIN if later else start)
    if in_the_way(plain) is None:
        start = plain
    return Placed(start, NAMES[first.what] if first else "", first.by if first else "")
