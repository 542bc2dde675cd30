"""Ways of cooling a poured piece, what each does to the clock and to the grain.

Our default is to let a skin form on the counter and then to refrigerate: the piece does not
crack or sink as deep as one chilled from hot, and it still passes quickly through the range in
which butters grain. The other ways stand beside it with their figures.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np

from balmcore.composition import Array
from balmcore.display import figure
from balmcore.errors import Problem
from balmcore.physics.firmness import Prediction
from balmcore.physics.grain import GRAINS_ABOVE_SET_K, GRAINS_BELOW_C, GRAINS_TO_C, Grain, grain, readiness
from balmcore.physics.thermal import Body, Course, Melt, Place, crowded, joined, places
from balmcore.tables import Container
from balmcore.wording import in_sentence, minutes_and_hours

NEARLY = 5.0  # points of firmness from its final one: it can be unmoulded
AT_ROOM_K = 2.0  # cool enough to be handled and labelled
DEFAULT = "rest_then_cold"
WHIPPED = "cold"  # a whipped butter is chilled anyway
GRAINLESS = 0.02  # a score below which nothing is to be seen
SAME_MIN = 5.0  # ways that differ by less are told as one


@dataclass(frozen=True)
class CoolingMethod:
    """A way of cooling: where a piece stands, leg by leg, and what people say for it. The first
    leg of ``rest_then_cold`` ends when a skin has formed."""

    key: str
    name: str
    legs: tuple[str, ...]
    reason: str


COOLING_METHODS = {
    method.key: method
    for method in (
        CoolingMethod(
            DEFAULT,
            "Rest until a skin forms, then refrigerate",
            ("counter", "refrigerator"),
            "Our default: a skin forms evenly at room temperature, so it cracks and sinks less than put cold at once; "
            "then the cold hurries it on.",
        ),
        CoolingMethod(
            "cold",
            "Refrigerate at once",
            ("refrigerator",),
            "Least time to grow grains. The rim sets before the middle, so tubes and bars sink or crack more: "
            "set them level and do not move them hot.",
        ),
        CoolingMethod(
            "counter",
            "Slowly on the counter",
            ("counter",),
            "Nothing to carry and a smooth, level top. Right for waxes and oils; "
            "butters rich in stearic fat may grain.",
        ),
        CoolingMethod(
            "freezer",
            "Into the freezer",
            ("freezer",),
            "The quickest through the graining range. Thin pieces only: it may crack, and wet air settles on it "
            "when it comes out, so let it come back to the room covered.",
        ),
        CoolingMethod(
            "cold_whip",
            "Never melted, whipped cold",
            (),
            "The butter keeps the crystals it came with and cannot turn grainy. It goes hard again within days, "
            "and waxes cannot be worked in.",
        ),
    )
}


@dataclass(frozen=True)
class Leg:
    """A stay in one place: minutes after pouring at which it begins and ends."""

    place: Place
    start: float
    end: float


@dataclass(frozen=True)
class CoolDown:
    """How the largest piece cools by one method, minutes counted from the pour.

    ``minutes`` and ``temps_c`` (N,) are the course; ``set_min`` is when a skin has formed,
    ``firm_min`` when it can be moved and unmoulded, ``label_min`` when it is back near room
    temperature and dry. ``set_min`` is None for what never sets.
    """

    method: CoolingMethod
    legs: tuple[Leg, ...]
    minutes: Array
    temps_c: Array
    set_min: float | None
    firm_min: float
    label_min: float
    grain: Grain


def body_of(container: Container, mass_g: float, density_g_ml: float, in_bath: bool = False) -> Body:
    """A filled container as a round body; one without dimensions counts as high as it is wide."""
    diameter = container.diameter_mm or 10 * (4 * container.capacity_ml / math.pi) ** (1 / 3)
    return Body.cylinder(mass_g, diameter, density_g_ml, in_bath)


@dataclass(frozen=True)
class _Poured:
    """A piece as it is poured: what every way of cooling it begins from."""

    prediction: Prediction
    body: Body
    pour_c: float
    room_c: float
    melt: Melt
    is_held: bool = True
    count: int = 1

    @cached_property
    def firm(self) -> float:
        """The firmness from which it can be moved: nearly its final one."""
        return max(self.prediction.firmness_at(self.room_c) - NEARLY, 0.0)

    def firm_after(self, course: Course) -> float | None:
        """Minutes of a course until it is firm, None when it never is. Its solids lag behind."""
        gap = self.prediction.lagging(course.temps_c, course.lags_k) - self.firm
        return course.first_minute(gap)

    @cached_property
    def readiness(self) -> float:
        """How ready its solids are to grain."""
        return readiness(self.prediction.composition)


def cool_down(
    prediction: Prediction,
    body: Body,
    pour_c: float,
    room_c: float,
    method: str = DEFAULT,
    melt: Melt | None = None,
    is_held: bool = True,
    count: int = 1,
) -> CoolDown:
    """The cooling of a piece poured at ``pour_c``; ``melt`` is its composition as a store of heat, where
    that is known already, ``is_held`` whether it was held clear before, and ``count`` how many stand in the cold
    together. Raises :class:`Problem` for a
    method that does not cool anything, or one unknown."""
    chosen = COOLING_METHODS.get(method)
    if chosen is None or not chosen.legs:
        raise Problem("Choose how it cools: on the counter, in the refrigerator or in the freezer.", "cooling")
    poured = _Poured(prediction, body, pour_c, room_c, melt or Melt(prediction.composition), is_held, count)
    return _cooled(poured, chosen)


def by_method(
    prediction: Prediction,
    body: Body,
    pour_c: float,
    room_c: float,
    melt: Melt | None = None,
    is_held: bool = True,
    count: int = 1,
) -> dict[str, CoolDown]:
    """Every way that melts, for comparison."""
    poured = _Poured(prediction, body, pour_c, room_c, melt or Melt(prediction.composition), is_held, count)
    return {key: _cooled(poured, method) for key, method in COOLING_METHODS.items() if method.legs}


def _cooled(poured: _Poured, method: CoolingMethod) -> CoolDown:
    room_c, set_c = poured.room_c, poured.prediction.set_c
    known = {key: crowded(place, poured.body, poured.count) for key, place in places(room_c).items()}
    so_far = Course(np.array([poured.pour_c]), np.array([0.0]), np.array([poured.prediction.lag_k(poured.pour_c)]))
    legs = []
    for number, key in enumerate(method.legs, 1):
        course = _from(poured, so_far, known[key])
        if number == len(method.legs):
            end = poured.firm_after(course)
        else:
            end = None if set_c is None else course.minutes_to(set_c)
        so_far, leg = _go_on(so_far, course, known[key], end)
        legs.append(leg)
    firm, gap = legs[-1].end, float(so_far.temps_c[-1]) - room_c
    if method.legs[-1] != "counter" or abs(gap) > AT_ROOM_K:
        course = _from(poured, so_far, known["counter"])
        near = course.minutes_to(room_c + math.copysign(AT_ROOM_K, gap)) if abs(gap) > AT_ROOM_K else 0.0
        so_far, leg = _go_on(so_far, course, known["counter"], near)
        legs.append(leg)
    times, temps = so_far.minutes, so_far.temps_c
    return CoolDown(
        method,
        _joined(legs),
        times,
        temps,
        None if set_c is None else so_far.minutes_to(set_c),
        firm,
        float(times[-1]),
        grain(poured.readiness, graining_minutes(times, temps, set_c), held=poured.is_held),
    )


def _from(poured: _Poured, so_far: Course, place: Place) -> Course:
    """How it goes on in a place, from where it has come to."""
    return poured.melt.course(poured.body, float(so_far.temps_c[-1]), place, lag_k=float(so_far.lags_k[-1]))


def _go_on(so_far: Course, course: Course, place: Place, stop: float | None) -> tuple[Course, Leg]:
    """The course joined on for so many minutes or, where it never comes to what was waited for, to within two degrees
    of the place's own temperature."""
    if stop is None:
        near = place.temp_c + math.copysign(AT_ROOM_K, float(course.temps_c[0]) - place.temp_c)
        stop = course.minutes_to(near) or 0.0
    keep = course.minutes < stop
    part = Course(
        np.append(course.temps_c[keep], course.temp_at(stop)),
        np.append(course.minutes[keep], stop),
        np.append(course.lags_k[keep], course.lag_at(stop)),
    )
    start = float(so_far.minutes[-1])
    return joined([so_far, part]), Leg(place, start, start + stop)


