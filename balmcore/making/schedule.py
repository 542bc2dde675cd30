"""Putting a method on the clock: forwards from a start, backwards from when it should be ready,
and clear of what other batches occupy.

Times are minutes on any common clock; only differences count.
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from balmcore.errors import Problem
from balmcore.making.steps import Method
from balmcore.wording import minutes_and_hours

HANDS = "hands"
PLAIN_MIN = 5  # clock times are told in these
NAMES = {HANDS: "your hands", "stove": "the stove", "refrigerator": "the refrigerator", "freezer": "the freezer"}


@dataclass(frozen=True)
class Use:
    """Something occupied from one minute to another."""

    what: str
    start: float
    end: float

    def moved(self, by: float) -> "Use":
        """The same use at another time."""
        return Use(self.what, self.start + by, self.end + by)


def uses(method: Method) -> tuple[Use, ...]:
    """What a method occupies, counted from its start: the maker's hands, stove, refrigerator,
    freezer; uses of one thing that touch are one."""
    found: list[Use] = []
    for start, step in method.timed():
        if step.length <= 0:
            continue
        for what in (HANDS if step.hands else "", step.at):
            if what:
                found.append(Use(what, start, start + step.length))
    return tuple(_merged(found))


def _merged(found: Iterable[Use]) -> Iterator[Use]:
    for what in dict.fromkeys(use.what for use in found):
        own = sorted((use for use in found if use.what == what), key=lambda use: use.start)
        current = own[0]
        for use in own[1:]:
            if use.start <= current.end + 1e-6:
                current = Use(what, current.start, max(current.end, use.end))
            else:
                yield current
                current = use
        yield current


def collision(own: Sequence[Use], busy: Mapping[str, Sequence[Use]]) -> Use | None:
    """The first thing that is occupied already when it would be needed, None when all is free."""
    for use in own:
        for other in busy.get(use.what, ()):
            if use.start < other.end - 1e-6 and other.start < use.end - 1e-6:
                return other
    return None


def by_what(busy: Iterable[Use]) -> dict[str, list[Use]]:
    """Uses by what they occupy."""
    found: dict[str, list[Use]] = {}
    for use in busy:
        found.setdefault(use.what, []).append(use)
    return found


@dataclass(frozen=True)
class Placed:
    """When to start. ``moved_for`` is what was in the way of the time asked for, empty when
    nothing was."""

    start: float
    moved_for: str


def start_at(method: Method, wanted: float, busy: Iterable[Use]) -> Placed:
    """The earliest start not before ``wanted`` at which nothing collides."""
    return _placed(method, wanted, busy, later=True)


def ready_by(method: Method, deadline: float, now: float, busy: Iterable[Use]) -> Placed:
    """The latest start from which all is done by the deadline and nothing collides.

    Raises :class:`Problem` when that start has passed already.
    """
    placed = _placed(method, deadline - method.length, busy, later=False)
    if placed.start < now:
        whole = minutes_and_hours(method.length)
        late = minutes_and_hours(now - placed.start)
        reason = f", with {placed.moved_for} taken by another batch" if placed.moved_for else ""
        raise Problem(
            f"It takes {whole} from the first wipe to the last label{reason}: to be ready by then you would have had "
            f"to begin {late} ago. Choose a later time, a faster way of cooling or fewer pieces.",
            "when",
        )
    return placed


def _placed(method: Method, wanted: float, busy: Iterable[Use], later: bool) -> Placed:
    taken, own = by_what(busy), uses(method)

    def in_the_way(start: float) -> Use | None:
        return collision([use.moved(start) for use in own], taken)

    # A place that just fits touches the end (or the beginning) of something else.
    starts = {wanted}
    for use in own:
        for other in taken.get(use.what, ()):
            starts.add(other.end - use.start if later else other.start - use.end)
    if later:
        order = sorted(start for start in starts if start >= wanted)
    else:
        order = sorted((start for start in starts if start <= wanted), reverse=True)
    first = in_the_way(wanted)
    start = next(start for start in order if in_the_way(start) is None)
    # Nobody begins at thirteen minutes past: the next plain time, if that is free as well.
    plain = (math.ceil(start / PLAIN_MIN) if later else math.floor(start / PLAIN_MIN)) * PLAIN_MIN
    if in_the_way(plain) is None:
        start = float(plain)
    return Placed(start, NAMES[first.what] if first else "")
