"""Text fitted onto a label, in millimetres: one engine for what the screen shows and for what is printed.

Blocks stand from the most to the least important. All sizes are brought down together until everything fits,
never below a legible size; then the least important blocks go, and it is said which, and what to do.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import sqrt

from balmcore.display import figure
from balmcore.errors import Problem
from balmcore.labels.fonts import ASCENT, PLAIN, STRONG, printable, unprintable, width_mm
from balmcore.wording import listed

LEGIBLE_MM = 1.75  # letters of 5 points: smaller is not read at arm's length
LEADING = 1.18
MARGIN_MM, ROUND_MARGIN_MM = 1.5, 2.0
SMALLEST_MM, LARGEST_MM = 8.0, 400.0
STEPS = 64
GAP = 0.35  # of a line, between blocks


class Shape(StrEnum):
    """The outline of a label."""

    RECTANGLE = "rectangle"
    ROUND = "round"


@dataclass(frozen=True)
class Size:
    """A label as it is cut: a rectangle, or a round one whose width and height are its diameter."""

    shape: Shape
    width_mm: float
    height_mm: float

    def checked(self) -> "Size":
        """Itself. Raises :class:`Problem` for a size nobody can cut or read."""
        for side in (self.width_mm, self.height_mm):
            if not SMALLEST_MM <= side <= LARGEST_MM:
                raise Problem(f"A label is {figure(SMALLEST_MM)} to {figure(LARGEST_MM)} mm wide and high.", "size")
        if self.shape == Shape.ROUND and self.width_mm != self.height_mm:
            raise Problem("A round label is as wide as it is high.", "size")
        return self


@dataclass(frozen=True)
class Block:
    """A piece of text: what it is called, the text, how large it would like to be, in millimetres, and whether the
    label is no label without it."""

    name: str
    text: str
    size_mm: float
    is_strong: bool = False
    is_needed: bool = False


@dataclass(frozen=True)
class Text:
    """One line of text: where its baseline begins, in millimetres from the upper left, and its size."""

    x_mm: float
    y_mm: float
    size_mm: float
    text: str
    font: str
    width_mm: float

    @property
    def is_strong(self) -> bool:
        """True for the heavier letters."""
        return self.font == STRONG


@dataclass(frozen=True)
class Layout:
    """A fitted label. ``left_out`` are the names of blocks that did not fit; ``said`` is what to do about it and
    about letters that cannot be printed."""

    size: Size
    texts: tuple[Text, ...]
    left_out: tuple[str, ...]
    said: tuple[str, ...]

    @property
    def radius(self) -> float:
        """Half its width."""
        return self.size.width_mm / 2

    @property
    def is_whole(self) -> bool:
        """True when everything stands on it."""
        return not self.left_out


def lay_out(size: Size, blocks: Sequence[Block]) -> Layout:
    """Blocks fitted onto a label. Raises :class:`Problem` for a size that is none, and where not even what is
    needed fits."""
    size.checked()
    said = []
    if strange := "".join(dict.fromkeys("".join(unprintable(block.text) for block in blocks))):
        said.append(f"These letters cannot be printed and are left out: {' '.join(strange[:12])}")
    kept = [
        Block(block.name, text, block.size_mm, block.is_strong, block.is_needed)
        for block in blocks
        if (text := printable(block.text))
    ]
    left_out: list[str] = []
    while kept:
        texts = _largest(size, kept)
        if texts is not None:
            return Layout(size, tuple(texts), tuple(left_out), (*said, *_advice(left_out)))
        spare = [block for block in kept if not block.is_needed]
        if not spare:
            names = listed([block.name for block in kept])
            raise Problem(
                f"Not even {names} can be read on {figure(size.width_mm)} × {figure(size.height_mm)} mm: take a larger "
                "label, or a folded slip.",
                "size",
            )
        kept.remove(spare[-1])
        left_out.insert(0, spare[-1].name)
    return Layout(size, (), (), tuple(said))


def _largest(size: Size, blocks: Sequence[Block]) -> list[Text] | None:
    """The lines at the largest scale at which they fit, to a hundredth; None where they never do."""
    best = _placed(size, blocks, 0.0)
    if best is None:
        return None
    low, high = 0.0, 1.0
    if (whole := _placed(size, blocks, 1.0)) is not None:
        return whole
    while high - low > 1 / STEPS:
        middle = (low + high) / 2
        found = _placed(size, blocks, middle)
        low, high, best = (middle, high, found) if found is not None else (low, middle, best)
    return best


def _advice(left_out: Sequence[str]) -> Iterator[str]:
    if left_out:
        yield (
            f"No room for {listed(list(left_out))}: put it on a back label or a folded slip, or take a larger "
            "container."
        )


def _placed(size: Size, blocks: Sequence[Block], scale: float) -> list[Text] | None:
    """The lines of blocks at a scale of their sizes, None when they do not fit."""
    sizes = [max(LEGIBLE_MM, block.size_mm * scale) for block in blocks]
    margin = ROUND_MARGIN_MM if size.shape == Shape.ROUND else MARGIN_MM
    room = size.height_mm - 2 * margin
    # A round label is narrow above: the height taken decides where it begins, and that how wide lines may be.
    for lines_above in range(60 if size.shape == Shape.ROUND else 1):
        top = margin + lines_above * room / 120
        texts = _lines(size, blocks, sizes, margin, top)
        if texts is None:
            continue
        height = texts[-1].y_mm + texts[-1].size_mm * (1 - ASCENT) - top
        below = size.height_mm - margin - top - height
        if size.shape == Shape.RECTANGLE:
            return [_moved(text, max(0.0, below / 2)) for text in texts]
        if abs(below - (top - margin)) <= room / 60 or lines_above == 59:
            return texts
        if below < top - margin:
            return texts if below >= 0 else None
    return None


def _moved(text: Text, down_mm: float) -> Text:
    return Text(text.x_mm, text.y_mm + down_mm, text.size_mm, text.text, text.font, text.width_mm)


def _lines(size: Size, blocks: Sequence[Block], sizes: Sequence[float], margin: float, top: float) -> list[Text] | None:
    y, texts = top, []
    for n, (block, size_mm) in enumerate(zip(blocks, sizes, strict=True)):
        y += size_mm * GAP if n else 0.0
        name = STRONG if block.is_strong else PLAIN
        words = block.text.split(" ")
        while words:
            wide = _room_at(size, margin, y, size_mm)
            count = _fitting(words, size_mm, name, wide)
            bottom = y + size_mm * LEADING
            if not count or bottom > size.height_mm - margin + size_mm * (LEADING - 1) + 1e-9:
                return None
            line = " ".join(words[:count])
            width = width_mm(line, size_mm, name)
            x = (size.width_mm - width) / 2
            texts.append(Text(round(x, 3), round(y + size_mm * ASCENT, 3), size_mm, line, name, width))
            words = words[count:]
            y = bottom
    return texts


def _room_at(size: Size, margin: float, y: float, size_mm: float) -> float:
    """How wide a line may be whose letters stand from y to y + size."""
    if size.shape == Shape.RECTANGLE:
        return size.width_mm - 2 * margin
    radius, middle = size.width_mm / 2 - margin, size.height_mm / 2
    far = max(abs(y - middle), abs(y + size_mm - middle))
    return 2 * sqrt(radius**2 - far**2) if far < radius else 0.0


def _fitting(words: Sequence[str], size_mm: float, name: str, wide: float) -> int:
    """How many words stand on a line; none where the first is too long."""
    count = 0
    while count < len(words) and width_mm(" ".join(words[: count + 1]), size_mm, name) <= wide + 1e-9:
        count += 1
    return count
