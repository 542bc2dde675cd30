"""What those things that somebody reacted to have in common, and the others have not.

A ranking by Fisher's exact test (Fisher 1922), with the counts it rests on. It is a hint of what to leave
out of the next pour, never a verdict.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import comb


@dataclass(frozen=True)
class Suspect:
    """Something in ``held_by`` of ``reacted`` things reacted to, and in ``others_with`` of ``others``. ``p`` is
    how likely at least so uneven a split is by chance alone."""

    key: str
    held_by: int
    reacted: int
    others_with: int
    others: int
    p: float

    @property
    def sentence(self) -> str:
        """``in 3 of 3 that somebody reacted to, in 1 of 9 others``."""
        return (
            f"in {self.held_by} of {self.reacted} that somebody reacted to, in {self.others_with} of {self.others} "
            f"that nobody did"
        )


def fisher(held_by: int, reacted: int, others_with: int, others: int) -> float:
    """One-sided: the chance that of all holders at least ``held_by`` are among those reacted to.

    >>> round(fisher(3, 3, 0, 5), 4)
    0.0179
    """
    holders, everything = held_by + others_with, reacted + others
    ways = comb(everything, holders)
    most = min(reacted, holders)
    return sum(comb(reacted, n) * comb(others, holders - n) for n in range(held_by, most + 1)) / ways


def suspects(cases: Sequence[tuple[Iterable[str], bool]]) -> tuple[Suspect, ...]:
    """The likeliest first: what is in more of the things reacted to than of the others. ``cases`` are what each
    thing holds, and whether somebody reacted to it. Empty where nothing was reacted to."""
    held = [(frozenset(keys), reacted) for keys, reacted in cases]
    reacted = sum(did for _, did in held)
    others = len(held) - reacted
    found = []
    for key in sorted({key for keys, did in held if did for key in keys}):
        own = sum(did and key in keys for keys, did in held)
        its = sum(not did and key in keys for keys, did in held)
        if not others or own * others > its * reacted:
            found.append(Suspect(key, own, reacted, its, others, fisher(own, reacted, its, others)))
    return tuple(sorted(found, key=lambda one: (one.p, -one.held_by, one.key)))