def _joined(legs: list[Leg]) -> tuple[Leg, ...]:
    """Legs of some length, those that follow in one place as one."""
    found: list[Leg] = []
    for leg in (leg for leg in legs if leg.end > leg.start):
        if found and found[-1].place == leg.place:
            leg = Leg(leg.place, found.pop().start, leg.end)
        found.append(leg)
    return tuple(found)


def graining_minutes(times: Array, temps: Array, set_c: float | None) -> float:
    """Minutes of a course spent where grains grow: from a little above setting, or 36 degrees C, to 25."""
    if set_c is None:
        return 0.0
    spent, from_c = 0.0, min(GRAINS_BELOW_C, set_c + GRAINS_ABOVE_SET_K)
    for (t0, c0), (t1, c1) in pairwise(zip(times, temps, strict=True)):
        if GRAINS_TO_C <= (c0 + c1) / 2 <= from_c:
            spent += float(t1 - t0)
    return spent


def graining(cooled: CoolDown) -> str:
    """One sentence on grain by a way of cooling."""
    if cooled.grain.score < GRAINLESS:
        return "Nothing in it grains."
    return f"Grain: {cooled.grain.word} ({figure(cooled.grain.score, 2)})."


def rivals(found: Mapping[str, CoolDown], chosen: str) -> tuple[str, ...]:
    """What one way of cooling has over each of the others, and they over it, in a sentence each."""
    own = found[chosen]
    return tuple(_against(own, other) for key, other in found.items() if key != chosen)


def _against(own: CoolDown, other: CoolDown) -> str:
    said = []
    gap = own.grain.score - other.grain.score
    if max(own.grain.score, other.grain.score) < GRAINLESS:
        said.append("nothing in it grains either way")
    elif own.grain.word == other.grain.word:
        said.append(
            f"the same grain, {own.grain.word} ({figure(own.grain.score, 2)} to {figure(other.grain.score, 2)})"
        )
    else:
        less = "less" if gap < 0 else "more"
        said.append(f"{less} grain, {own.grain.word} ({figure(own.grain.score, 2)}) to {other.grain.word} "
                    f"({figure(other.grain.score, 2)})")  # fmt: skip
    minutes = other.label_min - own.label_min
    if abs(minutes) >= SAME_MIN:
        said.append(f"ready {minutes_and_hours(abs(minutes))} {'sooner' if minutes > 0 else 'later'}")
    cold, others = own.legs[0].place.key != "counter", other.legs[0].place.key != "counter"
    if cold != others:
        said.append("it may crack and sink more" if cold else "it cracks and sinks less")
    return f"Against “{in_sentence(other.method.name)}”: {', '.join(said)}."
