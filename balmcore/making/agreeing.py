"""What came out of a pot against what was in it: pieces, jug and pot have to agree."""

from collections.abc import Sequence
from decimal import Decimal

from balmcore.display import mass_words

# Scales are read one after the other, each to its step: so much apart is no contradiction.
WEIGHED_APART, LEAST_APART_G = Decimal("0.03"), Decimal(2)
# A piece that was not weighed holds this part of what it was to hold, at the least: what is emptier is weighed.
LEAST_FILLED = Decimal("0.8")


def contradiction(
    pot_g: Decimal, weighed_g: Sequence[Decimal], unweighed_g: Sequence[Decimal], leftover_g: Decimal | None
) -> str:
    """Why pieces and jug cannot have come out of a pot of ``pot_g``, as a question; empty where they can.

    ``weighed_g`` are the contents of pieces that were weighed, ``unweighed_g`` what the others were to hold.

    >>> contradiction(Decimal(67), [Decimal("12.9")], [Decimal("12.9")] * 9, None)
    '10 pieces hold at least 105.8 g; 67 g were in the pot. Which is wrong?'
    """
    least = sum(weighed_g, Decimal(0)) + sum(unweighed_g, Decimal(0)) * LEAST_FILLED
    left = leftover_g or Decimal(0)
    if least + left <= pot_g * (1 + WEIGHED_APART) + LEAST_APART_G:
        return ""
    count = len(weighed_g) + len(unweighed_g)
    said = "By these weights the pieces hold" if not unweighed_g else f"{count} pieces hold at least"
    said += f" {mass_words(least)}"
    if left:
        said += f" and {mass_words(left)} stayed in the jug, {mass_words(least + left)} together"
    return f"{said}; {mass_words(pot_g)} were in the pot. Which is wrong?"
