"""Reference tables and the records they are made of; see :mod:`balmcore.tables.loading`."""

from balmcore.tables.loading import DATA, shipped
from balmcore.tables.records import (
    ROLES,
    AromaLimit,
    Aromatic,
    Colourant,
    Container,
    Ingredient,
    Kind,
    Role,
    Species,
    Starter,
    Substance,
    Tables,
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
    "Role",
    "Species",
    "Starter",
    "Substance",
    "Tables",
    "shipped",
]
