"""The curve: firmness against temperature, with places people know and the kind's gate."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from balmcore.composition import Array
from balmcore.display import Display, figure
from balmcore.physics.firmness import BANDS, DRAWN_C, HIGHEST, SKIN_C, WINDOW_C, Prediction, words_of
from balmcore.tables import Kind

WIDTH, HEIGHT = 400.0, 268.0
LEFT, RIGHT, TOP, BOTTOM = 30.0, 66.0, 44.0, 24.0
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
) -> Curve:
    """The curve of a prediction. ``rooms`` are the maker's cool room, warm room and hot pocket;
    ``others`` are drawn beside it by name, each with its own dashes."""
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
    )


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
    window = f"{figure(kind.firm_low)} to {figure(kind.firm_high)}"
    gate = f"A {kind.name.lower()} passes the gate at {show.temp_text(WINDOW_C)}, {window}"
    if kind.hold_firmness is None or kind.hold_temp_c is None:
        return gate + "."
    return f"{gate}, and clears the post at {show.temp_text(kind.hold_temp_c)}."


def _gate(kind: Kind) -> tuple[Post, ...]:
    x = x_of(WINDOW_C)
    posts = [Post(x, y_of(HIGHEST), y_of(kind.firm_high)), Post(x, y_of(kind.firm_low), y_of(0))]
    if kind.hold_firmness is not None and kind.hold_temp_c is not None:
        posts.append(Post(x_of(kind.hold_temp_c), y_of(kind.hold_firmness), y_of(0)))
    return tuple(posts)
