"""What can be made of what is in stock alone: per kind the formula with the largest batch.

The largest is sought over all mixtures of waxes, butters and oils in stock within their usual ranges and
caps, the kind's window and hold met: most grams, none beyond what there is of it, by SLSQP (Kraft 1988) from
several starts. A simple formula, as makers begin with, is preferred where its batch is as good as that.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache

import numpy as np

from balmcore.composition import Array, Composition, set_shares
from balmcore.design.solver import (
    BRITTLE_CAP,
    WAX_CAP,
    Aim,
    Task,
    from_many_starts,
    into_bounds,
    largest_of,
    on_grid,
    sampled,
)
from balmcore.design.target import MET_WITHIN, Target, Way, reformulate
from balmcore.design.wishes import Wishes
from balmcore.errors import Problem
from balmcore.making.stock import Most, most
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Ingredient, Kind, Role, Tables

LEAST_BATCH_G = 10  # less is not worth a pot
AS_GOOD = Decimal("0.97")  # of the largest batch: then the simpler formula is proposed
STARTS = 2  # mixtures by chance that a search begins from
LEAST_SHARE = 0.002  # of a mixture: less is not weighed for


@dataclass(frozen=True)
class Proposal:
    """A formula of a kind from stock alone, its firmness, and the largest batch that the stock allows."""

    kind: Kind
    composition: Composition
    firmness: float
    most: Most


def window_of(kind: Kind, wishes: Wishes) -> Target:
    """A kind's own window and hold as a target."""
    return Target(kind.firm_low, kind.firm_high, kind.hold_firmness, kind.hold_temp_c, kind.overrun, wishes)


def from_stock(
    kind: Kind, starts: Iterable[Composition], stock: Mapping[str, Decimal], tables: Tables
) -> Proposal | None:
    """The formula for a kind with the largest batch, beginning from any of ``starts`` and using nothing
    else than what ``stock`` (grams by key) holds; None where it reaches no window."""
    return _from_stock(kind, tuple(starts), tuple(sorted(stock.items())), tables)


@lru_cache(maxsize=64)
def _from_stock(
    kind: Kind, starts: tuple[Composition, ...], stocked: tuple[tuple[str, Decimal], ...], tables: Tables
) -> Proposal | None:
    stock = dict(stocked)
    held = {tables.ingredients[key]: grams for key, grams in stocked if grams > 0 and key in tables.ingredients}
    if not held:
        return None
    target = window_of(kind, Wishes(only=frozenset(held)))
    found = [_largest(kind, starts, target, stock, tables), _mixed(kind, starts, held, stock)]
    proposals = [each for each in found if each]
    most_g = max((each.most.total_g for each in proposals), default=Decimal(0))
    return next((each for each in proposals if each.most.total_g >= AS_GOOD * most_g), None)


def _mixed(
    kind: Kind, starts: Sequence[Composition], held: Mapping[Ingredient, Decimal], stock: Mapping[str, Decimal]
) -> Proposal | None:
    """The largest batch of any mixture of what is in stock; None where none meets the kind."""
    extras = tuple(
        line for line in starts[0].lines if line.ingredient.role == Role.EXTRA and line.ingredient in held
    ) if starts else ()  # fmt: skip
    kept = sum((line.share for line in extras), Decimal(0))
    items = tuple(item for item in held if item.role in (Role.WAX, Role.BUTTER, Role.OIL) and not item.water_bearing)
    if not items or kept >= 1:
        return None
    everything = (*items, *(line.ingredient for line in extras))
    fixed = np.array([0.0] * len(items) + [float(line.share) for line in extras])
    high = np.array([item.usual_max_share or 1.0 for item in items])
    task = Task(
        Aim(kind.firm_low, kind.firm_high, kind.hold_firmness, kind.hold_temp_c, kind.overrun),
        everything,
        fixed + np.append(np.full(len(items), float(1 - kept) / len(items)), np.zeros(len(extras))),
        fixed,
        np.append(np.minimum(high, float(1 - kept)), fixed[len(items) :]),
        tuple(
            (np.array([float(test(item)) for item in everything]), cap)
            for test, cap in ((_is_wax, WAX_CAP), (_is_brittle, BRITTLE_CAP))
        ),
        np.zeros(0),
    )
    have = np.array([float(held[item]) for item in everything])
    best: Proposal | None = None
    for start in _begun(task, have):
        shares = largest_of(task, have, start)
        shares[shares < LEAST_SHARE * (task.low == 0)] = 0.0
        made = on_grid(task, shares / shares.sum(), Composition(extras))
        firm = task.aim.missed(task.firmness(np.array([[float(made.share_of(item.key)) for item in everything]])))
        found = most(made, stock)
        if firm[0] > MET_WITHIN or found is None or found.total_g < LEAST_BATCH_G:
            continue
        if best is None or found.total_g > best.most.total_g:
            firmness = predict(made, kind.overrun).firmness_at(WINDOW_C)
            best = Proposal(kind, made, firmness, found)
    return best


def _begun(task: Task, have: Array) -> list[Array]:
    """Where the search begins: as there is of each, and the best of many mixtures by chance that meet the kind."""
    tried = sampled(task)
    meets = task.within(tried) & (task.aim.missed(task.firmness(tried)) <= 0)
    if not meets.any():
        return [from_many_starts(task).shares]
    grams = np.where(tried > LEAST_SHARE, have / np.maximum(tried, LEAST_SHARE), np.inf).min(axis=1)
    best = np.argsort(np.where(meets, -grams, np.inf))[:STARTS]
    return [into_bounds(have / have.sum(), task.low, task.high), *tried[best]]


def _is_wax(item: Ingredient) -> bool:
    return item.role == Role.WAX


def _is_brittle(item: Ingredient) -> bool:
    return item.group == "brittle_butter"


def _largest(
    kind: Kind, starts: Iterable[Composition], target: Target, stock: Mapping[str, Decimal], tables: Tables
) -> Proposal | None:
    found: list[Proposal] = []
    for start in starts:
        for way in _ways(start, target, tables):
            largest = most(way.composition, stock)
            if largest is not None and largest.total_g >= LEAST_BATCH_G:
                found.append(Proposal(kind, way.composition, way.firmness, largest))
    return max(found, key=lambda proposal: proposal.most.total_g, default=None)


@lru_cache(maxsize=256)
def _ways(start: Composition, target: Target, tables: Tables) -> tuple[Way, ...]:
    """The ways to a target: they depend on what is in stock, and only with all oils at once on how much of it."""
    return reformulate(start, target, tables, explain=False).ways


def using_up(composition: Composition, item: Ingredient, grams: Decimal, batch_g: Decimal) -> Composition:
    """The composition with so much of an ingredient that a batch uses it up, the other lines following; its
    line is locked. Raises :class:`Problem` where the batch is smaller than that."""
    if batch_g <= 0 or grams >= batch_g:
        raise Problem("To use that up the batch has to be larger than the lot.", "use_batch")
    share = round(grams / batch_g, 4)
    lines = composition.lines
    if item.key not in composition.keys:
        lines = (*lines, lines[0]._replace(ingredient=item, share=Decimal(0), locked=False))
    freed = Composition(lines)
    made = set_shares(freed, {item.key: share}, follow=True)
    return Composition(tuple(line._replace(locked=line.locked or line.key == item.key) for line in made.lines))
