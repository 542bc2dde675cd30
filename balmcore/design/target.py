"""Reaching a firmness: percentages that meet a window and a hold, within locks, caps and wishes.

The way a maker would go comes first: more or less wax against the liquid oils; then wax and butter;
then anything. A target that cannot be met is refused with what stands in its way: the one wall whose
removal, tried alone from the best point, lets it be met.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum

import numpy as np

from balmcore.composition import Array, Composition, Line
from balmcore.design import solver
from balmcore.design.solver import BRITTLE_CAP, SAVED, WAX_CAP, Aim, Found, Task
from balmcore.design.substitution import stand_ins
from balmcore.design.wishes import NONE, Wishes
from balmcore.display import CELSIUS, Display, figure
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Ingredient, Role, Tables, shipped
from balmcore.wording import in_sentence, listed

# What a composition may lack: tried with one of it, before it is said.
LACKS_WAX = "There is no wax in it: add one, and ask again."
LACKS_OIL = "There is no oil in it: add one, and ask again."
STAND_INS_TRIED = 3  # of the nearest: further ones are no longer like it
DIFFERENT = 0.01  # of the whole in some line: less is not another way
MET_WITHIN = 0.05  # points that rounding to the grid may cost


@dataclass(frozen=True)
class Target:
    """What is asked for: firmness window at 21 degrees C, a firmness kept up to a temperature,
    and wishes. ``most`` is the greatest share of some lines (aromatics against their limits), which
    are brought down to it. With ``cheaper`` it should cost less than now by ``prices`` per gram; a
    line without one counts as their mean."""

    low: float
    high: float
    hold_firmness: float | None = None
    hold_temp_c: float | None = None
    overrun: float = 0.0
    wishes: Wishes = NONE
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


LACKS = (
    (Status.NO_WAX, LACKS_WAX, "beeswax_yellow", Role.WAX),
    (Status.NO_WAX, LACKS_WAX, "candelilla_wax", Role.WAX),
    (Status.NO_OIL, LACKS_OIL, "sunflower_oil_ho", Role.OIL),
)


@dataclass(frozen=True)
class Way:
    """One way to the target: what is done in a word, the composition, and the lines that the maker
    chose and that lose more than half of it."""

    name: str
    composition: Composition
    firmness: float
    hold_firmness: float | None
    halved: tuple[Ingredient, ...] = ()

    @property
    def warning(self) -> str:
        """What is to be said of lines that nearly go, empty when none does."""
        return f"Takes more than half of {listed([item.name for item in self.halved])}." if self.halved else ""


@dataclass(frozen=True)
class TargetResult:
    """How it ended. ``composition`` is that of the first way, or the nearest found without
    ``success``; ``status`` and ``message`` then say what stands in the way. ``ways`` are up to three
    clearly different ones, the simplest first. ``hold_firmness`` is the firmness at the hold
    temperature, None when none was asked."""

    success: bool
    status: Status
    message: str
    composition: Composition
    firmness: float
    hold_firmness: float | None
    ways: tuple[Way, ...] = ()


def reformulate(
    composition: Composition,
    target: Target,
    tables: Tables | None = None,
    show: Display = CELSIUS,
    explain: bool = True,
) -> TargetResult:
    """Percentages that meet a target, the simplest change first.

    Waxes, butters and oils that are not locked may move; extras stay. What the wishes bar is
    taken out, and its nearest stand-in of the tables offered its place. Without ``explain`` nobody looks for what
    stands in the way. Raises :class:`Problem`
    for an empty composition or a window upside down.
    """
    composition.require_mass()
    # In one order whatever order the lines come in, and back: an answer should not depend on it.
    ordered = Composition(tuple(sorted(composition.lines, key=lambda line: line.key)))
    found = _searched(ordered, target, tables or shipped(), show, explain)
    places = {key: n for n, key in enumerate(composition.keys)}

    def back(made: Composition) -> Composition:
        return Composition(tuple(sorted(made.lines, key=lambda line: places.get(line.key, len(places)))))

    ways = tuple(replace(way, composition=back(way.composition)) for way in found.ways)
    return replace(found, composition=back(found.composition), ways=ways)


def _searched(composition: Composition, target: Target, known: Tables, show: Display, explain: bool) -> TargetResult:
    if not 0 <= target.low < target.high <= 150:
        raise Problem("The window should run from a lower to a higher firmness.", "firmness")
    plain = Composition(tuple(line for line in composition.lines if line.share or line.locked))
    for line in plain.lines:
        if line.locked and line.share and target.locks and not target.wishes.allow(line.ingredient):
            message = f"{line.ingredient.name} is locked, and the wishes bar it: unlock it first."
            return _refused(plain, target, Status.LOCKS, message)
    nearest: tuple[Found, Task] | None = None
    for offer in range(STAND_INS_TRIED if target.wishes.any else 1):
        task = _task(plain, target, known, offer)
        if not task.items:
            message = "The wishes stand in the way: they leave nothing of this formula."
            return _refused(plain, target, Status.WISHES, message)
        ways, best = _ways(task, plain, target, explain)
        if ways:
            first = ways[0]
            return TargetResult(
                True, Status.MET, "", first.composition, first.firmness, first.hold_firmness, tuple(ways)
            )
        if nearest is None or best.missed < nearest[0].missed:
            nearest = best, task
    assert nearest is not None
    best, task = nearest
    if not explain:
        return _refused(solver.on_grid(task, best.shares, plain), target, Status.UNREACHABLE, "")
    status, message = _in_the_way(plain, best, task, target, known, show)
    return _refused(solver.on_grid(task, best.shares, plain), target, status, message)


def per_gram(composition: Composition, target: Target) -> float:
    """What a gram costs by the target's prices, a line without one counting as their mean."""
    return sum(float(line.share) * target.price(line.key) for line in composition.lines) / float(composition.total)


