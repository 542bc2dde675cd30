"""What a tin asks of anyone who gets it, in words short enough for a label.

Who a formula was made for is not who finds the tin: a label speaks to all, of what is in it. Amounts, which are the
maker's business, are not said here.
"""

import re
from collections.abc import Iterator

from balmcore.advice.safety import Policy, Wearer, age_words, burns_in_sun, scent_share
from balmcore.advice.wearers import AUDIENCES
from balmcore.composition import Composition
from balmcore.display import figure
from balmcore.tables import Ingredient

YOUNG = ("newborn_0_3m", "baby_3_24m", "child_2_6y", "child_6_15y")
# What the words of the tables come to for whoever wears it.
_TOLD = tuple(
    (re.compile(pattern, re.IGNORECASE), sentence)
    for pattern, sentence in (
        (r"broken skin", "Only on unbroken skin."),
        (r"short use", "For short use."),
        (r"if swallowed", "Not to be swallowed."),
        (r"blood thinner|aspirin", "With blood thinners or aspirin allergy ask a doctor first."),
        (r"beside medicines|medicine-interaction", "Beside medicines ask first."),
        (r"epilepsy|bring on fits", "Not with epilepsy."),
        (r"asthma", "With asthma ask first."),
        (r"faces? of|children's faces", "Keep it off the faces of babies and children."),
        (r"near eyes|the eye\b", "Keep it away from the eyes."),
    )
)


def warnings(composition: Composition, area: str, policy: str = Policy.CAUTIOUS) -> tuple[str, ...]:
    """Short sentences for whoever wears it on an ``area``, by the maker's ``policy`` of scent; each once."""
    left = composition.require_mass().without_volatiles.expanded
    items = [line.ingredient for line in left.lines if line.share > 0]
    spoken = " ".join(_words(items))
    found = [sentence for pattern, sentence in _TOLD if pattern.search(spoken)]
    if burns_in_sun(left):
        found.append("Keep treated skin out of the sun.")
    if area != "lips" and any("no" in _lips(item) for item in items):
        found.append("Not for lips.")
    found += _young(items, left, area, policy)
    found += _mothers(items)
    return tuple(dict.fromkeys(found))


def _words(items: list[Ingredient]) -> Iterator[str]:
    for item in items:
        yield item.caution
        if item.aromatic:
            yield item.aromatic.caution
        if item.colourant:
            yield item.colourant.caution


def _lips(item: Ingredient) -> tuple[str, ...]:
    """What every table says of it on lips."""
    scent, colour = item.aromatic, item.colourant
    return item.lip_ok, scent.lip_suitable if scent else "", colour.lip_ok if colour else ""


def _young(items: list[Ingredient], left: Composition, area: str, policy: str) -> Iterator[str]:
    """The age from which it may be worn: by what is in it, and by how much scent the young may wear."""
    ages = [item.avoid_under_years or 0.0 for item in items]
    ages += [part.avoid_under_years or 0.0 for item in items for part in (item.aromatic, item.colourant) if part]
    bounds = sorted({years for _, years in AUDIENCES.values()})
    for audience in YOUNG:
        wearer = Wearer(audience, area, policy)
        if scent_share(left, wearer) > wearer.most:
            ages.append(bounds[bounds.index(wearer.years) + 1])
    if years := max(ages, default=0.0):
        yield (
            f"Not for babies under {figure(years * 12)} months."
            if years < 1
            else f"Not for children under {age_words(years)}."
        )


def _mothers(items: list[Ingredient]) -> Iterator[str]:
    said = {word for item in items for word in (item.pregnancy, item.colourant.pregnancy if item.colourant else "")}
    asked = {word for item in items if (oil := item.aromatic) for word in (oil.pregnancy_caution, oil.nursing_caution)}
    if "no" in said or "never" in asked:
        yield "Not in pregnancy or while nursing."
    elif "ask" in said or "yes" in asked:
        yield "In pregnancy or while nursing ask first."
    if any(item.group == "lanolin" or item.aromatic for item in items):
        yield "Not for the breast."
