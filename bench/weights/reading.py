"""Weights as they are typed at the bench, read."""

from decimal import Decimal

from balmcore import units
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.making.portions import drops_g
from balmcore.making.scaling import MOST_PIECES
from balmcore.tables import Ingredient
from workshop.models import Preferences

MOST_G, MOST_DROPS = Decimal(50_000), 2000
MOST_LETTERS = 8 * MOST_PIECES  # of the weights of pieces, written one after the other


def weight_g(text: str, item: Ingredient | None, prefs: Preferences) -> Decimal:
    """Grams of a weight typed at the bench: sums such as ``9.0 + 2.1`` of what went in one after the other;
    of an ingredient also volumes by its density, and drops where a drop's weight is known.

    Raises :class:`Problem`.
    """
    grams = sum((_part_g(part, item, prefs) for part in text.split("+")), Decimal(0))
    if grams > MOST_G:
        raise Problem(f"{mass_words(grams)} is more than this bench holds: check the figure.")
    return grams


def piece_weights_g(text: str, name: str, count: int, prefs: Preferences) -> list[Decimal]:
    """Grams of up to ``count`` pieces, written one after the other; each as for :func:`weight_g`.

    Raises :class:`Problem`.
    """
    found = units.apart(text)
    if len(found) > count:
        raise Problem(f"{name}: {len(found)} weights for {count} piece{'' if count == 1 else 's'}.", "pieces")
    return [weight_g(part, None, prefs) for part in found]


def _part_g(text: str, item: Ingredient | None, prefs: Preferences) -> Decimal:
    if item is None:
        return units.mass_g(text, prefs.mass_unit, prefs.kitchen)
    if (number := units.drops(text, MOST_DROPS)) is not None:
        return round(drops_g(item, number), 6)
    return units.mass_g(text, prefs.mass_unit, prefs.kitchen, item.density_g_ml, item.bulk_density_g_ml)
