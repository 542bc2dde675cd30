"""How a cold charge of wax, butter and oil becomes clear in a water bath.

The bath itself warms first. Lumps alone take heat badly; the more liquid they lie in, the better it can be stirred
and the quicker they melt.
"""

import math
from dataclasses import dataclass

import numpy as np

from balmcore.composition import Array, Composition
from balmcore.physics.basis import basis
from balmcore.physics.thermal import CONDUCTIVITY, Body, Course, Melt, joined
from balmcore.tables import Role

SIMMERING_C, GENTLE_C = 92.0, 78.0  # where a wax must melt; for butters and oils alone
WARM_UP_MIN = 10.0  # until a bath is hot
# Of lumps alone and of a melt that is stirred, in a jug in a bath, and the liquid mass share from which it can be
# stirred (docs/model.md).
LUMPS_W_M2_K, STIRRED_W_M2_K, STIRRED_FROM = 10.0, 60.0, 0.3
TICK_S = 2.0  # of the integration: a lump's own time is minutes


def bath_c(composition: Composition) -> float:
    """How hot a water bath is kept for a composition, in degrees C."""
    waxy = any(line.share and line.ingredient.role == Role.WAX for line in composition.expanded.lines)
    return SIMMERING_C if waxy else GENTLE_C


@dataclass(frozen=True)
class BathResistance:
    """What a charge in its jug holds against the heat of a bath, in m2 K/W, by its temperature: ``stirred`` (T,) runs
    from 0, lumps alone, to 1 on the grid ``temps_c`` (T,). ``part`` is how much of a water bath's heat it gets."""

    temps_c: Array
    stirred: Array
    depth_m: float
    part: float = 1.0

    @classmethod
    def of(cls, melt: Melt, body: Body, part: float = 1.0) -> "BathResistance":
        """That of a melt in its jug."""
        temps, _ = melt.table
        state = basis(melt.composition.ingredients).state(melt.composition.shares[None, :], temps)
        return cls(temps, np.minimum(1.0, (1 - state.solid_share[0]) / STIRRED_FROM), body.depth_m, part)

    def at(self, temps_c: Array) -> Array:
        """The resistance at some temperatures (N,): (N,)."""
        stirred = np.interp(temps_c, self.temps_c, self.stirred)
        outside = LUMPS_W_M2_K + (STIRRED_W_M2_K - LUMPS_W_M2_K) * stirred
        found: Array = 1 / (outside * self.part) + (1 - stirred) * self.depth_m / (3 * CONDUCTIVITY)
        return found


def melting(
    melt: Melt,
    body: Body,
    start_c: float,
    around_c: float | None = None,
    warm_up_min: float = WARM_UP_MIN,
    part: float = 1.0,
) -> Course:
    """A cold charge on its way towards the temperature of its bath, stirred as far as it can be; the
    bath is put on when the charge is. Something else than a bath is ``around_c`` warm, takes ``warm_up_min`` minutes,
    and gives off a ``part`` of the heat that water does.

    Raises :class:`Problem` for a body without mass, surface or volume.
    """
    hot = bath_c(melt.composition) if around_c is None else around_c
    resistance = BathResistance.of(melt, body, part)
    first = _warming_up(melt, body, start_c, hot, resistance, warm_up_min)
    now = float(first.temps_c[-1])
    return joined([first, melt.towards(body, now, hot, resistance.at)]) if now < hot else first


def _warming_up(
    melt: Melt, body: Body, start_c: float, hot: float, resistance: BathResistance, warm_up_min: float
) -> Course:
    """What happens while the bath comes from the charge's temperature to its own."""
    table, enthalpy = melt.table
    against = resistance.at(table)
    ticks = math.ceil(warm_up_min * 60 / TICK_S)
    temps = np.full(ticks + 1, start_c)
    heat = float(np.interp(start_c, table, enthalpy))
    for n in range(ticks):
        bath = start_c + (hot - start_c) * (n + 0.5) / ticks
        temp = float(temps[n])
        heat += body.area_m2 * (bath - temp) / float(np.interp(temp, table, against)) * TICK_S / body.mass_g
        temps[n + 1] = min(bath, float(np.interp(heat, enthalpy, table)))
        heat = min(heat, float(np.interp(bath, table, enthalpy)))
    return Course.without_lag(temps, np.arange(ticks + 1) * TICK_S / 60)
