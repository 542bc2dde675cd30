"""How much of a colourant: faint, clear or deep, whether it will speck, and whether lips may wear it."""

import math
from decimal import Decimal

from balmcore.composition import percent_text
from balmcore.errors import Problem
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence

TINTS = ("faint", "clear", "deep")
DISPERSES = {
    "well": "stirs into oil",
    "poorly": "grind it into a little oil first, or it specks",
    "no": "does not disperse in oil: it stays as specks",
}
ON_LIPS = {
    "yes": "lips may wear it",
    "varies": "on lips only where its papers say so",
    "no": "not for lips",
}


def tint_shares(item: Ingredient) -> dict[str, Decimal]:
    """The share of a product for a faint, a clear and a deep tint: the ends of the usual range and the
    geometric middle between them, to a hundredth of a percent. Empty for what has no such range."""
    low, high = item.usual_min_share, item.usual_max_share
    if item.colourant is None or not low or not high:
        return {}
    middle = math.sqrt(low * high)
    return {word: round(Decimal(str(share)), 4) for word, share in zip(TINTS, (low, middle, high), strict=True)}


def tint_share(item: Ingredient, word: str) -> Decimal:
    """The share for one of the words. Raises :class:`Problem` for what is no colour with a range."""
    shares = tint_shares(item)
    if not shares:
        raise Problem(f"{item.name} has no {word} of its own: give percent, grams or drops.")
    return shares[word]


def colour_words(item: Ingredient) -> str:
    """A sentence on a colourant; empty for anything else."""
    if item.colourant is None:
        return ""
    told = ", ".join(f"{word} {percent_text(share, 1)} %" for word, share in tint_shares(item).items())
    said = [DISPERSES[item.disperses], ON_LIPS[item.colourant.lip_ok]]
    return f"{item.name}: {f'{told}; ' if told else ''}{'; '.join(in_sentence(word) for word in said)}."
