"""A composition: ingredients in shares of the whole, and what may be done to them.

Compositions never change; every function returns a new one. A share is 0 to 1 by mass. Makers
read and type percent of the whole to two decimals, so balancing works on that grid
(``GRID`` = 0.01 %) and hits exactly one hundred.
"""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import ROUND_FLOOR, Decimal
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from balmcore.display import Display, spoken
from balmcore.errors import Problem
from balmcore.tables import ROLES, Ingredient, Role, Tables, shipped

Array = NDArray[np.float64]
GRID = Decimal("0.0001")
WHOLE = Decimal(1)  # shares add to one


class Line(NamedTuple):
    """One ingredient of a composition; ``locked`` lines stay when others are balanced."""

    ingredient: Ingredient
    share: Decimal
    locked: bool = False

    @property
    def key(self) -> str:
        """The ingredient's key."""
        return self.ingredient.key


@dataclass(frozen=True)
class Composition:
    """Lines in the order the maker wrote them. No ingredient stands twice; no share is negative."""

    lines: tuple[Line, ...]

    def __post_init__(self) -> None:
        seen = set()
        for line in self.lines:
            if line.key in seen:
                raise Problem(
                    f"{line.ingredient.name} stands here twice: put both into one line.",
                    f"percent.{line.key}",
                )
            seen.add(line.key)
            if not line.share.is_finite() or line.share < 0:
                raise Problem(f"{line.ingredient.name} cannot be less than nothing.", f"percent.{line.key}")

    @classmethod
    def of(cls, shares: Mapping[str, float | Decimal], tables: Tables | None = None) -> "Composition":
        """A composition of shares by key, nothing locked; keys are those of the shipped tables or of
        ``tables``. Raises :class:`Problem` for a key that they do not know."""
        known = tables or shipped()
        return cls(
            tuple(Line(known.ingredient(key, f"percent.{key}"), Decimal(str(share))) for key, share in shares.items())
        )

    @cached_property
    def keys(self) -> tuple[str, ...]:
        """Ingredient keys in line order."""
        return tuple(line.key for line in self.lines)

    @cached_property
    def ingredients(self) -> tuple[Ingredient, ...]:
        """Ingredients in line order."""
        return tuple(line.ingredient for line in self.lines)

    def share_of(self, key: str) -> Decimal:
        """The share of a line, as written; 0 for what is not there."""
        return next((line.share for line in self.lines if line.key == key), Decimal(0))

    @cached_property
    def shares(self) -> Array:
        """Shares as an array (I,), as written (they need not add to 1)."""
        return np.array([float(line.share) for line in self.lines])

    @property
    def total(self) -> Decimal:
        """Sum of the shares."""
        return sum((line.share for line in self.lines), Decimal(0))

    @property
    def is_whole(self) -> bool:
        """True when the shares add to exactly one hundred percent."""
        return self.total == WHOLE

    def require_mass(self) -> "Composition":
        """Return this composition if there is anything in it. Raises :class:`Problem` when there is not."""
        if self.total <= 0:
            raise Problem("There is nothing in this formula yet: add an ingredient.", "percent")
        return self

    @cached_property
    def expanded(self) -> "Composition":
        """The same with every rest of an earlier melt written out as what it was mixed from."""
        if not any(line.ingredient.made_of for line in self.lines):
            return self
        shares: dict[Ingredient, Decimal] = {}
        for line in self.lines:
            for leaf, part in line.ingredient.parts:
                shares[leaf] = shares.get(leaf, Decimal(0)) + line.share * Decimal(str(part))
        return Composition(tuple(Line(leaf, share) for leaf, share in shares.items()))

    @cached_property
    def without_volatiles(self) -> "Composition":
        """What is left of every line once water and spirit were driven off, in shares of what went in:
        they add to less than before."""
        if not any(line.ingredient.evaporates for line in self.lines):
            return self
        return Composition(
            tuple(
                line._replace(share=line.share * (1 - Decimal(str(line.ingredient.evaporates)))) for line in self.lines
            )
        )

    def role_shares(self) -> dict[Role, float]:
        """Share of wax, butter, oil and extra, adding to 1; all 0 for an empty composition."""
        total = float(self.total) or 1.0
        result = dict.fromkeys(ROLES, 0.0)
        for line in self.expanded.lines:
            result[line.ingredient.role] += float(line.share) / total
        return result


