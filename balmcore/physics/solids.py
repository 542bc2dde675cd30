"""How much of a fat and wax mixture is solid at a temperature.

Each species k of a mixture of n_k moles dissolves up to the mole share of ideal solubility
(Hildebrand 1929; for fats Wesdorp 1990)::

    s_k(T) = exp(-dH_k/R (1/T - 1/Tm_k))   below its melting point, unlimited above it.

The liquid holds L moles, the largest root of  f(L) = sum min(n_k, s_k L) - L.

All functions work on whole arrays: species run along the first axis, everything else
broadcasts, so one composition at many temperatures, many compositions at one temperature
and both at once are the same call.
"""

import numpy as np

from balmcore.composition import Array

GAS_CONSTANT = 8.314462618  # J/mol/K, CODATA 2018
KELVIN = 273.15  # at nought degrees Celsius, by definition
TINY = 1e-30  # moles per gram; less than this is nothing
UNLIMITED = 1e12  # finite, so that a species not there never gives 0 times infinity


def solubility(melt_c: Array, dh_j_mol: Array, temps_c: Array) -> Array:
    """Ideal solubility as mole share, ``UNLIMITED`` where the species is molten.

    Shapes: ``melt_c`` and ``dh_j_mol`` (K,), ``temps_c`` (T,); returns (K, T).
    """
    melt_k = melt_c[:, None] + KELVIN
    temp_k = temps_c[None, :] + KELVIN
    exponent = np.minimum(dh_j_mol[:, None] / GAS_CONSTANT * (1 / melt_k - 1 / temp_k), 0.0)
    return np.where(temp_k < melt_k, np.exp(exponent), UNLIMITED)


def liquid_moles(moles: Array, soluble: Array, always: Array) -> Array:
    """Moles of liquid L: the largest root of always + sum min(n, s L) = L.

    Shapes: ``moles`` and ``soluble`` (K, ...) broadcast to (K, *S); ``always``, the moles of
    what never freezes in range, broadcasts to S; returns S.
    f is concave and piecewise linear, so Newton's steps from the right (L = sum n, all
    molten) fall to the largest root without passing it and end after at most K steps.
    A mixture with nothing molten and sum s <= 1 ends at L = 0.
    """
    liquid: Array = (always + np.add.reduce(moles, axis=0)) * np.ones_like(soluble[0])
    for _ in range(len(moles) + 1):
        saturated = soluble * liquid < moles
        dissolved = always + np.add.reduce(moles * ~saturated, axis=0)
        slope = 1 - np.add.reduce(soluble * saturated, axis=0)
        # The slope is not positive only at L = 0, and there nothing is dissolved either.
        lower = dissolved / np.maximum(slope, TINY)
        if (lower >= liquid).all():
            break
        liquid = lower
    return liquid


def molten_part(moles: Array, soluble: Array, always: Array) -> Array:
    """Share of each species that is molten or dissolved, 0 to 1; of no meaning where n = 0.

    Shapes as for :func:`liquid_moles`; returns (K, *S).
    """
    return np.minimum(soluble * liquid_moles(moles, soluble, always) / np.maximum(moles, TINY), 1.0)
