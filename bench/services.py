"""What can be done at the bench. Each writes one event, and takes effect on the batch unless it is a
rehearsal; each can be taken back."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import F

from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.making.agreeing import contradiction
from balmcore.making.bench.steps import Task
from balmcore.making.scaling import MOST_PIECES
from balmcore.physics.firmness import predict
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence
from batches.models import Batch, BatchContainer, BatchFinish, BatchLine
from batches.showing.queries import planned_net_g, pot_to_fill_g
from bench.doing import growing
from bench.models import BenchRun, Event, fresh_revision
from bench.state import Bench
from bench.weights.recording import set_weight
from workshop.files import photos

MOST_MINUTES = 24 * 60


class StaleStep(Problem):
    """Another device or another tap was there first."""


@dataclass(frozen=True)
class StepCommand:
    """What is asked at a step: the bench as it stands, and the revision that the page knew of. ``written`` are the
    events that came of it."""

    bench: Bench
    after: int
    temp_c: float | None = None
    written: list[Event] = field(default_factory=list)

    @property
    def batch(self) -> Batch:
        """The batch."""
        return self.bench.batch

    def move_on(self) -> BenchRun:
        """The run with a fresh revision, if the page was not old. Raises :class:`StaleStep`."""
        run = self.bench.run
        if run.pk is None:
            run, _ = BenchRun.objects.get_or_create(batch=self.batch, is_rehearsal=False)
        fresh = fresh_revision()
        moved = BenchRun.objects.filter(pk=run.pk, revision=self.after).update(revision=fresh)
        if not moved:
            raise StaleStep(
                "Another device, or another tap, was there first: nothing was done twice. Here is how it stands."
            )
        run.revision = fresh
        return run

    def write(self, kind: str, **columns: Any) -> Event:
        """One event at the step shown, if the page was not old. It belongs into a transaction. Raises
        :class:`StaleStep`."""
        run, here = self.move_on(), self.bench.here
        before = [view.step.title for view in self.bench.steps[: self.bench.number - 1] if view.is_open]
        if before and "step" not in columns:
            columns["data"] = {**columns.get("data", {}), "before": before}
        columns = {"step": here.step.key, "title": here.step.title, "temp_c": self.temp_c, **columns}
        event = Event.objects.create(run=run, kind=kind, **columns)
        self.written.append(event)
        return event


def line_of(batch: Batch, slot: str) -> BatchLine:
    """The line in a slot of a batch. Raises :class:`Problem` where it is gone."""
    found = batch.line_of(slot)
    if found is None:
        raise Problem("That line is no longer in this batch.")
    return found


def put_weight(command: StepCommand, slot: str, grams: Decimal | None) -> None:
    """Write a line's weight down where it counts."""
    if not command.bench.run.is_rehearsal:
        set_weight(command.batch, line_of(command.batch, slot), grams)


@transaction.atomic
def weigh(command: StepCommand, grams: Decimal) -> Event:
    """So many grams more of the step's line are in its vessel. Raises :class:`Problem`."""
    require_open(command)
    if grams <= 0:
        raise Problem(
            "Nothing is weighed yet: pour first, or pass the step over."
            if not grams
            else f"{mass_words(grams)} is less than nothing: tare the scale, and weigh again."
        )
    line = line_of(command.batch, command.bench.here.step.slot)
    before = line.actual_g
    event = command.write(Event.Kind.WEIGHED, slot=line.slot, grams=grams, data={"was": _text(before)})
    put_weight(command, line.slot, (before or Decimal(0)) + grams)
    return event


@transaction.atomic
def correct(command: StepCommand, grams: Decimal) -> Event:
    """So many grams are in all of the step's line; nothing for a line that was not weighed after all. What was done
    after it stays as it is. Raises :class:`Problem`."""
    require_open(command)
    line = line_of(command.batch, command.bench.here.step.slot)
    before = line.actual_g
    if before is None:
        raise Problem("That line is not weighed yet: weigh it.", "grams")
    if grams == before:
        raise Problem(f"{mass_words(grams)} stand there already: nothing was changed.", "grams")
    line.actual_g = grams or None
    _require_enough(command)
    line.actual_g = before
    event = command.write(Event.Kind.CORRECTED, slot=line.slot, grams=grams or None, data={"was": _text(before)})
    put_weight(command, line.slot, grams or None)
    return event


