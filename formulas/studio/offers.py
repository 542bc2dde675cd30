"""Offers of the studio's tools: whole compositions, with what they change and what comes with it.

An offer takes effect only when the maker accepts it, and then only in the form; nothing is stored
before a save.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from balmcore.advice.feel import feel
from balmcore.advice.shelf_life import life
from balmcore.composition import Composition, pack, percent_text
from balmcore.display import figure
from balmcore.making.cost import Price, per_gram
from balmcore.physics.firmness import WINDOW_C, predict, word
from balmcore.tables import Kind
from workshop.models import Preferences


@dataclass(frozen=True)
class Change:
    """What an offer does to one line, in percent; empty for not there."""

    name: str
    before: str
    after: str


@dataclass(frozen=True)
class Offer:
    """A composition to accept: its firmness, what it changes line by line, what comes with it, and
    what it takes that the maker may not want taken."""

    name: str
    composition: Composition
    packed: str
    firmness: float
    word: str
    changes: tuple[Change, ...]
    comes_with: tuple[str, ...]
    warning: str = ""


def offered(
    name: str,
    before: Composition,
    after: Composition,
    kind: Kind,
    known: Mapping[str, Price],
    prefs: Preferences,
    warning: str = "",
) -> Offer:
    """An offer to put ``after`` in the place of ``before``."""
    firmness = predict(after, kind.overrun).firmness_at(WINDOW_C)
    packed = pack((line.key, line.share) for line in after.lines)
    told = _comes_with(before, after, kind)
    costs = [cost_text(each, known, prefs) for each in (before, after)]
    if all(costs) and costs[0] != costs[1]:
        told = (*told, f"{prefs.show.price_mass} cost {costs[1]} instead of {costs[0]}.")
    return Offer(name, after, packed, firmness, word(firmness), changes(before, after), told, warning)


def cost_text(composition: Composition, known: Mapping[str, Price], prefs: Preferences) -> str:
    """``1.49 €`` for 100 g or an ounce, empty while a price is missing."""
    total = composition.total
    each = per_gram({line.key: line.share / total for line in composition.lines}, known) if total else None
    return "" if each is None else f"{figure(each * prefs.show.price_grams, 2)} {prefs.currency}"


def changes(before: Composition, after: Composition) -> tuple[Change, ...]:
    """Line by line what differs between two compositions."""
    old, new = ({line.ingredient: line.share for line in each.lines if line.share} for each in (before, after))
    return tuple(
        Change(
            item.name,
            percent_text(old[item]) if item in old else "",
            percent_text(new[item]) if item in new else "",
        )
        for item in dict.fromkeys([*new, *old])
        if old.get(item) != new.get(item)
    )


def _comes_with(before: Composition, after: Composition, kind: Kind) -> tuple[str, ...]:
    """Allergens that come and go, how long it keeps and how it feels, where that changes."""
    told = []
    old, new = ({a for line in f.lines if line.share for a in line.ingredient.allergens} for f in (before, after))
    if new - old:
        told.append("Brings " + ", ".join(sorted(new - old)) + ".")
    if old - new:
        told.append("No longer holds " + ", ".join(sorted(old - new)) + ".")
    was_life, now_life = life(before), life(after)
    if was_life and now_life and was_life.months != now_life.months:
        told.append(f"Keeps {now_life.words}, instead of {figure(was_life.months)}.")
    was, now = (feel(each, kind) for each in (before, after))
    if was and now and was.sentence != now.sentence:
        told.append(f"Feel: {now.sentence}")
    return tuple(told)
