"""What the pantry holds: every container, shipped and own; every ingredient by role."""

from dataclasses import dataclass

from balmcore.tables import ROLES, Container, Ingredient, library
from pantry.models import OwnContainer


def containers() -> dict[str, Container]:
    """All containers by key, the maker's own first."""
    own = {
        row.key: Container(row.key, row.name, "own", row.capacity_ml, row.fill, 0.0, 0.0, None, (), "")
        for row in OwnContainer.objects.all()
    }
    return {**own, **library().containers}


@dataclass(frozen=True)
class Drawer:
    """The ingredients of one role."""

    role: str
    items: tuple[Ingredient, ...]


def drawers(words: str = "") -> list[Drawer]:
    """Ingredients by role, narrowed to names and INCI names that hold every word."""
    parts = words.lower().split()[:8]
    found = [
        item
        for item in library().ingredients.values()
        if item.key != "aroma" and all(part in f"{item.name} {item.inci} {item.group}".lower() for part in parts)
    ]
    return [Drawer(role, items) for role in ROLES if (items := tuple(i for i in found if i.role == role))]
