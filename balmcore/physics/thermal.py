"""Heat and time: how long a melt takes to warm, cool and set where it stands.

Enthalpy per gram is h(T) = cp T - sum phi_k dH_k/M_k. A body of mass m, area S and depth
d = V/S exchanges heat with a place at T_p::

    dT/dt = -U S (T - T_p) / (m dh/dT)      1/U = 1/h + d/(3 k)

without the second term while it is stirred. The rate depends on the temperature alone, so time
is an integral over enthalpy: between two points of the grid dh/dT is taken as constant, and the
integral is exact there. The melting plateau costs its heat.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from balmcore.composition import Array, Composition
from balmcore.errors import Problem
from balmcore.physics.basis import basis

HEAT_CAPACITY = 2.0  # J/g/K, fats and waxes alike
CONDUCTIVITY = 0.17  # W/m/K
STEP_K = 0.1  # of the table of enthalpy, linear between
NEAREST_K = 0.02  # a place's own temperature is never quite reached
FIRST_LOOK_S, LOOK_EVERY_S = 10, 30  # seconds between points of a course, dense at its start


@dataclass(frozen=True)
class Place:
    """Where something stands: heat transfer in W/m2/K and temperature in degrees C."""

    key: str
    name: str
    h_w_m2_k: float
    temp_c: float


PLACE_NAMES = {"counter": "Counter", "refrigerator": "Refrigerator", "freezer": "Freezer", "ice_bath": "Ice bath"}


def places(room_c: float) -> dict[str, Place]:
    """The places of a workshop by key, the counter at room temperature."""
    known = (
        Place("counter", PLACE_NAMES["counter"], 9, room_c),
        Place("refrigerator", PLACE_NAMES["refrigerator"], 10, 4),
        Place("freezer", PLACE_NAMES["freezer"], 12, -18),
        Place("ice_bath", PLACE_NAMES["ice_bath"], 150, 1),
    )
    return {place.key: place for place in known}


@dataclass(frozen=True)
class Body:
    """What warms or cools as one: grams, surface in m2, volume in m3."""

    mass_g: float
    area_m2: float
    volume_m3: float

    @classmethod
    def cylinder(cls, mass_g: float, diameter_mm: float, density_g_ml: float, in_bath: bool = False) -> "Body":
        """So many grams standing in a round vessel: all its surface gives heat, and in a bath only
        floor and wall take it."""
        radius = diameter_mm / 2000
        volume = mass_g / density_g_ml / 1e6
        return cls(mass_g, (1 if in_bath else 2) * math.pi * radius**2 + 2 * volume / radius, volume)

    @property
    def depth_m(self) -> float:
        """How far heat has to go inside it: volume over surface."""
        return self.volume_m3 / self.area_m2


@dataclass(frozen=True)
class Course:
    """Temperatures passed on the way from the start towards the place's, and when: both (N,)."""

    temps_c: Array
    minutes: Array

    def minutes_to(self, temp_c: float) -> float | None:
        """Minutes until a temperature is reached; None when it never is."""
        first, last = float(self.temps_c[0]), float(self.temps_c[-1])
        if not min(first, last) <= temp_c <= max(first, last):
            return None
        rising = self.temps_c if last >= first else self.temps_c[::-1]
        times = self.minutes if last >= first else self.minutes[::-1]
        return float(np.interp(temp_c, rising, times))

    def temp_at(self, minutes: float) -> float:
        """The temperature after so many minutes; the last one known after that."""
        return float(np.interp(minutes, self.minutes, self.temps_c))


@dataclass(frozen=True)
class Melt:
    """A composition as something that stores heat."""

    composition: Composition

    @cached_property
    def table(self) -> tuple[Array, Array]:
        """Enthalpy in J/g on a grid of temperatures: both (T,)."""
        temps = np.arange(-40.0, 150.0 + STEP_K / 2, STEP_K)
        compiled = basis(self.composition.ingredients)
        state = compiled.state(self.composition.shares[None, :], temps)
        latent = np.einsum("k,kt->t", compiled.enthalpy_j_g, state.mass[:, 0, None] * state.solid[:, 0, :])
        return temps, HEAT_CAPACITY * temps - latent

    def course(self, body: Body, start_c: float, place: Place, stirred: bool = False) -> Course:
        """How a body of this melt comes from ``start_c`` towards the temperature of a place.

        Raises :class:`Problem` for a body without mass, surface or volume.
        """
        if min(body.mass_g, body.area_m2, body.volume_m3) <= 0:
            raise Problem("Mass, area and volume should be above nothing.", "mass_g")
        resistance = 1 / place.h_w_m2_k + (0.0 if stirred else body.depth_m / (3 * CONDUCTIVITY))
        return self.towards(body, start_c, place.temp_c, resistance)

    def towards(
        self, body: Body, start_c: float, place_c: float, resistance: float, until_c: float | None = None
    ) -> Course:
        """The course towards a place behind a resistance in m2 K/W, as far as ``until_c`` where one is given."""
        table, enthalpy = self.table
        gap = place_c - start_c
        if abs(gap) <= NEAREST_K:
            return Course(np.array([start_c]), np.array([0.0]))
        end = place_c - math.copysign(NEAREST_K, gap)
        if until_c is not None:
            end = min(end, until_c) if gap > 0 else max(end, until_c)
        between = table[(table > min(start_c, end)) & (table < max(start_c, end))]
        temps = np.concatenate([[start_c], between if gap > 0 else between[::-1], [end]])
        heat = np.interp(temps, table, enthalpy)
        capacity = body.mass_g * np.diff(heat) / np.diff(temps)  # J/K
        away = np.abs(temps - place_c)
        seconds = capacity * resistance / body.area_m2 * np.log(away[:-1] / away[1:])
        return Course(temps, np.concatenate([[0.0], np.cumsum(seconds)]) / 60)


def joined(courses: Sequence[Course]) -> Course:
    """Courses that follow each other, as one."""
    temps, times = [courses[0].temps_c], [courses[0].minutes]
    for course in courses[1:]:
        temps.append(course.temps_c[1:])
        times.append(times[-1][-1] + course.minutes[1:])
    return Course(np.concatenate(temps), np.concatenate(times))


def minutes_to(
    composition: Composition, body: Body, start_c: float, place: Place, to_c: Sequence[float], stirred: bool = False
) -> list[float | None]:
    """Minutes until a thermometer shows each temperature, None for those that never come.

    It is looked at after 10 seconds and then every half minute, as in the worked values: up to
    half a minute more than :meth:`Course.minutes_to`, which is exact.
    """
    course = Melt(composition).course(body, start_c, place, stirred)
    return [None if (exact := course.minutes_to(temp)) is None else _seen(exact) for temp in to_c]


def _seen(minutes: float) -> float:
    looks = max(0, math.ceil((minutes * 60 - FIRST_LOOK_S) / LOOK_EVERY_S - 0.1))
    return (FIRST_LOOK_S + looks * LOOK_EVERY_S) / 60
