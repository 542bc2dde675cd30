"""A maker's own ingredients, described by little: like a known one, or by a melting range.

What is known so little of is marked of low confidence, and predictions widen with it. It is nobody else: what a label
names, and what it asks of who wears it, are its own papers' (:func:`by_papers`), and open where they are silent.
"""

from dataclasses import dataclass, replace
from typing import Any

from balmcore.display import temp_words
from balmcore.errors import Problem
from balmcore.tables import ROLES, Ingredient, Role, Species, shipped
from balmcore.tables.herbs import stricter
from balmcore.tables.records import ALLERGENS, INCI, WEARERS, WHICH_HERB

# What an own ingredient is taken to be where nothing else is said of it.
TYPICAL = {"wax": "beeswax_white", "butter": "shea_butter_refined", "oil": "sunflower_oil", "extra": "arrowroot"}
UNSAID = (INCI, ALLERGENS, WEARERS)
# What is not taken over from the known ingredient that only melts alike.
STRANGER: dict[str, Any] = {
    "inci": "",
    "aroma": "",
    "allergens": (),
    "vegan": "varies",
    "caution": "",
    "lip_ok": "",
    "pregnancy": "",
    "avoid_under_years": None,
    "colourant": None,
    "confidence": "low",
    "unknown": UNSAID,
}
COLDEST_C, HOTTEST_C = -30.0, 110.0  # melting points that an own ingredient may be given
LIQUID_BELOW_C = 15.0  # what melts below it is an oil in any room


@dataclass(frozen=True)
class Papers:
    """What a supplier's papers, or its maker, say of an own ingredient. None or empty is what they do not say:
    ``allergens`` of no word at all says that there are none, ``lip_ok`` and ``pregnancy`` are as of an
    :class:`Ingredient` and ``yes`` where they allow it, ``avoid_under_years`` 0 where any age may wear it."""

    inci: str = ""
    allergens: tuple[str, ...] | None = None
    vegan: str = ""
    density_g_ml: float | None = None
    shelf_months: float | None = None
    lip_ok: str = ""
    pregnancy: str = ""
    avoid_under_years: float | None = None
    caution: str = ""


def by_papers(item: Ingredient, papers: Papers, is_infused: bool = False) -> Ingredient:
    """An own ingredient with what its papers say; what they do not stays open. Where a herb was steeped here, what is
    known of the herb and its oil stands beside what was said, and the stricter counts."""
    held = item.allergens if papers.allergens is None else papers.allergens
    lips, pregnancy, years = papers.lip_ok, papers.pregnancy.replace("yes", ""), papers.avoid_under_years
    says_who = bool(papers.lip_ok and papers.pregnancy and years is not None)
    said = {WHICH_HERB: bool(papers.inci), INCI: bool(papers.inci)}
    said |= {ALLERGENS: papers.allergens is not None, WEARERS: says_who}
    if item.aromatic and papers.allergens is not None:
        # Those of a scent are declared after the ingredients, by the name that rules give them.
        item, held = replace(item, aromatic=replace(item.aromatic, allergens=papers.allergens)), ()
    return replace(
        item,
        inci=papers.inci or item.inci,
        allergens=tuple(dict.fromkeys((*item.allergens, *held))) if is_infused else held,
        vegan=papers.vegan or item.vegan,
        density_g_ml=papers.density_g_ml or item.density_g_ml,
        shelf_months=papers.shelf_months or item.shelf_months,
        lip_ok=stricter(item.lip_ok, lips) if is_infused or not lips else lips,
        pregnancy=stricter(item.pregnancy, pregnancy) if is_infused or not papers.pregnancy else pregnancy,
        avoid_under_years=(max(item.avoid_under_years or 0, years or 0) if is_infused or years is None else years)
        or None,
        caution=" ".join(dict.fromkeys(text for text in (item.caution, papers.caution) if text)),
        unknown=tuple(words for words in item.unknown if not said.get(words)),
    )


def like(key: str, name: str, other: str, role: str = "", note: str = "") -> Ingredient:
    """An ingredient that melts, weighs and feels as another does. What the other warns of counts until its own papers
    speak; the other's name is not its own. Raises :class:`Problem`."""
    model = shipped().ingredient(other, "like")
    if role and role != model.role:
        raise Problem(f"{model.name} is of the role {model.role}, not {role}.", "like")
    return replace(model, key=key, name=name, like=other, note=note, confidence="low", inci="", unknown=UNSAID)


def scent(key: str, name: str, other: str, note: str = "") -> Ingredient:
    """A scent whose papers are not known, held to the strictest general figures of ``other``, a perfume or flavour."""
    return replace(shipped().ingredient(other), key=key, name=name, like=other, note=note, confidence="low")


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
            **STRANGER,
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
        note=note,
        **STRANGER,
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
