"""The curve: firmness against temperature, with places people know and the kind's gate."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from balmcore.composition import Array
from balmcore.design.glance import Mark as Told
from balmcore.display import Display, figure
from balmcore.physics.firmness import BANDS, DRAWN_C, HIGHEST, SKIN_C, WINDOW_C, Prediction, words_of
from balmcore.tables import Kind
from balmcore.wording import in_sentence

WIDTH, HEIGHT = 400.0, 322.0
LEFT, RIGHT, TOP, BOTTOM = 30.0, 66.0, 44.0, 78.0
AXIS_ONLY = 24.0  # under the axis where nothing is named
MARK_ROW, MARKS_FROM, FROM_TICK = 14.0, 31.0, 6.0  # under the axis: rows of named marks
LETTER = 5.6  # width of a small letter, for keeping labels apart
COLDEST, HOTTEST = float(DRAWN_C[0]), float(DRAWN_C[-1])

TABLE_EVERY = 4  # points: a row for every 2 degrees
REFRIGERATOR_C, HOT_CAR_C = 4.0, 60.0


@dataclass(frozen=True)
class Mark:
    """A labelled place on an axis. ``row`` staggers labels that stand close together."""

    at: float
    label: str
    row: int = 0

    @property
    def text_y(self) -> float:
        """Where a label above the curve stands, row 0 lowest."""
        return TOP - 6 - 13 * self.row

    @property
    def line_top(self) -> float:
        """Where the line under such a label begins."""
        return self.text_y + 4


@dataclass(frozen=True)
class Post:
    """A part of a gate: a vertical bar the line must not touch."""

    x: float
    top: float
    bottom: float


@dataclass(frozen=True)
class Named:
    """A named mark under the axis: where it stands and how far a stretch goes, its tick, its name, and the sentence it
    opens. One that lies beyond the axis stands at its end."""

    key: str
    x: float
    until: float
    y: float
    text_x: float
    anchor: str
    name: str
    sentence: str

    @property
    def box_y(self) -> float:
        """The upper edge of what can be pointed at."""
        return self.y - MARK_ROW + 4

    @property
    def box_x(self) -> float:
        """Its left edge."""
        return self.x - 4 if self.anchor == "start" else self.text_x - len(self.name) * LETTER

    @property
    def box_width(self) -> float:
        """How wide it is."""
        return self.until - self.x + len(self.name) * LETTER + FROM_TICK + 4


@dataclass(frozen=True)
class Spot:
    """A place on the line with its figure: how firm it is there."""

    x: float
    y: float
    text_y: float
    firmness: str
    anchor: str = "start"


@dataclass(frozen=True)
class Axes:
    """What stands behind every curve of one maker: grid, words, places, temperatures."""

    firmnesses: tuple[Mark, ...]
    words: tuple[Mark, ...]
    places: tuple[Mark, ...]
    temps: tuple[Mark, ...]
    left: float = LEFT
    right: float = WIDTH - RIGHT
    bottom: float = HEIGHT - BOTTOM


@dataclass(frozen=True)
class Curve:
    """What the curve template draws, on a WIDTH x HEIGHT canvas. ``readings`` are for the pointer:
    place, temperature and one firmness a curve, parted by bars, the readings by semicolons."""

    line: str
    others: tuple[str, ...]
    band: str
    posts: tuple[Post, ...]
    axes: Axes
    now: tuple[float, float]
    names: tuple[str, ...]
    readings: str
    table: tuple[tuple[str, tuple[str, ...]], ...]
    title: str
    caption: str
    marks: tuple[Named, ...] = ()
    spots: tuple[Spot, ...] = ()
    bottom: float = HEIGHT - BOTTOM
    width: float = WIDTH
    height: float = HEIGHT


def x_of(temp_c: float) -> float:
    """Horizontal place of a temperature."""
    return round(LEFT + (WIDTH - LEFT - RIGHT) * (temp_c - COLDEST) / (HOTTEST - COLDEST), 1)


def y_of(firmness: float) -> float:
    """Vertical place of a firmness, kept on the canvas."""
    return round(float(heights(np.array([firmness]))[0]), 1)


def heights(firmness: Array) -> Array:
    """Vertical places of firmnesses of any shape, kept on the canvas."""
    return HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * np.clip(firmness, 0, HIGHEST) / HIGHEST


ACROSS = [f"{x_of(temp):.1f}" for temp in DRAWN_C.tolist()]


def _path(firmness: Array, where: slice = slice(None)) -> str:
    """A line through firmnesses at all temperatures of ``DRAWN_C``, or at some of them."""
    down = heights(firmness)[where].tolist()
    return "M" + "L".join(f"{x},{y:.1f}" for x, y in zip(ACROSS[where], down, strict=True))


def _band(firmness: Array, sigma: float) -> str:
    """The outline of all that lies within sigma of a line, where that is above nothing."""
    there = int(np.count_nonzero(firmness > 0))  # firmness falls with heat: the first so many
    if not there:
        return ""
    back = slice(there - 1, None, -1)
    return f"{_path(firmness + sigma, slice(there))}L{_path(firmness - sigma, back)[1:]}Z"


@lru_cache(maxsize=2)
def _reading_heads(show: Display) -> tuple[tuple[str, str, str], ...]:
    """Place, temperature with a decimal and temperature of every reading, in the maker's unit."""
    return tuple(
        (x, show.temp_text(temp, 1), show.temp_text(temp)) for x, temp in zip(ACROSS, DRAWN_C.tolist(), strict=True)
    )


