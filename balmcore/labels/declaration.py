"""The list of ingredients of a label, scent allergens that rules may ask for, and allergens in plain words.

Falling by mass of what is in the piece: rests and mixtures as what they were made of, water and spirit driven off
left out; what is under 1 % may stand in any order after the others and falls too; colourants last. Scent allergens
are those of the European list of 2023 (2023/1545), named above 0.001 % of what stays on the skin. Where the content
of an oil is not known, the whole oil counts: the safe side.
"""

import re
from dataclasses import dataclass

from balmcore.composition import Composition
from balmcore.errors import Problem
from balmcore.tables import Ingredient, Role, Tables, shipped

NAMED_ABOVE = 0.00001  # of a leave-on product
NAMES = ("inci", "common", "both")
_PART = re.compile(r",\s*(?![^(]*\))")  # between parts of a name, not inside its brackets


@dataclass(frozen=True)
class Declared:
    """One ingredient as it is named, with its share of the product."""

    ingredient: Ingredient
    name: str
    share: float


@dataclass(frozen=True)
class ScentAllergen:
    """A scent allergen with its share; where that is not known it is the most that it can be."""

    name: str
    share: float
    is_known: bool


@dataclass(frozen=True)
class Declaration:
    """Ingredients in order, scent allergens by name, and words such as tree nuts."""

    ingredients: tuple[Declared, ...]
    allergens: tuple[ScentAllergen, ...]
    plain: tuple[str, ...]
    doubts: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """The list as it stands on a label, the scent allergens after the ingredients, each word once: an oil that
        stands by itself and under a herb drawn out in it is one word."""
        words = [part for each in self.ingredients for part in _PART.split(each.name)]
        words += [each.name.capitalize() for each in self.allergens]
        return ", ".join(dict.fromkeys(words))


def declare(composition: Composition, names: str = "inci", tables: Tables | None = None) -> Declaration:
    """The declaration of what was weighed. ``names`` are inci, common or both. Raises :class:`Problem` for other
    names, and where nothing is left."""
    if names not in NAMES:
        raise Problem("Names on a label are inci, common or both.", "names")
    left = composition.require_mass().without_volatiles.expanded
    total = float(left.total)
    if total <= 0:
        raise Problem("Nothing of it stays: there is nothing to declare.", "grams")
    # Two sorts of one thing, such as refined and raw, are one word on a label.
    shares: dict[str, tuple[Ingredient, float]] = {}
    for line in left.lines:
        item, share = line.ingredient, float(line.share) / total
        if share > 0:
            first, before = shares.get(_name(item, names), (item, 0.0))
            shares[_name(item, names)] = first, before + share
    items = [item for item, _ in shares.values()]
    doubts = [f"{item.name} has no INCI name: it stands here as you call it." for item in items if not item.is_named]
    doubts += dict.fromkeys(line.ingredient.doubt for line in left.lines if line.ingredient.doubt)
    declared = [Declared(item, name, share) for name, (item, share) in shares.items()]
    declared.sort(key=lambda each: (_is_colour(each.ingredient), -each.share))
    held = [(line.ingredient, float(line.share) / total) for line in left.lines if line.share > 0]
    words = {word.strip() for item, _ in held for word in item.allergens if word.strip()}
    return Declaration(tuple(declared), _allergens(held, tables or shipped()), tuple(sorted(words)), tuple(doubts))


def _name(item: Ingredient, names: str) -> str:
    if names == "common" or not item.is_named:
        return item.name
    return item.inci if names == "inci" else f"{item.inci} ({item.name})"


def _is_colour(item: Ingredient) -> bool:
    """True for a colour of its own: an oil that is coloured by a herb stands by its mass, as any oil."""
    return item.colourant is not None and item.role is Role.EXTRA


def _allergens(held: list[tuple[Ingredient, float]], tables: Tables) -> tuple[ScentAllergen, ...]:
    substances = {substance.name.lower(): substance for substance in tables.substances.values()}
    shares: dict[str, tuple[float, bool]] = {}
    for item, share in held:
        for name in item.aromatic.allergens if item.aromatic else ():
            substance = substances.get(name.lower())
            content = substance.share_in(item) if substance else 0.0
            before, known = shares.get(name, (0.0, True))
            shares[name] = before + share * (content or 1.0), known and bool(content)
    return tuple(
        ScentAllergen(name, share, known) for name, (share, known) in sorted(shares.items()) if share > NAMED_ABOVE
    )
