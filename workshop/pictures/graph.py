"""A plain graph: lines over axes, bands on the ground, levels across. The timeline of a batch and the
solids of an ingredient are both drawn with it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

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
class Dot:
    """A point with a look of its own and a name for who points at it."""

    x: float
    y: float
    look: str
    name: str
    letter: str = ""


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
    dots: tuple[Dot, ...] = ()
    x_range: Point = (0.0, 1.0)
    y_range: Point = (0.0, 1.0)
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

    @property
    def ground(self) -> float:
        """How much of its height the bands on the ground take."""
        return BAND_HEIGHT if self.bands else 0.0

    def x_of(self, x: float) -> float:
        """Where a value of the lower axis lies."""
        start, end = self.x_range
        return LEFT + (self.width - LEFT - RIGHT) * (x - start) / ((end - start) or 1.0)

    def y_of(self, y: float) -> float:
        """Where a value of the upright axis lies."""
        low, high = self.y_range
        floor = self.bottom - self.ground
        return floor - (floor - TOP) * (y - low) / (high - low)

    def path(self, points: Sequence[Point]) -> str:
        """A line through points, kept inside the frame; empty without any."""
        inside = [(min(self.x_of(x), self.right), min(max(self.y_of(y), TOP), self.bottom)) for x, y in points]
        return "M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in inside) if inside else ""


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
    dots: Sequence[tuple[float, float, str, str] | tuple[float, float, str, str, str]] = (),
) -> Graph:
    """A graph of points in their own measures. ``bands`` are (from, to, look, name) along x,
    ``levels`` heights with a word; ``cups`` (x, y, name) stand on the ground under their points; ``dots``
    are (x, y, look, name) and perhaps a letter beside it."""
    left, right = x_range[0], x_range[1] if x_range[1] > x_range[0] else x_range[0] + 1
    frame = Graph((), (), (), (), (), title, *size, x_range=(left, right), y_range=y_range)
    drawn = []
    for start, end, look, name in bands:
        room = frame.x_of(end) - frame.x_of(start)
        drawn.append(Band(frame.x_of(start), room, look, name, name if len(name) * LETTER < room else ""))
    frame = replace(frame, bands=tuple(drawn))
    x_of, y_of = frame.x_of, frame.y_of
    return replace(
        frame,
        lines=tuple("M" + "L".join(f"{x_of(x):.1f},{y_of(y):.1f}" for x, y in line) for line in lines if line),
        x_ticks=tuple(Tick(round(x_of(x), 1), label) for x, label in x_ticks if left <= x <= right),
        y_ticks=tuple(Tick(round(y_of(y), 1), label) for y, label in y_ticks),
        levels=tuple(Tick(round(y_of(y), 1), label) for y, label in levels if y_range[0] <= y <= y_range[1]),
        cups=tuple(Cup(round(x_of(x), 1), round(y_of(y), 1), name, f"{y:.0f}") for x, y, name in cups),
        dots=tuple(Dot(round(x_of(x), 1), round(y_of(y), 1), *told) for x, y, *told in dots),
    )
