"""What can be made from the pantry: per kind the best formula from stock alone."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from balmcore.composition import Composition, pack, percent_text
from balmcore.design.from_stock import Proposal, from_stock
from balmcore.tables import Kind, Tables
from formulas.services import starting_point
from pantry.models import Lot
from pantry.queries import held_by, lots_of
from workshop.models import Preferences
from workshop.pictures.tin import Tin, tin


@dataclass(frozen=True)
class Makeable:
    """A kind that the stock suffices for: its formula as a tin and in lines, the largest batch, what
    runs out with it, and the formula as a field of a form holds it."""

    kind: Kind
    tin: Tin
    firmness: float
    lines: tuple[tuple[str, str], ...]
    batch: str
    limit: str
    packed: str


@dataclass(frozen=True)
class FromPantry:
    """What can be made, the largest batch first, and the kinds for which the stock does not suffice."""

    can: tuple[Makeable, ...]
    cannot: tuple[Kind, ...]
    is_empty: bool


def from_pantry(tables: Tables, prefs: Preferences) -> FromPantry:
    """Every kind against what good lots hold."""
    keys = Lot.objects.filter(left__gt=0, is_container=False).values_list("item_key", flat=True)
    stock = {key: grams for key, grams in held_by(lots_of(keys)).items() if grams > 0 and key in tables.ingredients}
    found = {key: from_stock(kind, _starts(kind, tables), stock, tables) for key, kind in tables.kinds.items()}
    able = sorted((each for each in found.values() if each), key=lambda each: -each.most.total_g)
    return FromPantry(
        tuple(_makeable(each, tables, prefs, stock) for each in able),
        tuple(tables.kinds[key] for key, each in found.items() if each is None),
        not stock,
    )


def _starts(kind: Kind, tables: Tables) -> list[Composition]:
    starters = [starter for starter in tables.starters.values() if starter.kind == kind.key]
    return [starting_point(kind, tables), *(starting_point(starter, tables) for starter in starters)]


def _makeable(found: Proposal, tables: Tables, prefs: Preferences, stock: Mapping[str, Decimal]) -> Makeable:
    composition, limit = found.composition, tables.ingredient(found.most.key)
    lines = tuple((line.ingredient.name, percent_text(line.share, 2)) for line in composition.lines if line.share)
    return Makeable(
        found.kind,
        tin(composition.role_shares(), found.firmness, "draft", found.kind.name),
        found.firmness,
        lines,
        prefs.show.mass_text(found.most.total_g),
        f"{limit.name}, {prefs.show.mass_text(stock[limit.key])} in stock, runs out first",
        pack((line.key, line.share) for line in composition.lines if line.share),
    )
