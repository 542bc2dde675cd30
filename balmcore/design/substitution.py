"""Swapping one ingredient for another: one for one, and matched on the firmness curve.

One for one gives the newcomer the old one's weight. Matched gives it the weight that keeps
the curve: the share of the newcomer for which the mean squared difference of firmness over
15 to 40 degrees C is least, the rest going to or coming from a liquid oil. Makers disagree
on which is right; both are shown.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache

import numpy as np

from balmcore.advice.verdict import WEAK_ALONE
from balmcore.composition import GRID, Array, Composition, Line, percent_text
from balmcore.design.wishes import NONE, Wishes
from balmcore.errors import Problem
from balmcore.physics.basis import basis
from balmcore.physics.firmness import clear_alone, predict
from balmcore.tables import Ingredient, Role, Tables, shipped
from balmcore.wording import in_sentence

CURVE_C = np.arange(15.0, 41.0)  # what a balm is worn and kept at
SHOWN_C = (15.0, 21.0, 25.0, 33.0, 40.0)  # of them, those that are told
# Not offered unasked for what grew: who wants them names them.
FROM_PETROLEUM = ("mineral_wax", "mineral", "silicone")
_PARTS = 60  # of the way from nothing to all of it
CLAMPED = 1.0  # points in the mean: a clamp that costs less is not worth a word
LEAST = 0.005  # of the whole


@dataclass(frozen=True)
class Substitution:
    """Two ways to put ``into`` in the place of ``out``. ``weight_ratio`` is the matched weight of
    the newcomer over that of the old one; ``distance`` the root mean square difference from the
    curve before, in points, for (one for one, matched)."""

    out: Ingredient
    into: Ingredient
    filler: Ingredient
    one_for_one: Composition
    matched: Composition
    weight_ratio: float
    distance: tuple[float, float]
    sentence: str


def substitute(composition: Composition, out: str, into: Ingredient, filler: Ingredient) -> Substitution:
    """Both swaps of ``out`` for ``into``, with ``filler`` taking up what is left over.

    Raises :class:`Problem` when ``out`` is not in the composition with a share, when ``into`` is
    ``out``, or when ``filler`` is not a liquid oil.
    """
    old = next((line for line in composition.lines if line.key == out), None)
    if old is None or old.share <= 0:
        raise Problem("What is to be swapped is not in this formula: choose one of its lines.", "out")
    if into == old.ingredient:
        raise Problem("Choose another ingredient to put in its place.", "in")
    if filler.group != "liquid_oil" or filler in (old.ingredient, into):
        raise Problem(f"{filler.name} cannot take up the rest: choose a liquid oil that stays.", "filler")
    place = composition.lines.index(old)
    rest = Composition(composition.lines[:place] + composition.lines[place + 1 :])
    oil = rest.share_of(filler.key)
    before = predict(composition).curve(CURVE_C).firmness[0]

    def mixed(share: Decimal) -> Composition:
        return _put(_put(rest, into, share, place), filler, old.share - share, len(rest.lines) + 1)

    best = _best_share(composition, old.ingredient, into, filler, before, float(old.share), float(oil))
    # It always holds the newcomer, be it ever so little: otherwise it is no swap.
    least = min(old.share, Decimal(str(into.usual_min_share or LEAST)))
    share = min(max(Decimal(str(round(best, 6))).quantize(GRID), least), old.share + oil)
    plain, matched = mixed(old.share), mixed(share)
    distance = tuple(
        float(np.sqrt(np.mean((predict(made).curve(CURVE_C).firmness[0] - before) ** 2))) for made in (plain, matched)
    )
    sentence = _sentence((composition, plain, matched), into, filler, old.share, share, distance[0])
    held = ""
    if best < float(least) - float(GRID):
        held = (
            f" The curve alone would take {percent_text(Decimal(str(round(best, 4))))} %: it is held at "
            f"{percent_text(share)} %, the least that is usual of {in_sentence(into.name)}"
        )
    elif share >= old.share + oil - GRID and distance[1] >= CLAMPED:
        held = f" There is no {in_sentence(filler.name)} left to make room for more of it"
    if held:
        held += f", and misses the curve by {distance[1]:.1f} points in the mean."
    return Substitution(
        old.ingredient, into, filler, plain, matched, float(share / old.share), (distance[0], distance[1]),
        sentence + held,
    )  # fmt: skip


def _put(composition: Composition, item: Ingredient, share: Decimal, place: int) -> Composition:
    """The composition with ``share`` more (or less) of a line, which is added at ``place`` if new."""
    if item in composition.ingredients:
        lines = tuple(
            one._replace(share=one.share + share) if one.ingredient == item else one for one in composition.lines
        )
    elif share:
        lines = (*composition.lines[:place], Line(item, share), *composition.lines[place:])
    else:
        lines = composition.lines
    return Composition(lines)


def _best_share(
    composition: Composition,
    out: Ingredient,
    into: Ingredient,
    filler: Ingredient,
    before: Array,
    old: float,
    oil: float,
) -> float:
    """The newcomer's share with the least mean squared distance from ``before``: three grids,
    each between the neighbours of the last one's best."""
    items = tuple(dict.fromkeys((*(item for item in composition.ingredients if item != out), into, filler)))
    compiled = basis(items)
    there = {line.ingredient: float(line.share) for line in composition.lines}
    fixed = np.array([there.get(item, 0.0) for item in items])
    low, high = 0.0, old + oil
    for _ in range(3):
        tried = np.linspace(low, high, _PARTS + 1)
        shares = np.repeat(fixed[None, :], len(tried), axis=0)
        shares[:, items.index(into)] += tried
        shares[:, items.index(filler)] += old - tried
        found = compiled.state(np.maximum(shares, 0), CURVE_C).firmness
        best = int(((found - before) ** 2).mean(axis=1).argmin())
        low, high = tried[max(best - 1, 0)], tried[min(best + 1, _PARTS)]
    return float(tried[best])