def curve(
    prediction: Prediction,
    kind: Kind,
    show: Display,
    rooms: tuple[float, float, float],
    others: Sequence[tuple[str, Prediction]] = (),
    name: str = "now",
    told: Sequence[Told] = (),
) -> Curve:
    """The curve of a prediction. ``rooms`` are the maker's cool room, warm room and hot pocket;
    ``others`` are drawn beside it by name, each with its own dashes; ``told`` are named under the axis."""
    rows = [each.drawn for each in (prediction, *(other for _, other in others))]
    figures, heads = [row.tolist() for row in rows], _reading_heads(show)
    read = ([f"{value:.0f} {word}" for value, word in zip(row.tolist(), words_of(row), strict=True)] for row in rows)
    at, temps, _ = zip(*heads, strict=True)
    now = prediction.firmness_at(WINDOW_C)
    return Curve(
        line=_path(rows[0]),
        others=tuple(_path(row) for row in rows[1:]),
        band=_band(rows[0], prediction.sigma),
        posts=_gate(kind),
        axes=_axes(show.temp, rooms),
        now=(x_of(WINDOW_C), y_of(now)),
        names=(name, *(other for other, _ in others)),
        readings=";".join(map("|".join, zip(at, temps, *read, strict=True))),
        table=tuple(
            (heads[i][2], tuple(figure(row[i], 1) for row in figures)) for i in range(0, len(DRAWN_C), TABLE_EVERY)
        ),
        title=f"Firmness against temperature: {now:.0f} at {show.temp_text(WINDOW_C)}, "
        f"{prediction.firmness_at(SKIN_C):.0f} at {show.temp_text(SKIN_C)} on skin, "
        f"{prediction.firmness_at(40.0):.0f} at {show.temp_text(40)}.",
        caption=_caption(kind, show),
        marks=_named(told),
        height=HEIGHT if told else HEIGHT - BOTTOM + AXIS_ONLY,
        spots=tuple(_spot(temp, prediction.firmness_at(temp)) for temp in rooms if COLDEST <= temp <= HOTTEST),
    )


def _spot(temp_c: float, firmness: float) -> Spot:
    """A figure beside the line, on the side where no bar stands."""
    x, y = x_of(temp_c), y_of(firmness)
    left = temp_c < WINDOW_C
    return Spot(x, y, round(y + 15 if left else y - 7, 1), figure(round(firmness)), "end" if left else "start")


