"""Rows of a reference table, read with checks that know the file and the line."""

import csv
import math
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TypeVar

from balmcore.errors import TableProblem

K = TypeVar("K")
T = TypeVar("T")


class Row:
    """One line of a table, read with checks that know where they are."""

    def __init__(self, file: str, line: int, cells: dict[str, str]) -> None:
        self.file, self.line, self.cells = file, line, cells

    def refuse(self, sentence: str) -> TableProblem:
        """The problem to raise: the sentence with file and line."""
        return TableProblem(self.file, self.line, sentence)

    def text(self, column: str) -> str:
        """A cell, trimmed."""
        return self.cells[column].strip()

    def need(self, column: str) -> str:
        """A cell that may not be empty."""
        if not (value := self.text(column)):
            raise self.refuse(f"{column} is empty")
        return value

    def maybe(self, column: str, low: float, high: float) -> float | None:
        """A number between low and high, or None for an empty cell."""
        if not (cell := self.text(column)):
            return None
        try:
            value = float(cell)
        except ValueError:
            raise self.refuse(f"{column} should be a number, not “{cell}”") from None
        if not (math.isfinite(value) and low <= value <= high):
            raise self.refuse(f"{column} should be between {low:g} and {high:g}, not {cell}")
        return value

    def number(self, column: str, low: float, high: float) -> float:
        """A number between low and high that may not be missing."""
        self.need(column)
        value = self.maybe(column, low, high)
        assert value is not None
        return value

    def share(self, column: str, high: float = 100) -> float | None:
        """A percent cell as a share, or None."""
        value = self.maybe(column, 0, high)
        return None if value is None else round(value / 100, 9)

    def choice(self, column: str, *allowed: str) -> str:
        """A cell that holds one of some words."""
        if (value := self.text(column)) not in allowed:
            raise self.refuse(f"{column} should be one of {', '.join(allowed)}, not “{value}”")
        return value

    def words(self, column: str) -> tuple[str, ...]:
        """Words separated by semicolons."""
        return tuple(word.strip() for word in self.text(column).split(";") if word.strip())

    def pairs(self, column: str) -> tuple[tuple[str, float], ...]:
        """``key:number;key:number`` as pairs."""
        found = []
        for word in self.words(column):
            key, _, number = word.partition(":")
            try:
                found.append((key, float(number)))
            except ValueError:
                raise self.refuse(f"{column}: “{word}” should be key:number") from None
        return tuple(found)


def rows(path: Path) -> Iterator[Row]:
    """The rows of a CSV file; lines that start with # are remarks. Raises :class:`TableProblem`."""
    with path.open(encoding="utf-8", newline="") as file:
        numbered = [(n, line) for n, line in enumerate(file, 1) if not line.startswith("#")]
    reader = csv.DictReader(line for _, line in numbered)
    for (number, _), cells in zip(numbered[1:], reader, strict=True):
        if None in cells or None in cells.values():
            raise TableProblem(path.name, number, "the row has too many or too few cells")
        yield Row(path.name, number, cells)


def read(path: Path, build: Callable[[Row], tuple[K, T]]) -> dict[K, T]:
    """Every row built into its key and value. Raises :class:`TableProblem` for a key met twice."""
    found: dict[K, T] = {}
    for row in rows(path):
        key, item = build(row)
        if key in found:
            raise row.refuse(f"{key} stands here a second time")
        found[key] = item
    return found