def _require_enough(command: StepCommand) -> None:
    """What finishes took must have been in the pot, as its weights now stand."""
    batch = command.batch
    taken = sum((finish.taken_g or Decimal(0) for finish in batch.finishes.all()), Decimal(0))
    if taken and command.bench.pot_g < -batch.resolution_g * 5:
        there = mass_words(command.bench.pot_g + taken)
        raise Problem(f"Then only {there} were in the pot, and {mass_words(taken)} were taken from it.", "grams")


@transaction.atomic
def take(command: StepCommand, grams: Decimal) -> Event:
    """So many grams of the base were taken for the step's finish. Raises :class:`Problem`."""
    finish = command.bench.finish_of(command.bench.here.step.finish)
    if finish is None or command.bench.here.step.task is not Task.TAKE:
        raise Problem("Nothing is taken off the base at this step.")
    require_open(command)
    _require_in_pot(command, grams, finish)
    event = command.write(Event.Kind.TAKEN, grams=grams, data={"finish": str(finish.pk), "was": _text(finish.taken_g)})
    put_taken(command, finish, grams)
    return event


def _require_in_pot(command: StepCommand, grams: Decimal, finish: BatchFinish) -> None:
    left = command.bench.pot_g + (finish.taken_g or Decimal(0))
    if not grams > 0:
        raise Problem("Nothing was taken: weigh it again.")
    if grams > left + command.batch.resolution_g * 5:
        raise Problem(f"Only {mass_words(max(left, Decimal(0)))} are in the pot: {mass_words(grams)} cannot leave it.")


def put_taken(command: StepCommand, finish: BatchFinish, grams: Decimal | None) -> None:
    """What a finish took from now on, in memory and, but in a rehearsal, in the record."""
    finish.taken_g = grams
    if not command.bench.run.is_rehearsal:
        finish.save(update_fields=("taken_g",))


@transaction.atomic
def close(command: StepCommand, is_skipped: bool = False, why: str = "", grams: Decimal | None = None) -> Event:
    """The step shown is done, or passed over; ``grams`` by which the pot became lighter at it."""
    kind = Event.Kind.SKIPPED if is_skipped else Event.Kind.DONE
    return command.write(kind, text=why.strip()[:1000], grams=grams)


@dataclass(frozen=True)
class Felt:
    """What a drop told before something was added: the points it was firmer than the model, None where nothing was said
    of that, and how firm it should be."""

    shift: float | None = None
    want: float | None = None


@transaction.atomic
def dry(command: StepCommand, lighter: Decimal | None, why: str) -> Event:
    """The pot gave its water off, and is so much lighter: from now on its record goes by that. Raises
    :class:`Problem`."""
    require_open(command)
    if lighter is not None and not 0 <= lighter < command.batch.weighed_in(command.bench.tables).total:
        raise Problem(f"It cannot be lighter by {mass_words(lighter)}: weigh the pot again.", "lighter")
    event = close(command, grams=lighter, why=why)
    put_driven_off(command, lighter)
    return event


def put_driven_off(command: StepCommand, lighter: Decimal | None) -> None:
    """By how much the pot is lighter from now on."""
    command.batch.driven_off_g = lighter
    if not command.bench.run.is_rehearsal:
        command.batch.save(update_fields=("driven_off_g",))


