"""A maker's own ingredients, described by little: like a known one, or by a melting range.

What is known so little of is marked of low confidence, and predictions widen with it.
"""

from dataclasses import replace

from balmcore.display import temp_words
from balmcore.errors import Problem
from balmcore.tables import ROLES, Ingredient, Role, Species, shipped

# What an own ingredient is taken to be where nothing else is said of it.
TYPICAL = {"wax": "beeswax_white", "butter": "shea_butter_refined", "oil": "sunflower_oil", "extra": "arrowroot"}
COLDEST_C, HOTTEST_C = -30.0, 110.0  # melting points that an own ingredient may be given
LIQUID_BELOW_C = 15.0  # what melts below it is an oil in any room


def like(key: str, name: str, other: str, role: str = "", note: str = "") -> Ingredient:
    """An ingredient that melts, weighs and feels as another does. Raises :class:`Problem`."""
    model = shipped().ingredient(other, "like")
    if role and role != model.role:
        raise Problem(f"{model.name} is of the role {model.role}, not {role}.", "like")
    return replace(model, key=key, name=name, like=other, note=note, confidence="low")


def by_melting(key: str, name: str, role: str, low_c: float, high_c: float, note: str = "") -> Ingredient:
    """An ingredient known by its role and the range over which it melts, in degrees C.

    It takes the melting fractions of the known ingredient of its role that melts nearest, each
    moved by as many degrees. Raises :class:`Problem` for a range upside down or out of reach.
    """
    if role not in ROLES:
        raise Problem(f"A role is one of {', '.join(ROLES)}.", "role")
    if low_c > high_c:
        raise Problem(
            f"It cannot begin to melt at {temp_words(low_c)} and be molten at {temp_words(high_c)} already: "
            "the lower figure first.",
            "melt_low_c",
        )
    if not COLDEST_C <= low_c <= high_c <= HOTTEST_C:
        raise Problem(f"Melting lies between {temp_words(COLDEST_C)} and {temp_words(HOTTEST_C)}.", "melt_low_c")
    if role in ("oil", "extra") and high_c < LIQUID_BELOW_C:
        model = shipped().ingredient(TYPICAL["oil"])
        return replace(
            model,
            key=key,
            name=name,
            role=Role(role),
            melt_low_c=low_c,
            melt_high_c=high_c,
            note=note,
            confidence="low",
        )
    model = _nearest(role, low_c, high_c)
    assert model.melt_low_c is not None
    assert model.melt_high_c is not None
    shift = (low_c + high_c - model.melt_low_c - model.melt_high_c) / 2
    fractions = tuple(
        (Species(f"{key}:{each.key}", each.melt_c + shift, each.dh_j_mol, each.molar_g_mol), share)
        for each, share in model.fractions
    )
    return replace(
        model,
        key=key,
        name=name,
        role=Role(role),
        melt_low_c=low_c,
        melt_high_c=high_c,
        damage_c=max(model.damage_c or 80.0, high_c + 15),
        fractions=fractions,
        allergens=(),
        vegan="varies",
        note=note,
        confidence="low",
    )


def _nearest(role: str, low_c: float, high_c: float) -> Ingredient:
    """The shipped ingredient of a role whose melting range lies nearest; extras go by butters."""
    sought = "butter" if role in ("oil", "extra") else role
    found = [
        item
        for item in shipped().ingredients.values()
        if item.role == sought and item.fractions and item.melt_low_c is not None and item.melt_high_c is not None
    ]
    return min(found, key=lambda i: abs((i.melt_low_c or 0) - low_c) + abs((i.melt_high_c or 0) - high_c))


def is_own(item: Ingredient) -> bool:
    """True for an ingredient that the shipped tables do not know."""
    return item.key not in shipped().ingredients
