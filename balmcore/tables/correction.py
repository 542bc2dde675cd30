"""What a maker's own tests taught, as an ingredient carries it: which group it is learned by, and how sure."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from balmcore.tables.records import Ingredient, Role

LAURIC = ("lauric_butter", "lauric_oil")
GROUP_NAMES = {"brittle_butter": "brittle butters", "soft_butter": "soft butters", "lauric": "lauric fats"}
# Points: of a group before any test, of one that the table is unsure of, and of the model itself.
GROUP_SIGMA, LOW_GROUP_SIGMA, MODEL_SIGMA = 6.0, 12.0, 3.0
UNSURE_SIGMA = 3.0  # more for each ingredient whose row is of low confidence, until it was tested


def group_of(item: Ingredient) -> str:
    """The group by which an ingredient is learned: a fat by its family, beeswax of either colour, and all else by
    itself."""
    if item.role == Role.WAX:
        return "beeswax" if item.group == "beeswax" else item.key
    if item.group in LAURIC:
        return "lauric"
    return item.group if item.group in GROUP_NAMES else item.key


def group_sigma(item: Ingredient) -> float:
    """How far an ingredient's group may differ from the table before any test: one sigma, in points. One that is
    learned by itself and that the table is unsure of may twice as far."""
    alone = group_of(item) == item.key
    return LOW_GROUP_SIGMA if alone and item.confidence == "low" else GROUP_SIGMA


@dataclass(frozen=True, eq=False)
class Correction:
    """Points of firmness to add, for everything and by group (G,), with their covariance (1 + G, 1 + G); the spread
    s^2 from one making to the next, the keys of what was tested, and whether each group was (G,)."""

    groups: tuple[str, ...]
    mean: NDArray[np.float64]
    covariance: NDArray[np.float64]
    spread: float = MODEL_SIGMA**2
    tested: frozenset[str] = frozenset()
    is_tested: tuple[bool, ...] = ()

    def row(self, parts: Mapping[str, float]) -> NDArray[np.float64]:
        """What a prediction is multiplied with, (1 + G,), for each group's part of the structure."""
        return np.array([1.0, *(parts.get(group, 0.0) for group in self.groups)])

    def points(self, parts: Mapping[str, float]) -> float:
        """Points to add to the model's firmness."""
        return float(self.row(parts) @ self.mean)

    def points_of(self, group: str) -> float:
        """Points of one group; 0 for one that no test held."""
        return float(self.mean[1 + self.groups.index(group)]) if group in self.groups else 0.0

    def sigma(self, parts: Mapping[str, float], priors: Mapping[str, float], unsure: int = 0) -> float:
        """One sigma of a corrected firmness. A group without a test counts with what was thought before (``priors``),
        and each of so many ``unsure`` ingredients, that no test held, widens it."""
        row = self.row(parts)
        unknown = sum((part * priors.get(g, GROUP_SIGMA)) ** 2 for g, part in parts.items() if g not in self.groups)
        return float(np.sqrt(row @ self.covariance @ row + unknown + self.spread)) + UNSURE_SIGMA * unsure

    def unsure(self, items: Collection[Ingredient]) -> int:
        """How many of some ingredients the table is unsure of, no test held, and no wide prior speaks for."""
        return sum(
            item.confidence == "low" and item.key not in self.tested and group_sigma(item) == GROUP_SIGMA
            for item in items
        )
