"""Tables that come from outside: a file as CSV or XLSX, or pasted from a spreadsheet, as rows of text."""

import csv
import io
import zlib
from collections.abc import Sequence
from zipfile import BadZipFile, ZipFile, is_zipfile

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from balmcore.errors import Problem
from workshop.files import limits

MOST_ROWS, MOST_COLUMNS = 1200, 40
# What a workbook that is none, or that is broken within, raises out of its reader.
UNREADABLE = (BadZipFile, InvalidFileException, SyntaxError, LookupError, ValueError, TypeError, AttributeError,
              OSError, EOFError, RuntimeError, zlib.error)  # fmt: skip
Rows = list[list[str]]


def rows_of(content: bytes, where: str = "file") -> Rows:
    """The rows of a file that hold anything. Raises :class:`Problem`."""
    rows = _xlsx(content, where) if is_zipfile(io.BytesIO(content)) else _csv(_text(content), where)
    return _full(rows, where)


def rows_of_text(text: str, where: str = "pasted") -> Rows:
    """The rows of what was pasted: cells between tabs, semicolons, or commas that stand in every row. Raises
    :class:`Problem`."""
    return _full(_csv(text, where), where)


def _full(rows: Sequence[Sequence[str]], where: str) -> Rows:
    """Rows that hold anything, without the columns after the last that does."""
    full = [stripped for row in rows if any(stripped := [cell.strip() for cell in row])]
    width = max((n for row in full for n, cell in enumerate(row, 1) if cell), default=0)
    if len(full) > MOST_ROWS or width > MOST_COLUMNS:
        raise Problem(f"That is more than {MOST_ROWS} rows or {MOST_COLUMNS} columns: bring it in parts.", where)
    return [row[:width] for row in full]


def _text(content: bytes) -> str:
    """UTF-8, or as older spreadsheets write it."""
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return content.decode("cp1252", "replace")


def _csv(text: str, where: str) -> Rows:
    lines = [line for line in text.splitlines() if line.strip()]
    head = lines[0] if lines else ""
    between = next((mark for mark in "\t;" if mark in head), ",")
    try:
        found = csv.reader(io.StringIO(text.lstrip("\ufeff"), newline=""), delimiter=between)
        return [row for _, row in zip(range(MOST_ROWS + 1), found, strict=False)]
    except csv.Error as refusal:
        raise Problem(f"Those rows cannot be read ({refusal}).", where) from None


def _xlsx(content: bytes, where: str) -> Rows:
    try:
        with ZipFile(io.BytesIO(content)) as package:
            limits.require_sane_archive(package, limits.WORKBOOK_BYTES)
        sheet = load_workbook(io.BytesIO(content), read_only=True, data_only=True).worksheets[0]
        rows = sheet.iter_rows(max_row=MOST_ROWS + 1, max_col=MOST_COLUMNS + 1, values_only=True)
        return [[_cell(cell) for cell in row] for row in rows]
    except Problem:
        raise
    except UNREADABLE:
        raise Problem("That workbook cannot be read: save it once more as XLSX or CSV.", where) from None


def _cell(cell: object) -> str:
    """A cell as it is typed: days without their midnight."""
    if cell is None:
        return ""
    text = str(cell)
    return text.removesuffix(" 00:00:00") if hasattr(cell, "hour") else text
