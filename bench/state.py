"""The bench as it stands: every step with what was done at it, and the one that is next.

It is worked out anew from the batch and the events, so that nothing depends on a page that is open.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal
from functools import cached_property

from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone

from balmcore.advice.verdict import Verdict, judge
from balmcore.making.bench.steps import BenchLine, BenchStep, Task, bench_steps
from balmcore.making.method import method_for
from balmcore.making.steps import Pace, Setup
from balmcore.physics.firmness import WINDOW_C, points_apart, predict
from balmcore.tables import Tables
from balmcore.trials.experience import Experience
from batches.batch_plan import setup_of
from batches.models import Batch, BatchFinish
from batches.showing.queries import planned_firmness
from bench.models import BenchRun, Event, stamp
from bench.rehearsal.overlay import rehearse
from bench.weights.recording import run_of
from workshop.models import Preferences

CLOSING = (Event.Kind.WEIGHED, Event.Kind.TAKEN, Event.Kind.DONE, Event.Kind.SKIPPED, Event.Kind.FILLED,
           Event.Kind.MEASURED)  # fmt: skip
LOGGED = "log"  # the step of the event by which the pours were written down


@dataclass(frozen=True)
class StepView:
    """A step with the event that closed it, None while it is open, and what is still to be weighed."""

    step: BenchStep
    event: Event | None
    left_g: Decimal | None
    weighed_g: Decimal | None

    @property
    def is_open(self) -> bool:
        """True until it was done or skipped."""
        return self.event is None and not (self.weighed_g is not None and not self.left_g)

    @property
    def is_skipped(self) -> bool:
        """True when its maker passed it over."""
        return self.event is not None and self.event.kind == Event.Kind.SKIPPED


@dataclass(frozen=True)
class Timer:
    """Something that will be due; ``key`` is empty for the clock of the step itself."""

    key: str
    label: str
    due: datetime

    @property
    def due_ms(self) -> int:
        """When, in milliseconds as a browser counts them."""
        return int(self.due.timestamp() * 1000)


@dataclass(frozen=True)
class Bench:
    """A batch at the bench. ``here`` is the step shown, the next one unless another was chosen; ``window_min`` how long
    its melt stays pourable off the bath, None where it does not set."""

    run: BenchRun
    batch: Batch
    tables: Tables
    prefs: Preferences
    setup: Setup
    steps: tuple[StepView, ...]
    here: StepView
    events: tuple[Event, ...]
    window_min: float | None = None

    @property
    def stamp(self) -> str:
        """What moves when anything of it does: a page that holds another one is old."""
        return stamp(self.run.begun, self.run.revision)

    @property
    def standing(self) -> list[Event]:
        """The events that were not taken back."""
        return [event for event in self.events if not event.is_undone]

    @property
    def weighing(self) -> str:
        """The name of the weighing that goes on at the step shown: what was weighed at it before is another one."""
        key = self.here.step.key
        before = sum(event.step == key for event in self.events)
        return f"{self.batch.pk}.{self.run.pk or 0}.{key}.{before}"

    @property
    def number(self) -> int:
        """The place of the step shown, from 1."""
        return self.steps.index(self.here) + 1

    @cached_property
    def places(self) -> tuple[int, ...]:
        """The number of every step as it is told: those that are one piece of work have one."""
        found: list[int] = []
        last = ""
        for n, view in enumerate(self.steps):
            name = view.step.group or view.step.key
            found.append((found[-1] if found else 0) + (name != last or not n))
            last = name
        return tuple(found)

    @property
    def place(self) -> int:
        """The number of the step shown, as it is told."""
        return self.places[self.number - 1]

    @property
    def part(self) -> tuple[int, int] | None:
        """Which part of its piece of work the step shown is, of how many; None where it is all of it."""
        parts = [n for n, place in enumerate(self.places) if place == self.place]
        return (parts.index(self.number - 1) + 1, len(parts)) if len(parts) > 1 else None

    @property
    def missing(self) -> list[tuple[StepView, bool]]:
        """What should be in the pot by the step shown and is not weighed, and whether it was passed over: it counts as
        planned."""
        return [
            (view, view.is_skipped)
            for view in self.steps[: self.number - 1]
            if view.step.task is Task.WEIGH and (view.is_open or view.is_skipped) and view.left_g
        ]

    @property
    def following(self) -> StepView | None:
        """The open step after the one shown."""
        return next((view for view in self.steps[self.number :] if view.is_open), None)

    @property
    def is_next(self) -> bool:
        """True when every step before the one shown is closed."""
        return not any(view.is_open for view in self.steps[: self.number - 1])

    @property
    def is_filled(self) -> bool:
        """True when every piece is filled, so that the pours can be written down."""
        return not any(view.is_open for view in self.steps if view.step.task is Task.FILL)

    @property
    def is_logged(self) -> bool:
        """True once the pours were written down."""
        return any(event.step == LOGGED for event in self.standing)

    @property
    def is_over(self) -> bool:
        """True when nothing is left to do."""
        return not any(view.is_open for view in self.steps)

    @cached_property
    def is_to_be_whipped(self) -> bool:
        """True while the air is still to be beaten in: what is in the pot is judged without it."""
        return self.batch.overrun > 0 and any(view.step.key == "whip" and view.is_open for view in self.steps)

    @property
    def air(self) -> float:
        """The air that is in it by now."""
        return 0.0 if self.is_to_be_whipped else self.batch.overrun

    @cached_property
    def verdict(self) -> Verdict:
        """What is really in the pot, judged as it is now, and as a drop of it felt."""
        truth = predict(self.batch.to_composition(self.tables), self.air)
        return judge(truth, self.batch.to_kind(self.tables), self.prefs.show, self.batch.drop_shift)

    @cached_property
    def whipped(self) -> float:
        """How firm it will be with its air in."""
        truth = predict(self.batch.to_composition(self.tables), self.batch.overrun)
        return max(0.0, truth.firmness_at(WINDOW_C) + self.batch.drop_shift)

    @cached_property
    def planned(self) -> float:
        """How firm it was planned, with the air that is in it by now."""
        return planned_firmness(self.batch, self.tables, self.air)

    @cached_property
    def aim(self) -> float:
        """How firm it should be: what was asked for at the last drop, or else what the plan aimed at."""
        asked = [event.data["want"] for event in self.standing if "want" in event.data]
        return float(asked[-1]) if asked else self.planned

    @cached_property
    def moved(self) -> int:
        """How many points firmer than planned, of the figures that are shown."""
        return points_apart(self.verdict.firmness, self.planned)

    @property
    def pot_g(self) -> Decimal:
        """Grams in the pot now: weighed in, less what boils away and what finishes took."""
        weighed = [line for line in self.batch.base_lines if line.actual_g]
        base = self.batch.weighed_in(self.tables)
        stays = self.batch.to_fill_g(self.tables) / base.total if base.total else Decimal(1)
        taken = sum((finish.taken_g or Decimal(0) for finish in self.batch.finishes.all()), Decimal(0))
        return sum((line.actual_g or Decimal(0) for line in weighed), Decimal(0)) * stays - taken

    @property
    def begun_at(self) -> datetime:
        """When the step shown began: as the one before it was closed."""
        closing = [event for event in self.standing if event.kind in CLOSING]
        return closing[-1].at if closing else self.run.begun

    def real_minutes(self, minutes: float) -> timedelta:
        """So many minutes of the method by the wall: fewer in a rehearsal."""
        return timedelta(minutes=minutes / self.run.speed)

    @property
    def rewarmed(self) -> list[Event]:
        """How often what is poured at the step shown was warmed again."""
        return [
            event for event in self.standing if event.kind == Event.Kind.REWARMED and event.step == self.here.step.key
        ]

    @cached_property
    def timers(self) -> tuple[Timer, ...]:
        """What is under way: the step's own clock, and those that were set."""
        found = []
        step = self.here.step
        if self.is_next and self.here.is_open and step.length and step.task in (Task.WAIT, Task.WARM, Task.DRY):
            found.append(Timer("", step.title, self.begun_at + self.real_minutes(step.length)))
        if self.is_next and self.here.is_open and self.window_min and step.is_pouring:
            since = self.rewarmed[-1].at if self.rewarmed else self.begun_at
            found.append(Timer("", "It sets", since + self.real_minutes(self.window_min)))
        for event in self.standing:
            if event.kind == Event.Kind.TIMER and not event.data.get("stopped"):
                due = event.at + self.real_minutes(event.data["minutes"])
                found.append(Timer(str(event.pk), event.text, due))
        return tuple(found)

    @property
    def clock_went_back(self) -> bool:
        """True when the computer's clock stands before what was written down last."""
        return bool(self.events) and self.events[-1].at > timezone.now() + timedelta(minutes=2)

    def finish_of(self, number: int | None) -> BatchFinish | None:
        """The finish of that number, None for the whole melt."""
        return None if number is None else list(self.batch.finishes.all())[number]


