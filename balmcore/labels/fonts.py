"""The letters of labels: two static cuts of Hanken Grotesk (OFL 1.1), measured and embedded by ReportLab."""

from functools import cache, lru_cache
from pathlib import Path

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

FOLDER = Path(__file__).parent / "fonts"
PLAIN, STRONG = "HankenGrotesk-Regular", "HankenGrotesk-SemiBold"
ASCENT, DESCENT = 0.78, 0.22  # of the size: what a line takes above and below its baseline


@cache
def font(name: str) -> TTFont:
    """One of the two cuts, known to ReportLab from then on."""
    found = TTFont(name, str(FOLDER / f"{name}.ttf"))
    pdfmetrics.registerFont(found)
    return found


def width_mm(text: str, size_mm: float, name: str = PLAIN) -> float:
    """How wide a text is, in millimetres, at a size in millimetres."""
    return _unit_width(text, name) * size_mm


@lru_cache(maxsize=4096)
def _unit_width(text: str, name: str) -> float:
    return float(font(name).stringWidth(text, 1000)) / 1000


def unprintable(text: str) -> str:
    """The letters of a text that the fonts do not have, each once."""
    known = font(PLAIN).face.charToGlyph
    return "".join(dict.fromkeys(each for each in text if each != "\n" and ord(each) not in known))


def printable(text: str) -> str:
    """A text without letters that the fonts do not have."""
    missing = set(unprintable(text))
    return " ".join("".join(each for each in text if each not in missing).split())