def _refused(composition: Composition, target: Target, status: Status, message: str) -> TargetResult:
    firmness, hold = _figures(composition, target)
    return TargetResult(False, status, message, composition, firmness, hold)


def _figures(composition: Composition, target: Target) -> tuple[float, float | None]:
    prediction = predict(composition, target.overrun)
    hold = None if target.hold_temp_c is None else prediction.firmness_at(target.hold_temp_c)
    return prediction.firmness_at(WINDOW_C), hold


def _ways(task: Task, before: Composition, target: Target, thorough: bool = True) -> tuple[list[Way], Found]:
    """Up to three clearly different ways, the simplest first, and the best point where there is none; ``thorough``
    looks from several starts before it says so."""
    wax, two = solver.wax_dial(task), solver.two_dials(task)
    tried = [("wax", wax), ("both", two)]
    if (not wax.missed and np.abs(two.shares - wax.shares).max() < DIFFERENT) or not solver.has_wax(task):
        tried[1] = ("butter", solver.butter_dial(task))
    best = min((found for _, found in tried), key=lambda found: found.missed)
    tried.append(("all", solver.all_lines(task, best.shares)))
    if thorough and all(found.missed for _, found in tried):
        tried.append(("all", solver.from_many_starts(task)))
    ways: list[Way] = []
    seen: list[Composition] = []
    for kind, found in tried:
        made = solver.on_grid(task, found.shares, before)
        stays = bool(ways) and np.allclose(found.shares, task.start)
        if stays or not _is_met(made, target, before) or any(_alike(made, other) for other in seen):
            best = min((best, found), key=lambda each: each.missed)
            continue
        firmness, hold = _figures(made, target)
        seen.append(made)
        ways.append(Way(_name(kind, task, found), made, firmness, hold, _halved(before, made, target)))
    return ways, best


def _alike(one: Composition, other: Composition) -> bool:
    keys = {*one.keys, *other.keys}
    return all(abs(float(one.share_of(key) - other.share_of(key))) < DIFFERENT for key in keys)


def _halved(before: Composition, after: Composition, target: Target) -> tuple[Ingredient, ...]:
    """Lines the maker chose that lose more than half; what the wishes take out is no surprise."""
    total = before.total
    return tuple(
        line.ingredient
        for line in before.lines
        if line.ingredient.role != Role.EXTRA
        and target.wishes.allow(line.ingredient)
        and line.share / total > Decimal("0.005")
        and after.share_of(line.key) < line.share / total / 2
    )


