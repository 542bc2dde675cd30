"""How often something happened, and what is usual, said honestly of few cases."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import quantiles

Z = 1.959964  # of a 95 % interval
FEWEST_TO_GO_BY, WRONG = 3, 0.05  # cases on either side of a comparison; how often it may be wrong
FEWEST_FOR_MIDDLE = 4  # cases for a median with quartiles


@dataclass(frozen=True)
class Rate:
    """``cases`` of ``of``. A rate of none is not known."""

    cases: int
    of: int

    @property
    def interval(self) -> tuple[float, float]:
        """Between which shares, 0 to 1, it lies with 95 % (Wilson 1927): wide for few cases, never beyond 0 or 1.

        >>> [round(end, 2) for end in Rate(3, 4).interval]
        [0.3, 0.95]
        """
        if not self.of:
            return 0.0, 1.0
        share, z2 = self.cases / self.of, Z**2
        middle = share + z2 / (2 * self.of)
        half = Z * math.sqrt(share * (1 - share) / self.of + z2 / (4 * self.of**2))
        low, high = ((middle + side * half) / (1 + z2 / self.of) for side in (-1, 1))
        return max(0.0, low), min(1.0, high)

    @property
    def share(self) -> float:
        """The part that it was, 0 of none."""
        return self.cases / self.of if self.of else 0.0

    def __str__(self) -> str:
        return f"{self.cases} of {self.of}"

    @property
    def sentence(self) -> str:
        """``3 of 4 (30 to 95 %)``."""
        low, high = self.interval
        return f"{self} ({low * 100:.0f} to {high * 100:.0f} %)"

    def chance_below(self, other: "Rate") -> float:
        """How likely it is that the rate behind this one is the lower, by the posteriors Beta(1 + k, 1 + n - k).

        >>> round(Rate(0, 4).chance_below(Rate(3, 4)), 3), Rate(1, 2).chance_below(Rate(1, 2))
        (0.976, 0.5)
        """
        a, b = 1 + self.cases, 1 + self.of - self.cases
        c, d = 1 + other.cases, 1 + other.of - other.cases
        # The sum in closed form, with whole numbers: over the successes of the other.
        terms = (_log_beta(a + i, b + d) - math.log(d + i) - _log_beta(1 + i, d) - _log_beta(a, b) for i in range(c))
        return round(min(1.0, sum(math.exp(term) for term in terms)), 12)

    def is_below(self, other: "Rate", rivals: int = 1) -> bool:
        """True where it is lower, enough to go by: at 95 %, what may be wrong divided among so many rivals, and with
        three cases at least on either side."""
        if min(self.of, other.of) < FEWEST_TO_GO_BY:
            return False
        return self.chance_below(other) >= 1 - WRONG / rivals


def _log_beta(a: float, b: float) -> float:
    return math.lgamma(a) + math.lgamma(b) - math.lgamma(a + b)


@dataclass(frozen=True)
class Middle:
    """What is usual: the median, and the quartiles between which half of the cases lie."""

    median: float
    low: float
    high: float
    count: int


def middle(values: Sequence[float]) -> Middle | None:
    """What is usual of some values, None before there are four.

    >>> middle([3, 1, 2, 10])
    Middle(median=2.5, low=1.75, high=4.75, count=4)
    """
    if len(values) < FEWEST_FOR_MIDDLE:
        return None
    low, median, high = quantiles(values, n=4, method="inclusive")
    return Middle(median, low, high, len(values))