def _sentence(
    made: tuple[Composition, Composition, Composition],
    into: Ingredient,
    filler: Ingredient,
    old: Decimal,
    share: Decimal,
    off: float,
) -> str:
    """What the two swaps do, in words; ``made`` is before, one for one, matched."""
    was, one, level = (round(predict(each).firmness_at(21)) for each in made)
    lands = f"lands {abs(one - was)} point{'s' * (abs(one - was) != 1)} {'harder' if one > was else 'softer'}"
    first = f"One for one {lands if one != was else 'lands level'}"
    if off < 1:
        return f"{first}: the curve hardly moves, so leave it at that."
    rest = old - share
    where = (
        f"the rest goes to {filler.name.lower()}" if rest > 0 else f"the difference comes from {filler.name.lower()}"
    )
    nearest = "lands level" if abs(level - was) <= 1 else f"comes nearest, {abs(level - was)} points off"
    return f"{first}; {share / old * 100:.0f} % of the weight {nearest}; {where}."


def distance(one: Ingredient, other: Ingredient) -> float:
    """How unlike two ingredients are, 0 and up: group, role, melting, strength, feel and keeping."""
    melts = [clear_alone(item) or 0.0 for item in (one, other)]
    feels = [item.feel_weight or 3.0 for item in (one, other)]
    sinks = [item.sink_minutes or 30.0 for item in (one, other)]
    keeps = [item.shelf_months or 18.0 for item in (one, other)]
    return (
        (one.group != other.group)
        + 3 * (one.role != other.role)
        + abs(melts[0] - melts[1]) / 20
        + abs(one.strength - other.strength)
        + abs(_in_oil(one) - _in_oil(other)) / 15
        + abs(feels[0] - feels[1]) / 4
        + abs(sinks[0] - sinks[1]) / 60
        + abs(math.log2(keeps[0] / keeps[1])) / 4
        + (other.lip_ok != one.lip_ok) / 2
    )


@lru_cache(maxsize=512)
def _in_oil(item: Ingredient) -> float:
    """Firmness at skin heat of a fifth of it in oil: what an ingredient does as a structure."""
    other = shipped().ingredient("olive_oil" if item.key == "sunflower_oil" else "sunflower_oil")
    return predict(Composition((Line(item, Decimal(1)), Line(other, Decimal(4))))).firmness_at(33.0)


def stand_ins(
    item: Ingredient,
    tables: Tables,
    wishes: Wishes = NONE,
    taken: Iterable[str] = (),
    limit: int = 6,
    share: float | None = None,
) -> list[Ingredient]:
    """Ingredients of the same role that could stand in, wishes kept: those that makers use at such a
    share first, and among them the nearest."""
    barred = set(taken) | {item.key, "aroma"}
    found = [
        other
        for other in tables.ingredients.values()
        if other.role == item.role and other.key not in barred and wishes.allow(other)
        and (other.group not in FROM_PETROLEUM or item.group in FROM_PETROLEUM)
        and (item.role != Role.EXTRA or other.group == item.group)
    ]  # fmt: skip
    wanted = share if share is not None else item.usual_max_share or 0.0
    if share is None and item.usual_min_share is not None:
        wanted = item.usual_min_share

    def order(other: Ingredient) -> tuple[bool, bool, float, str]:
        too_much = other.usual_max_share is not None and wanted > other.usual_max_share
        return too_much, other.key == WEAK_ALONE, distance(item, other), other.key

    return sorted(found, key=order)[:limit]
