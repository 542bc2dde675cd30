"""A plain graph: lines over axes, bands on the ground, levels across. The strip of a batch and the
solids of an ingredient are both drawn with it."""

from collections.abc import Sequence
from dataclasses import dataclass

WIDE, MIDDLE, HALF = (1160.0, 216.0), (640.0, 180.0), (560.0, 250.0)
LEFT, RIGHT, TOP, BOTTOM = 44.0, 16.0, 14.0, 26.0
BAND_HEIGHT = 24.0
LETTER = 5.8
Point = tuple[float, float]


@dataclass(frozen=True)
class Tick:
    """A labelled place on an axis."""

    at: float
    label: str


@dataclass(frozen=True)
class Band:
    """A stretch of the ground: where it lies, its look and its name; ``label`` is empty where the
    name does not fit in."""

    x: float
    width: float
    look: str
    name: str
    label: str

    @property
    def middle(self) -> float:
        """Where its label stands."""
        return self.x + self.width / 2


@dataclass(frozen=True)
class Cup:
    """A cup that stands on the ground at ``x``, under its point of the line at height ``y``."""

    x: float
    y: float
    name: str
    value: str


@dataclass(frozen=True)
class Graph:
    """What the graph template draws."""

    lines: tuple[str, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    levels: tuple[Tick, ...]
    bands: tuple[Band, ...]
    title: str
    width: float
    height: float
    cups: tuple[Cup, ...] = ()
    left: float = LEFT
    top: float = TOP
    band_height: float = BAND_HEIGHT

    @property
    def right(self) -> float:
        """Where the ground ends."""
        return self.width - RIGHT

    @property
    def bottom(self) -> float:
        """Where the ground lies."""
        return self.height - BOTTOM


def graph(
    lines: Sequence[Sequence[Point]],
    x_range: Point,
    y_range: Point,
    x_ticks: Sequence[tuple[float, str]],
    y_ticks: Sequence[tuple[float, str]],
    title: str,
    bands: Sequence[tuple[float, float, str, str]] = (),
    levels: Sequence[tuple[float, str]] = (),
    size: Point = WIDE,
    cups: Sequence[tuple[float, float, str]] = (),
) -> Graph:
    """A graph of points in their own measures. ``bands`` are (from, to, look, name) along x,
    ``levels`` heights with a word; ``cups`` (x, y, name) stand on the ground under their points."""
    (width, height), ground = size, BAND_HEIGHT if bands else 0.0
    left, right, floor = x_range[0], x_range[1] if x_range[1] > x_range[0] else x_range[0] + 1, y_range[0]

    def x_of(x: float) -> float:
        return LEFT + (width - LEFT - RIGHT) * (x - left) / (right - left)

    def y_of(y: float) -> float:
        return height - BOTTOM - ground - (height - TOP - BOTTOM - ground) * (y - floor) / (y_range[1] - floor)

    drawn = []
    for start, end, look, name in bands:
        room = x_of(end) - x_of(start)
        drawn.append(Band(x_of(start), room, look, name, name if len(name) * LETTER < room else ""))
    return Graph(
        lines=tuple("M" + "L".join(f"{x_of(x):.1f},{y_of(y):.1f}" for x, y in line) for line in lines if line),
        x_ticks=tuple(Tick(round(x_of(x), 1), label) for x, label in x_ticks if left <= x <= right),
        y_ticks=tuple(Tick(round(y_of(y), 1), label) for y, label in y_ticks),
        levels=tuple(Tick(round(y_of(y), 1), label) for y, label in levels if y_range[0] <= y <= y_range[1]),
        bands=tuple(drawn),
        title=title,
        width=width,
        height=height,
        cups=tuple(Cup(round(x_of(x), 1), round(y_of(y), 1), name, f"{y:.0f}") for x, y, name in cups),
    )
