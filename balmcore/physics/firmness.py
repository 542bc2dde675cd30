"""From percentages to firmness, and to the temperatures a maker asks for.

A yield stress Y (:mod:`balmcore.physics.basis`) is a firmness F = 25 (log10(Y / 1 Pa) - 2), so 100 Pa is 0,
1 kPa 25, 10 kPa 50, 100 kPa 75 and 1 MPa 100; below 0 it is liquid and shown as 0.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from balmcore.composition import Array, Composition, Line
from balmcore.physics.basis import DENSITY_C, POINTS_PER_K, State, basis
from balmcore.tables import Ingredient
from balmcore.tables.correction import UNSURE_SIGMA, group_of, group_sigma

WINDOW_C = 21.0  # the temperature at which kinds state their window
SKIN_C = 33.0  # of skin, not of the body within
SIGMA = 9.0  # before any test of one's own: the spread of the tables and of suppliers
CLEAR_SOLIDS = 0.001  # share that the eye no longer sees
UNDERCOOLING_WAX_K = 1.0  # below clear, where a skin forms on a wax: it sets where it clears
UNDERCOOLING_FAT_K = 7.0  # and so much deeper on a butter alone, which stays liquid: our figure (docs/model.md)
STRUCTURE_BELOW_CLEAR_K = 5.0  # where it is looked which of them builds
COLDEST_C, HOTTEST_C = -20.0, 110.0  # the range that kinds, rooms and melts lie in
# A degree apart, to begin a search from.
COARSE_C: Array = np.linspace(COLDEST_C, HOTTEST_C, int(HOTTEST_C - COLDEST_C) + 1)
DRAWN_C: Array = np.linspace(0.0, 60.0, 121)  # where curves are drawn
WIDE_C: Array = np.union1d(COARSE_C, DRAWN_C)  # one pass for both
_COARSE, _DRAWN, _WINDOW = (np.searchsorted(WIDE_C, temps_c) for temps_c in (COARSE_C, DRAWN_C, [WINDOW_C]))

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


def words_of(firmness: Array) -> list[str]:
    """The words for many firmnesses, (N,)."""
    return [BANDS[n][1] for n in np.searchsorted([top for top, _ in BANDS], np.rint(firmness), side="right").tolist()]


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
            parts = structure_by_group(self.composition, WINDOW_C, self.overrun)
            items = [item for item, share in zip(compiled.ingredients, self.composition.shares, strict=True) if share]
            leaves = (leaf for item in items for leaf, _ in item.parts)
            return float(correction.sigma(parts, prior_sigmas(self.composition), correction.unsure(set(leaves))))
        low = sum(
            item.confidence == "low" and share > 0
            for item, share in zip(compiled.ingredients, self.composition.shares, strict=True)
        )
        return SIGMA + UNSURE_SIGMA * int(low)

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
    def undercooling_k(self) -> float:
        """How far below clear a melt stays liquid as it cools: 1 K where waxes alone build, 8 K where butters do, in
        between by their shares of the structure 5 K below clear. 0 where it is clear throughout."""
        if self.clear_c is None:
            return 0.0
        compiled, shares = basis(self.composition.ingredients), self.composition.shares
        temp = np.array([self.clear_c - STRUCTURE_BELOW_CLEAR_K])
        solid = compiled.state(shares[None, :], temp).solid[:, 0, 0]
        whole, waxes = (
            float(solid @ per_gram @ shares)
            for per_gram in (compiled.strength_per_gram, compiled.wax_strength_per_gram)
        )
        return UNDERCOOLING_WAX_K + UNDERCOOLING_FAT_K * (1 - (waxes / whole if whole > 0 else 0.0))

    @cached_property
    def set_c(self) -> float | None:
        """Where a skin forms as it cools; None for what never sets."""
        return None if self.clear_c is None else self.clear_c - self.undercooling_k

    def lag_k(self, temp_c: float) -> float:
        """By how much the crystals of a melt that came down to a temperature lag behind; 0 below setting, where nothing
        is known of when it came."""
        return self.undercooling_k if self.set_c is not None and temp_c >= self.set_c else 0.0

    def ml_per_g(self, temp_c: float, is_melt: bool = False) -> float:
        """Millilitres of a gram at a temperature, unwhipped; of a melt that came down to it, above setting, whose
        crystals are not there yet."""
        lag = self.lag_k(temp_c) if is_melt else 0.0
        compiled = basis(self.composition.ingredients)
        return float(compiled.ml_per_g(self.composition.shares[None, :], np.array([temp_c]), lag)[0, 0])

    @cached_property
    def density_g_ml(self) -> float:
        """Of what is set and cold, at 25 degrees C, unwhipped."""
        return 1 / self.ml_per_g(DENSITY_C)

    def _state(self, temps_c: Array) -> State:
        return basis(self.composition.ingredients).state(self.composition.shares[None, :], temps_c, self.overrun)

    def curve(self, temps_c: Sequence[float] | Array) -> State:
        """The state at many temperatures; arrays are (1, T)."""
        return self._state(np.asarray(temps_c, dtype=float))

    def lagging(self, temps_c: Array, lags_k: Array) -> Array:
        """Firmness, not clipped, at temperatures (N,) of what cools, its crystals lagging behind by so many kelvin
        (N,): it has the solids of so much warmer."""
        found: Array = self._state(temps_c + lags_k).unclipped[0] + POINTS_PER_K * lags_k
        return found

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
        if total > 1e-12 and part > 0:
            group = group_of(item)
            found[group] = found.get(group, 0.0) + part / total
    return found


def prior_sigmas(composition: Composition) -> dict[str, float]:
    """How far each group in a composition may differ from the table before any test: one sigma, in points."""
    found: dict[str, float] = {}
    for line in composition.expanded.lines:
        if line.share:
            group = group_of(line.ingredient)
            found[group] = max(found.get(group, 0.0), group_sigma(line.ingredient))
    return found


@lru_cache(maxsize=512)
def clear_alone(item: Ingredient) -> float | None:
    """Where an ingredient alone is clear: the order in which things melt. None for a liquid."""
    return predict(Composition((Line(item, Decimal(1)),))).clear_c
