"""A change of material: a day after which what a maker measures of one group, or of everything, differs.

Tried at every day with three pours that hold the group on either side, three quarters of those after it on
the same side; the one whose evidence is the largest is taken where it is at least six above that without.
A wild reading makes no step: each counts by how near it is to the median of the five pours about it, which
follows a step and no single one.
One more column beside the known posterior is a Schur complement, so that thousands of readings stay quick.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from balmcore.composition import Array
from balmcore.trials.posterior import SPREAD, Posterior, biweight

STEP_SIGMA = 12.0  # points: how far another material may differ, before any test of it
EVIDENCE = 6.0  # of the logarithm: about four hundred times as likely
EITHER_SIDE, SAME_SIDE = 3, 0.75
ABOUT = 5  # pours whose median a reading is held against
COUNTS = 0.5  # the weight from which a reading speaks for a step
HOLDS = 0.05  # of the structure: less does not show a material


@dataclass(frozen=True)
class Step:
    """From a day on (its ordinal) pours that hold a group read otherwise; the group's column, and 0 for all."""

    day: int
    column: int
    evidence: float


def find_step(known: Posterior, days: NDArray[np.int64], after: int = 0) -> Step | None:
    """The step that the readings show best of those later than ``after``, None where they show none.

    ``known`` is their posterior, whose first column is that of everything; ``days`` (N,) are ordinals, 0 where a
    reading's is not known.
    """
    dated = days > 0
    if dated.sum() < 2 * EITHER_SIDE:
        return None
    order = np.argsort(days, kind="stable")
    plain = Posterior(known.design, known.residuals, known.variance, known.prior, _like_neighbours(known, order))
    starts = np.flatnonzero(np.diff(days[order], prepend=-1) > 0)  # the first reading of each day
    best: Step | None = None
    for column in range(known.design.shape[1]):
        evidence = _evidence(plain, order, column)[starts]
        for n in np.argsort(-evidence):
            if evidence[n] < max(EVIDENCE, best.evidence if best else 0.0):
                break
            day = int(days[order][starts[n]])
            if day > after and _shows(plain, days, column, day):
                best = Step(day, column, float(evidence[n]))
                break
    return best


def _like_neighbours(known: Posterior, order: NDArray[np.intp]) -> Array:
    """How near each reading is to the median of those about it in time, as a weight, (N,)."""
    told, last = known.residuals[order], max(0, len(order) - ABOUT)
    first = np.clip(np.arange(len(order)) - ABOUT // 2, 0, last)
    near = np.median(told[first[:, None] + np.arange(min(ABOUT, len(order)))], axis=1)
    found = np.empty(len(order))
    found[order] = biweight(np.abs(told - near) / np.sqrt(known.variance[order] + SPREAD**2))
    return found


def _evidence(plain: Posterior, order: NDArray[np.intp], column: int) -> Array:
    """How much likelier the readings are, as a logarithm, with a step from each of them on, (N,) in their order."""
    design, weight = plain.design[order], (plain.weights / plain.noise)[order]
    held = design[:, column]
    own = _from_each(held * held * weight)
    beside = _from_each((held * weight)[:, None] * design)
    moved = _from_each(held * weight * plain.residuals[order])
    left = own - np.einsum("ni,ij,nj->n", beside, plain.covariance, beside) + STEP_SIGMA**-2
    gain = moved - beside @ plain.mean
    found: Array = gain**2 / left / 2 - np.log(left * STEP_SIGMA**2) / 2
    return found


def _from_each(values: Array) -> Array:
    """Sums from each place to the end along the first axis."""
    found: Array = np.cumsum(values[::-1], axis=0)[::-1]
    return found


def _shows(plain: Posterior, days: NDArray[np.int64], column: int, day: int) -> bool:
    """True where enough pours stand on either side of a day, and those after it mostly on one side of those before."""
    holds = (np.abs(plain.design[:, column]) > HOLDS) & (days > 0) & (plain.weights >= COUNTS)
    before, after = plain.residuals[holds & (days < day)], plain.residuals[holds & (days >= day)]
    if min(len(before), len(after)) < EITHER_SIDE:
        return False
    gaps = after - np.median(before)
    return bool(max(np.mean(gaps > 0), np.mean(gaps < 0)) >= SAME_SIDE)
