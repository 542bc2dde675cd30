"""Herbs steeped in an oil or in spirit: it melts and weighs as before, and asks for what every herb in it asks for.

A herb is named by the key of what is bought infused with it (``arnica_oil``), by that of the plant's essential oil
where the tables know no other (``lavender``), or by its name (``nettle``), of which nothing is known.
"""

from collections.abc import Sequence
from dataclasses import replace
from functools import cache

from balmcore.tables.loading import shipped
from balmcore.tables.records import ALLERGENS, CARRIER, INCI, SPIRIT, WEARERS, WHICH_HERB, Ingredient
from balmcore.wording import as_sentence, listed

UNNAMED = "infused_oil"
OTHER = "other"  # a herb that nobody named
IN, AND = "_in_", "+"  # between herb and oil, and between herbs, in the key of an infused oil that no table holds yet
_WORSE = {"": 0, "yes": 1, "varies": 2, "care": 2, "ask": 2, "no": 3}
_LIPS = {"yes": "", "caution": "care", "no": "no"}
# The INCI names of what a herb is drawn out in, and what of it is open once the herb is known.
_BASES: dict[str, tuple[str, tuple[str, ...]]] = {SPIRIT: ("Alcohol, Aqua", ()), UNNAMED: ("", (CARRIER,))}


@cache
def herbs() -> dict[str, Ingredient]:
    """The herbs that the tables know, by the key of what is bought infused with them."""
    known = shipped().ingredients.values()
    return {
        item.key: item
        for item in known
        if (item.name.endswith("-infused oil") and item.key != UNNAMED) or item.key == "propolis"
    }


def herb_name(key: str) -> str:
    """``St John's wort``: the herb itself."""
    if key in herbs():
        return herbs()[key].name.removesuffix("-infused oil").removesuffix(" extract (in oil)")
    if key == OTHER:
        return "An unnamed herb"
    scent = shipped().ingredients.get(key)
    return scent.name.partition(" (")[0] if scent else key.replace("-", " ").capitalize()


def herb(key: str) -> Ingredient:
    """What a herb asks for, as an oil that holds nothing else: of a plant whose essential oil alone the tables know,
    what that asks of who wears it; of any other, nothing is known."""
    if known := herbs().get(key):
        return known
    plain = replace(shipped().ingredient(UNNAMED), key=key, inci="", caution="")
    scent = shipped().ingredients.get(key)
    if scent is None or scent.aromatic is None:
        return replace(plain, unknown=(WHICH_HERB if key == OTHER else INCI, ALLERGENS, WEARERS))
    oil = scent.aromatic
    asked = {oil.pregnancy_caution, oil.nursing_caution}
    return replace(
        plain,
        lip_ok=_LIPS[oil.lip_suitable],
        pregnancy="no" if "never" in asked else "ask" if "yes" in asked else "",
        avoid_under_years=oil.avoid_under_years,
        caution=oil.caution,
        unknown=(INCI, ALLERGENS),
    )


def infused(base: Ingredient, key: str, name: str, keys: Sequence[str], note: str = "") -> Ingredient:
    """An oil or a spirit with herbs steeped in it: melting, density and feel of the base; cautions, INCI, allergens,
    colour and smell of all, the strictest of them. ``keys`` are as of :func:`herb`."""
    like = base.like or base.key
    made = replace(base, key=key, name=name, note=note, like=like)
    if like in _BASES and base.unknown == shipped().ingredient(like).unknown:
        inci, unknown = _BASES[like]
        made = replace(made, inci=inci, unknown=unknown)
    for each in keys:
        made = _with_herb(made, herb(each))
    return made


def of_recipe(base: Ingredient, *keys: str) -> Ingredient:
    """A base that a text says to have herbs in it; its key names all of them, see :func:`parts_of`."""
    named = [herb_name(key) for key in keys]
    if base.key == SPIRIT:
        name = as_sentence(f"{listed(named)} tincture")
    else:
        name = f"{'Oil' if base.key == UNNAMED else base.name}, infused with {listed(named)}"
    return infused(base, f"{AND.join(keys)}{IN}{base.key}", name, keys)


def parts_of(key: str) -> tuple[tuple[str, ...], str]:
    """The herbs and the base that the key of :func:`of_recipe` names; no herbs for any other key.

    >>> parts_of("arnica_oil+nettle_in_olive_oil"), parts_of("olive_oil")
    ((('arnica_oil', 'nettle'), 'olive_oil'), ((), 'olive_oil'))
    """
    keys, _, base = key.rpartition(IN)
    return tuple(each for each in keys.split(AND) if each), base


def stricter(one: str, other: str) -> str:
    """The word that allows less: ``no`` before ``care``, ``ask`` and ``varies``, these before ``yes`` and none."""
    return max(one, other, key=_WORSE.__getitem__)


def _with_herb(oil: Ingredient, herb: Ingredient) -> Ingredient:
    both = (oil, herb)
    drawn = herb.inci.rpartition(", ")[2]
    years = [item.avoid_under_years for item in both if item.avoid_under_years is not None]
    lives = [item.shelf_months for item in both if item.shelf_months is not None]
    most = [item.usual_max_share for item in both if item.usual_max_share is not None]
    heats = [item.damage_c for item in both if item.damage_c is not None]
    open_of_herb = [word for word in herb.unknown if word != CARRIER]
    return replace(
        oil,
        inci=f"{oil.inci}, {drawn}" if oil.is_named and drawn else "",
        unknown=tuple(dict.fromkeys((*open_of_herb, *oil.unknown))),
        allergens=tuple(dict.fromkeys((*oil.allergens, *herb.allergens))),
        aroma=herb.aroma or oil.aroma,
        vegan=stricter(oil.vegan, herb.vegan),
        lip_ok=stricter(oil.lip_ok, herb.lip_ok),
        pregnancy=stricter(oil.pregnancy, herb.pregnancy),
        avoid_under_years=max(years, default=None),
        shelf_months=min(lives, default=None),
        usual_max_share=min(most, default=None),
        damage_c=min(heats, default=None),
        caution=" ".join(dict.fromkeys(item.caution for item in both if item.caution)),
        colourant=herb.colourant or oil.colourant,
        disperses=herb.disperses or oil.disperses,
        herbs=tuple(dict.fromkeys((*oil.herbs, herb.key))),
    )
