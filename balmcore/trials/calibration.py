"""What a maker's own tests teach the model: residuals of firmness, by what gives the structure.

A residual is r = measured - model. It is taken as r = b0 + sum of b_g x_g + noise, with x_g the share
of the structuring solids from group g (each wax, brittle butters, soft butters, lauric fats), priors
b0 ~ N(0, 8^2) and b_g ~ N(0, 6^2), and noise by the method of measuring beside the model's own 3 points.
The posterior is Gaussian and in closed form. One wild reading must not move it far: readings are weighted
by Tukey's biweight on leave-one-out residuals, started from residuals about the median and moved half-way
each time (Mosteller & Tukey 1977). A maker who does not differ from the table should lose nothing by testing:
the correction is multiplied with how likely the readings make it that there is one.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from balmcore.composition import Array, Composition
from balmcore.physics.basis import EXPONENT
from balmcore.physics.firmness import predict, structure_by_group
from balmcore.tables import Ingredient, Tables
from balmcore.tables.correction import GROUP_NAMES, GROUP_SIGMA, MODEL_SIGMA, Correction, group_of
from balmcore.wording import in_sentence

OVERALL = "overall"
OVERALL_SIGMA = 8.0  # points, before any test: how far kitchens differ as a whole
BEYOND = 4.0  # a reading so many sigmas from its neighbours counts for nothing
ROUNDS, STILL = 200, 1e-7  # at most, and the change that ends them
# Weight below which a test is shown not to fit; part of the structure from which a group is in it.
UNFIT, PRESENT = 0.5, 0.05
LEAST_WEIGHT = 1e-6  # so that nothing is divided by nothing


@dataclass(frozen=True)
class FirmnessReading:
    """A firmness measured at a temperature, with the one-sigma of how it was measured."""

    composition: Composition
    temp_c: float
    firmness: float
    sigma: float
    overrun: float = 0.0

    @cached_property
    def plain(self) -> float:
        """What the model alone says of it."""
        return predict(self.composition, self.overrun).firmness_at(self.temp_c)

    @cached_property
    def parts(self) -> dict[str, float]:
        """Each group's part of its structure."""
        return structure_by_group(self.composition, self.temp_c, self.overrun)


@dataclass(frozen=True)
class Learned:
    """What is known of one group: points beside the table, their one-sigma, and from how many readings."""

    group: str
    points: float
    sigma: float
    readings: int


@dataclass(frozen=True)
class Calibrated:
    """A firmness as corrected, its one-sigma, and what the model alone says."""

    firmness: float
    sigma: float
    plain: float


