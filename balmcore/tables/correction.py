"""What a maker's own tests taught, as an ingredient carries it: which group it is learned by, and how sure."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from balmcore.tables.records import Ingredient, Role

LAURIC = ("lauric_butter", "lauric_oil")
GROUP_NAMES = {"brittle_butter": "brittle butters", "soft_butter": "soft butters", "lauric": "lauric fats"}
GROUP_SIGMA, MODEL_SIGMA = 6.0, 3.0  # points: of a group before any test, and of the model itself


def group_of(item: Ingredient) -> str:
    """The group by which an ingredient is learned: a wax by itself, a fat by its family; empty for others."""
    if item.role == Role.WAX:
        return "beeswax" if item.group == "beeswax" else item.key
    if item.group in LAURIC:
        return "lauric"
    return item.group if item.group in GROUP_NAMES else ""


@dataclass(frozen=True, eq=False)
class Correction:
    """Points of firmness to add, for everything and by group (G,), with their covariance (1 + G, 1 + G)."""

    groups: tuple[str, ...]
    mean: NDArray[np.float64]
    covariance: NDArray[np.float64]

    def row(self, parts: Mapping[str, float]) -> NDArray[np.float64]:
        """What a prediction is multiplied with, (1 + G,), for each group's part of the structure."""
        return np.array([1.0, *(parts.get(group, 0.0) for group in self.groups)])

    def points(self, parts: Mapping[str, float]) -> float:
        """Points to add to the model's firmness."""
        return float(self.row(parts) @ self.mean)

    def sigma(self, parts: Mapping[str, float]) -> float:
        """One sigma of a corrected firmness. A group without a test counts with what was thought before."""
        row = self.row(parts)
        unknown = sum(part**2 for group, part in parts.items() if group not in self.groups) * GROUP_SIGMA**2
        return float(np.sqrt(row @ self.covariance @ row + unknown + MODEL_SIGMA**2))
