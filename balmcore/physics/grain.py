"""Whether a butter will turn grainy, and what each way of cooling does about it.

Butters rich in stearic glycerides grain when the part that melts at 39 to 52 degrees C
crystallises slowly. The score is that part's share of the solids at 20 degrees C, weighted by
how readily each butter grains, times the minutes between 4 K above setting, or 36 degrees C
where that is lower, and 25 degrees C against 20; halved when it is stirred meanwhile, half as
much again when the melt was not held clear.
"""

from dataclasses import dataclass

import numpy as np

from balmcore.composition import Composition
from balmcore.physics.basis import basis

GRAINING_C = (39.0, 52.0)  # melting points of the stearic glycerides that grain
AT_C = 20.0  # at which their solids are counted
# Where grains grow while it cools: from the lower of these down to the last.
GRAINS_BELOW_C, GRAINS_ABOVE_SET_K, GRAINS_TO_C = 36.0, 4.0, 25.0
AGAINST_MINUTES = 20.0  # a cooling that hardly grains
HELD_MINUTES, HELD_ABOVE_CLEAR_K = 15.0, 20.0  # and how far above clear: what clears the memory of crystals
STIRRED, NOT_HELD = 0.5, 1.5  # times the grain of one that stands; of one merely molten
WORDS = ((0.25, "low"), (1.0, "some"), (float("inf"), "high"))  # our words for the score


@dataclass(frozen=True)
class MeltingMethod:
    """How far a melt is brought before it cools: its name and what people say for it."""

    key: str
    name: str
    reason: str


HELD, CLEAR, SEEDED = "held", "clear", "seeded"
MELTING_METHODS = {
    method.key: method
    for method in (
        MeltingMethod(
            HELD,
            "Clear, and held where butters may grain",
            "Our default: crystals that are only just gone are remembered, and butters forget them in a quarter of an "
            "hour well above clear.",
        ),
        MeltingMethod(
            CLEAR,
            "Until it is just clear",
            "Gentle on butters and quick. What was merely clear grains the more readily: by the model half as much "
            "again.",
        ),
        MeltingMethod(
            SEEDED,
            "In part: off the heat with lumps left",
            "The last lumps melt in the warmth of the others and leave fine crystals as seeds. The model cannot say "
            "what seeds do, and scores it as merely clear: your own pours tell.",
        ),
    )
}


@dataclass(frozen=True)
class Grain:
    """A score and its word: low, some or high."""

    score: float

    @property
    def word(self) -> str:
        """low, some or high."""
        return next(word for top, word in WORDS if self.score < top)


def readiness(composition: Composition) -> float:
    """Share of the solids at 20 degrees C that can grain, weighted by how readily: 0 to 1."""
    compiled = basis(composition.ingredients)
    solid = compiled.state(composition.shares[None, :], np.array([AT_C])).solid[:, 0, 0]
    shares = composition.shares / composition.shares.sum()
    total = float(solid @ compiled.mass_per_gram @ shares)
    low, high = GRAINING_C
    slow = solid * ((compiled.melt_c >= low) & (compiled.melt_c <= high))
    return float(slow @ compiled.graining_per_gram @ shares) / total if total > 1e-9 else 0.0


def grain(ready: float, minutes: float, stirred: bool = False, held: bool = True) -> Grain:
    """The score of a composition so ready to grain (see :func:`readiness`) when it spends so many ``minutes`` where
    grains grow; ``held`` is whether the melt was kept clear for a quarter of an hour."""
    score = ready * minutes / AGAINST_MINUTES
    return Grain(score * (STIRRED if stirred else 1.0) * (1.0 if held else NOT_HELD))
