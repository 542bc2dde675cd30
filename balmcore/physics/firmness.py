"""From percentages to firmness, and to the temperatures a maker asks for.

Structuring solids E (each ingredient's solids times its strength; powders stiffen as a
filler, E / (1 - v) with v their volume share) give a yield stress and a firmness::

    Y = A E^m exp(-b (T - 20))     F = 25 (log10(Y / 1 Pa) - 2)

so 100 Pa is 0, 1 kPa 25, 10 kPa 50, 100 kPa 75 and 1 MPa 100; below 0 it is liquid and
shown as 0. The exponent is that of fat networks and wax gels, whose yield rises near the
third power of solids (Haighton 1959; Narine & Marangoni 1999).
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from balmcore.composition import Array, Composition, Line
from balmcore.physics.solids import molten_part, solubility
from balmcore.tables import Ingredient, Role, Species
from balmcore.tables.correction import group_of

# A of the power law, fitted so that the kinds' usual compositions lie in their windows (docs/model.md).
YIELD_PA = 1.75e6
EXPONENT = 2.8  # near the third power of solids (Haighton 1959; Narine & Marangoni 1999)
WORKED = 0.4  # of the yield is left once the crystal network was broken by whipping (Haighton 1965)
SOFTENING_PER_K = 0.045  # b: a network of the same solids gives more when it is warmer; fitted with A
REFERENCE_C = 20.0  # at which A is told
WINDOW_C = 21.0  # the temperature at which kinds state their window
SKIN_C = 33.0  # of skin, not of the body within
SIGMA = 9.0  # before any test of one's own: the spread of the tables and of suppliers
SIGMA_PER_LOW_CONFIDENCE = 3.0  # more for each ingredient whose row is marked so
CLEAR_SOLIDS = 0.001  # share that the eye no longer sees
UNDERCOOLING_FAT_K = 2.0  # below clear, where a skin forms on a fat: usual
UNDERCOOLING_WAX_K = 1.0  # and on a wax, which sets where it clears
COLDEST_C, HOTTEST_C = -20.0, 110.0  # the range that kinds, rooms and melts lie in
# A degree apart, to begin a search from.
COARSE_C: Array = np.linspace(COLDEST_C, HOTTEST_C, int(HOTTEST_C - COLDEST_C) + 1)
DRAWN_C: Array = np.linspace(0.0, 60.0, 121)  # where curves are drawn
WIDE_C: Array = np.union1d(COARSE_C, DRAWN_C)  # one pass for both
_COARSE, _DRAWN, _WINDOW = (np.searchsorted(WIDE_C, temps_c) for temps_c in (COARSE_C, DRAWN_C, [WINDOW_C]))
# Keeps the arrays of liquids alone whole: it melts, and none of them holds it.
ABSENT = Species("absent", 60.0, 1e5, 500.0)

# Upper end of each band on the firmness scale and its word.
HIGHEST = 110.0  # to which our scale is drawn
BANDS: tuple[tuple[float, str], ...] = (
    (10, "runs"),
    (28, "gel"),
    (42, "soft scoop"),
    (58, "pot salve"),
    (70, "firm pot"),
    (82, "stick"),
    (96, "bar"),
    (float("inf"), "brick"),
)


def word(firmness: float) -> str:
    """The word for a firmness as it is shown, to the point: runs, gel, soft scoop, pot salve, firm pot, stick, bar,
    brick.

    >>> word(9.4), word(57.4), word(57.6), word(120)
    ('runs', 'pot salve', 'firm pot', 'brick')
    """
    return next(name for top, name in BANDS if round(firmness) < top)


def points_apart(now: float, before: float) -> int:
    """How many points firmer, of the two figures as they are shown.

    >>> points_apart(57.4, 58.6)
    -2
    """
    return round(now) - round(before)


def whipped_part(overrun: float) -> float:
    """What whipping leaves of the yield: (1 + r)^-2 for the air, and a part for the working."""
    return WORKED / (1 + overrun) ** 2 if overrun > 0 else 1.0


def words_of(firmness: Array) -> list[str]:
    """The words for many firmnesses, (N,)."""
    return [BANDS[n][1] for n in np.searchsorted([top for top, _ in BANDS], np.rint(firmness), side="right").tolist()]


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
        self.wax_per_gram = (mass * [leaf.role == Role.WAX for leaf in leaves]) @ mixed
        self.graining_per_gram = (mass * [leaf.grains for leaf in leaves]) @ mixed
        # One product gives moles, mass and strength-weighted mass of each melting species,
        # moles of what never freezes, and the volumes of everything and of the powders.
        volume = np.array([[1 / leaf.density_g_ml for leaf in leaves]])
        powder = volume * [leaf.is_powder for leaf in leaves]
        self.per_gram = np.concatenate([mass / molar[:, None], mass, mass * strength, liquid, volume, powder]) @ mixed
        self._at: dict[bytes, tuple[Array, Array]] = {}

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
        liquid, volume, powder = x[3 * count :]
        moles = x[:count]
        if len(shares) > len(temps_c):  # the longer axis last: arrays are walked in long strides
            solid = 1 - molten_part(moles[:, None, :], soluble[:, :, None], liquid[None, :]).transpose(0, 2, 1)
        else:
            solid = 1 - molten_part(moles[:, :, None], soluble[:, None, :], liquid[:, None])
        structuring = np.einsum("kp,kpt->pt", strong, solid) / np.maximum(1 - powder / volume, 1e-9)[:, None]
        yield_pa = stiffness * structuring**EXPONENT * whipped_part(overrun)
        return State(solid, mass, structuring, yield_pa)

    def solids_by_ingredient(self, shares: Array, temp_c: float, per_gram: Array | None = None) -> Array:
        """Solid mass per ingredient, by mass of product, of one composition: (I,) -> (I,).

        A species shared by several ingredients is solid in each in the same proportion.
        ``per_gram`` (K, I) counts something else of each solid species, such as its structure.
        """
        solid = self.state(shares[None, :], np.array([temp_c])).solid[:, 0, 0]
        counted = self.mass_per_gram if per_gram is None else per_gram
        result: Array = (solid @ counted) * shares / shares.sum()
        return result


@lru_cache(maxsize=256)
def basis(ingredients: tuple[Ingredient, ...]) -> Basis:
    """These ingredients as arrays; built once for the sets last asked for."""
    return Basis(ingredients)


@dataclass(frozen=True)
class Prediction:
    """Everything a maker asks of one composition, before any of it is made."""

    composition: Composition
    overrun: float

    @cached_property
    def sigma(self) -> float:
        """One sigma of its firmness: 9 points and 3 more for each ingredient of low confidence, or what a
        maker's own tests leave of it."""
        compiled = basis(self.composition.ingredients)
        leaves = (leaf for item in compiled.ingredients for leaf, _ in item.parts)
        correction = next((leaf.correction for leaf in leaves if leaf.correction), None)
        if correction is not None:
            return float(correction.sigma(structure_by_group(self.composition, WINDOW_C, self.overrun)))
        low = sum(
            item.confidence == "low" and share > 0
            for item, share in zip(compiled.ingredients, self.composition.shares, strict=True)
        )
        return SIGMA + SIGMA_PER_LOW_CONFIDENCE * int(low)

    @cached_property
    def _known(self) -> dict[float, float]:
        """Firmness at temperatures worked out before: pages ask for the same few again and again."""
        return {}

    @cached_property
    def _wide(self) -> State:
        """The state at ``WIDE_C``, where curves are drawn and every search for a temperature begins."""
        return self._state(WIDE_C)

    @cached_property
    def drawn(self) -> Array:
        """Firmness at ``DRAWN_C``, remembered at each of them."""
        found: Array = self._wide.firmness[0, _DRAWN]
        self._known.update(zip(DRAWN_C.tolist(), found.tolist(), strict=True))
        return found

    @property
    def in_window(self) -> State:
        """The state at 21 degrees C."""
        return self._wide.at(_WINDOW)

    @cached_property
    def clear_c(self) -> float | None:
        """The lowest temperature without solids; None when it is clear throughout."""
        return self._highest(lambda state: state.solid_share[0] >= CLEAR_SOLIDS)

    @cached_property
    def set_c(self) -> float | None:
        """Where a skin forms: 1 K below clear where a wax leads, 2 K where a fat does."""
        if self.clear_c is None:
            return None
        compiled, shares = basis(self.composition.ingredients), self.composition.shares
        solid = compiled.state(shares[None, :], np.array([self.clear_c - 0.5])).solid[:, 0, 0]
        solids, waxes = (
            float(solid @ per_gram @ shares) for per_gram in (compiled.mass_per_gram, compiled.wax_per_gram)
        )
        return self.clear_c - (UNDERCOOLING_WAX_K if 2 * waxes > solids else UNDERCOOLING_FAT_K)

    def _state(self, temps_c: Array) -> State:
        return basis(self.composition.ingredients).state(self.composition.shares[None, :], temps_c, self.overrun)

    def curve(self, temps_c: Sequence[float] | Array) -> State:
        """The state at many temperatures; arrays are (1, T)."""
        return self._state(np.asarray(temps_c, dtype=float))

    def look_up(self, temps_c: Iterable[float]) -> None:
        """Work out the firmness at some temperatures in one go: they will be asked for one by one."""
        fresh = [temp for temp in dict.fromkeys(temps_c) if temp not in self._known]
        if fresh:
            self._known.update(zip(fresh, self.curve(fresh).firmness[0].tolist(), strict=True))

    def firmness_at(self, temp_c: float) -> float:
        """Firmness at one temperature, not below 0."""
        self.look_up((temp_c,))
        return self._known[temp_c]

    def hold_c(self, firmness: float) -> float | None:
        """The highest temperature with at least that firmness, or None when there is none."""
        return self._highest(lambda state: state.unclipped[0] >= firmness)

    def word_at(self, temp_c: float) -> str:
        """The word for the firmness at a temperature."""
        return word(self.firmness_at(temp_c))

    def _highest(self, holds: Callable[[State], NDArray[np.bool_]]) -> float | None:
        """The highest temperature at which ``holds``, which must fail for good above it.

        A grid of one kelvin, then two of 32 parts: to a thousandth of a kelvin.
        """
        temps, held = COARSE_C, holds(self._wide)[_COARSE]
        for last in (False, False, True):
            true = np.flatnonzero(held)
            if not true.size:
                return None
            low = float(temps[true[-1]])
            if true[-1] == len(temps) - 1:
                return low
            high = float(temps[true[-1] + 1])
            if not last:
                temps = np.linspace(low, high, 33)
                held = holds(self._state(temps))
        return (low + high) / 2


def predict(composition: Composition, overrun: float = 0.0) -> Prediction:
    """The prediction for a composition, whipped by ``overrun``."""
    return Prediction(composition, overrun)


def structure_by_group(composition: Composition, temp_c: float, overrun: float = 0.0) -> dict[str, float]:
    """Each group's share of the structuring solids at a temperature; they add to at most 1."""
    plain = composition.expanded
    compiled, shares = basis(plain.ingredients), plain.shares / plain.shares.sum()
    given = compiled.solids_by_ingredient(shares, temp_c, compiled.strength_per_gram)
    total = float(given.sum())
    found: dict[str, float] = {}
    for item, part in zip(plain.ingredients, given.tolist(), strict=True):
        if (group := group_of(item)) and total > 1e-12:
            found[group] = found.get(group, 0.0) + part / total
    return found


@lru_cache(maxsize=512)
def clear_alone(item: Ingredient) -> float | None:
    """Where an ingredient alone is clear: the order in which things melt. None for a liquid."""
    return predict(Composition((Line(item, Decimal(1)),))).clear_c
