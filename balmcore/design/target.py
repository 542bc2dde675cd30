"""Reaching a firmness: percentages that meet a window and a hold, within locks, caps and wishes.

Minimise the sum of (change / scale)^2 over the free lines, with the whole at one hundred, the
firmness at 21 degrees C in the middle of the window, the hold met, each line within its usual
range and waxes and brittle butters within their caps. SciPy's SLSQP (Kraft 1988) from several
starts; the derivatives of all lines come from one call of the model.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from decimal import Decimal
from enum import StrEnum
from itertools import islice

import numpy as np
from scipy.optimize import minimize

from balmcore.composition import WHOLE, Array, Composition, Line, shared_out
from balmcore.design.substitution import allowed, stand_ins
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, basis, predict
from balmcore.tables import Ingredient, Role, Tables, shipped
from balmcore.units import CELSIUS, Display

WAX_CAP = 0.45  # above this a stick scrapes and a salve crumbles
BRITTLE_CAP = 0.60  # brittle butters together
NEAR = 0.5  # points: how close to the middle counts as met
STARTS, STARTS_TO_EXPLAIN = 4, 1
INSIDE = 0.1  # points a solution keeps away from the borders of what is allowed
STAND_INS_TRIED = 3
SAVED = 0.005  # of the cost: less is not worth calling cheaper
COST_WEIGHT = 4.0  # how much change a saving is worth
_STEP = 1e-5
_FLOOR_PA = 1.0  # keeps the logarithm of a liquid's yield finite


@dataclass(frozen=True)
class Target:
    """What is asked for: firmness window at 21 degrees C, a firmness kept up to a temperature,
    and wishes. ``without`` holds ingredient keys and allergens; ``most`` the greatest share of
    some lines (aromatics against their limits), which are brought down to it. With ``cheaper``
    it should cost less than now by ``prices`` per gram; a line without one counts as their mean."""

    low: float
    high: float
    hold_firmness: float | None = None
    hold_temp_c: float | None = None
    overrun: float = 0.0
    vegan: bool = False
    without: tuple[str, ...] = ()
    most: tuple[tuple[str, float], ...] = ()
    prices: tuple[tuple[str, float], ...] = ()
    cheaper: bool = False
    usual_ranges: bool = True
    caps: bool = True
    locks: bool = True

    def price(self, key: str) -> float:
        """What a gram of a line counts as: its price, or the mean of those known."""
        known = dict(self.prices)
        return known.get(key, sum(known.values()) / len(known) if known else 0.0)

    @property
    def middle(self) -> float:
        """The middle of the window."""
        return (self.low + self.high) / 2


class Status(StrEnum):
    """How a search for a target ended: met, or what stands in the way."""

    MET = "met"
    HOLD = "hold"
    COST = "cost"
    LOCKS = "locks"
    RANGES = "ranges"
    CAPS = "caps"
    WISHES = "wishes"
    NO_WAX = "no_wax"
    NO_OIL = "no_oil"
    UNREACHABLE = "unreachable"


@dataclass(frozen=True)
class TargetResult:
    """How it ended. ``composition`` meets the target, or is the nearest found without ``success``;
    ``status`` and ``message`` then say what stands in the way. ``hold_firmness`` is the firmness at
    the hold temperature, None when none was asked."""

    success: bool
    status: Status
    message: str
    composition: Composition
    firmness: float
    hold_firmness: float | None


@dataclass(frozen=True)
class _Task:
    """A target made into arrays over the lines of a composition (I,)."""

    composition: Composition
    target: Target
    items: tuple[Ingredient, ...]
    start: Array
    low: Array
    high: Array
    scale: Array
    temps: Array = field(default_factory=lambda: np.array([WINDOW_C]))
    prices: Array = field(default_factory=lambda: np.zeros(0))

    def relative_cost(self, x: Array) -> float:
        """Cost of some shares over that of the start; 1 while cost does not count."""
        return float(self.prices @ x) if self.prices.size else 1.0


def reformulate(
    composition: Composition, target: Target, tables: Tables | None = None, show: Display = CELSIUS
) -> TargetResult:
    """Percentages that meet a target, the least change first.

    Waxes, butters and oils that are not locked may move; extras stay. What the wishes bar is
    taken out, and its nearest stand-in of the tables offered its place. Raises :class:`Problem` for an empty
    composition or a window upside down.
    """
    composition.require_mass()
    tables = tables or shipped()
    if not 0 <= target.low < target.high <= 150:
        raise Problem("The window should run from a lower to a higher firmness.", "firmness")
    if (barred := _barred_lock(composition, target)) is not None:
        message = f"{barred.name} is locked, and the wishes bar it: unlock it first."
        return _ended(composition, target, Status.LOCKS, message)
    nearest = None
    for offer in range(STAND_INS_TRIED):
        found = _solve(_task(composition, target, tables, offer), STARTS)
        if _is_met(found, target, composition):
            return _ended(found, target, Status.MET, "")
        nearest = nearest or found
        if not (target.vegan or target.without):
            break
    assert nearest is not None
    return _ended(nearest, target, *_in_the_way(composition, nearest, target, tables, show))


def _ended(composition: Composition, target: Target, status: Status, message: str) -> TargetResult:
    prediction = predict(composition, target.overrun)
    hold = None if target.hold_temp_c is None else prediction.firmness_at(target.hold_temp_c)
    return TargetResult(status is Status.MET, status, message, composition, prediction.firmness_at(WINDOW_C), hold)


def per_gram(composition: Composition, target: Target) -> float:
    """What a gram costs by the target's prices, a line without one counting as their mean."""
    return sum(float(line.share) * target.price(line.key) for line in composition.lines) / float(composition.total)