def _within(temp_c: float) -> float:
    """Where a temperature stands on the axis, or at the end beyond which it lies."""
    return x_of(min(max(temp_c, COLDEST), HOTTEST))


def _named(told: Sequence[Told]) -> tuple[Named, ...]:
    """Marks in rows under the axis, each in the first row and on the first side where its name touches no other."""
    taken: list[list[tuple[float, float]]] = [[] for _ in told]
    found: list[Named] = []
    for mark in told:
        x = _within(mark.temp_c)
        until = _within(mark.until_c) if mark.until_c is not None else x
        wide = len(mark.name) * LETTER + FROM_TICK
        sides = [("start", (x - 3, until + wide)), ("end", (x - wide, until + 3))]
        if not found:  # the coldest leaves the side of the others free
            sides.reverse()
        row, anchor, span = next(
            (row, anchor, span)
            for row in range(len(told))
            for anchor, span in sides
            if span[0] >= 0 and span[1] <= WIDTH and all(span[1] < low or high < span[0] for low, high in taken[row])
        )
        taken[row].append(span)
        y = round(HEIGHT - BOTTOM + MARKS_FROM + MARK_ROW * row, 1)
        text_x = round(until + FROM_TICK if anchor == "start" else x - FROM_TICK, 1)
        found.append(Named(mark.key, x, until, y, text_x, anchor, mark.name, mark.sentence))
    return tuple(found)


@lru_cache(maxsize=16)
def _axes(temp_unit: str, rooms: tuple[float, float, float]) -> Axes:
    cool, warm, hot = rooms
    places = sorted(
        (t, name)
        for t, name in (
            (REFRIGERATOR_C, "refrigerator"),
            (cool, "cool room"),
            (warm, "warm room"),
            (SKIN_C, "skin"),
            (hot, "hot pocket"),
            (HOT_CAR_C, "hot car"),
        )
        if COLDEST <= t <= HOTTEST
    )
    ticks = range(0, 61, 10) if temp_unit == "C" else range(40, 141, 20)
    edges = [
        (low, min(high, HIGHEST), name) for (low, _), (high, name) in zip([(0.0, ""), *BANDS], BANDS, strict=False)
    ]
    return Axes(
        firmnesses=tuple(Mark(y_of(low), figure(low)) for low, _, _ in edges),
        words=tuple(Mark((y_of(low) + y_of(high)) / 2, name) for low, high, name in edges),
        places=_labelled([(x_of(t), name) for t, name in places]),
        temps=tuple(Mark(x_of(t if temp_unit == "C" else (t - 32) / 1.8), f"{t}°") for t in ticks),
    )


def _labelled(places: list[tuple[float, str]]) -> tuple[Mark, ...]:
    """Labels from left to right, each in the lowest row where it does not touch another."""
    ends: dict[int, float] = {}
    marks = []
    for x, name in places:
        half = len(name) * LETTER / 2
        row = next(row for row in range(len(places)) if ends.get(row, 0.0) <= x - half)
        ends[row] = x + half + LETTER
        marks.append(Mark(x, name, row))
    return tuple(marks)


def _caption(kind: Kind, show: Display) -> str:
    name, window = in_sentence(kind.name), f"{figure(kind.firm_low)} to {figure(kind.firm_high)}"
    gate = f"Right for a {name}: between the bars at {show.temp_text(WINDOW_C)}, {window}"
    if kind.hold_firmness is None or kind.hold_temp_c is None:
        return gate + "."
    return f"{gate}, and above the bar at {show.temp_text(kind.hold_temp_c)}."


def _gate(kind: Kind) -> tuple[Post, ...]:
    x = x_of(WINDOW_C)
    posts = [Post(x, y_of(HIGHEST), y_of(kind.firm_high)), Post(x, y_of(kind.firm_low), y_of(0))]
    if kind.hold_firmness is not None and kind.hold_temp_c is not None:
        posts.append(Post(x_of(kind.hold_temp_c), y_of(kind.hold_firmness), y_of(0)))
    return tuple(posts)