def largest_remainder(wanted: Iterable[Decimal], step: Decimal, total: Decimal) -> list[Decimal]:
    """Round every value to a multiple of ``step`` so that they add to exactly ``total``.

    ``total`` must be a multiple of ``step``. What rounding down leaves over goes, a step
    each, to those that lost most (Hamilton's method); among equals the first is served.

    >>> [str(part) for part in largest_remainder([Decimal(1)] * 3, Decimal("0.1"), Decimal("10.0"))]
    ['3.4', '3.3', '3.3']
    """
    values = list(wanted)
    whole = sum(values, Decimal(0))
    scaled = [value * total / whole if whole else Decimal(0) for value in values]
    steps = [(value / step).to_integral_value(ROUND_FLOOR) for value in scaled]
    lost = [value / step - count for value, count in zip(scaled, steps, strict=True)]
    left = int(total / step - sum(steps, Decimal(0)))
    for index in sorted(range(len(values)), key=lambda i: (-lost[i], i))[:left]:
        steps[index] += 1
    return [count * step for count in steps]


def shared_out(room: Decimal, weights: Iterable[Decimal], to_greatest: bool = False) -> list[Decimal]:
    """A share of the whole divided in proportion to weights (evenly where all are nothing), on the
    grid of 0.01 %; what is finer than the grid goes to the first, or to the greatest."""
    values, odd = list(weights), room % GRID
    shares = largest_remainder(values if any(values) else [WHOLE] * len(values), GRID, room - odd)
    shares[shares.index(max(shares)) if to_greatest else 0] += odd
    return shares


def set_shares(composition: Composition, shares: Mapping[str, Decimal], follow: bool) -> Composition:
    """The composition with some lines set to new shares.

    With ``follow`` the other unlocked lines take up the difference in proportion, to the
    grid of 0.01 %, so that the whole is exactly one hundred; locked lines stay. Without it
    nothing else moves. Raises :class:`Problem` when the locked lines leave no room.
    """
    where = f"percent.{next(iter(shares), '')}"
    if any(not share.is_finite() or not 0 <= share <= 1 for share in shares.values()):
        raise Problem("A percentage lies between 0 and 100.", where)
    lines = tuple(line._replace(share=shares.get(line.key, line.share)) for line in composition.lines)
    return _balanced(Composition(lines), frozenset(shares), where) if follow else Composition(lines)


def hold_groups(composition: Composition, roles: Collection[str], moving: str = "") -> Composition:
    """The composition with lines locked so that the totals of some groups stay while something in the
    group ``moving`` (or the whole, where none is named) does: within a held group its own lines make
    room, and outside it the lines of held groups do not move."""

    def stays(role: str) -> bool:
        return role != moving if moving in roles else role in roles

    return Composition(
        tuple(line._replace(locked=line.locked or stays(line.ingredient.role)) for line in composition.lines)
    )


def set_group(composition: Composition, role: str, share: Decimal) -> Composition:
    """The composition with all lines of a role together at ``share``, their inner split kept, and
    the other lines following. Locked lines stay; a group that stands at nothing is split evenly.

    Raises :class:`Problem` when its locked lines alone are more, or nothing in it may move.
    """
    where = f"group.{role}"
    own = [line for line in composition.lines if line.ingredient.role == role]
    free = [line for line in own if not line.locked]
    rest = share - sum((line.share for line in own if line.locked), Decimal(0))
    if rest < 0 or not free:
        raise Problem("The locked lines of this group do not let it: unlock one.", where)
    shares = shared_out(rest, (line.share for line in free))
    return set_shares(composition, dict(zip((line.key for line in free), shares, strict=True)), follow=True)


def base_share(composition: Composition) -> Decimal:
    """The share of the base: the whole less the extras, which recipes often put on top of it."""
    return WHOLE - sum((line.share for line in composition.lines if line.ingredient.role == Role.EXTRA), Decimal(0))


def set_of_base(composition: Composition, key: str, part: Decimal, follow: bool) -> Composition:
    """The composition with one line set to a part of the base instead of the whole.

    A wax, butter or oil moves within the base and the extras stay; an extra is put on top, the
    other extras keep their part of the base and the base gives way. Raises :class:`Problem`.
    """
    base = base_share(composition)
    extras = {line.key: line.share for line in composition.lines if line.ingredient.role == Role.EXTRA}
    if key not in extras:
        held = Composition(tuple(line._replace(locked=line.locked or line.key in extras) for line in composition.lines))
        found = set_shares(held, {key: round(part * base, 6)}, follow)
        locked = {line.key: line.locked for line in composition.lines}
        return Composition(tuple(line._replace(locked=locked[line.key]) for line in found.lines))
    if base <= 0:
        raise Problem("There is no base for it to be a part of: add a wax, butter or oil.", f"percent.{key}")
    parts = {each: share / base for each, share in extras.items()} | {key: part}
    whole = 1 + sum(parts.values(), Decimal(0))
    return set_shares(composition, {each: round(one / whole, 6) for each, one in parts.items()}, follow)


