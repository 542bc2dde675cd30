"""A ladder: small test cups of one composition with more and less of one ingredient.

Two stock melts are made, one at the low share and one at the high; every cup is mixed from
them by weight, so that a whole ladder takes two melts on one stove.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from balmcore.composition import Composition, largest_remainder, set_shares
from balmcore.errors import Problem
from balmcore.making.scaling import on_grid
from balmcore.physics.basis import basis
from balmcore.physics.firmness import WINDOW_C, predict

FEWEST, MOST = 3, 9  # cups: a line needs three, a bench has room for nine
POINTS = 25  # along the line that is drawn


@dataclass(frozen=True)
class Rung:
    """One cup: the share of the ingredient, its composition, grams of each stock melt, and the
    firmness to expect."""

    number: int
    share: Decimal
    composition: Composition
    low_g: Decimal
    high_g: Decimal
    firmness: float


@dataclass(frozen=True)
class Stock:
    """One stock melt: its composition, grams in all, and grams per line on the scale's grid."""

    composition: Composition
    total_g: Decimal
    lines: Mapping[str, Decimal]


@dataclass(frozen=True)
class Ladder:
    """The cups and the two stock melts they are made of; ``line`` is the firmness predicted at shares from
    one end to the other."""

    key: str
    low: Stock
    high: Stock
    rungs: tuple[Rung, ...]
    line: tuple[tuple[float, float], ...]


def ladder(
    composition: Composition,
    key: str,
    between: tuple[Decimal, Decimal],
    count: int,
    cup_g: Decimal,
    resolution_g: Decimal,
    overrun: float = 0.0,
    loss_g: Decimal = Decimal(0),
) -> Ladder:
    """``count`` cups of ``cup_g`` between two shares of an ingredient, the other lines following; in each of
    the two jugs ``loss_g`` stays.

    Raises :class:`Problem` for fewer than 3 or more than 9 rungs, shares upside down, an
    ingredient that is not in the composition, or a cup that the scale cannot part.
    """
    low, high = between
    if key not in composition.keys:
        raise Problem("Choose one of the formula's own lines for the ladder.", "key")
    if not FEWEST <= count <= MOST:
        raise Problem(f"A ladder has {FEWEST} to {MOST} rungs.", "count")
    if not 0 <= low < high <= 1:
        raise Problem("The ladder should run from a lower to a higher percentage.", "low")
    if cup_g < (count - 1) * resolution_g:
        raise Problem("These cups are too small for this scale to tell the rungs apart.", "cup")
    ends = [set_shares(composition, {key: share}, follow=True) for share in between]
    cup = (cup_g / resolution_g).to_integral_value() * resolution_g
    rungs = []
    for n in range(count):
        part = Decimal(n) / (count - 1)
        low_g, high_g = largest_remainder([1 - part, part], resolution_g, cup)
        mixed = _mixed(ends[0], ends[1], high_g / cup)
        share = next(line.share for line in mixed.lines if line.key == key)
        rungs.append(Rung(n + 1, share, mixed, low_g, high_g, predict(mixed, overrun).firmness_at(WINDOW_C)))
    loss = (loss_g / resolution_g).to_integral_value() * resolution_g
    stocks = [_stock(end, sum(grams, loss), resolution_g) for end, grams in zip(ends, _columns(rungs), strict=True)]
    return Ladder(key, stocks[0], stocks[1], tuple(rungs), _line(ends[0], ends[1], key, overrun))


def _line(low: Composition, high: Composition, key: str, overrun: float) -> tuple[tuple[float, float], ...]:
    """Shares of the ingredient from one end to the other, and the firmness at each."""
    part = np.linspace(0.0, 1.0, POINTS)[:, None]
    shares = low.shares * (1 - part) + high.shares * part
    found = basis(low.ingredients).state(shares, np.array([WINDOW_C]), overrun).firmness[:, 0]
    return tuple(zip(shares[:, low.keys.index(key)].tolist(), found.tolist(), strict=True))


def _columns(rungs: list[Rung]) -> tuple[list[Decimal], list[Decimal]]:
    return [rung.low_g for rung in rungs], [rung.high_g for rung in rungs]


def _stock(composition: Composition, needed_g: Decimal, resolution_g: Decimal) -> Stock:
    lines, _ = on_grid(composition, needed_g, resolution_g)
    return Stock(composition, needed_g, lines)


def _mixed(low: Composition, high: Composition, part: Decimal) -> Composition:
    """The composition of a cup that is ``part`` of the high melt, to a millionth, exactly whole."""
    other = {line.key: line.share for line in high.lines}
    lines = [
        line._replace(share=round(line.share * (1 - part) + other[line.key] * part, 6), locked=False)
        for line in low.lines
    ]
    gap = 1 - sum((line.share for line in lines), Decimal(0))
    largest = max(range(len(lines)), key=lambda n: lines[n].share)
    lines[largest] = lines[largest]._replace(share=lines[largest].share + gap)
    return Composition(tuple(lines))
