"""How long a composition keeps: as long as its shortest-lived ingredient."""

from balmcore.composition import Composition
from balmcore.tables import Ingredient


def shortest(composition: Composition) -> Ingredient | None:
    """The ingredient that turns first, None when no life is known. An antioxidant slows
    rancidity and is not counted as lengthening anything."""
    known = [line.ingredient for line in composition.expanded.lines if line.share and line.ingredient.shelf_months]
    return min(known, key=lambda item: item.shelf_months or 0.0, default=None)
