"""A formula as rows of a spreadsheet, CSV or XLSX, and such rows read back as the file of a formula."""

import csv
import io
import zlib
from collections.abc import Iterator, Sequence
from typing import Any
from zipfile import BadZipFile, ZipFile, is_zipfile

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from balmcore.errors import Problem
from balmcore.recipes.words.names import clean, exactly
from balmcore.tables import Tables
from formulas.models import Version
from formulas.sharing.files import MOST_BYTES, MOST_LINES, SCHEMA, SORT, to_file
from workshop import limits
from workshop.sheets import Value

HEADER = ("Ingredient", "INCI", "Percent", "Key", "Formula", "Kind")
MOST_ROWS = 200
# What a workbook that is none, or that is broken within, raises out of its reader.
UNREADABLE = (BadZipFile, InvalidFileException, SyntaxError, LookupError, ValueError, TypeError, AttributeError,
              OSError, EOFError, RuntimeError, zlib.error)  # fmt: skip


def to_rows(version: Version, tables: Tables) -> Iterator[Sequence[Value]]:
    """The lines of a version; formula and kind stand in every row."""
    told = to_file(version, tables)
    own = {row["name"] for row in told["own_ingredients"]}
    for line in told["lines"]:
        key = "" if line["name"] in own else line["ingredient"]
        yield line["name"], line["inci"], float(line["percent"]), key, told["name"], told["kind_key"]


def read_sheet(content: bytes, tables: Tables) -> dict[str, Any]:
    """Rows as the file of a formula, to be looked at as one: a column of ingredients by key, name or INCI, and one of
    percentages, with either mark. Raises :class:`Problem` for what holds no such rows."""
    if len(content) > MOST_BYTES:
        raise Problem("That is larger than any formula: choose the file of one formula.", "file")
    rows = [row for row in (_xlsx(content) if is_zipfile(io.BytesIO(content)) else _csv(content)) if any(row)]
    header = [cell.strip().lower() for cell in rows[0]] if rows else []
    if not {"ingredient", "percent"} <= set(header) or not 1 <= len(rows) - 1 <= MOST_LINES:
        raise Problem(
            "That is no file of a formula: JSON that Calm Tin wrote, or rows below “Ingredient” and “Percent”.", "file"
        )
    found = [dict(zip(header, row, strict=False)) for row in rows[1:]]
    first = found[0]
    return {
        "sort": SORT,
        "schema": SCHEMA,
        "name": first.get("formula") or "From a spreadsheet",
        "kind_key": first.get("kind") or "pot_salve",
        "lines": [_line(row, tables) for row in found],
    }


def _line(row: dict[str, str], tables: Tables) -> dict[str, str]:
    name = (row.get("ingredient") or "").strip().lstrip("'")
    key = row.get("key", "").strip()
    if key not in tables.ingredients:
        meant = exactly(tuple(clean(name).split()), tables)
        key = meant.ingredient.key if meant and meant.ingredient else name
    # A comma is a decimal mark here: no percentage has thousands.
    return {
        "ingredient": key,
        "name": name,
        "percent": (row.get("percent") or "").strip().rstrip("%").strip().replace(",", "."),
    }


def _csv(content: bytes) -> list[list[str]]:
    text = content.decode("utf-8-sig", "replace")
    head = text.partition("\n")[0]
    between = max(";\t,", key=head.count)
    lines = csv.reader(io.StringIO(text, newline=""), delimiter=between)
    try:
        return [row for _, row in zip(range(MOST_ROWS), lines, strict=False)]
    except csv.Error as refusal:
        raise Problem(f"Those rows cannot be read ({refusal}).", "file") from None


def _xlsx(content: bytes) -> list[list[str]]:
    try:
        with ZipFile(io.BytesIO(content)) as package:
            limits.require_sane_archive(package, limits.WORKBOOK_BYTES)
        sheet = load_workbook(io.BytesIO(content), read_only=True, data_only=True).worksheets[0]
        rows = sheet.iter_rows(max_row=MOST_ROWS, max_col=12, values_only=True)
        return [["" if cell is None else str(cell) for cell in row] for row in rows]
    except Problem:
        raise
    except UNREADABLE:
        raise Problem("That workbook cannot be read: save it once more as XLSX or CSV.", "file") from None
