"""The search behind a target: the dials a maker would turn, and behind them all lines at once.

A dial moves whole groups against each other, each keeping its inner split: wax against the liquid
oils, or wax and butter. That is a line, or a plane, of compositions, looked over in a few calls of
the model. Only when every line may move is it an optimisation: least sum of (change / scale)^2 with
the whole at one hundred, firmness in the window, the hold met, each line within its range and waxes
and brittle butters within their caps; SciPy's SLSQP (Kraft 1988), the derivatives of all lines from
one call of the model.
"""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
import scipy  # which reads its optimisers when the first is called: a start need not wait for them
from numpy.typing import NDArray

from balmcore.composition import WHOLE, Array, Composition, Line, shared_out
from balmcore.physics.basis import basis
from balmcore.physics.firmness import WINDOW_C
from balmcore.tables import Ingredient, Role

WAX_CAP = 0.45  # above this a stick scrapes and a salve crumbles
BRITTLE_CAP = 0.60  # brittle butters together
NEAR = 0.5  # points: how close to the middle counts as met
INSIDE = 0.1  # points a solution keeps away from the borders of what is allowed
SAVED = 0.01  # of the cost: less is not worth calling cheaper
COST_WEIGHT = 4.0  # how much change a saving is worth
HALVED = 0.3  # what it costs to take more than half of a line the maker chose
SAMPLES = 800  # mixtures by chance among which a search begins anew
STARTS, SEED = 3, 5  # of them that are followed up; so that they are the same each time
_STEP = 1e-5  # of a share, for slopes: well above rounding, well below a hundredth of a percent
_FLOOR_PA = 1.0  # keeps the logarithm of a liquid's yield finite
_DIAL, _PLANE = 64, 28  # points on one dial, and on each side of two: a root is refined from there


@dataclass(frozen=True)
class Aim:
    """Where to come out: a firmness window at 21 degrees C, and a firmness kept up to a temperature."""

    low: float
    high: float
    hold_firmness: float | None
    hold_temp_c: float | None
    overrun: float

    @property
    def middle(self) -> float:
        """The middle of the window."""
        return (self.low + self.high) / 2

    @property
    def temps_c(self) -> Array:
        """The temperatures that matter, (1,) or (2,)."""
        return np.array([WINDOW_C] if self.hold_temp_c is None else [WINDOW_C, self.hold_temp_c])

    def missed(self, firmness: Array) -> Array:
        """By how many points compositions miss it: (P, temps) -> (P,)."""
        gap = np.maximum(0, np.maximum(self.low - firmness[:, 0], firmness[:, 0] - self.high))
        if self.hold_firmness is not None and firmness.shape[1] > 1:
            gap = gap + np.maximum(0, self.hold_firmness - firmness[:, 1])
        result: Array = gap
        return result


@dataclass(frozen=True)
class Task:
    """An aim made into arrays over the lines of a composition (I,): the start, adding to one, and what
    each line may come to. ``caps`` are groups with their greatest share; ``prices`` make the start
    cost 1, and are empty while cost does not count."""

    aim: Aim
    items: tuple[Ingredient, ...]
    start: Array
    low: Array
    high: Array
    caps: tuple[tuple[Array, float], ...]
    prices: Array

    @property
    def scale(self) -> Array:
        """What counts as one of change, by line."""
        return 0.02 + self.start

    def firmness(self, shares: Array) -> Array:
        """Smooth firmness (P, temps): a liquid is far below 0 instead of at minus infinity."""
        state = basis(self.items).state(np.maximum(shares, 0.0) + 1e-12, self.aim.temps_c, self.aim.overrun)
        result: Array = 25 * (np.log10(state.yield_pa + _FLOOR_PA) - 2)
        return result

    def within(self, shares: Array) -> NDArray[np.bool_]:
        """Which compositions (P, I) keep every line, every cap and the cost within bounds."""
        inside: NDArray[np.bool_] = np.all((shares >= self.low - 1e-9) & (shares <= self.high + 1e-9), axis=1)
        for group, most in self.caps:
            inside &= shares @ group <= most + 1e-9
        if self.prices.size:
            inside &= shares @ self.prices <= 1 - SAVED
        return inside

    def change(self, shares: Array) -> Array:
        """How much compositions (P, I) change, with a charge for each line that loses more than half."""
        moved: Array = (((shares - self.start) / self.scale) ** 2).sum(axis=1)
        halved: Array = ((self.start > 0.005) & (shares < self.start / 2)).sum(axis=1)
        return moved + HALVED * halved

    def group(self, test: Callable[[Ingredient], bool]) -> Array:
        """The free lines of a group as their split of it, adding to one; nothing where none is free."""
        free = np.array([test(item) for item in self.items]) & (self.high - self.low > 1e-12)
        split = np.where(free, self.start, 0.0)
        result: Array = split / split.sum() if split.sum() > 1e-9 else np.zeros(len(self.items))
        return result


