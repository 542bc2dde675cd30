"""What a scale or a thermometer says at this moment, in words beside what was predicted.

The prediction of a course is corrected by how fast the thermometer has really moved so far.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from balmcore.composition import Array
from balmcore.display import Display
from balmcore.making.bench.steps import BenchStep, Task
from balmcore.making.method.heating import COOL_FIRST
from balmcore.making.method.temperatures import suffers
from balmcore.making.pot import MELTED, STAGES, Stage, heat_limit
from balmcore.making.steps import Setup
from balmcore.wording import minutes_text

NEAR_K = 1.0  # a kitchen probe's own error
FLAT_K = 0.5  # a course that moves by less stands still
FAR_BELOW_K = 4.0  # it will not come there by itself any more
ANY_MINUTE_K = 2.5  # too near for minutes to be worth saying
LEAST_MINUTES, LEAST_KELVIN = 0.5, 0.5  # less than this of a course says nothing of its speed
SLOWEST, FASTEST = 0.2, 5.0  # times as fast as predicted: what lies beyond is a probe, not a melt


@dataclass(frozen=True)
class Weighing:
    """A weight against its target: ``filled`` 0 to 1 of the bar, in words how far it is, and whether it may
    be accepted as it stands."""

    filled: float
    words: str
    is_over: bool
    is_there: bool


def weighing(grams: Decimal, target: Decimal, step: Decimal, show: Display) -> Weighing:
    """Where the scale stands on the way to a target; within a step of the scale it is there.

    >>> from balmcore.display import CELSIUS
    >>> weighing(Decimal("9.5"), Decimal("10"), Decimal("0.1"), CELSIUS).words
    '0.5 g to go'
    """
    gap = target - grams
    near = max(step, target * Decimal("0.005"))
    filled = float(min(max(grams / target, Decimal(0)), Decimal("1.15"))) if target else 0.0
    if abs(gap) <= near:
        return Weighing(filled, "there", False, True)
    if gap > 0:
        return Weighing(filled, f"{show.mass_text(gap)} to go", False, False)
    return Weighing(filled, f"{show.mass_text(-gap)} over", True, False)


@dataclass(frozen=True)
class Pan:
    """What a scale's pan says of a weighing: ``asks`` what stands there already is asked about, ``waits`` why it is not
    taken yet; ``begins`` where it is empty and the weighing can begin by itself."""

    asks: str = ""
    waits: str = ""
    begins: bool = False
    can_count: bool = False


NEAR_STEPS = Decimal("2.5")  # what an empty pan shows after an hour
# From so much more than is wanted it is hardly all of it: a hand, a spoon, another vessel.
JUMP_TIMES, JUMP_STEPS = 3, 50


def pan(
    grams: Decimal,
    target: Decimal | None,
    step: Decimal,
    is_steady: bool,
    is_known: bool,
    vessel: str,
    show: Display,
    is_counted: bool = False,
) -> Pan:
    """Whether what a scale shows is what was poured: not while it moves, and not with something on it that stood there
    before the weighing began, came at once as a vessel does, is several times what is wanted, or less on it than then;
    ``is_counted`` is True where its maker said that it counts. ``is_known`` is True where the
    weighing has begun, and what is on it was poured: less than a trembling pan shows counts as nothing, but for a
    target as small.

    >>> from balmcore.display import CELSIUS
    >>> pan(Decimal("16.3"), Decimal("40"), Decimal("0.1"), True, False, "pot", CELSIUS).asks
    '16.3 g stand on it already: is that the pot?'
    """
    if not is_steady:
        return Pan(waits="It still moves: it is taken as soon as it stands still.")
    if grams < -NEAR_STEPS * step:
        asks = f"{show.mass_text(-grams)} less than it began with: was something taken off, or is it another {vessel}?"
        return Pan(asks, asks)
    if is_known and target is not None and grams > JUMP_TIMES * target + JUMP_STEPS * step:
        asks = f"{show.mass_text(grams)}, and {show.mass_text(target)} are wanted: did something else come onto it?"
        return Pan(asks, asks, can_count=True)
    if is_known or is_counted:
        trembles = NEAR_STEPS * step
        least = trembles if target is None else max(step, min(trembles, target - step))
        return Pan(waits="" if grams >= least else "Nothing is on it yet.")
    if grams <= NEAR_STEPS * step:
        return Pan(waits="It begins at nothing.", begins=True)
    asks = f"{show.mass_text(grams)} stand on it already: is that the {vessel}?"
    return Pan(asks, f"Say first what stands on it: {asks}", can_count=True)


@dataclass(frozen=True)
class Warming:
    """A temperature against what a step aims at: minutes still to go, None where it will not come there by
    itself, how much faster than predicted it moves, and a sentence."""

    minutes: float | None
    pace: float
    sentence: str
    is_there: bool


def pace(minutes: Array, temps_c: Array, seen: Sequence[tuple[float, float]]) -> float:
    """How fast a thermometer moved against a predicted course: 1 as predicted, 2 twice as fast.

    ``minutes``, ``temps_c`` (N,) are the course; ``seen`` are minutes and temperatures really shown.
    """
    if len(seen) < 2:
        return 1.0
    (start, first), (end, last) = seen[0], seen[-1]
    if end - start < LEAST_MINUTES or abs(last - first) < LEAST_KELVIN:
        return 1.0
    expected = minute_at(minutes, temps_c, last) - minute_at(minutes, temps_c, first)
    return float(np.clip(expected / (end - start), SLOWEST, FASTEST)) if expected > 0 else 1.0


def minute_at(minutes: Array, temps_c: Array, temp_c: float) -> float:
    """The minute of a rising or falling course at which it is at a temperature; its ends outside it."""
    rising = temps_c[-1] >= temps_c[0]
    order = slice(None) if rising else slice(None, None, -1)
    along = np.maximum.accumulate(temps_c[order])
    return float(np.interp(temp_c, along, minutes[order]))


def warming(
    minutes: Array,
    temps_c: Array,
    aim_c: float,
    seen: Sequence[tuple[float, float]],
    show: Display,
    set_c: float | None = None,
) -> Warming:
    """What to say of a melt on its way; ``seen`` are minutes and temperatures shown, the last is now."""
    now, aim = seen[-1][1], show.temp_text(aim_c)
    speed = pace(minutes, temps_c, seen)
    rising = temps_c[-1] >= temps_c[0]
    left = max(0.0, minute_at(minutes, temps_c, aim_c) - minute_at(minutes, temps_c, now)) / speed
    gap = aim_c - now if rising else now - aim_c
    is_flat = abs(float(temps_c[-1] - temps_c[0])) < FLAT_K
    if set_c is not None and now <= set_c and (is_flat or not rising):
        return Warming(None, speed, "It sets at this: back on the bath with it.", False)
    if (is_flat or not rising) and now < aim_c - FAR_BELOW_K:
        return Warming(None, speed, f"It is below {aim} already: warm it again.", False)
    if is_flat:
        there = now <= aim_c + FAR_BELOW_K
        return Warming(0.0 if there else None, speed, f"{aim}." if there else f"Hotter than {aim}: wait.", there)
    if gap <= NEAR_K:
        return Warming(0.0, speed, f"{aim} is reached.", True)
    if rising:
        if gap <= ANY_MINUTE_K or left < 1:
            return Warming(left, speed, f"{aim} any minute.", False)
        return Warming(left, speed, f"{aim} in about {minutes_text(left)}.", False)
    return Warming(left, speed, f"Cool to {aim} first, about {minutes_text(left)}.", False)


HOT_STEPS = ("melt", "clear", "powders", COOL_FIRST, "seeds")


def suffering(setup: Setup, step: BenchStep, temp_c: float) -> str:
    """What of what is in the pot at a step stands a temperature least, in a sentence; empty where all of it does."""
    there: tuple[Stage, ...] = (Stage.WATER, *MELTED, Stage.POWDER)
    if step.key not in HOT_STEPS:
        there = (*there, Stage.DELICATE)
    if step.key not in (*HOT_STEPS, "delicate", "test", "cool", "water_off"):
        there = STAGES
    first = min(setup.items(*there), key=lambda item: heat_limit(item) or np.inf, default=None)
    return suffers(setup, [first] if first else [], temp_c, is_told=True)[1]


def doubt(setup: Setup, step: BenchStep, temp_c: float | None) -> str:
    """What is to be asked where a step that is about a temperature is said to be there, and the thermometer says
    otherwise; empty where nothing is."""
    course = step.course
    if (
        step.task not in (Task.WARM, Task.WAIT)
        or temp_c is None
        or step.aim_c is None
        or course is None
        or not course.asks
        or not course.temps_c.size
    ):
        return ""
    said = f"The thermometer says {setup.temp(temp_c)}"
    if hurt := suffering(setup, step, temp_c):
        return f"{said}. {hurt}"
    rises = course.temps_c[-1] >= course.temps_c[0]
    gap = step.aim_c - temp_c if rises else temp_c - step.aim_c
    return f"{said}, and {setup.temp(step.aim_c)} is wanted." if gap > FAR_BELOW_K else ""


def sets_in(minutes: Array, temps_c: Array, now_c: float, set_c: float | None, speed: float = 1.0) -> float | None:
    """Minutes until a melt that cools along a course sets, None when it does not."""
    if set_c is None or temps_c[-1] > set_c:
        return None
    return max(0.0, minute_at(minutes, temps_c, set_c) - minute_at(minutes, temps_c, now_c)) / speed
