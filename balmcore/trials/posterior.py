"""A Gaussian posterior of a few coefficients from many readings, with weights that hold off what is wild.

A reading is r = x b + noise with b ~ N(0, diag(prior)); the noise is the variance of the reading and the
spread s^2 from one making to the next, which is learned too. Weights are Tukey's biweight on leave-one-out
residuals, started from residuals about the median and moved half-way each time (Mosteller & Tukey 1977).
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from balmcore.composition import Array

BEYOND = 4.0  # a reading so many sigmas from its neighbours counts for nothing
ROUNDS, STILL = 200, 1e-7  # at most, and the change that ends them
LEAST_WEIGHT = 1e-6  # so that nothing is divided by nothing
SPREAD = 3.0  # points from one making of the same to the next: at least, and what is thought before any
SPREAD_READINGS = 4.0  # as many readings as that thought counts for


@dataclass(frozen=True)
class Posterior:
    """Readings with their weights: ``design`` (N, C), ``residuals`` and ``variance`` of reading (N,), ``prior``
    variances (C,), ``weights`` (N,), 0 to 1, and the ``spread`` s^2."""

    design: Array
    residuals: Array
    variance: Array
    prior: Array
    weights: Array
    spread: float = SPREAD**2

    @cached_property
    def noise(self) -> Array:
        """The variance of each residual about what is true, (N,)."""
        return self.variance + self.spread

    @cached_property
    def covariance(self) -> Array:
        """Of the coefficients, (C, C)."""
        scaled = self.design * (self.weights / self.noise)[:, None]
        return np.asarray(np.linalg.inv(np.diag(1 / self.prior) + scaled.T @ self.design), dtype=np.float64)

    @cached_property
    def mean(self) -> Array:
        """The coefficients, (C,)."""
        found: Array = self.covariance @ (self.design.T @ (self.weights / self.noise * self.residuals))
        return found

    @cached_property
    def by_others(self) -> tuple[Array, Array]:
        """What all the others say of each reading's residual, (N,), and its variance, (N,). The others' posterior
        follows from everybody's by taking one row out (Sherman & Morrison 1950)."""
        known = np.einsum("ij,jk,ik->i", self.design, self.covariance, self.design)
        own = self.weights / self.noise
        left = 1 - own * known
        return (self.design @ self.mean - own * known * self.residuals) / left, known / left

    @cached_property
    def apart(self) -> Array:
        """How many sigmas each reading lies from what the others say of it, (N,)."""
        said, variance = self.by_others
        found: Array = np.abs(self.residuals - said) / np.sqrt(self.noise + variance)
        return found

    @cached_property
    def log_evidence(self) -> float:
        """How much more likely the readings are with these coefficients than without any, as a logarithm."""
        # By the posterior, (C,): as quick for thousands of readings as for ten.
        given = self.design.T @ (self.weights / self.noise * self.residuals)
        determinants = np.linalg.slogdet(self.covariance)[1] - np.log(self.prior).sum()
        return float(self.mean @ given + determinants) / 2

    def settled(self) -> "Posterior":
        """The same with weights and spread that agree with each other."""
        if not len(self.residuals):
            return self
        start = np.abs(self.residuals - np.median(self.residuals)) / np.sqrt(self.noise)
        found = replace(self, weights=biweight(start))
        for _ in range(ROUNDS):
            weights = (found.weights + biweight(found.apart)) / 2
            spread = (found.spread + found.seen_spread) / 2
            still = np.max(np.abs(weights - found.weights)) < STILL and abs(spread - found.spread) < STILL
            found = replace(found, weights=weights, spread=spread)
            if still:
                break
        return found

    @property
    def seen_spread(self) -> float:
        """The spread that the leave-one-out residuals show, beside what was thought before."""
        gaps = (self.residuals - self.by_others[0]) ** 2 - self.variance
        counted = SPREAD_READINGS * SPREAD**2 + float(self.weights @ gaps)
        return max(SPREAD**2, counted / (SPREAD_READINGS + float(self.weights.sum())))


def biweight(apart: Array) -> Array:
    """Tukey's biweight: 1 for a reading where it should be, 0 beyond :data:`BEYOND` sigmas."""
    found: Array = np.where(apart < BEYOND, (1 - (apart / BEYOND) ** 2) ** 2, 0.0)
    return found
