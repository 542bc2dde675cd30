"""What the press tests of a ladder say: a rising line through them, and the share for a firmness.

The model's line is moved and tilted to agree with the tests: a shift with prior N(0, 8^2) and a tilt of
N(0, 6^2) points from the middle to an end, the posterior Gaussian and in closed form. More of what
stiffens never makes softer, so the line is then made monotone by pooling neighbours (Ayer et al. 1955).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from balmcore.composition import Array
from balmcore.errors import Problem
from balmcore.tables.correction import GROUP_SIGMA, MODEL_SIGMA
from balmcore.trials.calibration import OVERALL_SIGMA

FEWEST = 3  # cups that make a line
AGAINST = 2.0  # sigmas of their difference by which a higher cup may be softer before it is said


@dataclass(frozen=True)
class RungTest:
    """One cup as tested: its number, the share of the ingredient, its firmness at 21 degrees and one sigma."""

    number: int
    share: float
    firmness: float
    sigma: float


@dataclass(frozen=True)
class LadderFit:
    """The fitted line: ``shares`` (N,), ``firmness`` (N,) and one ``sigma`` (N,) beside the ``model`` (N,);
    ``doubts`` are sentences on cups that do not fit."""

    shares: Array
    model: Array
    firmness: Array
    sigma: Array
    doubts: tuple[str, ...]

    def share_for(self, firmness: float) -> tuple[float, float]:
        """The share for a firmness and its one sigma. Raises :class:`Problem` beyond the ends of the ladder."""
        low, high = float(self.firmness[0]), float(self.firmness[-1])
        if not min(low, high) <= firmness <= max(low, high):
            raise Problem(
                f"These cups run from firmness {min(low, high):.0f} to {max(low, high):.0f}: for {firmness:.0f} make a "
                "ladder further up or down.",
                "firmness",
            )
        rising = 1 if high >= low else -1
        # A flat stretch has no share of its own: lift it by next to nothing.
        steps = np.maximum.accumulate(rising * self.firmness) + np.linspace(0, 1e-6, len(self.shares))
        share = float(np.interp(rising * firmness, steps, self.shares))
        span = float(abs(self.shares[-1] - self.shares[0]))
        # By the slope there, over a fifth of the ladder: where it is flat, the model's own.
        near = np.clip([share - span / 10, share + span / 10], *sorted((self.shares[0], self.shares[-1])))
        slope, own = (
            float(abs(np.diff(np.interp(near, *_rising(self.shares, line)))[0]) / max(near[1] - near[0], 1e-9))
            for line in (self.firmness, self.model)
        )
        sigma = float(np.interp(share, *_rising(self.shares, self.sigma)))
        return share, min(sigma / max(slope, own, 1e-6), span)


def _rising(shares: Array, values: Array) -> tuple[Array, Array]:
    """Shares from the least on, with their values: as an interpolation wants them."""
    return (shares, values) if shares[-1] >= shares[0] else (shares[::-1], values[::-1])


def fit_ladder(line: Sequence[tuple[float, float]], tests: Sequence[RungTest]) -> LadderFit:
    """A monotone line through some cups. ``line`` is the model's: shares and firmness from one end to the other.

    Raises :class:`Problem` for fewer than three tested cups.
    """
    if len(tests) < FEWEST:
        raise Problem("Test three cups at least: two points make any line.", "rungs")
    shares, model = (np.array(each) for each in zip(*line, strict=True))
    middle, half = (shares[0] + shares[-1]) / 2, (shares[-1] - shares[0]) / 2

    def rows(at: Array) -> Array:
        return np.stack([np.ones_like(at), (at - middle) / half], axis=1)

    at = np.array([test.share for test in tests])
    off = np.array([test.firmness for test in tests]) - np.interp(at, shares, model)
    noise = np.array([test.sigma**2 for test in tests]) + MODEL_SIGMA**2
    design = rows(at)
    scaled = design / noise[:, None]
    covariance = np.linalg.inv(np.diag([OVERALL_SIGMA**-2, GROUP_SIGMA**-2]) + scaled.T @ design)
    mean = covariance @ (scaled.T @ off)
    fitted = model + rows(shares) @ mean
    sigma = np.sqrt(np.einsum("ij,jk,ik->i", rows(shares), covariance, rows(shares)) + MODEL_SIGMA**2)
    return LadderFit(shares, model, _monotone(fitted, model[-1] >= model[0]), sigma, _doubts(tests, model))


def _monotone(values: Array, rises: bool) -> Array:
    """The nearest values that never turn back, neighbours pooled where they do."""
    sign = 1.0 if rises else -1.0
    pools: list[list[float]] = []
    for value in (sign * values).tolist():
        pools.append([value, 1])
        while len(pools) > 1 and pools[-2][0] > pools[-1][0]:
            mean, count = pools.pop()
            before, held = pools[-1]
            pools[-1] = [(before * held + mean * count) / (held + count), held + count]
    return sign * np.concatenate([np.full(int(count), mean) for mean, count in pools])


def _doubts(tests: Sequence[RungTest], model: Array) -> tuple[str, ...]:
    sign = 1 if model[-1] >= model[0] else -1
    ordered = sorted(tests, key=lambda test: sign * test.share)
    return tuple(
        f"Cup {after.number} is {before.firmness - after.firmness:.0f} points softer than cup {before.number}, and "
        "should be firmer: press both again, and look whether they were mixed up."
        for before, after in pairwise(ordered)
        if before.firmness - after.firmness > AGAINST * math.hypot(before.sigma, after.sigma, MODEL_SIGMA, MODEL_SIGMA)
    )
