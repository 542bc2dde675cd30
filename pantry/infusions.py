"""Oils with herbs steeped in them, made here or named by a recipe: each an ingredient of the workshop's own."""

from copy import copy
from itertools import chain, count

from balmcore.composition import Composition
from balmcore.recipes.words.plants import herbs_named
from balmcore.tables import Ingredient, shipped
from balmcore.tables.custom import TYPICAL
from balmcore.tables.herbs import OTHER, parts_of
from balmcore.wording import in_sentence
from pantry.models import OwnIngredient, Preparation

LONGEST = 80  # letters of a name


def herbs_said(preparation: Preparation) -> tuple[str, ...]:
    """What steeps in it: what was chosen and all that its name says, or a herb that is not known."""
    chosen = preparation.herb_keys.split()
    return tuple(dict.fromkeys((*chosen, *herbs_named(preparation.name)))) or (OTHER,)


def made_of(preparation: Preparation, base: Ingredient) -> OwnIngredient:
    """The ingredient that an infusion becomes: one that holds the same already, or a new one."""
    name = f"{preparation.name} in {in_sentence(base.name)}"
    return _kept(base.key, base.role, herbs_said(preparation), name, "Infused in this workshop.")


def with_own_infusions(composition: Composition) -> Composition:
    """A composition in which the oils that a text says to be infused are ingredients of the workshop's own."""
    return Composition(
        tuple(
            line._replace(ingredient=_kept(base, item.role, herbs, item.name, "From a recipe.").to_ingredient())
            if herbs
            else line
            for line, item, (herbs, base) in ((line, line.ingredient, parts_of(line.key)) for line in composition.lines)
        )
    )


def _kept(base_key: str, role: str, herbs: tuple[str, ...], name: str, note: str) -> OwnIngredient:
    """The row of an oil with herbs in it: one of that name that holds the same already, or a new one. An oil that is
    the workshop's own brings what is known of it, herbs that it holds already too."""
    rows = {row.key: row for row in OwnIngredient.objects.all()}
    known = base_key if base_key in shipped().ingredients else TYPICAL["oil"]
    made = copy(rows[base_key]) if base_key in rows else OwnIngredient(role=role, like_key=known)
    made.herb_keys = " ".join(dict.fromkeys((*made.herbs, *herbs)))
    made.note = note
    same = [row for row in rows.values() if row.name.startswith(name[:LONGEST]) and _holds(row) == _holds(made)]
    if same:
        return same[0]
    taken = {row.name for row in rows.values()}
    ends = chain(("",), (f" ({number})" for number in count(2)))
    made.name = next(each for end in ends if (each := f"{name[: LONGEST - len(end)]}{end}") not in taken)
    made.pk, made._state.adding = None, True
    made.save()
    return made


def _holds(row: OwnIngredient) -> tuple[object, ...]:
    """What decides whether two infusions are one ingredient: the oil, and the herbs in it."""
    return row.role, row.like_key, row.melt_low_c, row.melt_high_c, frozenset(row.herbs), row.is_herb_open
