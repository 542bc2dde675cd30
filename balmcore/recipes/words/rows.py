"""The text of a recipe in sentences: its lines, what a full stop ends inside one, and the tables it holds."""

import re
from collections.abc import Iterator
from dataclasses import dataclass

from balmcore.recipes.words.source import CELL, Source
from balmcore.recipes.words.vocabulary import COUNTED, HEAD_WORDS, UNITS

LONGEST_LINE = 600  # letters: a sentence's worth
_ENDS = re.compile(r"\n+|(?<=[a-z)]{3})(?<!prox)(?<!tbsp)(?<!tsp)(?<!vit)\.\s+(?=[A-Z])|[!?]\s+(?=[A-Z])")
_GOES_ON = re.compile(r"\s*\(?\s*or\b", re.IGNORECASE)


@dataclass(frozen=True)
class Row:
    """A stretch of the plain text; ``units`` are the measures that the heads of its table give to its columns, and
    ``is_head`` is true of those heads."""

    start: int
    end: int
    units: tuple[str, ...] = ()
    is_head: bool = False


def rows_of(source: Source) -> list[Row]:
    """The sentences of a text that say something; one that begins with "or" goes on from the one before."""
    found: list[Row] = []
    heads: tuple[str, ...] = ()
    for start, end in _stretches(source.plain):
        text = source.plain[start:end]
        if not re.search(r"\w", text):
            continue
        cells = text.strip().strip(CELL).split(CELL)
        if len(cells) > 1 and (units := _units_of(cells)) is not None:
            heads = units
            found.append(Row(start, end, is_head=True))
        elif found and _GOES_ON.match(text) and end - found[-1].start < LONGEST_LINE:
            found[-1] = Row(found[-1].start, end, found[-1].units)
        else:
            heads = heads if len(cells) > 1 else ()
            found.append(Row(start, end, heads))
    return found


def _stretches(plain: str) -> Iterator[tuple[int, int]]:
    """From where to where each sentence goes, none longer than a line may be."""
    at = 0
    for end, after in [*((m.start(), m.end()) for m in _ENDS.finditer(plain)), (len(plain), len(plain))]:
        while end - at > LONGEST_LINE:
            cut = plain.rfind(" ", at + 1, at + LONGEST_LINE)
            cut = cut if cut > at else at + LONGEST_LINE
            yield at, cut
            at = cut
        if end > at:
            yield from _clauses(plain, at, end)
        at = max(after, at)


def _clauses(plain: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """A sentence at its semicolons, where something is named after one."""
    at = start
    for found in re.finditer(";", plain[start:end]):
        here = start + found.start()
        words = re.findall(r"[^\W\d_]{3,}", plain[here : plain.find(";", here + 1, end) % (end + 1)])
        before = re.search(r"\w", plain[at:here])
        if before and any(word.lower() not in UNITS and word.lower() not in COUNTED for word in words):
            yield at, here
            at = here + 1
    yield at, end


def _units_of(cells: list[str]) -> tuple[str, ...] | None:
    """The measures that the cells of a row of heads name, None where it is no such row."""
    if any(re.search(r"\d", cell) for cell in cells):
        return None
    units = tuple(_unit_in(cell) for cell in cells)
    is_head = any(units) or any(cell.strip().lower() in HEAD_WORDS for cell in cells)
    return units if is_head else None


def _unit_in(cell: str) -> str:
    """The measure of a column's head: ``Weight (g)``, ``%``, ``grams``; empty for a head that names none."""
    words = re.findall(r"[a-z]+|%", cell.lower())
    named = [word for word in words if word not in HEAD_WORDS]
    if len(named) != 1:
        return ""
    return "%" if named[0] == "%" else named[0] if named[0] in UNITS or named[0] in COUNTED else ""
