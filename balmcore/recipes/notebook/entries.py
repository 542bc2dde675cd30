"""Each row of a table of past work as a recipe or a pour with its test.

Nothing of a cell is lost in silence: what was not understood is said of its row, and goes into its notes.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

from balmcore import units
from balmcore.composition import Composition, Line, normalise
from balmcore.days import read_day
from balmcore.display import DAY_FIRST, mass_words
from balmcore.errors import Problem
from balmcore.recipes.notebook.columns import PARTS, PERCENT, ROLES, SHARES, Column, columns_of, unit_of
from balmcore.recipes.reading import composition, read
from balmcore.tables import Ingredient, Tables

MOST_ENTRIES, LONGEST_NOTES = 400, 3000
PLACES = {
    "counter": ("counter", "room", "table", "shelf", "air"),
    "refrigerator": ("refrigerator", "fridge", "cold"),
    "freezer": ("freezer", "frozen"),
}
VERDICTS = {
    "keep": ("keep", "yes", "good", "again", "perfect", "right"),
    "drop": ("drop", "no", "never", "bad", "failed"),
    "change": ("change", "adjust", "almost", "nearly", "too "),
}
_FIGURE = re.compile(r"[\d½⅓⅔¼¾⅛.,]")  # an amount may stand there
APART = Decimal("0.02")  # of it all: less is rounding
UNTOLD_G = Decimal(100)  # a melt is so large where its row does not say


@dataclass(frozen=True)
class Entry:
    """A row: what becomes of it. ``problem`` is why nothing can, ``said`` what was doubted or goes into the notes;
    ``grams`` of it all where it was weighed, ``thumb`` a word of ours, ``cooled`` a place or empty."""

    number: int
    name: str = ""
    day: date | None = None
    composition: Composition | None = None
    grams: Decimal | None = None
    thumb: str = ""
    test_c: float | None = None
    cooled: str = ""
    verdict: str = ""
    notes: str = ""
    problem: str = ""
    said: tuple[str, ...] = ()

    @property
    def is_pour(self) -> bool:
        """True for what was poured on a day; a row without one is a recipe."""
        return self.day is not None


@dataclass(frozen=True)
class Notebook:
    """A table as it is read; ``cut`` are rows beyond what is read at once."""

    columns: tuple[Column, ...]
    entries: tuple[Entry, ...]
    cut: int = 0

    @property
    def good(self) -> tuple[Entry, ...]:
        """The rows of which something becomes."""
        return tuple(entry for entry in self.entries if not entry.problem)


def read_notebook(
    rows: Sequence[Sequence[str]],
    tables: Tables,
    chosen: Sequence[str] = (),
    picks: Sequence[str] = (),
    kitchen: str = "metric",
    mass_unit: str = "g",
    temp_unit: str = "C",
    order: str = DAY_FIRST,
    today: date | None = None,
    firmness_words: Iterable[str] = (),
) -> Notebook:
    """A table with a header as entries. ``chosen``, ``picks`` and ``order`` are as :func:`columns_of` takes them.
    Raises :class:`Problem` for what is no table."""
    if len(rows) < 2:
        raise Problem("There is no table here: a row that names the columns, and a row below it for each batch.")
    columns = columns_of(rows, tables, chosen, picks, order)
    reader = _Reader(columns, tables, kitchen, mass_unit, temp_unit, today, tuple(firmness_words))
    body = rows[1 : MOST_ENTRIES + 1]
    return Notebook(columns, tuple(reader.entry(n, row) for n, row in enumerate(body, 1)), len(rows) - 1 - len(body))


@dataclass(frozen=True)
class _Reader:
    columns: tuple[Column, ...]
    tables: Tables
    kitchen: str
    mass_unit: str
    temp_unit: str
    today: date | None
    firmness_words: tuple[str, ...]

    def entry(self, number: int, row: Sequence[str]) -> Entry:
        """One row read cell by cell."""
        named = [(column, row[at].strip()) for at, column in enumerate(self.columns) if at < len(row)]
        cells = {column.role: cell for column, cell in named if column.role}
        amounts = [(column, cell) for column, cell in named if column.item is not None and cell.strip("-–— ")]
        found = Entry(number, " ".join(cells.get("name", "").split())[:120])
        said: list[str] = []
        if not found.name:
            return replace(found, problem="It has no name.")
        for column, cell in named:
            if column.is_open and _FIGURE.match(cell):
                what = f"“{column.title[:40]}” holds {cell[:20]}"
                return replace(found, problem=f"{what}: say above what that column is, or that it is not taken.")
        try:
            found = replace(found, **self._made(cells.get("ingredients", ""), amounts, said))
        except Problem as problem:
            return replace(found, problem=problem.sentence, said=tuple(said))
        kept = [cells["notes"]] if cells.get("notes") else []
        found = self._sized(found, cells.get("total", ""), said, kept)
        for column, cell in named:
            if column.is_open and cell:
                said.append(f"What “{column.title[:40]}” is, is not known: {cell[:40]} goes into the notes.")
                kept.append(f"{column.title}: {cell}.")
        found = _sense(self._typed(found, cells, said, kept), cells, said, kept)
        if found.is_pour and found.grams is None:
            said.append(f"How much it was is not said: taken as {mass_words(UNTOLD_G)}.")
            kept.append(said[-1])
        return replace(found, notes=" ".join(dict.fromkeys(kept))[:LONGEST_NOTES], said=tuple(said))

    def _sized(self, found: Entry, text: str, said: list[str], kept: list[str]) -> Entry:
        """With how much it was, where a cell tells: a weight, or the hundred percent."""
        unit = unit_of(text, next((column.title for column in self.columns if column.role == "total"), ""))
        if not text or unit in SHARES:
            return found
        try:
            grams = units.mass_g(text, unit or self.mass_unit, self.kitchen)
        except Problem as problem:
            said.append(f"{problem.sentence} It goes into the notes.")
            kept.append(_noted("total", text))
            return found
        if found.grams is None:
            return replace(found, grams=grams or None)
        if abs(grams - found.grams) > found.grams * APART:
            said.append(
                f"It says {mass_words(grams)}; what stands beside it is {mass_words(found.grams)}, and is taken."
            )
            kept.append(_noted("total", text))
        return found

    def _typed(self, found: Entry, cells: Mapping[str, str], said: list[str], kept: list[str]) -> Entry:
        """With what the other cells say; what is not understood goes into the notes."""
        for role, take in (("day", self._day), ("temperature", self._temp), ("firmness", self._thumb)):
            if text := cells.get(role):
                try:
                    found = replace(found, **take(text))
                except Problem as problem:
                    said.append(f"{problem.sentence} It goes into the notes.")
                    kept.append(_noted(role, text))
        for role, known in (("cooled", PLACES), ("verdict", VERDICTS)):
            if text := cells.get(role):
                word = _meant(text, known)
                found = replace(found, cooled=word) if role == "cooled" else replace(found, verdict=word)
                if not word:
                    said.append(f"“{text[:40]}” is not understood as {ROLES[role]}. It goes into the notes.")
                    kept.append(_noted(role, text))
        return found

    def _made(self, text: str, amounts: Sequence[tuple[Column, str]], said: list[str]) -> dict[str, Any]:
        """What it is made of, and of how many grams where those are told."""
        parts: dict[Ingredient, Decimal] = {}
        is_weighed, shares = False, set[str]()
        if text:
            reading = read(_in_lines(text), self.kitchen, tables=self.tables)
            lost = [line.text for line in reading.lines if not line.is_counted and not line.is_out]
            if lost:
                raise Problem(f"Not understood: {'; '.join(lost)[:160]}. Put its cell right, or leave the row out.")
            said += [doubt.asks for line in reading.lines for doubt in line.doubts]
            said += list(reading.doubts)
            parts = {line.ingredient: line.share for line in composition(reading).lines}
            is_weighed = reading.total_g is not None
            if not is_weighed:
                shares = {PARTS if any(line.unit == "part" for line in reading.lines) else PERCENT}
        written = [(column, cell, unit_of(cell, column.title)) for column, cell in amounts]
        shares |= {unit for _, _, unit in written if unit in SHARES}
        is_weighed = is_weighed or any(unit and unit not in SHARES for _, _, unit in written)
        ways = [*sorted(shares), *(["grams"] if is_weighed else []), *(["columns"] if PARTS in shares and text else [])]
        if len(ways) > 1 and written:
            raise Problem(f"Some of it is in {', and some in '.join(ways)}: write all of it in one way.")
        for column, cell, unit in written:
            assert column.item is not None
            if is_weighed and not unit:
                unit = self.mass_unit
                said.append(f"“{cell[:40]}” of {column.title} has no unit: taken as {unit}.")
            amount = self._amount(cell, column, unit)
            parts[column.item] = parts.get(column.item, Decimal(0)) + amount
        total = sum(parts.values(), Decimal(0))
        if total <= 0:
            raise Problem("Nothing is in it: no ingredient has an amount.")
        whole = normalise(Composition(tuple(Line(item, amount / total) for item, amount in parts.items() if amount)))
        return {"composition": whole, "grams": round(total, 6) if is_weighed else None}

    def _amount(self, cell: str, column: Column, unit: str) -> Decimal:
        """The amount of a cell: grams of a weight, else the figure that stands there."""
        item = column.item
        if not unit or unit in SHARES or item is None:
            amount = units.number(re.sub(r"\s*(%|percent|parts?)$", "", cell, flags=re.IGNORECASE))
        else:
            amount = units.mass_g(cell, unit, self.kitchen, item.density_g_ml, item.bulk_density_g_ml)
        if amount < 0:
            raise Problem(f"“{cell[:40]}” of {column.title} is less than nothing.")
        return amount

    def _day(self, text: str) -> dict[str, Any]:
        day = read_day(text, next(column.order for column in self.columns if column.role == "day"))
        if day and self.today and day > self.today:
            raise Problem(f"“{text[:40]}” is still to come.")
        return {"day": day}

    def _temp(self, text: str) -> dict[str, Any]:
        return {"test_c": float(units.temp_c(text, self.temp_unit))}

    def _thumb(self, text: str) -> dict[str, Any]:
        low = " ".join(text.lower().split())
        word = next((word for word in self.firmness_words if word == low), "")
        if not word:
            raise Problem(f"“{text[:40]}” is no word for firmness here: {', '.join(self.firmness_words)}.")
        return {"thumb": word}


def _noted(role: str, text: str) -> str:
    return f"{ROLES[role].capitalize()}: {text}."


def _sense(found: Entry, cells: Mapping[str, str], said: list[str], kept: list[str]) -> Entry:
    """What cannot be without the rest of it goes into the notes: a firmness without its warmth, a test without a
    day."""
    if found.thumb and found.test_c is None:
        said.append("How warm it was tested is not said: the firmness goes into the notes.")
        kept.append(_noted("firmness", found.thumb))
        found = replace(found, thumb="")
    if found.is_pour or not (found.thumb or found.cooled or found.verdict):
        return found
    said.append("It has no day, so that it is taken as a recipe; what came of it goes into the notes.")
    kept += [_noted(role, cells[role]) for role in ("firmness", "cooled", "verdict") if cells.get(role)]
    return replace(found, thumb="", cooled="", verdict="")


def _meant(text: str, known: Mapping[str, Iterable[str]]) -> str:
    low = text.lower()
    return next((key for key, words in known.items() if any(re.search(rf"\b{word}", low) for word in words)), "")


def _in_lines(text: str) -> str:
    """A cell as lines of a recipe: parted by semicolons or, where every part has a figure, by commas."""
    if "\n" in text or ";" in text:
        return text.replace(";", "\n")
    parts = re.split(r",\s+", text)
    return "\n".join(parts) if len(parts) > 1 and all(re.search(r"\d", part) for part in parts) else text