@dataclass(frozen=True)
class Found:
    """Shares (I,) with how far they miss the aim; 0 is met."""

    shares: Array
    missed: float


def wax_dial(task: Task) -> Found:
    """Wax against the liquid oils, everything else as it is."""
    return _dial(task, task.group(lambda item: item.role == Role.WAX), _oils(task), task.start)


def butter_dial(task: Task) -> Found:
    """Butter against the liquid oils, everything else as it is."""
    return _dial(task, task.group(lambda item: item.role == Role.BUTTER), _oils(task), task.start)


def two_dials(task: Task) -> Found:
    """Wax and butter against the liquid oils: the least change among all their places."""
    wax = task.group(lambda item: item.role == Role.WAX)
    butter = task.group(lambda item: item.role == Role.BUTTER)
    oil = _oils(task)
    if not (wax.any() and butter.any() and oil.any()):
        return Found(task.start, _missed(task, task.start))
    fixed = task.start * ~((wax > 0) | (butter > 0) | (oil > 0))
    room = 1 - fixed.sum()
    (low_w, high_w), (low_b, high_b) = (0.0, room), (0.0, room)
    best = Found(task.start, _missed(task, task.start))
    for _ in range(3):
        w, b = (
            each.ravel() for each in np.meshgrid(np.linspace(low_w, high_w, _PLANE), np.linspace(low_b, high_b, _PLANE))
        )
        fits = w + b <= room + 1e-12
        w, b = w[fits], b[fits]
        shares = fixed + np.outer(w, wax) + np.outer(b, butter) + np.outer(np.maximum(room - w - b, 0), oil)
        shares = shares[task.within(shares)]
        if not len(shares):
            return best
        firmness = task.firmness(shares)
        missed = task.aim.missed(firmness)
        cost = task.change(shares) + 1e3 * missed + ((firmness[:, 0] - task.aim.middle) / 4) ** 2 / 10
        chosen = int(cost.argmin())
        best = Found(shares[chosen], float(missed[chosen]))
        w0, b0 = (float(best.shares[group > 0].sum()) for group in (wax, butter))
        span_w, span_b = (high_w - low_w) / _PLANE * 2, (high_b - low_b) / _PLANE * 2
        low_w, high_w = max(0.0, w0 - span_w), min(room, w0 + span_w)
        low_b, high_b = max(0.0, b0 - span_b), min(room, b0 + span_b)
    tuned = _dial(task, task.group(lambda item: item.role == Role.WAX), oil, best.shares)
    return tuned if tuned.missed <= best.missed else best


def _oils(task: Task) -> Array:
    """The liquid oils; where there are none, whatever oils there are."""
    liquid = task.group(lambda item: item.group == "liquid_oil")
    return liquid if liquid.any() else task.group(lambda item: item.role == Role.OIL)


def _missed(task: Task, shares: Array) -> float:
    return float(task.aim.missed(task.firmness(shares[None, :]))[0]) + (0.0 if task.within(shares[None, :])[0] else 1.0)


def _dial(task: Task, one: Array, other: Array, start: Array) -> Found:
    """Two groups against each other from a start: the place nearest to it at which the firmness is the
    middle of the window, or else inside it, or else the nearest there is."""
    best = Found(start, _missed(task, start))
    if not (one.any() and other.any()):
        return best
    moving = (one > 0) | (other > 0)
    fixed, room = start * ~moving, float(start[moving].sum())
    now = float(start[one > 0].sum())
    low, high = 0.0, room
    for _ in range(3):
        t = np.linspace(low, high, _DIAL + 1)
        shares = fixed + np.outer(t, one) + np.outer(room - t, other)
        inside = task.within(shares)
        if not inside.any():
            return best
        firmness = task.firmness(shares)
        missed = np.where(inside, task.aim.missed(firmness), np.inf)
        off = np.abs(firmness[:, 0] - task.aim.middle)
        # Met before near the middle, near the middle before near to where it was.
        order = np.lexsort((np.abs(t - now), np.maximum(off, NEAR / 4), missed))
        chosen = int(order[0])
        best = Found(shares[chosen], float(missed[chosen]))
        step = (high - low) / _DIAL
        low, high = max(0.0, t[chosen] - step), min(room, t[chosen] + step)
    return best


