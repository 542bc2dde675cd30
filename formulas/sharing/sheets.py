"""A formula as rows of a spreadsheet, CSV or XLSX, and such rows read back as the file of a formula."""

from collections.abc import Iterator, Sequence
from typing import Any

from balmcore.errors import Problem
from balmcore.recipes.words.known import clean
from balmcore.recipes.words.names import exactly
from balmcore.tables import Tables
from formulas.models import Version
from formulas.sharing.files import MOST_BYTES, MOST_LINES, SCHEMA, SORT, to_file
from workshop.files.sheets import Value
from workshop.files.tables_in import rows_of

HEADER = ("Ingredient", "INCI", "Percent", "Key", "Formula", "Kind")


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
    rows = rows_of(content)
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
