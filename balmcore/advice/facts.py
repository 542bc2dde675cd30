"""What a composition is: allergens, declared scents, vegan or not. It belongs on a label and warns of nothing."""

from collections.abc import Iterator, Sequence

from balmcore.advice.caution import Caution, Level
from balmcore.composition import Line
from balmcore.tables import Ingredient
from balmcore.wording import listed


def facts(lines: Sequence[Line]) -> Iterator[Caution]:
    """The facts of some lines: allergens, declared scents, vegan or not."""
    allergens: dict[str, list[Ingredient]] = {}
    for line in lines:
        for allergen in line.ingredient.allergens:
            allergens.setdefault(allergen, []).append(line.ingredient)
    if allergens:
        told = "; ".join(f"{word} ({', '.join(i.name for i in items)})" for word, items in sorted(allergens.items()))
        about = tuple(dict.fromkeys(item for items in allergens.values() for item in items))
        yield Caution(Level.NOTE, f"Allergens: {', '.join(sorted(allergens))}", f"{told}.", about, is_fact=True)
    scents = [line.ingredient for line in lines if line.ingredient.aromatic]
    declared = sorted({word for item in scents if item.aromatic for word in item.aromatic.allergens})
    itself = [item.inci for item in scents if item.aromatic and item.aromatic.declared_itself]
    if declared or itself:
        text = (
            f"{', '.join([*declared, *itself])}. By the European list of 2023 (2023/1545), where your rules ask for it."
        )
        count = len(declared) + len(itself)
        yield Caution(Level.NOTE, f"Scent allergens to declare: {count}", text, tuple(scents), is_fact=True)
    not_vegan = [line.ingredient for line in lines if line.ingredient.vegan == "no"]
    unsure = [line.ingredient for line in lines if line.ingredient.vegan in ("varies", "")]
    if not_vegan:
        said = f"Not vegan: {listed([item.name for item in not_vegan])}"
        yield Caution(Level.NOTE, said, "It comes from animals.", tuple(not_vegan), is_fact=True)
    elif unsure:
        text = f"It depends on where these come from: {listed([item.name for item in unsure])}."
        yield Caution(Level.NOTE, "Vegan only if the supplier says so", text, tuple(unsure), is_fact=True)
    elif lines:
        text = "Nothing in it comes from animals, as far as the table knows."
        yield Caution(Level.NOTE, "Vegan", text, is_fact=True)
