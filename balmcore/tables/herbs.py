"""A herb steeped in an oil: the oil melts and weighs as before, and asks for what the herb asks for."""

from dataclasses import replace
from functools import cache

from balmcore.tables.loading import shipped
from balmcore.tables.records import ALLERGENS, WEARERS, WHICH_HERB, Ingredient
from balmcore.wording import in_sentence

UNNAMED = "infused_oil"
OTHER = "other"  # a herb that the tables do not know
IN = "_in_"  # between herb and oil, in the key of an infused oil that no table holds yet
_WORSE = {"": 0, "yes": 1, "varies": 2, "care": 2, "ask": 2, "no": 3}


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
    return herbs()[key].name.removesuffix("-infused oil").removesuffix(" extract (in oil)")


def infused(base: Ingredient, key: str, name: str, keys: tuple[str, ...], note: str = "") -> Ingredient:
    """An oil with herbs steeped in it: melting, density and feel of the oil; cautions, INCI, allergens, colour and
    smell of both, the stricter of the two. ``keys`` are of :func:`herbs`; any other is a herb that nobody has named,
    and stands among its ``unknown``."""
    made = replace(base, key=key, name=name, note=note, like=base.like or base.key)
    for each in keys:
        made = _with_herb(made, herbs().get(each) or shipped().ingredient(UNNAMED))
    return made


def of_recipe(base: Ingredient, herb: str) -> Ingredient:
    """An oil that a text says to be infused with one of :func:`herbs`; its key names both, see :func:`parts_of`."""
    return infused(base, f"{herb}{IN}{base.key}", f"{base.name}, infused with {in_sentence(herb_name(herb))}", (herb,))


def parts_of(key: str) -> tuple[str, str]:
    """The herb and the oil that the key of an infused oil names; no herb for any other key.

    >>> parts_of("calendula_oil_in_olive_oil"), parts_of("olive_oil")
    (('calendula_oil', 'olive_oil'), ('', 'olive_oil'))
    """
    herb, _, base = key.rpartition(IN)
    return herb, base


def stricter(one: str, other: str) -> str:
    """The word that allows less: ``no`` before ``care``, ``ask`` and ``varies``, these before ``yes`` and none."""
    return max(one, other, key=_WORSE.__getitem__)


def _with_herb(oil: Ingredient, herb: Ingredient) -> Ingredient:
    both = (oil, herb)
    drawn = herb.inci.rpartition(", ")[2]
    is_known = herb.key != UNNAMED
    years = [item.avoid_under_years for item in both if item.avoid_under_years is not None]
    lives = [item.shelf_months for item in both if item.shelf_months is not None]
    most = [item.usual_max_share for item in both if item.usual_max_share is not None]
    heats = [item.damage_c for item in both if item.damage_c is not None]
    return replace(
        oil,
        inci=f"{oil.inci}, {drawn}" if oil.is_named and is_known else "",
        unknown=oil.unknown if is_known else tuple(dict.fromkeys((WHICH_HERB, ALLERGENS, WEARERS, *oil.unknown))),
        allergens=tuple(dict.fromkeys((*oil.allergens, *herb.allergens))),
        aroma=herb.aroma or oil.aroma,
        vegan=stricter(oil.vegan, herb.vegan),
        lip_ok=stricter(oil.lip_ok, herb.lip_ok),
        pregnancy=stricter(oil.pregnancy, herb.pregnancy),
        avoid_under_years=max(years, default=None),
        shelf_months=min(lives, default=None),
        usual_max_share=min(most, default=None),
        damage_c=min(heats, default=None),
        # Of a herb that nobody named the doubt speaks, until its papers do.
        caution=" ".join(dict.fromkeys(item.caution for item in both[: 1 + is_known] if item.caution)),
        colourant=herb.colourant or oil.colourant,
        disperses=herb.disperses or oil.disperses,
    )
