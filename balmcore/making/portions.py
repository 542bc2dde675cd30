"""One melt, several finishes: what of the base each takes, and what is added to it.

A finish holds so many grams of product; what is added is a share of the finished portion, so the base
taken for it is p (1 - sum of a), and the base weighed is the sum of what they take and of what stays in
the jug. Drops are counted, not weighed: their mass comes on top of what the scale shows.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum

from balmcore.composition import Composition, Line, largest_remainder
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.making.scaling import (
    MOST_GRAMS,
    Filling,
    Flag,
    Over,
    Piece,
    Scaled,
    check_fillings,
    filled_density,
    flag_of,
    nothing_over,
    on_grid,
    pieces_of,
    rounded_down,
    with_added,
)
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence

MOST_FINISHES = 12  # of one melt, before the first has set


@dataclass(frozen=True)
class Addition:
    """What is added to one finish: a share of the finished portion. ``drops`` in each piece are counted
    instead of weighed, ``counted_g`` in all; both 0 where it is weighed."""

    ingredient: Ingredient
    share: Decimal
    drops: int = 0
    counted_g: Decimal = Decimal(0)

    @property
    def key(self) -> str:
        """The ingredient's key."""
        return self.ingredient.key


@dataclass(frozen=True)
class Finish:
    """A part of one melt with additions of its own; ``product_g`` is what its ``count`` pieces hold in all,
    with their part of what stays in the jug."""

    name: str
    product_g: Decimal
    add: tuple[Addition, ...] = ()
    count: int = 0

    @property
    def added(self) -> Decimal:
        """The share of the finished portion that is not base."""
        return sum((addition.share for addition in self.add), Decimal(0))

    def composition(self, base: Composition) -> Composition:
        """What it consists of, adding to 1: base and additions; the same ingredient in both is one line."""
        shares: dict[Ingredient, Decimal] = {}
        for line in base.lines:
            shares[line.ingredient] = line.share / base.total * (1 - self.added)
        for addition in self.add:
            shares[addition.ingredient] = shares.get(addition.ingredient, Decimal(0)) + addition.share
        return Composition(tuple(Line(item, share) for item, share in shares.items()))


@dataclass(frozen=True)
class Portion:
    """One finish in grams: ``base_g`` of the melt and ``add`` by key are ``total_g`` exactly. ``flags`` are
    of what is added to it and weighed; those of the base's own lines stand with the base."""

    finish: Finish
    composition: Composition
    base_g: Decimal
    add: Mapping[str, Decimal] = field(hash=False)
    flags: tuple[Flag, ...] = ()

    @property
    def total_g(self) -> Decimal:
        """Base and additions."""
        return self.base_g + sum(self.add.values(), Decimal(0))

    def of(self, base: Composition) -> Composition:
        """What it consists of by its grams, when they are taken of that base."""
        items = {one.key: one.ingredient for one in self.finish.add}
        return with_added(base, self.base_g, ((items[key], grams) for key, grams in self.add.items()))


@dataclass(frozen=True)
class Portioned:
    """A base in grams and what becomes of it. ``lines`` add to ``total_g``; what the portions take,
    ``loss_g`` and what boils away add to it as well. ``flags`` are of ``lines``."""

    total_g: Decimal
    lines: Mapping[str, Decimal]
    portions: tuple[Portion, ...]
    loss_g: Decimal
    driven_off_g: Decimal
    flags: tuple[Flag, ...]