class Calibration:
    """What some readings teach. Without any, predictions are the model's."""

    def __init__(self, readings: Sequence[FirmnessReading]) -> None:
        self.readings = tuple(readings)
        self.groups = tuple(sorted({group for one in self.readings for group in one.parts}))
        rows = [[1.0, *(one.parts.get(group, 0.0) for group in self.groups)] for one in self.readings]
        self.design = np.array(rows).reshape(len(rows), len(self.groups) + 1)
        self.plain = np.array([one.plain for one in self.readings])
        self.residuals = np.array([one.firmness for one in self.readings]) - self.plain
        self.noise = np.array([one.sigma**2 for one in self.readings]) + MODEL_SIGMA**2
        self.weights = self._settled()

    @cached_property
    def _prior(self) -> Array:
        """Precision before any reading, (1 + G, 1 + G)."""
        return np.diag([OVERALL_SIGMA**-2, *([GROUP_SIGMA**-2] * len(self.groups))])

    def _posterior(self, weights: Array) -> tuple[Array, Array]:
        """Mean (1 + G,) and covariance (1 + G, 1 + G) for weights (N,)."""
        scaled = self.design * (weights / self.noise)[:, None]
        covariance = np.linalg.inv(self._prior + scaled.T @ self.design)
        return covariance @ (scaled.T @ self.residuals), covariance

    def _by_others(self, weights: Array) -> tuple[Array, Array]:
        """What all the others say of each reading's residual, (N,), and its variance, (N,). The others' posterior
        follows from everybody's by taking one row out (Sherman & Morrison 1950)."""
        mean, covariance = self._posterior(weights)
        known = np.einsum("ij,jk,ik->i", self.design, covariance, self.design)
        own = weights / self.noise
        left = 1 - own * known
        return (self.design @ mean - own * known * self.residuals) / left, known / left

    def _apart(self, weights: Array) -> Array:
        """How many sigmas each reading lies from what the others say of it, (N,)."""
        said, variance = self._by_others(weights)
        found: Array = np.abs(self.residuals - said) / np.sqrt(self.noise + variance)
        return found

    def _settled(self) -> Array:
        """The weight of each reading, 0 to 1, (N,)."""
        if not len(self.readings):
            return np.zeros(0)
        start = np.abs(self.residuals - np.median(self.residuals)) / np.sqrt(self.noise)
        weights = _biweight(start)
        for _ in range(ROUNDS):
            moved = (weights + _biweight(self._apart(weights))) / 2
            if np.max(np.abs(moved - weights)) < STILL:
                break
            weights = moved
        return weights

    @cached_property
    def _known(self) -> tuple[Array, Array]:
        return self._posterior(self.weights)

    @cached_property
    def trust(self) -> float:
        """How likely it is, 0 to 1, that this maker differs from the table at all: the evidence of the readings with
        the priors against that without, both as likely before (Kass & Raftery 1995). Without readings 1: then only
        the width of the priors is said."""
        if not (self.weights > LEAST_WEIGHT).any():
            return 1.0
        # By the posterior, (1 + G): as quick for thousands of readings as for ten.
        mean, covariance = self._known
        given = self.design.T @ (self.weights / self.noise * self.residuals)
        gain = (mean @ given + np.linalg.slogdet(covariance)[1] + np.linalg.slogdet(self._prior)[1]) / 2
        return float(1 / (1 + np.exp(-np.clip(gain, -50, 50))))

    @cached_property
    def correction(self) -> Correction:
        """What was learned, as ingredients carry it; see :func:`corrected`. It is as large as it is trusted, and the
        doubt whether there is anything to correct is part of its covariance."""
        mean, covariance = self._known
        doubt = self.trust * (1 - self.trust) * np.outer(mean, mean)
        return Correction(self.groups, self.trust * mean, self.trust * covariance + doubt)

    def predict(self, composition: Composition, temp_c: float, overrun: float = 0.0) -> Calibrated:
        """A firmness corrected by what was learned, not below 0."""
        parts = structure_by_group(composition, temp_c, overrun)
        plain = predict(composition, overrun).firmness_at(temp_c)
        known = self.correction
        return Calibrated(max(0.0, plain + known.points(parts)), known.sigma(parts), plain)

    @property
    def learned(self) -> tuple[Learned, ...]:
        """What is known of each group and of all together, the surest first."""
        if not self.readings:
            return ()
        mean, covariance = self.correction.mean, self.correction.covariance
        fits = self.weights >= UNFIT
        counts = [int(fits.sum()), *((self.design[:, 1:] > PRESENT) & fits[:, None]).sum(axis=0).tolist()]
        found = [
            Learned(group, float(mean[n]), float(np.sqrt(covariance[n, n])), counts[n])
            for n, group in enumerate((OVERALL, *self.groups))
        ]
        return tuple(sorted(found, key=lambda one: one.sigma))

    @property
    def errors(self) -> tuple[float, float]:
        """How far predictions are off in the root mean square, over the readings that fit: the model's, and as
        corrected by all the other readings. Zeros without any."""
        return self.errors_of(OVERALL)

    def errors_of(self, group: str) -> tuple[float, float]:
        """The same over the readings that hold something of a group."""
        held = np.ones(len(self.readings), bool) if group == OVERALL else self.design[:, self._column(group)] > PRESENT
        counted = ~self.unfit & held
        if not counted.any():
            return 0.0, 0.0
        plain, corrected = (float(np.sqrt(np.mean(each[counted] ** 2))) for each in (self.residuals, self._left_out))
        return plain, corrected

    def _column(self, group: str) -> int:
        return 1 + self.groups.index(group)

    @cached_property
    def _left_out(self) -> Array:
        """How far each reading lies from its correction by all the others, (N,)."""
        found: Array = self.residuals - self.trust * self._by_others(self.weights)[0]
        return found

    @property
    def unfit(self) -> NDArray[np.bool_]:
        """The readings that do not fit their neighbours, (N,)."""
        found: NDArray[np.bool_] = self.weights < UNFIT
        return found


def corrected(tables: Tables, correction: Correction) -> Tables:
    """Tables whose ingredients are as strong as a maker's tests say, so that everything reckoned with them
    follows: curve, target, triangle, plan and bench.

    Points add to a firmness F = 25 log10(Y), and Y goes with the m-th power of the structure: b points of
    one group are its strength times 10^(b / 25 m). For a mixture of groups this is the additive correction
    of :meth:`Calibration.predict` to the first order; ten points apart they differ by less than a point.
    """
    factor = {group: 10 ** (correction.points({group: 1.0}) / (25 * EXPONENT)) for group in ("", *correction.groups)}
    known: dict[str, Ingredient] = {}

    def stronger(item: Ingredient) -> Ingredient:
        if (found := known.get(item.key)) is None:
            times = factor.get(group_of(item), factor[""])
            made_of = tuple((stronger(leaf), share) for leaf, share in item.made_of)
            found = known[item.key] = replace(
                item, strength=item.strength * times, made_of=made_of, correction=correction
            )
        return found

    return tables.with_corrected({key: stronger(item) for key, item in tables.ingredients.items()})


def _biweight(apart: Array) -> Array:
    """Tukey's biweight: 1 for a reading where it should be, 0 beyond :data:`BEYOND` sigmas."""
    found: Array = np.where(apart < BEYOND, (1 - (apart / BEYOND) ** 2) ** 2, 0.0)
    return found


def learned_words(learned: Learned, tables: Tables) -> str:
    """What was learned, in a sentence: your candelilla wax runs 6 points softer than the table, from 5 tests."""
    points = round(abs(learned.points))
    item = tables.ingredients.get(learned.group)
    name = GROUP_NAMES.get(learned.group) or (in_sentence(item.name) if item else learned.group)
    who = "Everything you make" if learned.group == OVERALL else f"Your {name}"
    verb = "run" if learned.group in GROUP_NAMES else "runs"
    tests = f"{learned.readings} test{'' if learned.readings == 1 else 's'}"
    if points < 1:
        return f"{who} {verb} as the table says, from {tests}."
    side = "firmer" if learned.points > 0 else "softer"
    return f"{who} {verb} {points} point{'' if points == 1 else 's'} {side} than the table, from {tests}."
