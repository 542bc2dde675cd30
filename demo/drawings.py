"""Pictures of tins as their maker might have photographed them: drawn, as no tin of ours was ever poured."""

import math
import random
from io import BytesIO

from PIL import Image, ImageDraw, ImageFilter

SIZE = 900
BALM = {"smooth": (238, 223, 178), "grainy": (232, 216, 176), "sinkhole": (236, 220, 176), "bloom": (214, 190, 140)}


def tin_photo(look: str, number: int) -> bytes:
    """A JPEG of a round tin from above: smooth, grainy, with a sinkhole, or with a bloom; the same for the same
    number."""
    chance = random.Random(f"{look} {number}")
    table = Image.new("RGB", (SIZE, SIZE), (126, 96, 70))
    brush = ImageDraw.Draw(table)
    for y in range(0, SIZE, 6):
        shade = chance.randint(-9, 9)
        brush.line((0, y, SIZE, y + chance.randint(-4, 4)), fill=(126 + shade, 96 + shade, 70 + shade), width=6)
    middle, radius = SIZE / 2 + chance.randint(-20, 20), SIZE * 0.37
    _disc(brush, middle, radius * 1.08, (176, 180, 184))
    _disc(brush, middle, radius * 1.02, (132, 136, 140))
    balm = BALM[look]
    _disc(brush, middle, radius, balm)
    if look == "grainy":
        _grains(brush, middle, radius, balm, chance)
    elif look == "sinkhole":
        _hole(brush, middle, radius, balm, chance)
    elif look == "bloom":
        _bloom(brush, middle, radius, chance)
    table = table.filter(ImageFilter.GaussianBlur(1.6))
    kept = BytesIO()
    table.save(kept, "JPEG", quality=82)
    return kept.getvalue()


def _disc(brush: ImageDraw.ImageDraw, middle: float, radius: float, colour: tuple[int, int, int]) -> None:
    brush.ellipse((middle - radius, middle - radius, middle + radius, middle + radius), fill=colour)


def _within(radius: float, chance: random.Random) -> tuple[float, float]:
    far, turn = radius * math.sqrt(chance.random()), chance.random() * math.tau
    return far * math.cos(turn), far * math.sin(turn)


def _grains(
    brush: ImageDraw.ImageDraw, middle: float, radius: float, balm: tuple[int, ...], chance: random.Random
) -> None:
    for _ in range(1400):
        x, y = _within(radius * 0.97, chance)
        size, shade = chance.uniform(2, 6), chance.choice((-26, 14))
        spot = (middle + x - size, middle + y - size, middle + x + size, middle + y + size)
        brush.ellipse(spot, fill=tuple(max(0, min(255, part + shade)) for part in balm))


def _hole(
    brush: ImageDraw.ImageDraw, middle: float, radius: float, balm: tuple[int, ...], chance: random.Random
) -> None:
    for n in range(12, 0, -1):
        wide = radius * 0.022 * n * chance.uniform(0.95, 1.05)
        dark = tuple(int(part * (0.45 + 0.045 * n)) for part in balm)
        brush.ellipse((middle - wide, middle - wide * 0.8, middle + wide, middle + wide * 0.8), fill=dark)


def _bloom(brush: ImageDraw.ImageDraw, middle: float, radius: float, chance: random.Random) -> None:
    for _ in range(70):
        x, y = _within(radius * 0.85, chance)
        wide = chance.uniform(14, 46)
        spot = (middle + x - wide, middle + y - wide * 0.6, middle + x + wide, middle + y + wide * 0.6)
        brush.ellipse(spot, fill=(236, 226, 202))
