"""What can be made of what is in stock alone: per kind the formula with the largest batch."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache

from balmcore.composition import Composition, Line, set_shares, shared_out
from balmcore.design.target import Target, Way, reformulate
from balmcore.design.wishes import Wishes
from balmcore.errors import Problem
from balmcore.making.stock import Most, most
from balmcore.tables import Ingredient, Kind, Role, Tables

LEAST_BATCH_G = 10  # less is not worth a pot
WORTH_MIXING = Decimal("1.5")  # so much larger a batch makes all oils at once worth it


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
    held = {tables.ingredients[key]: grams for key, grams in stock.items() if grams > 0 and key in tables.ingredients}
    if not held:
        return None
    target, plain = window_of(kind, Wishes(only=frozenset(held))), list(starts)
    simple = _largest(kind, plain, target, stock, tables)
    mixed = _largest(kind, [_all_oils(start, held) for start in plain], target, stock, tables)
    if simple and mixed and mixed.most.total_g < WORTH_MIXING * simple.most.total_g:
        return simple
    return mixed or simple


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
    return reformulate(start, target, tables).ways


def _all_oils(start: Composition, held: Mapping[Ingredient, Decimal]) -> Composition:
    """The start with its oils as all liquid oils in stock, in proportion to what there is of each, none
    above what is usual of it unless there is no other."""
    oils = {item: grams for item, grams in held.items() if item.group == "liquid_oil"}
    share = sum((line.share for line in start.lines if line.ingredient.role == Role.OIL), Decimal(0))
    if not oils or not share:
        return start
    others = tuple(line for line in start.lines if line.ingredient.role != Role.OIL)
    parts = dict(zip(oils, shared_out(share, oils.values()), strict=True))
    over = {item: part for item, part in parts.items() if part > Decimal(str(item.usual_max_share or 1))}
    for item in over:
        parts[item] = Decimal(str(item.usual_max_share))
    rest = share - sum(parts.values(), Decimal(0))
    room = {item: grams for item, grams in oils.items() if item not in over} or oils
    for item, more in zip(room, shared_out(rest, room.values()), strict=True):
        parts[item] += more
    return Composition((*others, *(Line(item, part) for item, part in parts.items())))


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