def set_parts(composition: Composition, parts: Sequence[Decimal]) -> Composition:
    """The composition with its waxes, butters and oils in these parts; extras keep their share.

    As many parts as there are such lines set the lines, in order; three parts otherwise set
    wax : butter : oil with their inner splits. Locks do not count here, as parts name them all.
    """
    base = [line for line in composition.lines if line.ingredient.role != Role.EXTRA]
    total = sum(parts, Decimal(0))
    if total <= 0 or any(part < 0 for part in parts):
        raise Problem("Parts are numbers above nothing, such as 3 : 2 : 5.", "parts")
    room = base_share(composition)
    if len(parts) == len(base):
        weights = dict(zip((line.key for line in base), parts, strict=True))
    elif len(parts) == 3:
        weights = _split_by_role(base, dict(zip(ROLES, parts, strict=False)))
    else:
        raise Problem(
            f"That is {len(parts)} parts for {len(base)} lines: give one each, or wax : butter : oil.", "parts"
        )
    new = dict(zip(weights, shared_out(room, weights.values()), strict=True))
    return Composition(tuple(line._replace(share=new.get(line.key, line.share)) for line in composition.lines))


def _split_by_role(lines: Sequence[Line], parts: Mapping[str, Decimal]) -> dict[str, Decimal]:
    """Weights of lines whose groups have these parts, the inner splits kept."""
    weights: dict[str, Decimal] = {}
    for role, part in parts.items():
        own = [line for line in lines if line.ingredient.role == role]
        inner = sum((line.share for line in own), Decimal(0))
        if part and not own:
            raise Problem(f"There is no {role} in the formula to give a part to: add one first.", "parts")
        for line in own:
            weights[line.key] = part * (line.share / inner if inner else WHOLE / len(own))
    return weights


def normalise(composition: Composition) -> Composition:
    """The composition brought to exactly one hundred percent; locked lines stay.

    Raises :class:`Problem` when it is empty or the locked lines leave nothing to move.
    """
    return _balanced(composition.require_mass(), frozenset(), "percent")


def _balanced(composition: Composition, held: frozenset[str], where: str) -> Composition:
    """Scale the lines neither locked nor held so that the whole is exactly one hundred."""
    free = [line for line in composition.lines if not (line.locked or line.key in held)]
    rest = WHOLE - sum((line.share for line in composition.lines if line not in free), Decimal(0))
    if rest < 0:
        locked = sum((line.share for line in composition.lines if line.locked and line.key not in held), Decimal(0))
        room = max(WHOLE - locked, Decimal(0))
        raise Problem(
            f"The locked lines leave room for {percent_text(room)} % at most: unlock one, or take less.",
            where,
        )
    if not free:
        if rest:
            raise Problem("Nothing is free to follow: unlock a line, or let the others keep their share.", where)
        return composition
    shares = shared_out(rest, (line.share for line in free))
    new = dict(zip((line.key for line in free), shares, strict=True))
    return Composition(tuple(line._replace(share=new.get(line.key, line.share)) for line in composition.lines))


def percent_text(share: Decimal, least: int = 1, show: Display | None = None) -> str:
    """A share as percent, as short as it is exact but with at least so many decimals; in another display's mark where
    one is given.

    >>> percent_text(Decimal("0.24")), percent_text(Decimal("0.0025")), percent_text(Decimal("0.5"), 0)
    ('24.0', '0.25', '50')
    """
    percent = (share * 100).normalize()
    places = max(least, -int(percent.as_tuple().exponent))
    return (show or spoken()).figure(percent, places)


def pack(shares: Iterable[tuple[str, Decimal]]) -> str:
    """``key:share;key:share``, as text that travels in a form."""
    return ";".join(f"{key}:{share}" for key, share in shares)


def mixture(key: str, name: str, composition: Composition, note: str = "") -> Ingredient:
    """What was mixed before, as one ingredient: its parts decide firmness, cautions and label.

    Its role is that of its greatest group, so that it moves with it in the studio.
    """
    whole = composition.require_mass().expanded
    total = float(whole.total)
    parts = tuple((line.ingredient, float(line.share) / total) for line in whole.lines if line.share)
    roles = whole.role_shares()
    lives = [item.shelf_months for item, _ in parts if item.shelf_months]
    kept = {item.vegan for item, _ in parts}
    return Ingredient(
        key=key,
        name=name,
        inci=", ".join(item.inci for item, _ in sorted(parts, key=lambda part: -part[1])),
        role=max(ROLES[:3], key=lambda role: roles[role]),
        group="earlier_melt",
        density_g_ml=1 / sum(share / item.density_g_ml for item, share in parts),
        melt_high_c=None,
        shelf_months=min(lives, default=None),
        aroma=", ".join(dict.fromkeys(item.aroma for item, _ in parts if item.aroma not in ("", "none"))),
        vegan="no" if "no" in kept else "varies" if "varies" in kept else "yes",
        allergens=tuple(dict.fromkeys(word for item, _ in parts for word in item.allergens)),
        water_bearing=any(item.water_bearing for item, _ in parts),
        confidence="low" if any(item.confidence == "low" for item, _ in parts) else "fair",
        note=note,
        made_of=parts,
    )
