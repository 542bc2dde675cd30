"""How a cold charge of wax, butter and oil becomes clear in a water bath.

The bath itself warms first. Lumps lie in a glass that takes heat slowly until half of what was
solid at 20 degrees C is molten; from then on the melt can be stirred and takes it quickly.
"""

import math

import numpy as np

from balmcore.composition import Composition
from balmcore.physics.basis import basis
from balmcore.physics.thermal import CONDUCTIVITY, Body, Course, Melt, joined
from balmcore.tables import Role

SIMMERING_C, GENTLE_C = 92.0, 78.0  # where a wax must melt; for butters and oils alone
WARM_UP_MIN = 10.0  # until a bath is hot
# Of lumps that lie, and of a melt that is stirred, in a jug in a bath (docs/model.md).
LUMPS_W_M2_K, STIRRED_W_M2_K = 10.0, 60.0
SOLID_AT_C, MOLTEN = 20.0, 0.5  # what is solid there counts as lumps, until so much of it is molten
TICK_S = 2.0  # of the integration: a lump's own time is minutes


def bath_c(composition: Composition) -> float:
    """How hot a water bath is kept for a composition, in degrees C."""
    waxy = any(line.share and line.ingredient.role == Role.WAX for line in composition.expanded.lines)
    return SIMMERING_C if waxy else GENTLE_C


def half_molten_c(melt: Melt) -> float:
    """The temperature at which half of what is solid at 20 degrees C has melted; -40 where nothing is."""
    temps = np.arange(SOLID_AT_C, 121.0, 0.5)
    compiled = basis(melt.composition.ingredients)
    state = compiled.state(melt.composition.shares[None, :], temps)
    solid = np.einsum("k,kt->t", state.mass[:, 0], state.solid[:, 0, :])
    if solid[0] <= 0:
        return -40.0
    return float(temps[np.argmax(solid <= MOLTEN * solid[0])])


def melting(
    melt: Melt,
    body: Body,
    start_c: float,
    around_c: float | None = None,
    warm_up_min: float = WARM_UP_MIN,
    part: float = 1.0,
) -> Course:
    """A cold charge on its way towards the temperature of its bath, stirred as soon as it can be; the
    bath is put on when the charge is. Something else than a bath is ``around_c`` warm, takes ``warm_up_min`` minutes,
    and gives off a ``part`` of the heat that water does.

    Raises :class:`Problem` for a body without mass, surface or volume.
    """
    hot = bath_c(melt.composition) if around_c is None else around_c
    half = half_molten_c(melt)
    stirred = 1 / (STIRRED_W_M2_K * part)
    lumps = 1 / (LUMPS_W_M2_K * part) + body.depth_m / (3 * CONDUCTIVITY)
    legs = [_warming_up(melt, body, start_c, hot, half, (lumps, stirred), warm_up_min)]
    for resistance, end in ((lumps, half), (stirred, hot)):
        if (now := float(legs[-1].temps_c[-1])) < end:
            legs.append(melt.towards(body, now, hot, resistance, end))
    return joined(legs)


def _warming_up(
    melt: Melt,
    body: Body,
    start_c: float,
    hot: float,
    half: float,
    resistances: tuple[float, float],
    warm_up_min: float,
) -> Course:
    """What happens while the bath comes from the charge's temperature to its own; ``resistances`` in m2 K/W of lumps
    and of what can be stirred."""
    table, enthalpy = melt.table
    ticks = math.ceil(warm_up_min * 60 / TICK_S)
    temps = np.full(ticks + 1, start_c)
    heat = float(np.interp(start_c, table, enthalpy))
    for n in range(ticks):
        bath = start_c + (hot - start_c) * (n + 0.5) / ticks
        temp = float(temps[n])
        resistance = resistances[temp >= half]
        heat += body.area_m2 * (bath - temp) / resistance * TICK_S / body.mass_g
        temps[n + 1] = min(bath, float(np.interp(heat, enthalpy, table)))
        heat = min(heat, float(np.interp(bath, table, enthalpy)))
    return Course.without_lag(temps, np.arange(ticks + 1) * TICK_S / 60)
