"""Heat and time: how long a melt takes to warm, cool and set where it stands.

Enthalpy per gram is h(T) = cp T - L(T) with L(T) = sum phi_k(T) dH_k/M_k. A body of mass m, area S
and depth d = V/S exchanges heat with a place at T_p::

    dH/dt = -U S (T - T_p) / m      1/U = 1/h + d/(3 k)

without the second term while it is stirred. Crystals lag behind: on its way down a melt has the
solids of T + D, in enthalpy H = cp T - L(T + D), so that with u the inverse of h at H + cp D it
stands at T = u - D. D is the undercooling until the melt first comes down to where it sets; from
then on it fades, dD/dt = -D/tau.

While D does not change the rate depends on the temperature alone, so time is an integral over
enthalpy: between two points of the grid dh/dT is taken as constant, and the integral is exact
there. The melting plateau costs its heat. While D fades, it is stepped through time.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from balmcore.composition import Array, Composition
from balmcore.errors import Problem
from balmcore.physics.basis import basis
from balmcore.physics.firmness import Prediction, predict

HEAT_CAPACITY = 2.0  # J/g/K, fats and waxes alike
CONDUCTIVITY = 0.17  # W/m/K
STEP_K = 0.1  # of the table of enthalpy, linear between
NEAREST_K = 0.02  # a place's own temperature is never quite reached
LAG_FADES_S = 6000.0  # tau, a hundred minutes: what a butter takes to crystallise on a counter (docs/model.md)
NO_LAG_K = 0.02  # a lag that nothing shows any more
STRIDE_K, STRIDE = 0.4, 1 / 3  # of a step through time: no further than this, nor longer than this part of its own time
LONGEST_S = 4 * 86_400.0  # after which nothing more is looked at
FADING_POINTS = 24  # of a course that stands still while its lag fades


@dataclass(frozen=True)
class Place:
    """Where something stands: heat transfer in W/m2/K and temperature in degrees C."""

    key: str
    name: str
    h_w_m2_k: float
    temp_c: float


# Heat that a kitchen's refrigerator and freezer carry off while their machine runs, in W: rated 100 to 150 W of cold
# (ISO 15502 class of 200 litres), less what walls and doors let in; our figure. What stands on its way down is some
# 30 K warmer.
CARRIED_W, WARMER_K = {"refrigerator": 90.0, "freezer": 110.0}, 30.0

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


def crowded(place: Place, body: Body, count: int) -> Place:
    """A place with so many bodies in it: a cold one carries off only so much, and they share that."""
    if place.key not in CARRIED_W:
        return place
    share = CARRIED_W[place.key] / (count * body.area_m2 * WARMER_K)
    return replace(place, h_w_m2_k=min(place.h_w_m2_k, share))


@dataclass(frozen=True)
class Course:
    """Temperatures passed on the way from the start towards the place's, when, and by how many kelvin crystals lag
    behind then: all (N,)."""

    temps_c: Array
    minutes: Array
    lags_k: Array

    @classmethod
    def without_lag(cls, temps_c: Array, minutes: Array) -> "Course":
        """The course of what is warmed, or is liquid throughout."""
        return cls(temps_c, minutes, np.zeros_like(temps_c))

    def minutes_to(self, temp_c: float) -> float | None:
        """Minutes until a temperature is first reached; None when it never is."""
        gap = self.temps_c - temp_c
        return self.first_minute(gap if temp_c > float(self.temps_c[0]) else -gap)

    def first_minute(self, gap: Array) -> float | None:
        """The first minute at which something holds, by how far it is from holding at each point, (N,): negative until
        it does; None when it never does."""
        there = np.flatnonzero(gap >= 0)
        if not there.size:
            return None
        n = int(there[0])
        if n == 0:
            return float(self.minutes[0])
        before, after = float(gap[n - 1]), float(gap[n])
        part = before / (before - after) if before != after and math.isfinite(before) and math.isfinite(after) else 1.0
        return float(self.minutes[n - 1] + part * (self.minutes[n] - self.minutes[n - 1]))

    def temp_at(self, minutes: float) -> float:
        """The temperature after so many minutes; the last one known after that."""
        return float(np.interp(minutes, self.minutes, self.temps_c))

    def lag_at(self, minutes: float) -> float:
        """The lag after so many minutes."""
        return float(np.interp(minutes, self.minutes, self.lags_k))


@dataclass(frozen=True)
class Melt:
    """A composition as something that stores heat."""

    composition: Composition

    @cached_property
    def prediction(self) -> Prediction:
        """What it is like, unwhipped."""
        return predict(self.composition)

    @cached_property
    def table(self) -> tuple[Array, Array]:
        """Enthalpy in J/g on a grid of temperatures: both (T,)."""
        temps = np.arange(-40.0, 150.0 + STEP_K / 2, STEP_K)
        compiled = basis(self.composition.ingredients)
        state = compiled.state(self.composition.shares[None, :], temps)
        latent = np.einsum("k,kt->t", compiled.enthalpy_j_g, state.mass[:, 0, None] * state.solid[:, 0, :])
        return temps, HEAT_CAPACITY * temps - latent

    def course(
        self, body: Body, start_c: float, place: Place, stirred: bool = False, lag_k: float | None = None
    ) -> Course:
        """How a body of this melt comes from ``start_c`` towards the temperature of a place, its crystals lagging by
        ``lag_k`` as it starts, those of a melt where that is not given.

        Raises :class:`Problem` for a body without mass, surface or volume.
        """
        if min(body.mass_g, body.area_m2, body.volume_m3) <= 0:
            raise Problem("Mass, area and volume should be above nothing.", "mass_g")
        resistance = 1 / place.h_w_m2_k + (0.0 if stirred else body.depth_m / (3 * CONDUCTIVITY))
        lag = self.prediction.lag_k(start_c) if lag_k is None else lag_k
        set_c = self.prediction.set_c
        if set_c is None or lag <= NO_LAG_K:
            return self.towards(body, start_c, place.temp_c, resistance)
        if lag < self.prediction.undercooling_k or start_c <= set_c:
            return self._fading(body, (start_c, lag), place.temp_c, resistance)
        liquid = self.towards(body, start_c, place.temp_c, resistance, set_c, lag)
        if liquid.temps_c[-1] > set_c:
            return liquid
        return joined([liquid, self._fading(body, (set_c, lag), place.temp_c, resistance)])

    def towards(
        self,
        body: Body,
        start_c: float,
        place_c: float,
        resistance: float | Callable[[Array], Array],
        until_c: float | None = None,
        lag_k: float = 0.0,
    ) -> Course:
        """The course towards a place behind a resistance in m2 K/W, one for all or by temperatures (N,), as far as
        ``until_c`` where one is given, with a lag that does not change."""
        table, enthalpy = self.table
        gap = place_c - start_c
        if abs(gap) <= NEAREST_K:
            return Course(np.array([start_c]), np.array([0.0]), np.array([lag_k]))
        end = place_c - math.copysign(NEAREST_K, gap)
        if until_c is not None:
            end = min(end, until_c) if gap > 0 else max(end, until_c)
        between = table[(table > min(start_c, end)) & (table < max(start_c, end))]
        temps = np.concatenate([[start_c], between if gap > 0 else between[::-1], [end]])
        heat = np.interp(temps + lag_k, table, enthalpy)
        capacity = body.mass_g * np.diff(heat) / np.diff(temps)  # J/K
        away = np.abs(temps - place_c)
        against = resistance if isinstance(resistance, float) else resistance((temps[1:] + temps[:-1]) / 2)
        seconds = capacity * against / body.area_m2 * np.log(away[:-1] / away[1:])
        minutes = np.concatenate([[0.0], np.cumsum(seconds)]) / 60
        return Course(temps, minutes, np.full_like(temps, lag_k))

    @cached_property
    def _heat_table(self) -> tuple[float, float, list[float]]:
        """The temperatures of evenly spaced enthalpies: the first of them, how many to a J/g, and the temperatures."""
        temps, enthalpy = self.table
        heats = np.linspace(enthalpy[0], enthalpy[-1], 8192)
        return float(heats[0]), float(1 / (heats[1] - heats[0])), np.interp(heats, enthalpy, temps).tolist()

    def _fading(self, body: Body, start: tuple[float, float], place_c: float, resistance: float) -> Course:
        """The course from a temperature and a lag that fades, by the midpoint rule, until it stands at the place's
        temperature and the lag is gone."""
        (temp, lag), per_g = start, body.area_m2 / (body.mass_g * resistance)  # W/g/K
        table, enthalpy = self.table
        lowest, to_place, temps_at = self._heat_table

        def temp_of(heat: float, lag: float) -> float:
            place = (heat + HEAT_CAPACITY * lag - lowest) * to_place
            n = min(max(int(place), 0), len(temps_at) - 2)
            return temps_at[n] + (place - n) * (temps_at[n + 1] - temps_at[n]) - lag

        heat = float(np.interp(temp + lag, table, enthalpy)) - HEAT_CAPACITY * lag
        first, seconds = lag, 0.0
        temps, times, lags = [temp], [0.0], [lag]
        while seconds < LONGEST_S and not (abs(temp - place_c) <= NEAREST_K and self._stands(temp, lag, per_g)):
            rate = -per_g * (temp - place_c)
            longest = STRIDE * HEAT_CAPACITY / per_g
            step = min(longest, STRIDE_K * HEAT_CAPACITY / abs(rate)) if rate else longest
            halfway = first * math.exp(-(seconds + step / 2) / LAG_FADES_S)
            heat -= per_g * (temp_of(heat + rate * step / 2, halfway) - place_c) * step
            seconds += step
            lag = first * math.exp(-seconds / LAG_FADES_S)
            temp = temp_of(heat, lag)
            temps.append(temp)
            times.append(seconds)
            lags.append(lag)
        if lag > NO_LAG_K:
            still = np.linspace(0.0, LAG_FADES_S * math.log(lag / NO_LAG_K), FADING_POINTS)[1:]
            temps += [temp] * len(still)
            times += (seconds + still).tolist()
            lags += (lag * np.exp(-still / LAG_FADES_S)).tolist()
        return Course(np.array(temps), np.array(times) / 60, np.array(lags))

    def _stands(self, temp: float, lag: float, per_g: float) -> bool:
        """True when what it still gives as its lag fades no longer warms it."""
        table, enthalpy = self.table
        above, below = np.interp([temp + lag + STEP_K, temp + lag], table, enthalpy).tolist()
        given = ((above - below) / STEP_K - HEAT_CAPACITY) * lag / LAG_FADES_S
        return given / per_g <= NEAREST_K


def joined(courses: Sequence[Course]) -> Course:
    """Courses that follow each other, as one."""
    temps, times, lags = [courses[0].temps_c], [courses[0].minutes], [courses[0].lags_k]
    for course in courses[1:]:
        temps.append(course.temps_c[1:])
        times.append(times[-1][-1] + course.minutes[1:])
        lags.append(course.lags_k[1:])
    return Course(np.concatenate(temps), np.concatenate(times), np.concatenate(lags))


def minutes_to(
    composition: Composition, body: Body, start_c: float, place: Place, to_c: Sequence[float], stirred: bool = False
) -> list[float | None]:
    """Minutes until a thermometer shows each temperature, None for those that never come."""
    course = Melt(composition).course(body, start_c, place, stirred)
    return [course.minutes_to(temp) for temp in to_c]