@transaction.atomic
def add(
    command: StepCommand,
    item: Ingredient,
    grams: Decimal,
    why: str,
    finish: BatchFinish | None = None,
    felt: Felt | None = None,
) -> Event:
    """Something goes into the pot, or into what one finish took of it, that was not planned, or more of what is in it:
    it leaves its lot and counts from now on. Raises :class:`Problem`."""
    require_open(command)
    if grams <= 0:
        raise Problem("Nothing was added: give its grams.")
    batch = command.batch
    slot = item.key if finish is None else f"{item.key}.{finish.pk}"
    line = batch.line_of(slot)
    was = line.actual_g if line else None
    data: dict[str, Any] = {"was": _text(was), "is_new": line is None}
    if felt is not None and felt.shift is not None:
        data |= {"shift": felt.shift, "shift_was": batch.drop_shift}
    if felt is not None and felt.want is not None:
        data["want"] = felt.want
    event = command.write(Event.Kind.ADDED, title=item.name, slot=slot, grams=grams, text=why[:1000], data=data)
    if not command.bench.run.is_rehearsal:
        if line is None:
            position = len(batch.lines.all())
            BatchLine.objects.create(
                batch=batch, finish=finish, ingredient_key=item.key, target_g=Decimal(0), position=position
            )
            batch = Batch.objects.for_page().get(pk=batch.pk)
        set_weight(batch, line_of(batch, slot), (was or Decimal(0)) + grams)
        if "shift" in data:
            Batch.objects.filter(pk=batch.pk).update(drop_shift=data["shift"])
    return event


@transaction.atomic
def rescale(command: StepCommand, slot: str) -> Event:
    """More of a line went in than was planned: everything else grows with it, so that percentages stay.
    What was weighed already is opened again for the rest. Raises :class:`Problem`."""
    require_open(command)
    line = line_of(command.batch, slot)
    if line.actual_g is None or line.target_g <= 0 or line.actual_g <= line.target_g:
        raise Problem("There is no more of it than was planned: nothing to make up for.")
    plan = growing.rescaled_targets(command.batch, line, command.bench.tables)
    before = {key: str(value) for key, value in growing.targets(command.batch).items()}
    event = command.write(
        Event.Kind.RESCALED,
        title=f"The rest grows with {in_sentence(command.bench.tables.ingredient(line.ingredient_key).name)}",
        data={
            "was": before,
            "after": {key: str(value) for key, value in plan.items()},
            "reopened": growing.reopened_slots(command.batch, plan),
        },
    )
    put_targets(command, plan)
    return event


def put_targets(command: StepCommand, plan: Mapping[str, Decimal]) -> None:
    """What is to be weighed and taken from now on, as :func:`bench.doing.growing.targets` tells it."""
    if command.bench.run.is_rehearsal:
        return
    for line in command.batch.lines.all():
        line.target_g = plan[line.slot]
        line.save(update_fields=("target_g",))
    for finish in command.batch.finishes.all():
        finish.base_g = plan[f"base.{finish.pk}"]
        finish.save(update_fields=("base_g",))


@transaction.atomic
def measure_overrun(command: StepCommand, grams: Decimal, cup_ml: float) -> Event:
    """The whip by a full cup of it: so many grams fill so many millilitres. Raises :class:`Problem`."""
    require_open(command)
    overrun = overrun_of(predict(command.batch.to_composition(command.bench.tables)).density_g_ml, grams, cup_ml)
    event = command.write(
        Event.Kind.MEASURED, grams=grams, data={"cup_ml": cup_ml, "overrun": overrun, "was": command.batch.overrun}
    )
    put_overrun(command, overrun)
    return event


def overrun_of(density_g_ml: float, grams: Decimal, cup_ml: float) -> float:
    """Volume gained over volume before, from the weight of a full cup. Raises :class:`Problem`."""
    if grams <= 0 or cup_ml <= 0:
        raise Problem("Give the cup's room and what is in it.")
    overrun = density_g_ml * cup_ml / float(grams) - 1
    if not -0.05 <= overrun <= 4:
        raise Problem(
            f"{mass_words(grams)} in {cup_ml:.0f} mL cannot be: full of this without any air it holds "
            f"{mass_words(density_g_ml * cup_ml)}. Weigh what is in the cup alone, filled level."
        )
    return max(0.0, overrun)


def put_overrun(command: StepCommand, overrun: float) -> None:
    """How much air is in it from now on."""
    command.batch.overrun = overrun
    if not command.bench.run.is_rehearsal:
        command.batch.save(update_fields=("overrun",))


