"""Reference tables and the records they are made of; see :mod:`balmcore.tables.loading`."""

from balmcore.tables.loading import DATA, library, shipped, stocked
from balmcore.tables.records import (
    ROLES,
    AromaLimit,
    Aromatic,
    Colourant,
    Container,
    Ingredient,
    Kind,
    Library,
    School,
    Species,
)

__all__ = [
    "DATA",
    "ROLES",
    "AromaLimit",
    "Aromatic",
    "Colourant",
    "Container",
    "Ingredient",
    "Kind",
    "Library",
    "School",
    "Species",
    "library",
    "shipped",
    "stocked",
]
