"""What would teach most: by how much the band of what a maker makes would narrow by one more test of it.

By the posterior's own variance: a test of a composition with row x narrows another with row y by
(y C x)^2 / (x C x + noise), whatever it comes out as.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from balmcore.composition import Composition
from balmcore.physics.firmness import WINDOW_C, structure_by_group
from balmcore.tables.correction import GROUP_NAMES, GROUP_SIGMA, Correction, group_of
from balmcore.trials.calibration import PRESENT
from balmcore.trials.press import PRESS_SIGMA
from balmcore.wording import in_sentence, listed

WORTH = 1.0  # points of one sigma: less is not worth a pour


@dataclass(frozen=True)
class Makes:
    """Something a maker makes: each group's part of its structure, and how far each may differ before any test."""

    parts: Mapping[str, float]
    priors: Mapping[str, float]


@dataclass(frozen=True)
class Telling:
    """Which of what is made would teach most if it were tested once more, which of them by the most, and the one sigma
    of that before and after."""

    test: int
    narrows: int
    before: float
    after: float


def untested(parts: Mapping[str, float], correction: Correction) -> tuple[str, ...]:
    """The groups that give a composition more than a trace of its structure and that no fitting test held, those first
    that give most."""
    known = dict(zip(correction.groups, correction.is_tested, strict=True))
    open_ = [group for group, part in parts.items() if part > PRESENT and not known.get(group, False)]
    return tuple(sorted(open_, key=lambda group: -parts[group]))


def most_telling(correction: Correction, makes: Sequence[Makes]) -> Telling | None:
    """The one that would narrow the bands of all of them by the most, None where none would by a point."""
    if not makes:
        return None
    others = sorted({group for one in makes for group in one.parts} - set(correction.groups))
    priors = {group: sigma for one in makes for group, sigma in one.priors.items()}
    known = len(correction.groups) + 1
    covariance = np.diag([*np.zeros(known), *(priors.get(group, GROUP_SIGMA) ** 2 for group in others)])
    covariance[:known, :known] = correction.covariance
    rows = np.array([[*correction.row(one.parts), *(one.parts.get(group, 0.0) for group in others)] for one in makes])
    shared = rows @ covariance @ rows.T
    variance = np.diag(shared)
    narrowed = shared**2 / (variance + PRESS_SIGMA**2 + correction.spread)[:, None]  # (test, of)
    test = int(np.argmax(narrowed.sum(axis=1)))
    before = np.sqrt(variance + correction.spread)
    after = np.sqrt(np.maximum(variance - narrowed[test], 0.0) + correction.spread)
    narrows = int(np.argmax(before - after))
    if before[narrows] - after[narrows] < WORTH:
        return None
    return Telling(test, narrows, float(before[narrows]), float(after[narrows]))


def wide_band(composition: Composition) -> str:
    """Why the band of what a maker's own tests correct is wide, in a sentence: ``No test of yours held lard``; empty
    where they held all that it stands by, and where there are none."""
    leaves = composition.expanded.ingredients
    correction = next((leaf.correction for leaf in leaves if leaf.correction), None)
    if correction is None or not correction.groups:
        return ""
    parts = structure_by_group(composition, WINDOW_C)
    groups = untested(parts, correction)
    names = [
        GROUP_NAMES.get(group) or next(in_sentence(leaf.name) for leaf in leaves if group_of(leaf) == group)
        for group in groups
    ]
    return f"No test of yours held {listed(names)}: a pour of it, pressed, would narrow this." if names else ""
