"""The curve: firmness against temperature, with places people know and the kind's gate."""

import json
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from balmcore.physics.firmness import BANDS, SKIN_C, WINDOW_C, Prediction, word
from balmcore.tables import Kind
from balmcore.units import Display

WIDTH, HEIGHT = 460.0, 262.0
LEFT, RIGHT, TOP, BOTTOM = 30.0, 66.0, 44.0, 24.0
LETTER = 5.6  # width of a small letter, for keeping labels apart
COLDEST, HOTTEST = 0.0, 60.0
HIGHEST = 110.0
POINTS = 121
TABLE_EVERY = 4  # points: a row for every 2 degrees
REFRIGERATOR_C, HOT_CAR_C = 4.0, 50.0


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
class Curve:
    """What the curve template draws, on a WIDTH x HEIGHT canvas."""

    line: str
    others: tuple[str, ...]
    band: str
    posts: tuple[Post, ...]
    places: tuple[Mark, ...]
    temps: tuple[Mark, ...]
    words: tuple[Mark, ...]
    firmnesses: tuple[Mark, ...]
    now: tuple[float, float]
    names: tuple[str, ...]
    readings: str
    table: tuple[tuple[str, tuple[str, ...]], ...]
    title: str
    caption: str
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    right: float = WIDTH - RIGHT
    top: float = TOP
    bottom: float = HEIGHT - BOTTOM


def x_of(temp_c: float) -> float:
    """Horizontal place of a temperature."""
    return LEFT + (WIDTH - LEFT - RIGHT) * (temp_c - COLDEST) / (HOTTEST - COLDEST)


def y_of(firmness: float) -> float:
    """Vertical place of a firmness, kept on the canvas."""
    part = min(max(firmness, 0.0), HIGHEST) / HIGHEST
    return HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * part


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
    temps = np.linspace(COLDEST, HOTTEST, POINTS)
    firmness = prediction.curve(temps.tolist()).firmness[0]
    rows = [firmness, *(other.curve(temps).firmness[0] for _, other in others)]
    sigma = prediction.sigma
    upper = [(x_of(t), y_of(f + sigma)) for t, f in zip(temps, firmness, strict=True) if f > 0]
    lower = [(x_of(t), y_of(f - sigma)) for t, f in zip(temps, firmness, strict=True) if f > 0]
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
    ticks = range(0, 61, 10) if show.temp == "C" else range(40, 141, 20)
    edges = [
        (low, min(high, HIGHEST), name) for (low, _), (high, name) in zip([(0.0, ""), *BANDS], BANDS, strict=False)
    ]
    now = prediction.firmness_at(WINDOW_C)
    return Curve(
        line=_path([(x_of(t), y_of(f)) for t, f in zip(temps, firmness, strict=True)]),
        others=tuple(_path([(x_of(t), y_of(f)) for t, f in zip(temps, row, strict=True)]) for row in rows[1:]),
        band=_path(upper + lower[::-1]) + "Z" if upper else "",
        posts=_gate(kind),
        places=_labelled([(x_of(t), name) for t, name in places]),
        temps=tuple(Mark(x_of(t if show.temp == "C" else (t - 32) / 1.8), f"{t}°") for t in ticks),
        words=tuple(Mark((y_of(low) + y_of(high)) / 2, name) for low, high, name in edges),
        firmnesses=tuple(Mark(y_of(low), f"{low:g}") for low, _, _ in edges),
        now=(x_of(WINDOW_C), y_of(now)),
        names=(name, *(other for other, _ in others)),
        readings=json.dumps(
            [
                [round(x_of(temp), 1), show.temp_text(temp, 1), [f"{row[i]:.0f} {word(row[i])}" for row in rows]]
                for i, temp in enumerate(temps.tolist())
            ]
        ),
        table=tuple(
            (show.temp_text(temp), tuple(f"{row[i]:.1f}" for row in rows))
            for i, temp in enumerate(temps.tolist())
            if i % TABLE_EVERY == 0
        ),
        title=f"Firmness against temperature: {now:.0f} at {show.temp_text(WINDOW_C)}, "
        f"{prediction.firmness_at(SKIN_C):.0f} at {show.temp_text(SKIN_C)} on skin, "
        f"{prediction.firmness_at(40):.0f} at {show.temp_text(40)}.",
        caption=_caption(kind, show),
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
    gate = (
        f"A {kind.name.lower()} passes the gate at {show.temp_text(WINDOW_C)}, {kind.firm_low:g} to {kind.firm_high:g}"
    )
    if kind.hold_firmness is None or kind.hold_temp_c is None:
        return gate + "."
    return f"{gate}, and clears the post at {show.temp_text(kind.hold_temp_c)}."


def _gate(kind: Kind) -> tuple[Post, ...]:
    x = x_of(WINDOW_C)
    posts = [Post(x, y_of(HIGHEST), y_of(kind.firm_high)), Post(x, y_of(kind.firm_low), y_of(0))]
    if kind.hold_firmness is not None and kind.hold_temp_c is not None:
        posts.append(Post(x_of(kind.hold_temp_c), y_of(kind.hold_firmness), y_of(0)))
    return tuple(posts)


def _path(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in points)
