"""The triangle of wax, butter and oil around a composition: firmness everywhere in it.

A place in the triangle is (wax, butter, oil), shares of what is not extra, adding to 1. The
inner split of each group and the extras stay those of the composition; a group that the composition
lacks is stood in for by a common ingredient.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache
from itertools import pairwise

import contourpy
import numpy as np
from numpy.typing import NDArray

from balmcore.composition import Array, Composition, Line, shared_out
from balmcore.errors import Problem
from balmcore.physics.basis import basis
from balmcore.physics.firmness import BANDS, WINDOW_C
from balmcore.tables import Ingredient, Role, shipped

CORNERS = (Role.WAX, Role.BUTTER, Role.OIL)
STAND_INS = {Role.WAX: "beeswax_yellow", Role.BUTTER: "shea_butter_refined", Role.OIL: "sunflower_oil"}
STEPS = 50  # a side: two percent each
SCALE_TOP = 130.0  # firmness beyond any balm
SPLIT_PARTS, EXTRA_PARTS = 400, 2000  # how finely the map tells splits and extras apart
CLEAR_OF_TAKEN = 3  # grid steps between a name and the dot, a version or another name
NAME_HALF, NAME_DEEP = 0.0085, 2  # half a letter's width in sides, and steps to the nearest border

Place = tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Region:
    """An area of the triangle between two firmnesses. ``rings`` are closed outlines, each (N, 2) of
    (wax, butter); holes are rings too (fill by the even-odd rule)."""

    name: str
    low: float
    high: float
    rings: tuple[Array, ...]


@dataclass(frozen=True)
class Triangle:
    """Firmness bands around a composition, with a place well inside each for its name (None where there is no
    room), the kind's window, where the hold is kept (None when nothing has to hold), the corners of what the
    locks let it reach, and its own place."""

    bands: tuple[Region, ...]
    labels: tuple[tuple[float, float] | None, ...]
    window: Region
    hold: Region | None
    reachable: tuple[Place, ...]
    place: Place
    stand_ins: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class _NameSpots:
    """Grid places, wax and butter in steps, where the middle of a band's name may stand, the best first; ``half``
    is half its width."""

    places: Sequence[tuple[int, int]]
    half: int


@dataclass(frozen=True, eq=False)
class _Land:
    """What is the same for all compositions whose groups are split alike: the bands that lie in the triangle and
    where their names may stand, the window and the hold."""

    bands: tuple[tuple[Region, _NameSpots], ...]
    window: Region
    hold: Region | None


def grid(steps: int) -> Array:
    """All places (wax, butter, oil) at 1/steps, wax running slowest: ((steps+1)(steps+2)/2, 3)."""
    wax, butter = np.meshgrid(np.arange(steps + 1), np.arange(steps + 1), indexing="ij")
    inside = wax + butter <= steps
    w, b = wax[inside], butter[inside]
    return np.stack([w, b, steps - w - b], axis=1) / steps


def spread(composition: Composition, places: Array) -> tuple[tuple[Ingredient, ...], Array]:
    """Compositions of the composition moved to ``places`` (P, 3).

    Returns ingredients and shares (P, I): groups keep their inner split, extras their share.
    """
    items, split, extra = _split(composition)
    return items, _at(places, split, extra)


def _at(places: Array, split: Array, extra: Array) -> Array:
    """Shares (P, I) at places (P, 3) of groups that are split so (3, I), under extras (I,)."""
    shares: Array = places @ split * max(1 - extra.sum(), 0.0) + extra
    return shares


def _split(composition: Composition) -> tuple[tuple[Ingredient, ...], Array, Array]:
    """Ingredients, the split of each corner's group among them (3, I), and the extras' shares of the whole (I,)."""
    composition.require_mass()
    roles = [line.ingredient.role for line in composition.lines]
    shares = composition.shares / composition.shares.sum()
    items = list(composition.ingredients)
    split = np.zeros((len(CORNERS), len(items)))
    for g, corner in enumerate(CORNERS):
        group = np.where([role == corner for role in roles], shares, 0.0)
        if group.sum() > 0:
            split[g, : len(roles)] = group / group.sum()
        elif (stand_in := shipped().ingredient(STAND_INS[corner])) in items:
            split[g, items.index(stand_in)] = 1
        else:
            items.append(stand_in)
            split = np.pad(split, ((0, 0), (0, 1)))
            split[g, -1] = 1
    extra = np.zeros(len(items))
    extra[: len(roles)] = np.where([role == Role.EXTRA for role in roles], shares, 0)
    return tuple(items), split, extra


def firmness_at_places(composition: Composition, places: Array, temp_c: float, overrun: float = 0.0) -> Array:
    """Firmness (P,) of the composition moved to ``places`` (P, 3), at one temperature."""
    items, shares = spread(composition, places)
    return basis(items).state(shares, np.array([temp_c]), overrun).firmness[:, 0]


def place_of(composition: Composition) -> Place:
    """Where the composition lies; the middle for one of extras only."""
    roles = composition.role_shares()
    base = sum(roles[corner] for corner in CORNERS)
    if base <= 0:
        return (1 / 3, 1 / 3, 1 / 3)
    return (roles[Role.WAX] / base, roles[Role.BUTTER] / base, roles[Role.OIL] / base)


def _rooms(composition: Composition) -> tuple[list[Decimal], list[list[Line]], Decimal]:
    """Per corner the share its locked lines hold and its free lines; and the share of all three.

    Shares are of the whole brought to one.
    """
    total = composition.require_mass().total
    held, free = [Decimal(0)] * 3, [list[Line]() for _ in CORNERS]
    for line in composition.lines:
        role = line.ingredient.role
        if role in CORNERS:
            if line.locked:
                held[CORNERS.index(role)] += line.share / total
            else:
                free[CORNERS.index(role)].append(line)
    extras = sum((line.share / total for line in composition.lines if line.ingredient.role not in CORNERS), Decimal(0))
    return held, free, 1 - extras


def reachable(composition: Composition) -> tuple[Place, ...]:
    """The corners of what can be reached while locked lines and extras stay: three places, two
    when one group cannot move, one when nothing can."""
    held, free, base = _rooms(composition)
    if base <= 0:
        return (place_of(composition),)
    low = [float(share / base) for share in held]
    spare = 1 - sum(low)
    movable = [g for g in range(3) if free[g]]
    if len(movable) < 2:
        return (place_of(composition),)
    places = (tuple(low[h] + spare * (h == g) for h in range(3)) for g in movable)
    return tuple((place[0], place[1], place[2]) for place in places)


def moved(composition: Composition, place: Place) -> Composition:
    """The composition moved to a place, or to the nearest that its locks allow, on the 0.01 % grid.

    Each group keeps its inner split; locked lines and extras stay; a group without a line that
    may move stays as it is. Raises :class:`Problem` for a place that is none.
    """
    if not all(math.isfinite(part) for part in place) or sum(max(part, 0) for part in place) <= 0:
        raise Problem("That is no place in the triangle.", "place")
    held, free, base = _rooms(composition)
    spare = base - sum(held)
    movable = [g for g in range(3) if free[g]]
    if len(movable) < 2 or spare <= 0:
        return composition
    whole = sum(max(part, 0) for part in place)
    wanted = [max(float(base) * max(place[g], 0) / whole - float(held[g]), 0.0) for g in movable]
    if not sum(wanted):
        wanted = [1.0] * len(movable)
    rest = Decimal(1) - sum(held) - (1 - base)
    keys, weights = [], []
    for g, part in zip(movable, wanted, strict=True):
        inner = sum((line.share for line in free[g]), Decimal(0))
        for line in free[g]:
            keys.append(line.key)
            split = line.share / inner if inner else Decimal(1) / len(free[g])
            weights.append(split * Decimal(str(round(part, 9))))
    shares = shared_out(rest, weights, to_greatest=True)
    new = dict(zip(keys, shares, strict=True))
    total = composition.total
    return Composition(tuple(line._replace(share=new.get(line.key, line.share / total)) for line in composition.lines))


def survey(
    composition: Composition,
    window: tuple[float, float],
    hold: tuple[float, float] | None = None,
    overrun: float = 0.0,
    taken: Sequence[Place] = (),
) -> Triangle:
    """Bands of firmness at 21 degrees C over the whole triangle, the outline of the window
    wanted, and with ``hold`` (firmness, temperature) the region in which that is kept; names keep
    clear of the composition's own place and of those ``taken``.

    Splits count to a quarter percent of their group and extras to half a thousandth, which moves a border by
    less than a point: so a composition that only moves in its triangle stays in the same country.
    """
    items, split, extra = _split(composition)
    parts, extras = (np.rint(array * fine).astype(int) for array, fine in ((split, SPLIT_PARTS), (extra, EXTRA_PARTS)))
    land = _land(items, tuple(map(tuple, parts.tolist())), tuple(extras.tolist()), window, hold, overrun)
    place = place_of(composition)
    labels, written = list[tuple[float, float] | None](), [place, *taken]
    for _, spots in land.bands:
        labels.append(label := _label(spots, written))
        if label:
            written.append((*label, 1 - sum(label)))
    roles = composition.role_shares()
    return Triangle(
        bands=tuple(band for band, _ in land.bands),
        labels=tuple(labels),
        window=land.window,
        hold=land.hold,
        reachable=reachable(composition),
        place=place,
        stand_ins=tuple(STAND_INS[corner] for corner in CORNERS if not roles[corner]),
    )


@lru_cache(maxsize=64)
def _land(
    items: tuple[Ingredient, ...],
    parts: tuple[tuple[int, ...], ...],
    extras: tuple[int, ...],
    window: tuple[float, float],
    hold: tuple[float, float] | None,
    overrun: float,
) -> _Land:
    """The land of groups split in ``parts`` (3, I), under ``extras`` (I,) of ``EXTRA_PARTS`` of the whole."""
    places = grid(STEPS)
    index = np.rint(places * STEPS).astype(int)
    split, extra = np.array(parts, dtype=float), np.array(extras) / EXTRA_PARTS
    shares = _at(places, split / split.sum(axis=1, keepdims=True), extra)
    temps = np.array([WINDOW_C] if hold is None else [WINDOW_C, hold[1]])
    found = basis(items).state(shares, temps, overrun).firmness

    def fields() -> Iterator[Array]:
        for column in found.T:
            field = np.full((STEPS + 1, STEPS + 1), np.nan)
            field[index[:, 0], index[:, 1]] = column
            yield field

    field, *more = fields()
    contours = _contours(field)
    numbers = np.searchsorted([top for top, _ in BANDS], np.nan_to_num(field, nan=np.inf), side="right")
    numbers[np.isnan(field)] = -1
    inside = (field >= window[0]) & (field <= window[1])
    depths = _depths(np.where(numbers < 0, -1, 2 * numbers + inside))
    lows = [-1.0, *(high for high, _ in BANDS)]
    bands = (
        _region(contours, name, (low, min(high, SCALE_TOP))) for low, (high, name) in zip(lows, BANDS, strict=False)
    )
    return _Land(
        bands=tuple(
            (band, _name_spots(np.where(numbers == number, depths, 0), band.name))
            for number, band in enumerate(bands)
            if band.rings
        ),
        window=_region(contours, "window", window),
        hold=_region(_contours(more[0]), "hold", (hold[0], SCALE_TOP)) if hold else None,
    )


def _contours(field: Array) -> contourpy.ContourGenerator:
    return contourpy.contour_generator(
        z=np.ma.masked_invalid(field), corner_mask=True, fill_type=contourpy.FillType.OuterOffset
    )


def _region(contours: contourpy.ContourGenerator, name: str, between: tuple[float, float]) -> Region:
    """The region between two firmnesses."""
    low, high = between
    outlines = contourpy.convert_filled(contours.filled(low, high), contours.fill_type, contourpy.FillType.OuterOffset)
    # contourpy's x runs along the second axis (butter), y along the first (wax).
    rings = tuple(
        outline[start:end, ::-1] / STEPS
        for outline, cuts in zip(*outlines, strict=True)
        for start, end in pairwise(cuts)
    )
    return Region(name, low, high, rings)


def _depths(numbers: NDArray[np.intp]) -> NDArray[np.intp]:
    """How many steps each grid place lies inside the area of its number, counted from 1 at its border."""
    layer = numbers >= 0
    depth = np.zeros(numbers.shape, dtype=np.intp)
    same_down = np.zeros(numbers.shape, dtype=bool)
    same_right = np.zeros(numbers.shape, dtype=bool)
    same_down[:-1] = numbers[:-1] == numbers[1:]
    same_right[:, :-1] = numbers[:, :-1] == numbers[:, 1:]
    while layer.any():
        depth += layer
        inner = layer.copy()
        inner[:-1] &= layer[1:] & same_down[:-1]
        inner[1:] &= layer[:-1] & same_down[:-1]
        inner[:, :-1] &= layer[:, 1:] & same_right[:, :-1]
        inner[:, 1:] &= layer[:, :-1] & same_right[:, :-1]
        inner[[0, -1]] = False
        inner[:, [0, -1]] = False
        layer = inner
    return depth


def _name_spots(depth: NDArray[np.intp], name: str) -> _NameSpots:
    """Where a band's name would run over no border, the places nearest its middle and deepest inside it first.

    ``depth`` counts the steps to the band's border, 0 outside. Along a line of equal wax a step of butter is a
    step to the left.
    """
    half = round(NAME_HALF * len(name) * STEPS) + 1
    wide = np.pad(depth, ((0, 0), (half, half)))
    clear = np.minimum.reduce([wide[:, n : n + depth.shape[1]] for n in range(2 * half + 1)]) >= NAME_DEEP
    spots = np.argwhere(clear)
    if spots.size:
        middle = np.argwhere(depth == depth.max()).mean(axis=0)
        deep = depth[spots[:, 0], spots[:, 1]]
        spots = spots[np.argsort(np.hypot(*(spots - middle).T) - deep, kind="stable")]
    return _NameSpots([(wax, butter) for wax, butter in spots.tolist()], half)


def _label(spots: _NameSpots, taken: Sequence[Place]) -> tuple[float, float] | None:
    """The best (wax, butter) for a band's name that is clear of places taken already, such as the composition's
    dot; None where there is none."""
    others = [(wax * STEPS, butter * STEPS + wax * STEPS / 2) for wax, butter, _ in taken]
    far = spots.half + CLEAR_OF_TAKEN
    for wax, butter in spots.places:  # mostly the first of them is clear
        across = butter + wax / 2
        if all(abs(across - x) >= far or abs(wax - y) >= CLEAR_OF_TAKEN for y, x in others):
            return wax / STEPS, butter / STEPS
    return None