def open_bench(
    pk: int, is_rehearsal: bool, tables: Tables, prefs: Preferences, experience: Experience, at: str = ""
) -> Bench:
    """The bench of a batch; ``at`` is the key of a step to look at. Raises 404 for a batch, or a
    rehearsal, that is not there, and :class:`~balmcore.errors.Problem` where it has no method."""
    # The record is read before what it changed: were another device to write in between, an old stamp over new weights
    # is asked about at the next poll; a new stamp over old weights never would be.
    events = tuple(Event.objects.filter(run__batch=pk, run__is_rehearsal=is_rehearsal).select_related("run"))
    run = events[0].run if events else BenchRun.objects.filter(batch=pk, is_rehearsal=is_rehearsal).first()
    if run is None and is_rehearsal:
        raise Http404("No rehearsal of this batch was begun.")
    if run is not None and not events:
        events = tuple(run.events.all())
    batch = get_object_or_404(Batch.objects.for_page(), pk=pk)
    if run is None:
        run = run_of(batch)
    if is_rehearsal:
        rehearse(batch, [event for event in events if not event.is_undone])
    return _bench(batch, run, events, tables, prefs, experience.pace, at)


def carried_on(bench: Bench, written: Sequence[Event], at: str = "") -> Bench:
    """The bench after events that it wrote itself, whose effects its batch has already: nothing is read again."""
    run = written[-1].run if written else bench.run
    return _bench(bench.batch, run, (*bench.events, *written), bench.tables, bench.prefs, bench.setup.pace, at)


