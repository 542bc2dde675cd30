"""Ways of cooling a poured piece, what each does to the clock and to the grain.

Our default is to let a skin form on the counter and then to refrigerate: the piece does not
crack or sink as deep as one chilled from hot, and it still passes quickly through the range in
which butters grain. The other schools stand beside it with their figures.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from balmcore.errors import Problem
from balmcore.physics.firmness import Prediction
from balmcore.physics.grain import FROM_SET_TO_C, Grain, grain
from balmcore.physics.solids import Array
from balmcore.physics.thermal import Body, Course, Melt, Place, places
from balmcore.tables import Container

NEARLY = 5.0  # points of firmness from its final one: it can be unmoulded
AT_ROOM_K = 2.0
DEFAULT = "rest_then_cold"


@dataclass(frozen=True)
class School:
    """A way of cooling: where a piece stands, leg by leg, and what people say for it. The first
    leg of ``rest_then_cold`` ends when a skin has formed."""

    key: str
    name: str
    legs: tuple[str, ...]
    reason: str


SCHOOLS = {
    school.key: school
    for school in (
        School(
            DEFAULT,
            "Rest until a skin forms, then refrigerate",
            ("counter", "refrigerator"),
            "Our default: a skin forms evenly, so it cracks and sinks less, and the cold then hurries it "
            "through the range where butters turn grainy.",
        ),
        School(
            "cold",
            "Refrigerate at once",
            ("refrigerator",),
            "Least time to grow grains. The rim sets before the middle, so tubes and bars sink or crack more; "
            "set them level and do not move them hot.",
        ),
        School(
            "counter",
            "Slowly on the counter",
            ("counter",),
            "Nothing to carry and a smooth, level top. Right for waxes and oils; "
            "butters rich in stearic fat may grain.",
        ),
        School(
            "freezer",
            "Into the freezer",
            ("freezer",),
            "The quickest through the graining range. Thin pieces only: it may crack, and wet air settles on it "
            "when it comes out, so let it come back to the room covered.",
        ),
        School(
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
    """How the largest piece cools by one school, minutes counted from the pour.

    ``minutes`` and ``temps_c`` (N,) are the course; ``set_min`` is when a skin has formed,
    ``firm_min`` when it can be moved and unmoulded, ``label_min`` when it is back near room
    temperature and dry. ``set_min`` is None for what never sets.
    """

    school: School
    legs: tuple[Leg, ...]
    minutes: Array
    temps_c: Array
    set_min: float | None
    firm_min: float
    label_min: float
    grain: Grain


def body_of(container: Container, mass_g: float, density_g_ml: float) -> Body:
    """A filled container as a round body; one without dimensions counts as high as it is wide."""
    diameter = container.diameter_mm or 10 * (4 * container.capacity_ml / math.pi) ** (1 / 3)
    return Body.cylinder(mass_g, diameter, density_g_ml)


def cool_down(
    prediction: Prediction,
    body: Body,
    pour_c: float,
    room_c: float,
    school: str = DEFAULT,
    melt: Melt | None = None,
) -> CoolDown:
    """The cooling of a piece poured at ``pour_c``; ``melt`` is its formula as a store of heat, where
    that is known already. Raises :class:`Problem` for a school that
    does not cool anything, or one unknown."""
    chosen = SCHOOLS.get(school)
    if chosen is None or not chosen.legs:
        raise Problem("Choose how it cools: on the counter, in the refrigerator or in the freezer.", "school")
    known, melt = places(room_c), melt or Melt(prediction.formula)
    set_c = prediction.set_c
    ends = [*(set_c for _ in chosen.legs[:-1]), _firm_at(prediction, room_c)]
    temps, times = np.array([pour_c]), np.array([0.0])
    legs = []
    for key, end in zip(chosen.legs, ends, strict=True):
        course = melt.course(body, float(temps[-1]), known[key])
        times, temps, leg = _go_on(times, temps, course, known[key], end)
        legs.append(leg)
    firm = legs[-1].end
    if chosen.legs[-1] != "counter" or abs(temps[-1] - room_c) > AT_ROOM_K:
        course = melt.course(body, float(temps[-1]), known["counter"])
        near = room_c + math.copysign(AT_ROOM_K, float(temps[-1]) - room_c)
        times, temps, leg = _go_on(times, temps, course, known["counter"], near)
        legs.append(leg)
    return CoolDown(
        chosen,
        _joined(legs),
        times,
        temps,
        _when(times, temps, set_c),
        firm,
        float(times[-1]),
        grain(prediction.formula, graining_minutes(times, temps, set_c)),
    )


def _firm_at(prediction: Prediction, room_c: float) -> float:
    """The temperature at which a piece has nearly its final firmness."""
    final = prediction.firmness_at(room_c)
    return prediction.hold_c(max(final - NEARLY, 0.0)) or room_c


def _go_on(times: Array, temps: Array, course: Course, place: Place, end: float | None) -> tuple[Array, Array, Leg]:
    """The course joined on, up to the temperature ``end`` or, where that is never reached, to a
    place within two degrees of the room's own."""
    last = float(course.minutes[-1])
    near = place.temp_c + math.copysign(AT_ROOM_K, float(course.temps_c[0]) - place.temp_c)
    stop = course.minutes_to(end) if end is not None else None
    if stop is None:
        stop = 0.0 if end is not None and end >= course.temps_c[0] else course.minutes_to(near) or min(last, 0.0)
    keep = course.minutes < stop
    start = float(times[-1])
    more = np.append(course.minutes[keep], stop)
    return (
        np.concatenate([times, start + more]),
        np.concatenate([temps, np.append(course.temps_c[keep], course.temp_at(stop))]),
        Leg(place, start, start + stop),
    )


def _joined(legs: list[Leg]) -> tuple[Leg, ...]:
    """Legs of some length, those that follow in one place as one."""
    found: list[Leg] = []
    for leg in (leg for leg in legs if leg.end > leg.start):
        if found and found[-1].place == leg.place:
            leg = Leg(leg.place, found.pop().start, leg.end)
        found.append(leg)
    return tuple(found)


def _when(times: Array, temps: Array, temp_c: float | None) -> float | None:
    """The first minute at or below a temperature."""
    if temp_c is None:
        return None
    below = np.flatnonzero(temps <= temp_c + 1e-9)
    return float(times[below[0]]) if below.size else None


def graining_minutes(times: Array, temps: Array, set_c: float | None) -> float:
    """Minutes of a course spent between setting and 25 degrees C."""
    if set_c is None:
        return 0.0
    spent = 0.0
    for (t0, c0), (t1, c1) in pairwise(zip(times, temps, strict=True)):
        if FROM_SET_TO_C <= (c0 + c1) / 2 <= set_c:
            spent += float(t1 - t0)
    return spent


def by_school(prediction: Prediction, body: Body, pour_c: float, room_c: float) -> dict[str, CoolDown]:
    """Every school that melts, for comparison."""
    melt = Melt(prediction.formula)
    melting = [school.key for school in SCHOOLS.values() if school.legs]
    return {key: cool_down(prediction, body, pour_c, room_c, key, melt) for key in melting}


def graining(cooled: CoolDown) -> str:
    """One sentence on grain by a school."""
    if cooled.grain.score < 0.02:
        return "Nothing in it grains."
    return f"Grain: {cooled.grain.word} ({cooled.grain.score:.2f})."
