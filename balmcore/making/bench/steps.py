"""A method as it is worked at the bench: one thing at a time, each with what the instruments should show.

A line of the method that weighs becomes a step for every ingredient, what is for one finish alone into the glass of
that finish, before anything is warm; a finish becomes taking its base, stirring its glass in and filling its pieces.
Steps that are one piece of work share a ``group``. Keys are unique and stay the same while weights change, so that
what was done is known again after a reload.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum

from balmcore.composition import Array
from balmcore.display import Display
from balmcore.making.method.dividing import plainest_first
from balmcore.making.method.heating import COOL_FIRST
from balmcore.making.method.pouring import DENT
from balmcore.making.pot import Stage, coldest_c
from balmcore.making.steps import AGAIN, FINISH, HARDEST_FIRST, IN_ORDER, MELTS_TOGETHER, Method, PotEntry, Setup, Step
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence, listed

NO_DRAIN = "Nothing of it goes down the sink: wax sets in the pipe. Wipe with paper while it is warm."
DRY_FROM = Decimal("0.9")  # of what should leave: what the table says is a mean
DUST = "Powder flies: mask or arm's length, lid of the sieve down, no draught."
OWN_GLASS = "Into a small glass of its own, covered: it goes in off the heat."
COUNT_ALL = "Then count all pieces, those of the pitchers before too."
POT = "pot"
COOLING, COOLED = "Cooling", ("cool_counter", "cool_refrigerator", "cool_freezer", "cool_ice_bath")


class Task(StrEnum):
    """What a step asks for: something done, weighed, taken, counted, brought to a temperature, tested,
    filled, measured, waited for, or dried until its weight no longer falls."""

    DO = "do"
    WEIGH = "weigh"
    TAKE = "take"
    COUNT = "count"
    WARM = "warm"
    TEST = "test"
    FILL = "fill"
    MEASURE = "measure"
    WAIT = "wait"
    DRY = "dry"


@dataclass(frozen=True)
class BenchLine:
    """Something to be weighed: its slot, how much, the number of the finish it belongs to, drops per piece."""

    slot: str
    ingredient: Ingredient
    target_g: Decimal
    finish: int | None = None
    drops: int = 0


@dataclass(frozen=True)
class BenchStep:
    """One step at the bench. ``target_g`` and ``slot`` are of what is weighed, ``finish`` is the number of
    the finish it is for. ``aim_c`` is None where no temperature counts; ``minutes`` and ``temps_c`` (N,)
    are the course of the melt, as in :class:`~balmcore.making.steps.Step`. ``vessel`` is what stands on the scale.
    ``group`` names the piece of work that it is a part of, empty where it is one by itself."""

    key: str
    task: Task
    title: str
    text: str = ""
    reason: str = ""
    caution: str = ""
    length: float = 0.0
    target_g: Decimal | None = None
    slot: str = ""
    finish: int | None = None
    into: tuple[PotEntry, ...] = ()
    aim: str = ""
    aim_c: float | None = None
    course: Step | None = None
    vessel: str = POT
    group: str = ""

    @property
    def minutes(self) -> Array | None:
        """Minutes of the melt's course, None where there is none."""
        return self.course.minutes if self.course is not None and self.course.minutes.size else None

    @property
    def base_key(self) -> str:
        """Its key, whichever of several pitchers it is about."""
        return self.key.partition(AGAIN)[0]

    @property
    def is_pouring(self) -> bool:
        """True while the melt sets in what it is poured from."""
        return self.task is Task.FILL or self.base_key in ("pour", "fill")

    @property
    def is_weighing(self) -> bool:
        """True where the scale is looked at."""
        return self.task in (Task.WEIGH, Task.TAKE, Task.MEASURE)


def is_same_vessel(before: BenchStep, after: BenchStep) -> bool:
    """True where what stood on the scale at one step stands there at the next: the pot, or the glass of one finish."""
    if before.key == after.key:
        return True
    return before.vessel == after.vessel and (before.vessel == POT or before.group == after.group != "")


def weighing_key(slot: str, drops: int = 0) -> str:
    """The key of the step at which a slot is weighed or, where drops are counted, counted."""
    return f"{'count' if drops else 'weigh'}:{slot}"