def has_wax(task: Task) -> bool:
    """True where there is a wax that may move."""
    return bool(task.group(lambda item: item.role == Role.WAX).any())


def sampled(task: Task) -> Array:
    """Mixtures by chance within the bounds of every line, the same ones each time: (P, I)."""
    free = task.high - task.low > 1e-12
    chance = np.random.default_rng(SEED)
    # Whole groups first, so that mixtures of mostly wax and of hardly any are among them.
    roles = [np.flatnonzero(free & np.array([item.role == role for item in task.items])) for role in Role]
    roles = [places for places in roles if places.size]
    shares = np.tile(np.where(free, 0.0, task.start), (SAMPLES, 1))
    if not roles:
        return shares
    room = 1 - shares.sum(axis=1)
    parts = chance.dirichlet(np.ones(len(roles)), SAMPLES)
    for n, places in enumerate(roles):
        shares[:, places] = chance.dirichlet(np.full(len(places), 0.7), SAMPLES) * (parts[:, n] * room)[:, None]
    for _ in range(20):  # as :func:`into_bounds`, of all at once
        shares = np.clip(shares, task.low, task.high)
        gap = 1 - shares.sum(axis=1, keepdims=True)
        room = np.where(gap > 0, task.high - shares, shares - task.low)
        shares = shares + gap * room / np.maximum(room.sum(axis=1, keepdims=True), np.maximum(np.abs(gap), 1e-12))
    return shares


def from_many_starts(task: Task) -> Found:
    """Every free line, from several places far apart: the best of many mixtures by chance."""
    shares = sampled(task)
    missed = task.aim.missed(task.firmness(shares)) + np.where(task.within(shares), 0.0, 1.0)
    best = Found(task.start, _missed(task, task.start))
    for n in np.argsort(missed, kind="stable")[:STARTS]:
        here = Found(shares[n], float(missed[n]))
        found = min((here, all_lines(task, shares[n])), key=lambda each: each.missed)
        best = min((best, found), key=lambda each: each.missed)
        if not best.missed:
            break
    return best


def all_lines(task: Task, start: Array) -> Found:
    """Every free line: the least change that meets the aim, by SLSQP from a start."""
    x = _slsqp(task, into_bounds(start, task.low, task.high), exact=True)
    if _missed(task, x) > 0 or abs(task.firmness(x[None, :])[0, 0] - task.aim.middle) > NEAR:
        # The middle cannot be had: the whole window will do.
        other = _slsqp(task, x, exact=False)
        x = min((x, other), key=lambda each: _missed(task, each))
    return Found(x, _missed(task, x))


def _with_slopes(task: Task, shares: Array) -> tuple[Array, Array]:
    """Firmness (temps,) and its derivatives by every share (temps, I), from one call."""
    moved = shares[None, :] + np.vstack([np.zeros(len(shares)), np.eye(len(shares)) * _STEP])
    found = task.firmness(moved)
    return found[0], ((found[1:] - found[0]) / _STEP).T


def _slsqp(task: Task, start: Array, exact: bool) -> Array:
    """One run: with ``exact`` the firmness is to be the middle of the window, else inside it."""
    aim = task.aim
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
        rules.append(rule("eq", 0, 1, -aim.middle))
    else:
        rules += [rule("ineq", 0, 1, -aim.low - INSIDE), rule("ineq", 0, -1, aim.high - INSIDE)]
    if aim.hold_firmness is not None and aim.hold_temp_c is not None:
        rules.append(rule("ineq", 1, 1, -aim.hold_firmness - 2 * INSIDE))
    for group, most in task.caps:
        rules.append({"type": "ineq", "fun": lambda x, g=group, m=most: m - g @ x, "jac": lambda x, g=group: -g})
    tilt = COST_WEIGHT * task.prices if task.prices.size else np.zeros(len(start))
    if task.prices.size:
        rules.append({"type": "ineq", "fun": lambda x: 1 - SAVED - task.prices @ x, "jac": lambda x: -task.prices})
    ended = scipy.optimize.minimize(
        lambda x: (((x - task.start) / task.scale) ** 2).sum() + tilt @ x,
        start,
        jac=lambda x: 2 * (x - task.start) / task.scale**2 + tilt,
        bounds=list(zip(task.low, task.high, strict=True)),
        constraints=rules,
        method="SLSQP",
        options={"maxiter": 30, "ftol": 1e-6},
    )
    return into_bounds(np.nan_to_num(ended.x), task.low, task.high)


