"""Text fitted onto a label, in millimetres: one engine for what the screen shows and for what is printed.

Blocks stand from the most to the least important. All sizes are brought down together until everything fits,
never below a legible size; then the least important blocks go, and it is said which, and what to do.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from math import sqrt

from balmcore.display import figure
from balmcore.errors import Problem
from balmcore.labels.codes import Code
from balmcore.labels.fonts import ASCENT, PLAIN, STRONG, printable, unprintable, width_mm
from balmcore.wording import listed

LEGIBLE_MM = 1.75  # letters of 5 points: smaller is not read at arm's length
LEADING = 1.18  # of the type's size: the tightest that is read easily
MARGIN_MM, ROUND_MARGIN_MM = 1.5, 2.0  # what a hand with scissors needs; more where the edge is round
SMALLEST_MM, LARGEST_MM = 8.0, 400.0  # a lip balm's end, a sheet's long side
STEPS = 64  # of the search for the largest type that fits
GAP = 0.35  # of a line, between blocks
LEAST_WHOLE = 2 / 3  # of its size, for a name on one line


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
class PlacedCode:
    """A code and where the corner of its free border lies, in millimetres from the upper left."""

    code: Code
    x_mm: float
    y_mm: float

    @property
    def bars(self) -> tuple[tuple[float, float, float], ...]:
        """Its dark bars on the label: left, upper edge, length."""
        return tuple(
            (round(self.x_mm + x, 3), round(self.y_mm + y, 3), round(long, 3)) for x, y, long in self.code.bars()
        )


@dataclass(frozen=True)
class Layout:
    """A fitted label. ``left_out`` are the names of blocks that did not fit; ``said`` is what to do about it and
    about letters that cannot be printed."""

    size: Size
    texts: tuple[Text, ...]
    left_out: tuple[str, ...]
    said: tuple[str, ...]
    code: PlacedCode | None = None

    @property
    def radius(self) -> float:
        """Half its width."""
        return self.size.width_mm / 2

    @property
    def is_whole(self) -> bool:
        """True when everything stands on it."""
        return not self.left_out


@dataclass(frozen=True)
class _Room:
    """Where text may stand on a label: its left and right edges where it is a rectangle, and how far down."""

    size: Size
    margin: float
    left: float
    right: float
    bottom: float

    @classmethod
    def of(cls, size: Size, code: PlacedCode | None) -> "_Room":
        margin = ROUND_MARGIN_MM if size.shape == Shape.ROUND else MARGIN_MM
        right, bottom = size.width_mm - margin, size.height_mm - margin
        if code and size.shape == Shape.ROUND:
            bottom = code.y_mm
        elif code:
            right = code.x_mm
        return cls(size, margin, margin, right, bottom)

    def across(self, y: float, size_mm: float) -> tuple[float, float]:
        """The middle and the width of a line whose letters stand from y to y + size."""
        if self.size.shape == Shape.RECTANGLE:
            return (self.left + self.right) / 2, self.right - self.left
        radius, middle = self.size.width_mm / 2 - self.margin, self.size.height_mm / 2
        far = max(abs(y - middle), abs(y + size_mm - middle))
        return middle, 2 * sqrt(radius**2 - far**2) if far < radius else 0.0


def lay_out(size: Size, blocks: Sequence[Block], code: Code | None = None) -> Layout:
    """Blocks fitted onto a label, and beside or below them a code where that costs no block its place. Raises
    :class:`Problem` for a size that is none, and where not even what is needed fits."""
    size.checked()
    said = []
    if strange := "".join(dict.fromkeys("".join(unprintable(block.text) for block in blocks))):
        said.append(f"These letters cannot be printed and are left out: {' '.join(strange[:12])}")
    kept = [replace(block, text=text) for block in blocks if (text := printable(block.text))]
    plain = _fitted(_Room.of(size, None), kept)
    if code is not None:
        placed = _place(code, size)
        try:
            beside = _fitted(_Room.of(size, placed), kept) if placed else None
        except Problem:
            beside = None
        if beside and len(beside[1]) == len(plain[1]):
            return Layout(size, beside[0], beside[1], (*said, *_advice(beside[1])), placed)
        said.append("No room for the code: it would take the place of words. Take a larger label, or the back.")
    return Layout(size, *plain, (*said, *_advice(plain[1])))


def _place(code: Code, size: Size) -> PlacedCode | None:
    """A code at the right of a rectangle, at the foot of a round label; None where it is larger than the label."""
    side = code.side_mm
    if size.shape == Shape.RECTANGLE:
        x, y = size.width_mm - MARGIN_MM - side, (size.height_mm - side) / 2
        return PlacedCode(code, x, y) if min(x, y) >= MARGIN_MM else None
    radius = size.width_mm / 2 - ROUND_MARGIN_MM
    if side / 2 >= radius:
        return None
    foot = size.height_mm / 2 + sqrt(radius**2 - (side / 2) ** 2)
    return PlacedCode(code, (size.width_mm - side) / 2, foot - side)


def _fitted(room: _Room, blocks: Sequence[Block]) -> tuple[tuple[Text, ...], tuple[str, ...]]:
    """The lines of as many blocks as fit, and the names of those that do not."""
    kept, left_out = list(blocks), list[str]()
    while kept:
        texts = _largest(room, kept)
        if texts is not None:
            return tuple(texts), tuple(left_out)
        spare = [block for block in kept if not block.is_needed]
        if not spare:
            names = listed([block.name for block in kept])
            wide, high = figure(room.size.width_mm), figure(room.size.height_mm)
            raise Problem(
                f"Not even {names} can be read on {wide} × {high} mm: take a larger label, or a folded slip.", "size"
            )
        kept.remove(spare[-1])
        left_out.insert(0, spare[-1].name)
    return (), ()


def _largest(room: _Room, blocks: Sequence[Block]) -> list[Text] | None:
    """The lines at the largest scale at which they fit, to a hundredth; None where they never do. A first block that
    is broken over lines is kept whole where that costs it no more than a third of its size."""
    found = _largest_of(room, blocks, False)
    if found is None or _is_whole(found, blocks[0]):
        return found
    whole = _largest_of(room, blocks, True)
    return whole if whole is not None and whole[0].size_mm >= LEAST_WHOLE * found[0].size_mm else found


def _is_whole(texts: Sequence[Text], block: Block) -> bool:
    return texts[0].text == block.text


def _largest_of(room: _Room, blocks: Sequence[Block], is_whole: bool) -> list[Text] | None:
    best = _placed(room, blocks, 0.0, is_whole)
    if best is None:
        return None
    if (large := _placed(room, blocks, 1.0, is_whole)) is not None:
        return large
    low, high = 0.0, 1.0
    while high - low > 1 / STEPS:
        middle = (low + high) / 2
        found = _placed(room, blocks, middle, is_whole)
        low, high, best = (middle, high, found) if found is not None else (low, middle, best)
    return best


def _advice(left_out: Sequence[str]) -> Iterator[str]:
    if left_out:
        yield (
            f"No room for {listed(list(left_out))}: put it on a back label or a folded slip, or take a larger "
            "container."
        )


def _placed(room: _Room, blocks: Sequence[Block], scale: float, is_whole: bool) -> list[Text] | None:
    """The lines of blocks at a scale of their sizes, None when they do not fit or, where it has to be whole, when the
    first one breaks."""
    sizes = [max(LEGIBLE_MM, block.size_mm * scale) for block in blocks]
    size, margin = room.size, room.margin
    high = room.bottom - margin
    # A round label is narrow above: the height taken decides where it begins, and that how wide lines may be.
    for lines_above in range(60 if size.shape == Shape.ROUND else 1):
        top = margin + lines_above * high / 120
        texts = _lines(room, blocks, sizes, top)
        if texts is None or (is_whole and not _is_whole(texts, blocks[0])):
            continue
        height = texts[-1].y_mm + texts[-1].size_mm * (1 - ASCENT) - top
        below = room.bottom - top - height
        if size.shape == Shape.RECTANGLE:
            return [_moved(text, max(0.0, below / 2)) for text in texts]
        if abs(below - (top - margin)) <= high / 60 or lines_above == 59:
            return texts
        if below < top - margin:
            return texts if below >= 0 else None
    return None


def _moved(text: Text, down_mm: float) -> Text:
    return replace(text, y_mm=text.y_mm + down_mm)


def _lines(room: _Room, blocks: Sequence[Block], sizes: Sequence[float], top: float) -> list[Text] | None:
    y, texts = top, []
    for n, (block, size_mm) in enumerate(zip(blocks, sizes, strict=True)):
        y += size_mm * GAP if n else 0.0
        name = STRONG if block.is_strong else PLAIN
        words = block.text.split(" ")
        while words:
            middle, wide = room.across(y, size_mm)
            count = _fitting(words, size_mm, name, wide)
            bottom = y + size_mm * LEADING
            if not count or bottom > room.bottom + size_mm * (LEADING - 1) + 1e-9:
                return None
            line = " ".join(words[:count])
            width = width_mm(line, size_mm, name)
            texts.append(Text(round(middle - width / 2, 3), round(y + size_mm * ASCENT, 3), size_mm, line, name, width))
            words = words[count:]
            y = bottom
    return texts


def _fitting(words: Sequence[str], size_mm: float, name: str, wide: float) -> int:
    """How many words stand on a line; none where the first is too long."""
    count = 0
    while count < len(words) and width_mm(" ".join(words[: count + 1]), size_mm, name) <= wide + 1e-9:
        count += 1
    return count
