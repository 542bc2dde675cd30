"""The text of a recipe as it is read: plain letters of equal meaning, each with its place in what was written.

What marks a page up (tags, entities, bars and tabs of a table, leaders of dots, numbering) becomes separators, so
that a decimal is never made of a separator.
"""

import html
import re
import unicodedata
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

CELL = "|"  # parts two cells of a table
_ENTITY = re.compile(r"&(?:#\d{1,6}|#x[0-9a-fA-F]{1,5}|[a-zA-Z]{2,8}\d{0,2});")
_SCRIPT = re.compile(r"<(script|style)\b[^>]*>.*?</\1\s*>|<!--.*?-->", re.IGNORECASE | re.DOTALL)
_ROW_END = re.compile(r"<(?:br|/?(?:li|p|tr|div|h\d|ul|ol|table))\b[^<>]{0,300}>", re.IGNORECASE)
_CELL_END = re.compile(r"</?t[dh]\b[^<>]{0,300}>", re.IGNORECASE)
_TAG = re.compile(r"</?[a-zA-Z][^<>]{0,300}>")
_LEADER = re.compile(r"(?:\.[ \t]?){2,}(?=\s|\d|\w)|…+|_{2,}|(?:·[ \t]?){2,}|-{2,}|={2,}|~{2,}")
_BULLET = re.compile(r"^[ \t]*(?:[-*–—•·‣◦▪●○■□✓✔+]+(?=[ \t]|[^\W\d])[ \t]*|-(?=\d))")
_NUMBERED = re.compile(r"^[ \t|]*\(?(\d{1,2})(?:[.):]|[ \t]+[-–—|])(?=[ \t|]|[^\W\d_])[ \t|]*")
_STEP = re.compile(r"^[ \t]*(?:step[ \t]*\d{1,2}|\(?[a-z]\))[ \t]*[:.)-]*", re.IGNORECASE)
_FOOTNOTE = re.compile(r"\[(?:\d{1,2}|[ xX*])\]")
_FOLDED = {"−": "-", "⁄": "/", "\u2028": "\n", "\u2029": "\n", "\x0b": "\n", "\x0c": "\n", "\r": "\n"}


@dataclass(frozen=True)
class Source:
    """A text and its plain form; ``places`` has, for every character of ``plain`` and for its end, where it stands in
    ``text``."""

    text: str
    plain: str
    places: tuple[int, ...]

    def span(self, start: int, end: int) -> tuple[int, int]:
        """Where a stretch of the plain form stands in the text."""
        if end <= start:
            return self.places[start], self.places[start]
        return self.places[start], max(self.places[end - 1] + 1, self.places[end])

    @cached_property
    def has_tags(self) -> bool:
        """Whether it was a page's own code."""
        return bool(_TAG.search(self.text))


def source_of(text: str) -> Source:
    """The plain form of a text."""
    bare = _without_tags(text)
    letters: list[str] = []
    places: list[int] = []
    at = 0
    while at < len(bare):
        found = _ENTITY.match(bare, at) if bare[at] == "&" else None
        length, piece = (len(found.group()), html.unescape(found.group())) if found else (1, bare[at])
        if found and piece == found.group():
            length, piece = 1, "&"
        for letter in "".join(_plain(char) for char in piece):
            letters.append(letter)
            places.append(at)
        at += length
    return Source(text, _separated("".join(letters)), (*places, len(text)))


def _plain(char: str) -> str:
    """One character in plain letters: ``½`` as `` 1/2``, full-width digits as digits."""
    if char in _FOLDED:
        return _FOLDED[char]
    if char < "\x80" or char in "…·":
        return char
    if unicodedata.decomposition(char).startswith("<super>"):
        return " "  # the mark of a footnote
    if unicodedata.decomposition(char).startswith("<fraction>"):
        return " " + unicodedata.normalize("NFKC", char).replace("\N{FRACTION SLASH}", "/")
    return unicodedata.normalize("NFKC", char).replace("\N{FRACTION SLASH}", "/")


def _blank(found: "re.Match[str]", end: str = "") -> str:
    """As many spaces as were there, so that every place stays."""
    return end + " " * (len(found.group()) - len(end))


def _without_tags(text: str) -> str:
    if "<" not in text:
        return text
    text = _SCRIPT.sub(_blank, text)
    text = _ROW_END.sub(lambda found: _blank(found, "\n"), text)
    text = _CELL_END.sub(lambda found: _blank(found, CELL), text)
    return _TAG.sub(_blank, text)


def _separated(plain: str) -> str:
    """With leaders, bullets and numbering as spaces, and tabs between cells as bars."""
    lines = [_FOOTNOTE.sub(_blank, _LEADER.sub(_blank, line)) for line in plain.split("\n")]
    if _counts_up(lines):
        lines = [_NUMBERED.sub(_blank, line) for line in lines]
    lines = [_STEP.sub(_blank, _BULLET.sub(_blank, line)) for line in lines]
    lines = [line.replace("\t", CELL) if "\t" in line.strip() else line.replace("\t", " ") for line in lines]
    return "\n".join(lines)


def _counts_up(lines: list[str]) -> bool:
    """Whether lines are numbered: each such number is one more than the last, or starts again at one."""
    leads = [found for line in lines if (found := _NUMBERED.match(line))]
    numbers = [int(found[1]) for found in leads]
    steps = [after == before + 1 or after == 1 for before, after in pairwise(numbers)]
    is_marked = all(re.search(r"[.):]", found.group()) for found in leads)
    return bool(numbers) and (len(numbers) > 1 or is_marked) and (numbers[0] == 1 or is_marked) and all(steps)
