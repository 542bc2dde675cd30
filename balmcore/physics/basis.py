"""Ingredients as arrays, and what any composition of them is like at any temperature: solids, structure, yield.

Structuring solids E (each ingredient's solids times its strength, of the mass that is no
powder) give a yield stress; powders take nothing from the network and stiffen it as a filler
with v their volume share (Guth & Gold 1938)::

    Y = A E^m exp(-b (T - 20)) (1 + 2.5 v + 14.1 v^2)

The exponent is that of fat networks and wax gels, whose yield rises near the third power of
solids (Haighton 1959; Narine & Marangoni 1999). Volume follows the solids: a gram of crystals
takes 0.10 mL less than the same gram molten::

    v(T) = sum w/rho (1 + 0.00075 (T - 25)) + 0.10 (sum over waxes w phi_alone(25) - phi(T))

with rho the table's density, of the solid for waxes and of the melt at 25 degrees C for all else.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from balmcore.composition import Array
from balmcore.physics.solids import molten_part, solubility
from balmcore.tables import Ingredient, Role, Species
from balmcore.tables.correction import group_of

# A of the power law, fitted so that the kinds' usual compositions lie in their windows (docs/model.md).
YIELD_PA = 1.75e6
EXPONENT = 2.8  # near the third power of solids (Haighton 1959; Narine & Marangoni 1999)
WORKED = 0.4  # of the yield is left once the crystal network was broken by whipping (Haighton 1965)
SOFTENING_PER_K = 0.045  # b: a network of the same solids gives more when it is warmer; fitted with A
REFERENCE_C = 20.0  # at which A is told
POINTS_PER_K = 25 * SOFTENING_PER_K / math.log(10)  # of firmness that the same solids lose as they warm
FILLER, FILLER_SQUARED = 2.5, 14.1  # of the volume share of powders (Guth & Gold 1938)
EXPANSION_PER_K = 0.00075  # of the volume of fats and waxes, per kelvin above 25 degrees C
CRYSTALS_ML_G = 0.10  # less than molten, per gram
DENSITY_C = 25.0  # at which densities and volumes are told
# Keeps the arrays of liquids alone whole: it melts, and none of them holds it.
ABSENT = Species("absent", 60.0, 1e5, 500.0)


def whipped_part(overrun: float) -> float:
    """What whipping leaves of the yield: (1 + r)^-2 for the air, and a part for the working."""
    return WORKED / (1 + overrun) ** 2 if overrun > 0 else 1.0


def firmness_lost(overrun: float) -> float:
    """Points of firmness that whipping takes.

    >>> round(firmness_lost(1.0), 6), firmness_lost(0.0)
    (25.0, 0.0)
    """
    return abs(25 * math.log10(whipped_part(overrun)))


def firmness_of(yield_pa: Array) -> Array:
    """Firmness of a yield stress, not clipped; minus infinity for a liquid. Any shape."""
    with np.errstate(divide="ignore"):
        return 25 * (np.log10(yield_pa) - 2)


@dataclass(frozen=True)
class State:
    """What a composition is like; every array has the shape (compositions, temperatures).

    ``solid`` is the solid part of every melting species, (K, P, T), and ``mass`` (K, P) the
    species' mass per mass of product; ``structuring`` is E.
    """

    solid: Array
    mass: Array
    structuring: Array
    yield_pa: Array

    def at(self, places: NDArray[np.intp]) -> "State":
        """The state at some of its temperatures, by their places among them."""
        return State(self.solid[:, :, places], self.mass, self.structuring[:, places], self.yield_pa[:, places])

    @property
    def solid_share(self) -> Array:
        """Mass of solids per mass of product, powders not counted."""
        result: Array = np.einsum("kp,kpt->pt", self.mass, self.solid)
        return result

    @property
    def unclipped(self) -> Array:
        """Firmness without a floor: minus infinity for a liquid."""
        return firmness_of(self.yield_pa)

    @property
    def firmness(self) -> Array:
        """Firmness with its floor of 0."""
        return np.maximum(self.unclipped, 0.0)


class Basis:
    """The ingredients of a composition as arrays, ready for any composition of them.

    I ingredients hold K species that melt in range and others that never freeze. Built once
    per set of ingredients; see :func:`basis`.
    """

    def __init__(self, ingredients: Sequence[Ingredient]) -> None:
        self.ingredients = tuple(ingredients)
        # A rest of an earlier melt is reckoned as the plain ingredients it was mixed from.
        leaves = list(dict.fromkeys(leaf for item in ingredients for leaf, _ in item.parts))
        mixed = np.zeros((len(leaves), len(ingredients)))
        for i, item in enumerate(ingredients):
            for leaf, share in item.parts:
                mixed[leaves.index(leaf), i] += share
        held = {kind for leaf in leaves for kind, _ in leaf.fractions if kind.dh_j_mol > 0}
        melting = sorted(held, key=lambda kind: kind.key) or [ABSENT]
        row = {kind: k for k, kind in enumerate(melting)}
        self.melt_c = np.array([kind.melt_c for kind in melting])
        self.dh_j_mol = np.array([kind.dh_j_mol for kind in melting])
        mass = np.zeros((len(melting), len(leaves)))
        liquid = np.zeros((1, len(leaves)))
        for i, leaf in enumerate(leaves):
            for kind, share in leaf.fractions:
                if kind in row:
                    mass[row[kind], i] = share
                else:
                    liquid[0, i] += share / kind.molar_g_mol
        molar = np.array([kind.molar_g_mol for kind in melting])
        strength = np.array([leaf.strength for leaf in leaves])
        self.enthalpy_j_g = self.dh_j_mol / molar
        self.mass_per_gram = mass @ mixed
        self.strength_per_gram = (mass * strength) @ mixed
        waxes = [leaf.role == Role.WAX for leaf in leaves]
        self.wax_strength_per_gram = (mass * strength * waxes) @ mixed
        self.graining_per_gram = (mass * [leaf.grains for leaf in leaves]) @ mixed
        # One product gives moles, mass and strength-weighted mass of each melting species,
        # moles of what never freezes, the volumes of everything and of the powders, and their mass.
        volume = np.array([[1 / leaf.density_g_ml for leaf in leaves]])
        powder = np.array([[float(leaf.is_powder) for leaf in leaves]])
        rows = [mass / molar[:, None], mass, mass * strength, liquid, volume, volume * powder, powder]
        self.per_gram = np.concatenate(rows) @ mixed
        self._waxes = [leaf if is_wax else None for leaf, is_wax in zip(leaves, waxes, strict=True)]
        self._mixed = mixed
        self._at: dict[bytes, tuple[Array, Array]] = {}
        # What a maker's tests add to the firmness, by group: (G,) points beside those of everything, and each group's
        # strength-weighted mass of each species (G, K, I).
        self._correction = next((leaf.correction for leaf in leaves if leaf.correction), None)
        if self._correction is not None:
            groups = [group_of(leaf) for leaf in leaves]
            own = list(dict.fromkeys(groups))
            self._points = np.array([self._correction.points_of(group) for group in own])
            parted = [(mass * strength * [one == group for one in groups]) @ mixed for group in own]
            self._strength_by_group = np.stack(parted)

    def _temperatures(self, temps_c: Array) -> tuple[Array, Array]:
        """Solubility (K, T) and A exp(-b(T - 20)) (T,); the last grids asked for are kept."""
        key = temps_c.tobytes()
        if (known := self._at.get(key)) is None:
            if len(self._at) >= 16:
                self._at.clear()
            stiffness = YIELD_PA * np.exp(-SOFTENING_PER_K * (temps_c - REFERENCE_C))
            known = self._at[key] = solubility(self.melt_c, self.dh_j_mol, temps_c), stiffness
        return known

    def state(self, shares: Array, temps_c: Array, overrun: float = 0.0) -> State:
        """Solids, structure and yield of compositions at temperatures.

        ``shares`` (P, I) by mass in any scale, ``temps_c`` (T,); every result is (P, T).
        ``overrun`` is volume gained by whipping over volume before.
        """
        soluble, stiffness = self._temperatures(temps_c)
        count = len(soluble)
        x = self.per_gram @ (shares / shares.sum(axis=1, keepdims=True)).T
        mass, strong = x[count : 2 * count], x[2 * count : 3 * count]
        liquid, volume, powder, powder_mass = x[3 * count :]
        moles = x[:count]
        if len(shares) > len(temps_c):  # the longer axis last: arrays are walked in long strides
            solid = 1 - molten_part(moles[:, None, :], soluble[:, :, None], liquid[None, :]).transpose(0, 2, 1)
        else:
            solid = 1 - molten_part(moles[:, :, None], soluble[:, None, :], liquid[:, None])
        structuring = np.einsum("kp,kpt->pt", strong, solid) / np.maximum(1 - powder_mass, 1e-9)[:, None]
        part = powder / volume
        filler = (1 + FILLER * part + FILLER_SQUARED * part**2)[:, None]
        yield_pa = stiffness * structuring**EXPONENT * filler * whipped_part(overrun)
        if self._correction is not None:
            yield_pa = yield_pa * 10 ** (self._corrected_by(shares, solid) / 25)
        return State(solid, mass, structuring, yield_pa)

    def _corrected_by(self, shares: Array, solid: Array) -> Array:
        """Points that a maker's tests add, (P, T), by what gives the structure there."""
        assert self._correction is not None
        strong = self._strength_by_group @ (shares / shares.sum(axis=1, keepdims=True)).T
        by_group = np.einsum("gkp,kpt->gpt", strong, solid)
        whole = np.maximum(by_group.sum(axis=0), 1e-12)
        found: Array = self._correction.mean[0] + np.einsum("g,gpt->pt", self._points, by_group) / whole
        return found

    @cached_property
    def _still_ml_g(self) -> Array:
        """Millilitres of a gram of each ingredient at 25 degrees C as the table tells them, and what its waxes, told
        as solids, would take more by their crystals: (2, I)."""
        alone = [0.0 if wax is None else _solid_alone(wax) for wax in self._waxes]
        return np.stack([self.per_gram[3 * len(self.melt_c) + 1], CRYSTALS_ML_G * np.array(alone) @ self._mixed])

    def ml_per_g(self, shares: Array, temps_c: Array, lag_k: float = 0.0) -> Array:
        """Millilitres per gram of compositions at temperatures, whose crystals lag by so many kelvin.

        ``shares`` (P, I) by mass in any scale, ``temps_c`` (T,); returns (P, T).
        """
        still, waxes = self._still_ml_g @ (shares / shares.sum(axis=1, keepdims=True)).T
        solid = self.state(shares, temps_c + lag_k).solid_share
        volume: Array = still[:, None] * (1 + EXPANSION_PER_K * (temps_c - DENSITY_C)) + waxes[:, None]
        return volume - CRYSTALS_ML_G * solid

    def solids_by_ingredient(self, shares: Array, temp_c: float, per_gram: Array | None = None) -> Array:
        """Solid mass per ingredient, by mass of product, of one composition: (I,) -> (I,).

        A species shared by several ingredients is solid in each in the same proportion.
        ``per_gram`` (K, I) counts something else of each solid species, such as its structure.
        """
        solid = self.state(shares[None, :], np.array([temp_c])).solid[:, 0, 0]
        counted = self.mass_per_gram if per_gram is None else per_gram
        result: Array = (solid @ counted) * shares / shares.sum()
        return result


@lru_cache(maxsize=512)
def _solid_alone(item: Ingredient) -> float:
    """Its solid share alone at 25 degrees C."""
    return float(basis((item,)).state(np.ones((1, 1)), np.array([DENSITY_C])).solid_share[0, 0])


@lru_cache(maxsize=256)
def basis(ingredients: tuple[Ingredient, ...]) -> Basis:
    """These ingredients as arrays; built once for the sets last asked for."""
    return Basis(ingredients)