def _is_met(composition: Composition, target: Target, start: Composition) -> bool:
    ended = _ended(composition, target, Status.MET, "")
    if target.cheaper and per_gram(composition, target) > per_gram(start, target) * (1 - SAVED / 2):
        return False
    holds = (
        target.hold_firmness is None
        or ended.hold_firmness is None
        or ended.hold_firmness >= target.hold_firmness - 0.05
    )
    inside = target.low - 0.05 <= ended.firmness <= target.high + 0.05
    return holds and inside


def _barred_lock(composition: Composition, target: Target) -> Ingredient | None:
    for line in composition.lines:
        if line.locked and line.share and not allowed(line.ingredient, target.vegan, target.without):
            return line.ingredient
    return None


def _relaxed(nearest: Composition, target: Target, show: Display) -> Iterator[tuple[Status, str, Target]]:
    """The target with one demand dropped at a time, and the sentence that names it."""
    if target.hold_temp_c is not None and target.hold_firmness is not None:
        held = f"{target.hold_firmness:g} at {show.temp_text(target.hold_temp_c)}"
        sentence = f"The hold stands in the way: {held} cannot be kept at this firmness."
        yield Status.HOLD, sentence, replace(target, hold_firmness=None, hold_temp_c=None)
    if target.cheaper:
        message = "The wish for less cost stands in the way: nothing cheaper reaches it."
        yield Status.COST, message, replace(target, cheaper=False)
    yield Status.LOCKS, "The locked lines stand in the way: unlock one.", replace(target, locks=False)
    yield Status.RANGES, _at_the_end_of_its_range(nearest), replace(target, usual_ranges=False)
    yield (
        Status.CAPS,
        f"The caps stand in the way: wax up to {WAX_CAP * 100:.0f} %, brittle butters up to {BRITTLE_CAP * 100:.0f} %.",
        replace(target, caps=False),
    )
    if target.vegan or target.without:
        message = "The wishes stand in the way: nothing that they allow reaches it."
        yield Status.WISHES, message, replace(target, vegan=False, without=())


def _at_the_end_of_its_range(nearest: Composition) -> str:
    """Which usual range it is that stands in the way."""
    for line in nearest.lines:
        most = line.ingredient.usual_max_share
        if line.ingredient.role != Role.EXTRA and most is not None and float(line.share) >= most - 1e-3:
            return f"The usual range of {line.ingredient.name.lower()} stands in the way: up to {most * 100:g} %."
    return "The usual range of an ingredient stands in the way."


def _in_the_way(
    composition: Composition, nearest: Composition, target: Target, tables: Tables, show: Display
) -> tuple[Status, str]:
    """The one demand without which it would work, or what the composition lacks."""
    for status, message, easier in _relaxed(nearest, target, show):
        if _is_met(_solve(_task(composition, easier, tables), STARTS_TO_EXPLAIN), easier, composition):
            return status, message
    roles = composition.role_shares()
    if not roles[Role.WAX] and predict(composition).firmness_at(WINDOW_C) < target.low:
        return Status.NO_WAX, "There is no wax in it: add one, and ask again."
    if not roles[Role.OIL]:
        return Status.NO_OIL, "There is no oil in it: add one, and ask again."
    return Status.UNREACHABLE, "These ingredients cannot reach it in any mixture: add another, or ask for less."