@transaction.atomic
def fill(
    command: StepCommand,
    pieces: Sequence[tuple[str, Decimal | None]],
    stayed_g: Decimal | None,
    keeps_leftover: bool,
    note: str,
) -> Event:
    """So many pieces were filled, some or all of them weighed; so much stayed in the jug."""
    require_open(command)
    bench = command.bench
    finish = bench.finish_of(bench.here.step.finish)
    net_g = planned_net_g(bench.batch, finish, bench.tables)
    weighed = [grams for _, grams in pieces if grams is not None]
    unweighed = [net_g[name] for name, grams in pieces if grams is None]
    if said := contradiction(pot_to_fill_g(bench.batch, finish, bench.tables), weighed, unweighed, stayed_g):
        raise Problem(said, "pieces")
    data = {
        "pieces": [[name, _text(grams)] for name, grams in pieces],
        "stayed": _text(stayed_g),
        "keep": keeps_leftover,
    }
    return command.write(Event.Kind.FILLED, text=note.strip()[:1000], data=data)


@transaction.atomic
def note(command: StepCommand, text: str) -> Event:
    """Something worth remembering, at the step where it happened."""
    if not text.strip():
        raise Problem("Write something, or leave the note away.")
    return command.write(Event.Kind.NOTE, text=text.strip()[:1000])


@transaction.atomic
def photograph(command: StepCommand, sent: UploadedFile) -> Event:
    """A photograph of the step shown. Raises :class:`Problem`."""
    if command.bench.run.is_rehearsal:
        raise Problem("A rehearsal keeps no photographs.", "photo")
    return command.write(Event.Kind.PHOTO, data={"file": photos.keep(sent)})


@transaction.atomic
def add_pieces(command: StepCommand, container_pk: int, count: int) -> Event:
    """So many more of a container are filled than was planned. Raises :class:`Problem`."""
    require_open(command)
    row = next((row for row in command.batch.containers.all() if row.pk == container_pk), None)
    if row is None or not 1 <= count <= MOST_PIECES:
        raise Problem("Choose which pieces there are more of.")
    event = command.write(Event.Kind.PIECES, title=row.name, data={"container": row.pk, "count": count})
    put_count(command, row.pk, count)
    return event


def put_count(command: StepCommand, container_pk: int, more: int) -> None:
    """So many more pieces of a container, or fewer."""
    if not command.bench.run.is_rehearsal:
        BatchContainer.objects.filter(pk=container_pk).update(count=F("count") + more)


@transaction.atomic
def rewarm(command: StepCommand) -> Event:
    """What is in the jug was warmed again: its pouring window begins anew. Raises :class:`Problem`."""
    require_open(command)
    step = command.bench.here.step
    if command.bench.window_min is None or not (step.is_pouring or step.task is Task.TAKE):
        raise Problem("Nothing has to be kept from setting at this step.")
    return command.write(Event.Kind.REWARMED, text="Warmed again")


@transaction.atomic
def set_timer(command: StepCommand, label: str, minutes: Decimal) -> Event:
    """A timer of the maker's own."""
    if not 0 < minutes <= MOST_MINUTES:
        raise Problem("A timer runs for something between a moment and a day: give minutes.")
    text = label.strip()[:80] or "Timer"
    return command.write(Event.Kind.TIMER, text=text, data={"minutes": float(minutes)})


@transaction.atomic
def stop_timer(bench: Bench, pk: int) -> None:
    """Put a timer away."""
    event = Event.objects.filter(run=bench.run, pk=pk, kind=Event.Kind.TIMER).first()
    if event is not None:
        event.data = {**event.data, "stopped": True}
        event.save(update_fields=("data",))
        BenchRun.objects.filter(pk=event.run_id).update(revision=fresh_revision())


def require_open(command: StepCommand) -> None:
    """Raises :class:`Problem` for a batch whose record stays as it is."""
    if command.batch.state == Batch.State.OFF:
        raise Problem("This batch was called off: its record stays as it is.")
    if command.bench.is_logged or command.batch.is_poured:
        raise Problem("This batch is in the log: its record stays as it is.")


def _text(value: Decimal | None) -> str | None:
    return None if value is None else str(value)