def _bench(
    batch: Batch,
    run: BenchRun,
    events: tuple[Event, ...],
    tables: Tables,
    prefs: Preferences,
    pace: Pace,
    at: str,
) -> Bench:
    setup = setup_of(batch, tables, prefs.show, pace)
    made = method_for(setup)
    steps = bench_steps(setup, made, bench_lines(batch, tables))
    views = tuple(_view(step, batch, events) for step in steps)
    following = next((view for view in views if view.is_open), views[-1])
    here = next((view for view in views if view.step.key == at), following)
    window_min = None if setup.is_whipped else made.window_min
    return Bench(run, batch, tables, prefs, setup, views, here, events, window_min)


def _is_nothing(event: Event) -> bool:
    """True for a weight of nothing, as a weigh sheet can say: such a line is not weighed."""
    return event.kind == Event.Kind.WEIGHED and not event.grams


def bench_lines(batch: Batch, tables: Tables) -> list[BenchLine]:
    """What is weighed for a batch, in the order of the pot and then by finish."""
    numbers = {finish.pk: n for n, finish in enumerate(batch.finishes.all())}
    return [
        BenchLine(
            line.slot,
            tables.ingredient(line.ingredient_key),
            line.target_g,
            None if line.finish_id is None else numbers[line.finish_id],
            line.drops,
        )
        for line in batch.lines.all()
    ]


def _view(step: BenchStep, batch: Batch, events: Sequence[Event]) -> StepView:
    """A step with what closed it; rescaling opens what it asks more of again, and so does a weight taken out."""
    closed: Event | None = None
    for event in events:
        if event.is_undone:
            continue
        if event.kind == Event.Kind.RESCALED and step.slot in event.data["reopened"]:
            closed = None
        elif event.step == step.key and event.kind == Event.Kind.CORRECTED:
            closed = None if event.grams is None else event
        elif event.step == step.key and event.kind in CLOSING and not _is_nothing(event):
            closed = event
    line = batch.line_of(step.slot)
    weighed = line.actual_g if line else None
    left = None if step.target_g is None else max(step.target_g - (weighed or Decimal(0)), Decimal(0))
    return StepView(step, closed, left, weighed)