def bench_steps(setup: Setup, method: Method, lines: Sequence[BenchLine]) -> tuple[BenchStep, ...]:
    """A method as steps at the bench; ``lines`` are all that is weighed, in the order of the pot."""
    # A day's rest is nothing to be done: it is said where the lids go on.
    rest = " ".join(step.text for step in method.steps if step.key == "rest")
    steps = (replace(step, text=f"{step.text} {rest}") if _is_last(step) else step for step in method.steps)
    return tuple(step for each in steps if each.key != "rest" for step in _expanded(setup, each, lines))


def _is_last(step: Step) -> bool:
    return step.key in ("finish", "fill")


def _expanded(setup: Setup, step: Step, lines: Sequence[BenchLine]) -> Iterator[BenchStep]:
    base = [line for line in lines if line.finish is None and line.target_g]
    when = {line.slot: setup.stage_of(line.ingredient) for line in base}
    wet = Stage.WATER in when.values()
    first = (Stage.WATER, Stage.OIL) if wet else ()
    if step.key == "weigh_wet":
        yield from (_weighed(line, step, when[line.slot]) for line in base if when[line.slot] in first)
    elif step.key == "weigh":
        yield from (
            _weighed(line, step, when[line.slot], _each_pitcher(setup, line))
            for line in base
            if when[line.slot] not in first
        )
        yield from _glasses(setup, step, lines)
    elif step.key.startswith(FINISH):
        number = int(step.key.removeprefix(FINISH))
        yield from _finish(setup, step, number, [line for line in lines if line.finish == number])
    elif step.key == "water_off":
        yield replace(_plain(step, Task.DRY), target_g=leaves_g(setup))
    elif step.key in ("pour", "fill"):
        filled = _plain(step, Task.FILL)
        yield replace(filled, text=f"{step.text} {COUNT_ALL}") if step.round else filled
    elif step.key.startswith(COOLED) or step.key == "top_up":
        yield replace(_plain(step, _task(step)), group=COOLING)
    else:
        yield _plain(_together(step) if step.base_key == "melt" else step, _task(step))
        # A drop tells of what is in the pot: with what is delicate, where there is any.
        if step.base_key == ("delicate" if setup.items(Stage.DELICATE) else "clear") and step.round in (0, 1):
            yield _tested(setup, step)
        if step.key == "whip":
            yield _measured(setup)


def _together(step: Step) -> Step:
    """Melting as it is at the bench, where all of it was weighed into one pot."""
    text = step.text.replace(IN_ORDER, "all that was weighed into it, together")
    return replace(step, text=text, reason=step.reason.replace(HARDEST_FIRST, MELTS_TOGETHER))


def leaves_g(setup: Setup) -> Decimal:
    """Grams that boil away, as far as the table knows."""
    return Decimal(str(round(setup.total_g - setup.left_g, 6)))


def still_wet(leaves: Decimal, lighter: Decimal | None, step_g: Decimal, show: Display) -> str:
    """What is to be said of a pot that became so many grams lighter as its water was driven off, of those that should
    leave; empty where it is dry. None for one that was not weighed."""
    if lighter is None:
        return "Weigh the pot again: by how much it is lighter tells whether the water is gone."
    if lighter >= leaves * DRY_FROM - step_g:
        return ""
    return (
        f"Only {show.mass_text(lighter)} of {show.mass_text(leaves)} are gone: it still holds water. Keep it warm and "
        "weigh it again."
    )


def _each_pitcher(setup: Setup, line: BenchLine) -> str:
    """How much of a line each of several pitchers takes."""
    if setup.rounds == 1:
        return ""
    return f"{setup.mass(float(line.target_g) / setup.rounds)} into each of {setup.rounds} pitchers. "


def _task(step: Step) -> Task:
    if step.base_key in ("melt", COOL_FIRST, "cool", "cool_to_pour", "chill"):
        return Task.WARM
    return Task.WAIT if step.base_key == "clear" or (not step.hands and step.length) else Task.DO


def _plain(step: Step, task: Task) -> BenchStep:
    caution = step.caution
    if step.base_key == "powders":
        caution = f"{caution} {DUST}".strip()
    if step.base_key in ("pour", "finish", "fill", "top_up"):
        caution = f"{caution} {NO_DRAIN}".strip()
    return BenchStep(
        step.key,
        task,
        step.title,
        step.text,
        step.reason,
        caution,
        step.length,
        into=step.into,
        aim=step.aim,
        aim_c=step.aim_c if step.aim else None,
        course=step,
        group=step.title,
    )