def portioned(
    base: Composition,
    finishes: Sequence[Finish],
    resolution_g: Decimal,
    loss_g: Decimal = Decimal(0),
    over: Over = nothing_over,
) -> Portioned:
    """Grams of the base and of every finish on the scale's grid, by largest remainder within each; the rounding brings
    nothing over a limit that ``over`` knows, in no finish.

    Raises :class:`Problem` for no finish or a name twice, a portion of nothing, additions that leave no
    base, a step or a loss that cannot be, and more than a bench holds.
    """
    left = base.require_mass().without_volatiles.require_mass()
    _check(finishes, resolution_g, loss_g)
    portions = tuple(_portion(finish, left, resolution_g, over) for finish in finishes)
    stays = _rounded(loss_g, resolution_g)
    melt = sum((portion.base_g for portion in portions), stays)
    total = _rounded(melt * base.total / left.total, resolution_g)
    if total > MOST_GRAMS:
        raise Problem(f"That is {mass_words(total)} in one melt: make it in several batches.", "finishes")

    def over_in_any(rounded: Composition) -> frozenset[str]:
        """Lines of the base that are over a limit in what one of the finishes becomes of it."""
        dry = rounded.without_volatiles
        return frozenset().union(*(over(portion.of(dry)) for portion in portions)) if dry.total else frozenset()

    lines, flags = on_grid(base, total, resolution_g, over_in_any)
    return Portioned(total, lines, portions, stays, total - melt, flags)


def drops_g(item: Ingredient, drops: int) -> Decimal:
    """Grams of so many drops. Raises :class:`Problem` where the drops of an ingredient are not known."""
    if not item.drop_count:
        raise Problem(f"How much a drop of {in_sentence(item.name)} weighs is not known: give grams or percent.")
    return Decimal(str(drops * item.density_g_ml / item.drop_count))


def _check(finishes: Sequence[Finish], resolution_g: Decimal, loss_g: Decimal) -> None:
    if not 1 <= len(finishes) <= MOST_FINISHES:
        raise Problem(f"Give between one and {MOST_FINISHES} finishes.", "finishes")
    if not resolution_g.is_finite() or resolution_g <= 0:
        raise Problem("The scale's smallest step should be above 0.", "resolution_g")
    if not loss_g.is_finite() or loss_g < 0:
        raise Problem("What stays in the jug cannot be less than nothing.", "loss_g")
    names = [finish.name for finish in finishes]
    for number, finish in enumerate(finishes):
        where = f"finishes.{number}"
        if finish.name in names[:number]:
            raise Problem(f"Two finishes are called “{finish.name}”: give one another name.", f"{where}.name")
        if not finish.product_g.is_finite() or finish.product_g < resolution_g:
            raise Problem(f"“{finish.name}” holds nothing: give it a container, or leave it out.", f"{where}.product_g")
        if any(not addition.share.is_finite() or addition.share < 0 for addition in finish.add):
            raise Problem(f"What is added to “{finish.name}” cannot be less than nothing.", f"{where}.add")
        if finish.added >= 1:
            raise Problem(f"What is added to “{finish.name}” takes the whole of it: no base is left.", f"{where}.add")


def _rounded(grams: Decimal, step: Decimal) -> Decimal:
    return (grams / step).to_integral_value() * step


def _portion(finish: Finish, base: Composition, step: Decimal, over: Over) -> Portion:
    """One finish on the grid: what is weighed closes exactly, what is counted in drops comes on top. What only the
    rounding would bring over a limit is rounded down, for more of the base."""
    weighed = [addition for addition in finish.add if not addition.drops]
    counted = {addition.key: addition.counted_g for addition in finish.add if addition.drops}
    total = _rounded(finish.product_g - sum(counted.values(), Decimal(0)), step)
    shares = [1 - finish.added, *(addition.share for addition in weighed)]
    made, keys = finish.composition(base), ("", *(addition.key for addition in weighed))
    rounded = largest_remainder(shares, step, total)
    planned_over = over(made)

    def crossing(grams: Sequence[Decimal]) -> frozenset[str]:
        portion = Portion(finish, made, grams[0], dict(zip(keys[1:], grams[1:], strict=True)) | counted)
        return over(portion.of(base)) - planned_over

    exact = [share / sum(shares) * total for share in shares]
    base_g, *grams = rounded_down(keys, exact, rounded, step, crossing(rounded))
    add = dict(zip(keys[1:], grams, strict=True)) | counted
    whole = base_g + sum(add.values(), Decimal(0))
    flags = (flag_of(one.key, one.share * whole, add[one.key]) for one in weighed)
    return Portion(
        finish, made, base_g, {one.key: add[one.key] for one in finish.add}, tuple(flag for flag in flags if flag)
    )


