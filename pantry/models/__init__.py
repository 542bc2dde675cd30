"""What the workshop owns: lots of ingredients and containers, its own ingredients and containers,
rests of earlier melts, and what is being prepared."""

from pantry.models.lots import Entry, Leftover, LeftoverLine, Lot, Preparation
from pantry.models.orders import Order
from pantry.models.own import LEFTOVER, OWN_INGREDIENT, PAPERS, SCENTS, GoesWith, OwnContainer, OwnIngredient

__all__ = [
    "LEFTOVER",
    "OWN_INGREDIENT",
    "PAPERS",
    "SCENTS",
    "Entry",
    "GoesWith",
    "Leftover",
    "LeftoverLine",
    "Lot",
    "Order",
    "OwnContainer",
    "OwnIngredient",
    "Preparation",
]
