"""How long a formula keeps: as long as its shortest-lived ingredient."""

from balmcore.composition import Formula
from balmcore.tables import Ingredient


def shortest(formula: Formula) -> Ingredient | None:
    """The ingredient that turns first, None when no life is known. An antioxidant slows
    rancidity and is not counted as lengthening anything."""
    known = [line.ingredient for line in formula.expanded.lines if line.share and line.ingredient.shelf_months]
    return min(known, key=lambda item: item.shelf_months or 0.0, default=None)