def _task(composition: Composition, target: Target, tables: Tables, offer: int = 0) -> _Task:
    """Lines, bounds and scales. A barred line is bound to nothing; where its role would be left
    empty its stand-in, the ``offer``-th nearest, comes in beside it."""
    total = float(composition.total)
    lines = list(composition.lines)
    barred = {line.key for line in lines if line.share and not allowed(line.ingredient, target.vegan, target.without)}
    start = {line.key: float(line.share) / total for line in lines}
    for item in sorted((line.ingredient for line in lines if line.key in barred), key=lambda item: item.key):
        taken = [line.key for line in lines]
        offered = stand_ins(item, tables, target.vegan, target.without, taken, limit=offer + 1)
        role = item.role
        if (
            offered
            and role != Role.EXTRA
            and not any(line.ingredient.role == role and line.key not in barred for line in lines)
        ):
            lines.append(Line(offered[-1], Decimal(0)))
            start[offered[-1].key] = start[item.key] / max(offered[-1].strength, 1.0)
    items = tuple(line.ingredient for line in lines)
    low, high, scale = (np.zeros(len(lines)) for _ in range(3))
    most = dict(target.most)
    for i, (line, item) in enumerate(zip(lines, items, strict=True)):
        share = start[line.key]
        if line.key in barred:
            continue
        if item.role == Role.EXTRA or (line.locked and target.locks):
            low[i] = high[i] = min(share, most.get(line.key, share))
        elif target.usual_ranges:
            low[i] = min(share, item.usual_min_share or 0.0)
            high[i] = max(share, item.usual_max_share or 1.0)
        else:
            high[i] = 1.0
        scale[i] = 0.02 + share
    return _Task(
        Composition(tuple(lines)),
        target,
        items,
        np.array([start[line.key] for line in lines]),
        low,
        high,
        np.maximum(scale, 0.02),
        np.array([WINDOW_C] if target.hold_temp_c is None else [WINDOW_C, target.hold_temp_c]),
        _prices(target, [line.key for line in lines], np.array([start[line.key] for line in lines])),
    )


def _prices(target: Target, keys: list[str], start: Array) -> Array:
    """Price of every line (I,) so that the start costs 1; empty while cost does not count."""
    if not target.cheaper or not {key for key, _ in target.prices} & set(keys):
        return np.zeros(0)
    found = np.array([target.price(key) for key in keys])
    total = float(found @ start)
    return found / total if total > 0 else np.zeros(0)


def _firmness(task: _Task, shares: Array) -> Array:
    """Smooth firmness (P, temps): a liquid is far below 0 instead of at minus infinity."""
    state = basis(task.composition.ingredients).state(np.maximum(shares, 0.0) + 1e-12, task.temps, task.target.overrun)
    result: Array = 25 * (np.log10(state.yield_pa + _FLOOR_PA) - 2)
    return result


def _with_slopes(task: _Task, shares: Array) -> tuple[Array, Array]:
    """Firmness (temps,) and its derivatives by every share (temps, I), from one call."""
    moved = shares[None, :] + np.vstack([np.zeros(len(shares)), np.eye(len(shares)) * _STEP])
    found = _firmness(task, moved)
    return found[0], ((found[1:] - found[0]) / _STEP).T


def _starts(task: _Task) -> Iterator[Array]:
    """Where to begin: as it is, then waxier, more buttery and oilier, each put into the bounds."""
    yield task.start
    roles = np.array([item.role for item in task.items])
    for factors in (
        {"wax": 2.0, "oil": 0.7},
        {"wax": 0.4, "oil": 1.2},
        {"wax": 1.5, "butter": 2.0, "oil": 0.5},
        {"wax": 4.0},
    ):
        yield task.start * np.array([factors.get(role, 1.0) for role in roles])


def _solve(task: _Task, starts: int) -> Composition:
    """The best composition found from so many starts: met with least change, else the nearest."""
    best, best_cost = task.start, np.inf
    for start in islice(_starts(task), starts):
        x = _slsqp(task, _into_bounds(start, task.low, task.high), exact=True)
        cost = _cost(task, x)
        if cost >= 1e3:  # the middle cannot be had: the whole window will do
            x = _slsqp(task, x, exact=False)
            cost = _cost(task, x)
        if cost < best_cost:
            best, best_cost = x, cost
        if best_cost < 1e3:
            break
    return _on_grid(task, best)


def _cost(task: _Task, x: Array) -> float:
    """Change, and a thousand and more for what is missed, so that a miss never wins."""
    firmness = _firmness(task, x[None, :])[0]
    missed = max(0.0, abs(firmness[0] - task.target.middle) - NEAR)
    if task.target.hold_firmness is not None and len(firmness) > 1:
        missed += 10 * max(0.0, task.target.hold_firmness - firmness[1] - 0.02)
    missed += 1000 * max(0.0, abs(x.sum() - 1) - 1e-6)
    missed += 1000 * max(0.0, task.relative_cost(x) - 1 + SAVED / 2) if task.prices.size else 0.0
    change = float((((x - task.start) / task.scale) ** 2).sum()) + COST_WEIGHT * task.relative_cost(x)
    return change + (1e3 + 1e3 * missed if missed > 0 else 0.0)


