"""Sheets of labels by the maker's own grid, and printing them: PDF, exact in millimetres, letters embedded."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from io import BytesIO

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from balmcore.display import figure
from balmcore.errors import Problem
from balmcore.labels.codes import DOT_MM
from balmcore.labels.fonts import font
from balmcore.labels.layout import Layout, Shape, Size

MOST_LABELS = 2000  # in one file: a hundred sheets of twenty
PAGES = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}  # width and height in mm: ISO 216, and ANSI Y14.1 A
HAIR_MM = 0.1  # a line that is cut along


@dataclass(frozen=True)
class Grid:
    """Labels on a sheet, in millimetres: the page, rows and columns, the margins at the left and above, the gaps
    between labels. ``offset`` moves everything, for a printer that pulls askew."""

    page: tuple[float, float]
    columns: int
    rows: int
    left_mm: float
    top_mm: float
    gap_x_mm: float = 0.0
    gap_y_mm: float = 0.0
    offset_mm: tuple[float, float] = (0.0, 0.0)

    @property
    def per_sheet(self) -> int:
        """How many labels a sheet has."""
        return self.columns * self.rows

    def checked(self, size: Size) -> "Grid":
        """Itself. Raises :class:`Problem` where labels of that size do not fit the page."""
        if not (1 <= self.columns <= 50 and 1 <= self.rows <= 100):
            raise Problem("A sheet has 1 to 50 columns and 1 to 100 rows.", "columns")
        if min(self.left_mm, self.top_mm, self.gap_x_mm, self.gap_y_mm) < 0:
            raise Problem("Margins and gaps are not below nothing.", "left")
        wide = self.left_mm + self.columns * size.width_mm + (self.columns - 1) * self.gap_x_mm
        high = self.top_mm + self.rows * size.height_mm + (self.rows - 1) * self.gap_y_mm
        if wide > self.page[0] + 1e-6 or high > self.page[1] + 1e-6:
            raise Problem(
                f"{self.columns} × {self.rows} of these labels need {figure(wide)} × {figure(high)} mm, and the page "
                f"has {figure(self.page[0])} × {figure(self.page[1])}: take fewer, or smaller margins.",
                "columns",
            )
        return self

    def place(self, number: int, size: Size) -> tuple[float, float]:
        """Where the upper left corner of the n-th label of a sheet lies, counted from nothing, row by row."""
        row, column = divmod(number, self.columns)
        x = self.left_mm + column * (size.width_mm + self.gap_x_mm) + self.offset_mm[0]
        y = self.top_mm + row * (size.height_mm + self.gap_y_mm) + self.offset_mm[1]
        return x, y


def fitting_grid(size: Size, page: str = "a4", margin_mm: float = 8.0, gap_mm: float = 2.0) -> Grid:
    """As many labels as a page takes, in its middle."""
    wide, high = PAGES[page]
    columns = int((wide - 2 * margin_mm + gap_mm) // (size.width_mm + gap_mm))
    rows = int((high - 2 * margin_mm + gap_mm) // (size.height_mm + gap_mm))
    if not columns or not rows:
        raise Problem("That label is larger than the page: take a larger page or a smaller label.", "size")
    left = (wide - columns * size.width_mm - (columns - 1) * gap_mm) / 2
    top = (high - rows * size.height_mm - (rows - 1) * gap_mm) / 2
    return Grid((wide, high), columns, rows, round(left, 2), round(top, 2), gap_mm, gap_mm)


@dataclass(frozen=True)
class Place:
    """One label of a sheet as it will be: its upper left corner, in millimetres, and whether it is ``used`` up
    already, ``printed`` now, or stays ``free``."""

    x_mm: float
    y_mm: float
    state: str


@dataclass(frozen=True)
class SheetPreview:
    """The first sheet of some labels, and how many sheets they take."""

    page: tuple[float, float]
    size: Size
    places: tuple[Place, ...]
    sheets: int

    @property
    def radius(self) -> float:
        """Half the width of a label."""
        return self.size.width_mm / 2


def preview(grid: Grid, size: Size, start: int, count: int) -> SheetPreview:
    """What a print of so many labels does to its first sheet. Raises :class:`Problem` as :func:`print_labels` does."""
    _require_start(grid.checked(size), start)

    def state(number: int) -> str:
        if number < start - 1:
            return "used"
        return "printed" if number < start - 1 + count else "free"

    places = tuple(Place(*grid.place(n, size), state(n)) for n in range(grid.per_sheet))
    return SheetPreview(grid.page, size, places, -(-(start - 1 + count) // grid.per_sheet))


def _require_start(grid: Grid, start: int) -> None:
    if not 1 <= start <= grid.per_sheet:
        raise Problem(f"The sheet has labels 1 to {grid.per_sheet}.", "start")


def print_labels(labels: Sequence[Layout], grid: Grid, start: int = 1, outlines: bool = False) -> bytes:
    """A PDF of labels, the first at place ``start`` of the first sheet. ``outlines`` draws only where they are cut.

    Raises :class:`Problem` for no labels or too many, a grid they do not fit, and a start beyond the sheet.
    """
    if not 1 <= len(labels) <= MOST_LABELS:
        raise Problem(f"Print 1 to {MOST_LABELS} labels at once.", "count")
    _require_start(grid.checked(labels[0].size), start)
    kept = BytesIO()
    canvas = Canvas(kept, pagesize=(grid.page[0] * mm, grid.page[1] * mm), invariant=1)
    canvas.setTitle("Labels")
    canvas.setProducer("Calm Tin")
    for sheet in _sheets(labels, grid, start):
        for place, layout in sheet:
            _draw(canvas, layout, grid.place(place, layout.size), grid.page[1], outlines)
        canvas.showPage()
    canvas.save()
    return kept.getvalue()


def _sheets(labels: Iterable[Layout], grid: Grid, start: int) -> Iterator[list[tuple[int, Layout]]]:
    sheet: list[tuple[int, Layout]] = []
    place = start - 1
    for layout in labels:
        if place == grid.per_sheet:
            yield sheet
            sheet, place = [], 0
        sheet.append((place, layout))
        place += 1
    yield sheet


def _draw(canvas: Canvas, layout: Layout, at: tuple[float, float], page_mm: float, outlines: bool) -> None:
    x, y = at
    size = layout.size
    if outlines:
        canvas.setLineWidth(HAIR_MM * mm)
        if size.shape == Shape.ROUND:
            radius = size.width_mm / 2
            canvas.circle((x + radius) * mm, (page_mm - y - radius) * mm, radius * mm)
        else:
            canvas.rect(x * mm, (page_mm - y - size.height_mm) * mm, size.width_mm * mm, size.height_mm * mm)
        return
    if layout.code:
        for left, top, long in layout.code.bars:
            canvas.rect((x + left) * mm, (page_mm - y - top - DOT_MM) * mm, long * mm, DOT_MM * mm, stroke=0, fill=1)
    for text in layout.texts:
        font(text.font)
        canvas.setFont(text.font, text.size_mm * mm)
        canvas.drawString((x + text.x_mm) * mm, (page_mm - y - text.y_mm) * mm, text.text)