def largest_of(task: Task, have: Array, start: Array) -> Array:
    """Shares (I,) of which most can be made of so many grams of each line (I,), the aim met; by SLSQP from a start.

    The logarithm of the batch is the greatest M with shares x M within what there is.
    """
    seen: dict[bytes, tuple[Array, Array]] = {}
    size = len(start)

    def model(x: Array) -> tuple[Array, Array]:
        key = x[:size].tobytes()
        if key not in seen:
            seen.clear()
            seen[key] = _with_slopes(task, x[:size])
        return seen[key]

    def rule(which: int, sign: float, offset: float) -> dict[str, object]:
        return {
            "type": "ineq",
            "fun": lambda x: (sign * model(x)[0][which] + offset) / 10,
            "jac": lambda x: np.append(sign * model(x)[1][which] / 10, 0.0),
        }

    aim, whole = task.aim, have.sum()
    rules: list[dict[str, object]] = [
        {"type": "eq", "fun": lambda x: x[:size].sum() - 1, "jac": lambda x: np.append(np.ones(size), 0.0)},
        # In parts of all that there is: x M <= have.
        {
            "type": "ineq",
            "fun": lambda x: have / whole - x[:size] * x[size],
            "jac": lambda x: np.column_stack([-np.eye(size) * x[size], -x[:size]]),
        },
        rule(0, 1, -aim.low - INSIDE),
        rule(0, -1, aim.high - INSIDE),
    ]
    if aim.hold_firmness is not None and aim.hold_temp_c is not None:
        rules.append(rule(1, 1, -aim.hold_firmness - 2 * INSIDE))
    for group, cap in task.caps:
        rules.append(
            {
                "type": "ineq",
                "fun": lambda x, g=group, m=cap: m - g @ x[:size],
                "jac": lambda x, g=group: np.append(-g, 0.0),
            }
        )
    with np.errstate(divide="ignore"):
        fits = float(np.min(np.where(start > 1e-6, have / whole / np.maximum(start, 1e-6), np.inf)))
    ended = scipy.optimize.minimize(
        lambda x: -x[size],
        np.append(start, min(fits, 1.0)),
        jac=lambda x: np.append(np.zeros(size), -1.0),
        bounds=[*zip(task.low, task.high, strict=True), (0.0, 1.0)],
        constraints=rules,
        method="SLSQP",
        options={"maxiter": 60, "ftol": 1e-5},
    )
    return into_bounds(np.nan_to_num(ended.x[:size]), task.low, task.high)


def into_bounds(x: Array, low: Array, high: Array) -> Array:
    """The shares moved into their bounds and to a sum of one, as far as the bounds allow."""
    x = np.clip(x, low, high)
    for _ in range(30):
        gap = 1 - x.sum()
        room = high - x if gap > 0 else x - low
        if abs(gap) < 1e-12 or room.sum() <= 0:
            break
        x = np.clip(x + gap * room / max(room.sum(), abs(gap)), low, high)
    return x


def on_grid(task: Task, shares: Array, before: Composition) -> Composition:
    """The shares to 0.01 %, exactly one hundred; a line that did not move keeps its share to the digit."""
    written = {line.ingredient: line for line in before.lines}
    total = before.total
    kept: dict[int, Decimal] = {}
    for i, item in enumerate(task.items):
        line = written.get(item)
        if line is not None and abs(float(line.share / total) - shares[i]) < 1e-9:
            kept[i] = line.share / total
        elif shares[i] < 5e-5:
            kept[i] = Decimal(0)
    free = [i for i in range(len(task.items)) if i not in kept]
    rest = WHOLE - sum(kept.values(), Decimal(0))
    if not free and rest:
        free = [max(kept, key=lambda i: kept[i])]
        rest += kept.pop(free[0])
    wanted = [Decimal(str(round(max(float(shares[i]), 1e-6), 9))) for i in free]
    given = dict(zip(free, shared_out(rest, wanted, to_greatest=True), strict=True)) if free else {}
    found = {**kept, **given}
    lines = []
    for i, item in enumerate(task.items):
        line = written.get(item, Line(item, Decimal(0)))
        if found[i] or line.locked:
            lines.append(line._replace(share=found[i]))
    return Composition(tuple(lines))