def _slsqp(task: _Task, start: Array, exact: bool) -> Array:
    """One run: with ``exact`` the firmness is to be the middle of the window, else inside it."""
    target = task.target
    seen: dict[bytes, tuple[Array, Array]] = {}

    def model(x: Array) -> tuple[Array, Array]:
        key = x.tobytes()
        if key not in seen:
            seen.clear()
            seen[key] = _with_slopes(task, x)
        return seen[key]

    def rule(kind: str, which: int, sign: float, offset: float) -> dict[str, object]:
        """Sign x firmness at temperature ``which`` + offset, in tens of points, = 0 or >= 0."""
        return {
            "type": kind,
            "fun": lambda x: (sign * model(x)[0][which] + offset) / 10,
            "jac": lambda x: sign * model(x)[1][which] / 10,
        }

    ones = np.ones(len(start))
    rules: list[dict[str, object]] = [{"type": "eq", "fun": lambda x: x.sum() - 1, "jac": lambda x: ones}]
    if exact:
        rules.append(rule("eq", 0, 1, -target.middle))
    else:
        rules += [rule("ineq", 0, 1, -target.low - INSIDE), rule("ineq", 0, -1, target.high - INSIDE)]
    if target.hold_firmness is not None and target.hold_temp_c is not None:
        rules.append(rule("ineq", 1, 1, -target.hold_firmness - 2 * INSIDE))
    rules += _caps(task) if target.caps else []
    tilt = COST_WEIGHT * task.prices if task.prices.size else np.zeros(len(start))
    if task.prices.size:
        rules.append({"type": "ineq", "fun": lambda x: 1 - SAVED - task.prices @ x, "jac": lambda x: -task.prices})
    ended = minimize(
        lambda x: (((x - task.start) / task.scale) ** 2).sum() + tilt @ x,
        start,
        jac=lambda x: 2 * (x - task.start) / task.scale**2 + tilt,
        bounds=list(zip(task.low, task.high, strict=True)),
        constraints=rules,
        method="SLSQP",
        options={"maxiter": 50, "ftol": 1e-8},
    )
    return _into_bounds(np.nan_to_num(ended.x), task.low, task.high)


def _caps(task: _Task) -> list[dict[str, object]]:
    """Waxes and brittle butters together within their caps, or within what there is already."""
    rules: list[dict[str, object]] = []
    for cap, inside in (
        (WAX_CAP, [item.role == Role.WAX for item in task.items]),
        (BRITTLE_CAP, [item.group == "brittle_butter" for item in task.items]),
    ):
        group = np.array(inside, dtype=float)
        room = max(cap, float(group @ task.start))
        rules.append({"type": "ineq", "fun": lambda x, g=group, r=room: r - g @ x, "jac": lambda x, g=group: -g})
    return rules


def _into_bounds(x: Array, low: Array, high: Array) -> Array:
    """The shares moved into their bounds and to a sum of one, as far as the bounds allow."""
    x = np.clip(x, low, high)
    for _ in range(30):
        gap = 1 - x.sum()
        room = high - x if gap > 0 else x - low
        if abs(gap) < 1e-12 or room.sum() <= 0:
            break
        x = np.clip(x + gap * room / max(room.sum(), abs(gap)), low, high)
    return x


def _on_grid(task: _Task, x: Array) -> Composition:
    """The shares to 0.01 %, exactly one hundred; what may not move keeps its share to the digit."""
    lines = task.composition.lines
    kept: dict[str, Decimal] = {}
    for i, line in enumerate(lines):
        if task.high[i] - task.low[i] < 1e-12:
            share = line.share / task.composition.total
            kept[line.key] = share if float(share) <= task.high[i] + 1e-12 else Decimal(str(task.high[i]))
    free = [i for i, line in enumerate(lines) if line.key not in kept]
    rest = WHOLE - sum(kept.values(), Decimal(0))
    wanted = [Decimal(str(round(max(float(x[i]), 0.0), 9))) for i in free]
    if not any(wanted):
        return task.composition
    shares = shared_out(rest, wanted, to_greatest=True)
    new = {**kept, **{lines[i].key: share for i, share in zip(free, shares, strict=True)}}
    return Composition(tuple(line._replace(share=new[line.key]) for line in lines if new[line.key] or line.locked))