def _weighed(line: BenchLine, step: Step, stage: Stage, each: str = "") -> BenchStep:
    text = f"{each}Tare, then pour what is wanted."
    if stage in (Stage.DELICATE, Stage.COOL):
        text = f"{OWN_GLASS} {text}"
    caution = DUST if line.ingredient.is_powder else ""
    if stage is Stage.WATER:
        caution = "Its spirit burns and its water spits: no flame, a pot of its own, before any wax."
    return BenchStep(
        weighing_key(line.slot),
        Task.WEIGH,
        line.ingredient.name,
        text,
        step.reason,
        caution,
        target_g=line.target_g,
        slot=line.slot,
        finish=line.finish,
        vessel="glass" if stage in (Stage.DELICATE, Stage.COOL) or line.finish is not None else POT,
    )


def _glasses(setup: Setup, step: Step, lines: Sequence[BenchLine]) -> Iterator[BenchStep]:
    """What is for one finish alone, weighed into its glass before anything is warm: later its portion would set."""
    for number in plainest_first(setup):
        name = setup.portions[number].finish.name
        own = [line for line in lines if line.finish == number and not line.drops]
        for line in own:
            weighed = _weighed(line, step, setup.stage_of(line.ingredient))
            text = f"Into a small glass with “{name}” on it, covered. Tare, then pour what is wanted."
            reason = "Weighed now, it is stirred in at once when its portion is taken: later that would set meanwhile."
            yield replace(weighed, text=text, reason=reason, group=f"Glass for “{name}”")


def _tested(setup: Setup, after: Step) -> BenchStep:
    kept = max(setup.handling.pour_c, coldest_c(setup.left) or 0.0)
    return BenchStep(
        "test",
        Task.TEST,
        "Test a drop",
        "A drop on a cold plate, five minutes in the cold, then at room temperature under the thumb; a dab on the "
        "skin. Right? Go on. Too soft, too hard, grainy? Say so, and put it right while all is in one pot.",
        "Now it costs a spoon of wax or oil; poured, it costs the whole melt.",
        f"Keep it warm meanwhile, {setup.heat.keeps}, never over a flame. {after.flash}".strip(),
        aim="keep at",
        aim_c=min(kept, after.aim_c),
    )


def _measured(setup: Setup) -> BenchStep:
    return BenchStep(
        "overrun",
        Task.MEASURE,
        "Weigh a full cup of it",
        "Fill a small cup level to its brim, weigh what is in it, give the cup's room, and put it back.",
        f"So much air decides how soft it is and what a jar weighs; {setup.handling.overrun * 100:.0f} % more room was "
        f"planned, from a firmness of {DENT:.0f} when a finger dents it.",
        vessel="cup",
    )


def _finish(setup: Setup, step: Step, number: int, lines: Sequence[BenchLine]) -> Iterator[BenchStep]:
    """Taking the base, and filling with what its glass holds stirred in, for one finish."""
    portion = setup.portions[number]
    name = portion.finish.name
    glass = [in_sentence(line.ingredient.name) for line in lines if not line.drops]
    yield BenchStep(
        f"take:{number}",
        Task.TAKE,
        f"Base for “{name}”",
        "A small warm jug on the scale, tare, pour from the pot. What is left stays warm on the bath.",
        step.reason,
        f"Hot wax: the jug stands on the scale, not in the hand. {step.flash}".strip(),
        target_g=portion.base_g,
        finish=number,
        course=step if step.aim else None,
        vessel="jug",
        group=step.title,
        aim=step.aim,
        aim_c=step.aim_c if step.aim else None,
    )
    for line in lines:
        if line.drops:
            drops = f"{line.drops} drop{'' if line.drops == 1 else 's'}"
            yield BenchStep(
                weighing_key(line.slot, line.drops),
                Task.COUNT,
                f"{drops} in each",
                f"{drops} of {in_sentence(line.ingredient.name)} into each of {portion.finish.count}, as they are "
                "poured; stir each with a stick.",
                target_g=line.target_g,
                slot=line.slot,
                finish=number,
                group=step.title,
            )
    yield BenchStep(
        f"fill:{number}",
        Task.FILL,
        step.title,
        (f"Stir the glass for “{name}” in: {listed(glass)}. " if glass else "")
        + f"Fill {portion.finish.count}, level, without talking: it sets while you do.",
        step.reason,
        f"{step.caution} {NO_DRAIN}".strip(),
        step.length,
        finish=number,
        aim=step.aim,
        aim_c=step.aim_c if step.aim else None,
        course=step,
        group=step.title,
    )
