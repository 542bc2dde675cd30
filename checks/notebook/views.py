"""The page on which a notebook is brought: looked at first, then made."""

import csv
import io
from collections.abc import Sequence

from django.contrib import messages
from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_safe

from balmcore.errors import Problem
from balmcore.recipes.notebook import ROLES, Notebook, read_notebook
from balmcore.trials.press import THUMB_WORDS
from checks.notebook.making import bring
from workshop.files.sheets import sheet_response
from workshop.files.tables_in import Rows, rows_of, rows_of_text
from workshop.web import Fields, Request

MOST_BYTES, MOST_LETTERS = 2_000_000, 400_000
HEADER = ("Name", "Day", "Ingredients", "Firmness", "Tested at", "Cooled", "Verdict", "Notes")
EXAMPLE = (
    ("Slack Water", "14/03/2026", "beeswax 18 g; olive oil 62 g; shea butter, refined 20 g", "pot salve", "20 °C",
     "refrigerator", "keep", "Three tins for the allotments."),
    ("Slack Water", "02/05/2026", "beeswax 21 g; olive oil 59 g; shea butter, refined 20 g", "firm pot", "22 °C",
     "counter", "change", "Grainy after a week."),
    ("North Wind", "", "20 % beeswax; 25 % cocoa butter; 55 % sunflower oil", "", "", "", "", "Never made yet."),
)  # fmt: skip


def notebook(request: Request) -> HttpResponse:
    """A table as a file or pasted, its columns chosen, its rows seen before anything is made of them."""
    if request.method != "POST":
        return _page(request, None, [])
    fields = Fields(request.POST)
    try:
        rows = _rows(request, fields)
        picks = [fields.text(f"item-{at}", 120) for at in range(len(rows[0]) if rows else 0)]
        found = _read(request, rows, fields.texts("column"), picks)
    except Problem as problem:
        return _page(request, None, [], problem.sentence, fields.text("pasted", MOST_LETTERS))
    if not fields.text("bring"):
        return _page(request, found, rows)
    taken = {int(text) for text in fields.texts("take") if text.isascii() and text.isdigit() and len(text) < 6}
    chosen = [entry for entry in found.good if entry.number in taken]
    if not chosen:
        return _page(request, found, rows, "Nothing is taken: tick the rows that should come in.")
    made = bring(chosen, request.tables, request.prefs)
    messages.success(request, f"Brought: {made.words}.")
    return redirect("pours:log" if made.pours else "formulas:list")


def _rows(request: Request, fields: Fields) -> Rows:
    """The rows of the file or of what was pasted, with cells that were put right on the page."""
    file = request.FILES.get("file")
    if file is not None:
        if (file.size or 0) > MOST_BYTES:
            raise Problem("That is larger than any notebook: two megabytes are read at most.", "file")
        return rows_of(file.read())
    rows = rows_of_text(fields.text("pasted", MOST_LETTERS))
    for row, cells in enumerate(rows):
        for at in range(len(cells)):
            if (put_right := request.POST.get(f"cell-{row}-{at}")) is not None:
                cells[at] = put_right.strip()[:4000]
    return rows


def _read(request: Request, rows: Rows, chosen: Sequence[str], picks: Sequence[str]) -> Notebook:
    prefs = request.prefs
    return read_notebook(
        rows,
        request.tables,
        chosen,
        picks,
        prefs.kitchen,
        prefs.mass_unit,
        prefs.temp_unit,
        prefs.date_order,
        timezone.localdate(),
        THUMB_WORDS,
    )


def _page(request: Request, found: Notebook | None, rows: Rows, said: str = "", pasted: str = "") -> HttpResponse:
    columns = list(enumerate(found.columns)) if found else []
    at = next((place for place, column in columns if column.role == "ingredients"), None)
    context = {
        "found": found,
        "said": said,
        "pasted": _as_text(rows) if found else pasted,
        "columns": columns,
        "roles": ROLES.items(),
        "ingredients_at": at,
        "shown": [(entry, rows[entry.number][at] if at is not None and at < len(rows[entry.number]) else "")
                  for entry in found.entries] if found else [],
    }  # fmt: skip
    return render(request, "checks/notebook.html", context, status=400 if said else 200)


def _as_text(rows: Rows) -> str:
    """The table as it is posted again: as a spreadsheet writes it, between tabs."""
    kept = io.StringIO()
    csv.writer(kept, delimiter="\t").writerows(rows)
    return kept.getvalue()


@require_safe
def example(request: Request, kind: str) -> HttpResponseBase:
    """A table to fill in."""
    return sheet_response("notebook", HEADER, EXAMPLE, kind, request.prefs.show)
