"""What those things that somebody reacted to have in common, and what others wore without trouble has not.

Counted by wearers, not by pours: a wearer reacted to an ingredient who reacted to anything that held it; who
wore it without trouble clears it. A ranking by Fisher's exact test (Fisher 1922), with the counts it rests on,
and for the whole list how often its best looks as good when reactions fall at random. It is a hint of what to
leave out of the next pour, never a verdict.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import comb

import numpy as np

PERMUTATIONS, SEED = 2000, 12
FEWEST_REACTED = 3  # wearers: with fewer any list looks like something by chance alone


@dataclass(frozen=True)
class Wearing:
    """One thing worn by somebody: what it holds, and whether they reacted to it."""

    holds: frozenset[str]
    reacted: bool


@dataclass(frozen=True)
class Suspect:
    """Something that ``held_by`` of ``reacted`` wearers reacted to, and that ``others_with`` of ``others`` wore without
    trouble. ``p`` is how likely at least so uneven a split is by chance alone."""

    key: str
    held_by: int
    reacted: int
    others_with: int
    others: int
    p: float

    @property
    def sentence(self) -> str:
        """``in what 3 of 3 reacted to; worn without trouble by 1 of 9``."""
        worn = f"worn without trouble by {self.others_with} of {self.others}"
        return f"in what {self.held_by} of {self.reacted} reacted to; {worn}"


@dataclass(frozen=True)
class Suspects:
    """The likeliest first; how many wearers reacted, and how often the best of such a list looks at least as good when
    reactions fall at random."""

    ranked: tuple[Suspect, ...]
    reacted: int
    wearers: int
    by_chance: float

    @property
    def sentence(self) -> str:
        """What the whole list is worth."""
        if not self.ranked:
            return "Nothing is in what they reacted to more than in what others wore without trouble."
        often = f"{self.by_chance * 100:.0f} of 100 times"
        if self.reacted < FEWEST_REACTED:
            return f"Fewer than {FEWEST_REACTED} wearers reacted: chance alone makes such a list, {often}."
        return f"When reactions fall at random, the best of such a list looks as good {often}."


@lru_cache(maxsize=100_000)
def fisher(held_by: int, reacted: int, others_with: int, others: int) -> float:
    """One-sided: the chance that of all holders at least ``held_by`` are among those who reacted.

    >>> round(fisher(3, 3, 0, 5), 4)
    0.0179
    """
    holders, everything = held_by + others_with, reacted + others
    ways = comb(everything, holders)
    most = min(reacted, holders)
    return sum(comb(reacted, n) * comb(others, holders - n) for n in range(held_by, most + 1)) / ways


def suspects(wearers: Sequence[Collection[Wearing]]) -> Suspects:
    """What each wearer's things hold that they reacted to, against what others wore without trouble."""
    worn = [frozenset(key for one in things for key in one.holds) for things in wearers]
    bad = [any(one.reacted for one in things) for things in wearers]
    blamed = [_blamed([one.holds for one in things], [one.reacted for one in things]) for things in wearers]
    ranked = _ranked(worn, blamed, bad)
    if not ranked:
        return Suspects((), sum(bad), len(wearers), 1.0)
    chance, as_good = np.random.default_rng(SEED), 0
    things = [[one.holds for one in each] for each in wearers]
    for _ in range(PERMUTATIONS):
        fell = [False] * len(wearers)
        at_random: list[frozenset[str]] = [frozenset()] * len(wearers)
        for n in chance.permutation(len(wearers))[: sum(bad)].tolist():
            fell[n], one = True, int(chance.integers(len(things[n])))
            at_random[n] = _blamed(things[n], [m == one for m in range(len(things[n]))])
        as_good += _best(worn, at_random, fell) <= ranked[0].p + 1e-12
    return Suspects(ranked, sum(bad), len(wearers), as_good / PERMUTATIONS)


def _blamed(holds: Sequence[frozenset[str]], reacted: Sequence[bool]) -> frozenset[str]:
    """What one wearer may have reacted to: what is in those things and in none that they wore without trouble."""
    parts = list(zip(holds, reacted, strict=True))
    cleared = frozenset(key for keys, did in parts if not did for key in keys)
    return frozenset(key for keys, did in parts if did for key in keys) - cleared


def _ranked(
    worn: Sequence[frozenset[str]], blamed: Sequence[frozenset[str]], bad: Sequence[bool]
) -> tuple[Suspect, ...]:
    reacted, others = sum(bad), len(bad) - sum(bad)
    found = [
        Suspect(key, own, reacted, its, others, fisher(own, reacted, its, others))
        for key, (own, its) in _counts(worn, blamed, bad).items()
        if not others or own * others > its * reacted
    ]
    return tuple(sorted(found, key=lambda one: (one.p, -one.held_by, one.key)))


def _best(worn: Sequence[frozenset[str]], blamed: Sequence[frozenset[str]], bad: Sequence[bool]) -> float:
    reacted, others = sum(bad), len(bad) - sum(bad)
    counts = _counts(worn, blamed, bad).values()
    return min((fisher(own, reacted, its, others) for own, its in counts), default=1.0)


def _counts(
    worn: Sequence[frozenset[str]], blamed: Sequence[frozenset[str]], bad: Sequence[bool]
) -> dict[str, tuple[int, int]]:
    """Of each thing that somebody may have reacted to how many did, and how many of those who did not react wore it."""
    free = [keys for keys, did in zip(worn, bad, strict=True) if not did]
    return {
        key: (sum(key in keys for keys in blamed), sum(key in keys for keys in free))
        for key in sorted({key for keys in blamed for key in keys})
    }
