"""What each line gives to the structure, and what more of it would do."""

from dataclasses import dataclass

import numpy as np

from balmcore.composition import Array, Composition
from balmcore.physics.basis import basis


@dataclass(frozen=True)
class Contribution:
    """What one line gives to the structure, 0 to 1 of it, and what one percent more of it would
    do to the firmness, in points, the others giving way in proportion."""

    structure: float
    slope: float


def contributions(composition: Composition, temp_c: float, overrun: float = 0.0) -> dict[str, Contribution]:
    """Per line its part in the structure at a temperature and its slope."""
    compiled, shares = basis(composition.ingredients), composition.shares / composition.shares.sum()
    more = shares[None, :] * (1 - 0.01) + np.eye(len(shares)) * 0.01
    state = compiled.state(np.vstack([shares, more]), np.array([temp_c]), overrun)
    found: Array = state.firmness[:, 0]
    given = (state.solid[:, 0, 0] @ compiled.strength_per_gram) * shares
    total = float(given.sum())
    return {
        key: Contribution(float(given[i]) / total if total > 1e-9 else 0.0, float(found[i + 1] - found[0]))
        for i, key in enumerate(composition.keys)
    }