def _name(kind: str, task: Task, found: Found) -> str:
    """What a way does, in a word."""
    moved = {
        role: float(sum(found.shares[i] - task.start[i] for i, item in enumerate(task.items) if item.role == role))
        for role in (Role.WAX, Role.BUTTER)
    }
    if kind == "all":
        return "Every line a little"
    said = [f"{'more' if by > 0 else 'less'} {role}" for role, by in moved.items() if abs(by) > 5e-4]
    return " and ".join(said).capitalize() if said else "What was wished, no more"


def _is_met(composition: Composition, target: Target, start: Composition) -> bool:
    firmness, hold = _figures(composition, target)
    if any(line.share and not target.wishes.allow(line.ingredient) for line in composition.lines):
        return False
    if target.cheaper and per_gram(composition, target) > per_gram(start, target) * (1 - SAVED / 2):
        return False
    holds = target.hold_firmness is None or hold is None or hold >= target.hold_firmness - MET_WITHIN
    return holds and target.low - MET_WITHIN <= firmness <= target.high + MET_WITHIN


def _relaxed(best: Composition, target: Target, show: Display) -> Iterator[tuple[Status, str, Target]]:
    """The target with one demand dropped at a time, and the sentence that names it."""
    if target.hold_temp_c is not None and target.hold_firmness is not None:
        held = f"{figure(target.hold_firmness)} at {show.temp_text(target.hold_temp_c)}"
        message = f"The hold stands in the way: {held} cannot be kept at this firmness."
        yield Status.HOLD, message, replace(target, hold_firmness=None, hold_temp_c=None)
    if target.cheaper:
        message = "The wish for less cost stands in the way: nothing cheaper reaches it."
        yield Status.COST, message, replace(target, cheaper=False)
    yield Status.LOCKS, "The locked lines stand in the way: unlock one.", replace(target, locks=False)
    yield Status.RANGES, _at_the_end_of_its_range(best), replace(target, usual_ranges=False)
    message = (
        f"The caps stand in the way: wax up to {WAX_CAP * 100:.0f} %, brittle butters up to {BRITTLE_CAP * 100:.0f} %."
    )
    yield Status.CAPS, message, replace(target, caps=False)
    if target.wishes.any:
        message = "The wishes stand in the way: nothing that they allow reaches it."
        yield Status.WISHES, message, replace(target, wishes=NONE)


def _at_the_end_of_its_range(best: Composition) -> str:
    """Which usual range it is that stands in the way."""
    for line in best.lines:
        most = line.ingredient.usual_max_share
        if line.ingredient.role != Role.EXTRA and most is not None and float(line.share) >= most - 1e-3:
            name = in_sentence(line.ingredient.name)
            return f"The usual range of {name} stands in the way: up to {figure(most * 100)} %."
    return "The usual range of an ingredient stands in the way."


def _in_the_way(
    composition: Composition, best: Found, task: Task, target: Target, tables: Tables, show: Display
) -> tuple[Status, str]:
    """The one demand without which it would work, or what the composition lacks."""
    nearest = solver.on_grid(task, best.shares, composition)
    has_locks = any(line.locked for line in composition.lines)
    walls = [
        (status, message, easier, _task(composition, easier, tables))
        for status, message, easier in _relaxed(nearest, target, show)
        if status is not Status.LOCKS or has_locks
    ]
    for status, message, easier, opened in walls:  # by the dials, which cost next to nothing
        for found in (solver.wax_dial(opened), solver.two_dials(opened)):
            if not found.missed and _is_met(solver.on_grid(opened, found.shares, composition), easier, composition):
                return status, message
    for status, message, easier, opened in walls:
        start = best.shares if len(best.shares) == len(opened.start) else opened.start
        found = solver.all_lines(opened, start)
        if found.missed:
            found = solver.from_many_starts(opened)
        if not found.missed and _is_met(solver.on_grid(opened, found.shares, composition), easier, composition):
            return status, message
    if lacking := _lacking(composition, task, target, tables):
        return lacking
    message = "These ingredients cannot reach it in any mixture: add another, or ask for less."
    return Status.UNREACHABLE, message