@dataclass(frozen=True)
class Wanted:
    """What is added to one finish as the maker says it: ``how`` is percent of the finished portion,
    grams in all of it, or drops in each piece."""

    class How(StrEnum):
        PERCENT = "percent"
        GRAMS = "grams"
        DROPS = "drops"

    ingredient: Ingredient
    amount: Decimal
    how: How

    def to_addition(self, product_g: Decimal, pieces: int, stays: Decimal = Decimal(1)) -> Addition:
        """It as a share of so many grams in so many pieces, of which with what stays in the jug there
        are ``stays`` times as many. Raises :class:`Problem`."""
        if self.how is Wanted.How.PERCENT:
            return Addition(self.ingredient, self.amount)
        if self.how is Wanted.How.GRAMS:
            return Addition(self.ingredient, self.amount / (product_g * stays))
        counted = drops_g(self.ingredient, int(self.amount)) * pieces
        return Addition(self.ingredient, counted / product_g, int(self.amount), counted)


@dataclass(frozen=True)
class FinishPlan:
    """A finish as it is planned: its name, its containers, what is added to it."""

    name: str
    fillings: tuple[Filling, ...]
    add: tuple[Wanted, ...] = ()

    @property
    def count(self) -> int:
        """How many pieces it fills."""
        return sum(filling.count for filling in self.fillings)


def scale_finishes(
    base: Composition,
    plans: Sequence[FinishPlan],
    pour_c: float,
    resolution_g: Decimal,
    loss_g: Decimal,
    overrun: float = 0.0,
    over: Over = nothing_over,
) -> Scaled:
    """A batch in grams with its portions, each coming out at what its pieces hold of its own density.

    ``loss_g`` is shared by the finishes, as each leaves something in its own jug. Raises :class:`Problem`.
    """
    left = base.require_mass().without_volatiles.require_mass()
    held = [_held(plan, left, pour_c, overrun) for plan in plans]
    products = [sum((Decimal(str(piece.net_g)) * piece.count for piece in pieces), Decimal(0)) for pieces in held]
    whole = sum(products, Decimal(0))
    stays = 1 + loss_g / whole if whole else Decimal(1)
    finishes = [
        Finish(
            plan.name,
            product * stays,
            tuple(wanted.to_addition(product, plan.count, stays) for wanted in plan.add),
            plan.count,
        )
        for plan, product in zip(plans, products, strict=True)
    ]
    made = portioned(base, finishes, resolution_g, over=over)
    density = filled_density(left, pour_c, overrun)
    pieces = tuple(piece for each in held for piece in each)
    return Scaled(pieces, density, float(whole), made.total_g, made.lines, made.flags, made.driven_off_g, made.portions)


def _held(plan: FinishPlan, base: Composition, pour_c: float, overrun: float) -> tuple[Piece, ...]:
    """What the pieces of a finish hold of it: what is added moves its density a little."""
    if not plan.fillings:
        raise Problem(f"“{plan.name}” has no container: give it one, or leave it out.", "containers")
    made = base
    for _ in range(2):
        check_fillings(plan.fillings, density := filled_density(made, pour_c, overrun))
        held = pieces_of(plan.fillings, density)
        product = sum((Decimal(str(piece.net_g)) * piece.count for piece in held), Decimal(0))
        finish = Finish(plan.name, product, tuple(wanted.to_addition(product, plan.count) for wanted in plan.add))
        if finish.added >= 1:
            raise Problem(f"What is added to “{plan.name}” takes the whole of it: no base is left.", "finishes")
        made = finish.composition(base)
    return held
