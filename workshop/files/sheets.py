"""A list as a file for a spreadsheet: CSV or XLSX. What begins like a formula is text in both."""

import csv
from collections.abc import Iterable, Iterator, Sequence
from datetime import date
from decimal import Decimal
from io import BytesIO, StringIO
from itertools import chain

from django.http import Http404, HttpResponse, HttpResponseBase, StreamingHttpResponse
from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.worksheet._write_only import WriteOnlyWorksheet as Worksheet

from balmcore.display import COMMA, DAY_FIRST, MONTH_FIRST, POINT, YEAR_FIRST, Display

Value = str | int | float | Decimal | date | None
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
# As some spreadsheets take them: wide signs and a wide semicolon too.
LIKE_A_FORMULA = ("=", "+", "-", "@", "\t", "\r", "＝", "＋", "－", "＠", "；")
DAY_FORMATS = {DAY_FIRST: "dd/mm/yyyy", MONTH_FIRST: "mm/dd/yyyy", YEAR_FIRST: "yyyy-mm-dd"}
LONGEST_CELL = 32_767


def sheet_response(
    name: str, header: Sequence[str], rows: Iterable[Sequence[Value]], kind: str, show: Display
) -> HttpResponseBase:
    """A list to download, by its name and ``kind``, csv or xlsx, with the maker's mark and order of dates. Raises
    :class:`Http404` for another."""
    if kind == "csv":
        answer: HttpResponseBase = StreamingHttpResponse(
            _csv(header, rows, show), content_type="text/csv; charset=utf-8"
        )
    elif kind == "xlsx":
        answer = HttpResponse(_xlsx(name, header, rows, show), content_type=XLSX)
    else:
        raise Http404
    answer["Content-Disposition"] = f'attachment; filename="{name}.{kind}"'
    return answer


def _csv(header: Sequence[str], rows: Iterable[Sequence[Value]], show: Display) -> Iterator[str]:
    between = ";" if show.mark == COMMA else ","  # as spreadsheets of such a place expect
    yield "\ufeff"  # by which spreadsheets know it for UTF-8
    for row in chain((header,), rows):
        line = StringIO()
        csv.writer(line, delimiter=between).writerow([_written(value, show) for value in row])
        yield line.getvalue()


def _written(value: Value, show: Display) -> Value:
    """A cell as the maker writes it."""
    if isinstance(value, float | Decimal):
        return f"{value}".replace(POINT, show.mark)
    return show.day_field(value) if isinstance(value, date) else as_text(value)


def as_text(value: Value) -> Value:
    """A spreadsheet would reckon with what begins like a formula: an apostrophe makes it text."""
    return f"'{value}" if isinstance(value, str) and value.startswith(LIKE_A_FORMULA) else value


def _plain(sheet: Worksheet, text: str) -> WriteOnlyCell:
    """Text that would be a formula."""
    cell = WriteOnlyCell(sheet, text)
    cell.data_type = "s"
    return cell


def _xlsx(name: str, header: Sequence[str], rows: Iterable[Sequence[Value]], show: Display) -> bytes:
    book = Workbook(write_only=True)
    sheet = book.create_sheet(name[:31])
    days: dict[date, WriteOnlyCell] = {}  # a cell is written at once, so that one serves for all of its day
    for row in chain((header,), rows):
        cells = []
        for value in row:
            if isinstance(value, str):
                text = ILLEGAL_CHARACTERS_RE.sub("", value)[:LONGEST_CELL]
                cells.append(_plain(sheet, text) if text.startswith("=") else text or None)
            elif isinstance(value, date):
                if value not in days:
                    days[value] = WriteOnlyCell(sheet, value)
                    days[value].number_format = DAY_FORMATS[show.dates]
                cells.append(days[value])
            else:
                cells.append(value)
        sheet.append(cells)
    kept = BytesIO()
    book.save(kept)
    return kept.getvalue()