def _lacking(composition: Composition, task: Task, target: Target, tables: Tables) -> tuple[Status, str] | None:
    """What the composition lacks, where it is met with some of it; None where that would not help either."""
    if not composition.role_shares()[Role.WAX] and not (task.high - task.low > 1e-12).any():
        return Status.NO_WAX, LACKS_WAX  # extras alone, which nobody moves
    for status, message, key, role in LACKS:
        if composition.role_shares()[role] or not target.wishes.allow(tables.ingredient(key)):
            continue
        fuller = Composition((*composition.lines, Line(tables.ingredient(key), Decimal(0))))
        opened = _task(fuller, target, tables)
        found = min((solver.two_dials(opened), solver.from_many_starts(opened)), key=lambda each: each.missed)
        if not found.missed:
            return status, message
    return None


def _task(composition: Composition, target: Target, tables: Tables, offer: int = 0) -> Task:
    """Lines, bounds and caps once the wishes are kept and scents are within their limits."""
    items, start, locked = _start(composition, target, tables, offer)
    low, high = np.zeros(len(items)), np.zeros(len(items))
    for i, item in enumerate(items):
        if item.role == Role.EXTRA or (item in locked and target.locks):
            low[i] = high[i] = start[i]
        elif target.usual_ranges:
            low[i] = min(start[i], item.usual_min_share or 0.0)
            high[i] = max(start[i], item.usual_max_share or 1.0)
        else:
            high[i] = 1.0
    waxes = np.array([item.role == Role.WAX for item in items], dtype=float)
    brittle = np.array([item.group == "brittle_butter" for item in items], dtype=float)
    caps = tuple((group, max(cap, float(group @ start))) for group, cap in ((waxes, WAX_CAP), (brittle, BRITTLE_CAP)))
    aim = Aim(target.low, target.high, target.hold_firmness, target.hold_temp_c, target.overrun)
    return Task(aim, items, start, low, high, caps if target.caps else (), _prices(target, items, composition))


def _start(
    composition: Composition, target: Target, tables: Tables, offer: int
) -> tuple[tuple[Ingredient, ...], Array, frozenset[Ingredient]]:
    """Where the search begins. What the wishes bar is gone: its share goes to what is left of its role,
    or to its stand-in, the ``offer``-th nearest, where nothing is left."""
    total, most = float(composition.total), dict(target.most)
    allowed = [line for line in composition.lines if target.wishes.allow(line.ingredient)]
    shares = {line.ingredient: float(line.share) / total for line in allowed}
    for line in composition.lines:
        if line in allowed or not line.share or line.ingredient.role == Role.EXTRA:
            continue
        same = [item for item in shares if item.role == line.ingredient.role]
        gone = float(line.share) / total
        if not same:
            taken = [item.key for item in shares]
            near = stand_ins(line.ingredient, tables, target.wishes, taken, offer + 1, float(line.share) / total)
            if near:
                shares[near[-1]] = gone / max(near[-1].strength, 1.0)
            continue
        weight = sum(shares[item] for item in same) or 1.0
        for item in same:
            shares[item] += gone * shares[item] / weight
    for item in shares:
        if item.role == Role.EXTRA:
            shares[item] = min(shares[item], most.get(item.key, shares[item]))
    items = tuple(shares)
    x = np.array([shares[item] for item in items])
    locked = frozenset(line.ingredient for line in allowed if line.locked)
    free = np.array([item.role != Role.EXTRA and not (item in locked and target.locks) for item in items])
    gap = 1 - x.sum()
    if abs(gap) > 1e-12 and free.any() and x[free].sum() > 0:
        x[free] *= (x[free].sum() + gap) / x[free].sum()
    return items, x, locked


def _prices(target: Target, items: tuple[Ingredient, ...], composition: Composition) -> Array:
    """Price of every line (I,) so that the composition costs 1 now; empty while cost does not count."""
    if not target.cheaper or not {key for key, _ in target.prices} & set(composition.keys):
        return np.zeros(0)
    now = per_gram(composition, target)
    return np.array([target.price(item.key) for item in items]) / now if now > 0 else np.zeros(0)
