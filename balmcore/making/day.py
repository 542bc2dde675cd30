"""Several batches of one day, laid out so that the last of them is done as early as can be."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

from balmcore.errors import Problem
from balmcore.making.method import method_for
from balmcore.making.schedule import ONE_OF_EACH, Job, Room, Use, start_at
from balmcore.making.steps import Setup

# Orders of so many are all tried; of more, plain ones and what swapping two of them gains.
ALL_ORDERS, MOST_JOBS, SWEEPS = 6, 12, 6


@dataclass(frozen=True)
class DayJob:
    """A batch of a day: as the first on a cleared bench, which is ready after ``ready_min`` minutes, and on one that an
    earlier batch left ready."""

    name: str
    first: Job
    after: Job
    ready_min: float = 0.0

    @classmethod
    def of(cls, name: str, setup: Setup) -> "DayJob":
        """What a setup is made for, by a name. Raises :class:`Problem` where it has no method."""
        first, after = (method_for(replace(setup, is_made_ready=is_ready)) for is_ready in (False, True))
        return cls(name, Job.of(first), Job.of(after), first.steps[0].length)


@dataclass(frozen=True)
class Slot:
    """A batch's place in the day; ``is_first`` where the bench is made ready for it, which it is from ``ready`` on."""

    name: str
    start: float
    end: float
    is_first: bool
    uses: tuple[Use, ...]
    ready: float


@dataclass(frozen=True)
class Day:
    """Batches laid out, in the order in which they begin."""

    slots: tuple[Slot, ...] = ()

    @property
    def end(self) -> float:
        """When the last of them is done."""
        return max(slot.end for slot in self.slots)

    @property
    def cost(self) -> tuple[float, float]:
        """What makes one day better than another: its end, then the ends of all."""
        return self.end, sum(slot.end for slot in self.slots)


def lay_out(
    jobs: Sequence[DayJob],
    start: float,
    busy: Sequence[Use] = (),
    room: Room = ONE_OF_EACH,
    is_ready: bool = False,
) -> Day:
    """The batches from a minute on, clear of what is ``busy``, in the order that is done first.

    The plain order, one after another as they are given, is among those tried: no day ends later than it. ``is_ready``
    says that the bench is ready when the day begins. Raises :class:`Problem` for none, or more than a day holds.
    """
    if not jobs:
        raise Problem("Choose at least one batch.", "batches")
    if len(jobs) > MOST_JOBS:
        raise Problem(f"{len(jobs)} batches are more than one day holds: choose up to {MOST_JOBS}.", "batches")
    plan = _Plan(start, tuple(busy), room, is_ready)
    longest = sorted(jobs, key=lambda job: -job.first.length)
    best = min((plan.of(order) for order in (list(jobs), longest)), key=lambda day: day.cost)
    if len(jobs) <= ALL_ORDERS:
        best = plan.best_of_all([], list(jobs), best)
    else:
        by_name = {job.name: job for job in jobs}
        best = plan.swapped([by_name[slot.name] for slot in best.slots], best)
    return Day(tuple(sorted(best.slots, key=lambda slot: slot.start)))


@dataclass(frozen=True)
class _Plan:
    """What every order is laid out in."""

    start: float
    busy: tuple[Use, ...]
    room: Room
    is_ready: bool

    def put(self, slots: Sequence[Slot], job: DayJob) -> Slot:
        """A batch at the earliest that the others leave."""
        taken = [*self.busy, *(use for slot in slots for use in slot.uses)]
        is_first = not slots and not self.is_ready
        kind = job.first if is_first else job.after
        earliest = slots[0].ready if slots else self.start
        placed = start_at(kind, earliest, taken, self.room).start
        ready = placed + job.ready_min if is_first else earliest
        return Slot(job.name, placed, placed + kind.length, is_first, tuple(kind.at(placed, job.name)), ready)

    def of(self, order: Sequence[DayJob]) -> Day:
        """An order, one after another."""
        slots: list[Slot] = []
        for job in order:
            slots.append(self.put(slots, job))
        return Day(tuple(slots))

    def best_of_all(self, slots: list[Slot], left: list[DayJob], best: Day) -> Day:
        """The best order that goes on from some slots; an order that ends later than the best is left."""
        if not left:
            found = Day(tuple(slots))
            return found if found.cost < best.cost else best
        for n, job in enumerate(left):
            slot = self.put(slots, job)
            if slot.end <= best.end:
                best = self.best_of_all([*slots, slot], left[:n] + left[n + 1 :], best)
        return best

    def swapped(self, order: list[DayJob], best: Day) -> Day:
        """The best that is found by swapping two at a time, as long as that gains."""
        pairs = list(combinations(range(len(order)), 2))
        for _ in range(SWEEPS):
            before = best
            for first, second in pairs:
                order[first], order[second] = order[second], order[first]
                found = self.of(order)
                if found.cost < best.cost:
                    best = found
                else:
                    order[first], order[second] = order[second], order[first]
            if best is before:
                break
        return best
