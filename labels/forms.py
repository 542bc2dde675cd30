"""The form of a label: what stands on it, how large it is, and the sheet it is printed on."""

from typing import Any

from django import forms

from balmcore import units
from balmcore.display import figure
from balmcore.errors import Problem
from balmcore.labels.layout import Shape, Size
from balmcore.labels.sheets import PAGES, Grid, fitting_grid
from balmcore.labels.sizes import suiting
from balmcore.tables import Container
from labels.models import NAME_CHOICES, LabelText, Maker, Sheet
from workshop.forms import TypedField, mass_field
from workshop.models import Preferences

SIDES = (("one", "All on one"), ("front", "Front"), ("back", "Back"))
SHAPES = ((Shape.ROUND.value, "Round"), (Shape.RECTANGLE.value, "Rectangle"))
CODES = (("False", "None"), ("True", "A square one, for a telephone to read"))
MOST_COUNT = 2000
LENGTHS = {
    "left": "Left margin",
    "top": "Top margin",
    "gap_x": "Gap across",
    "gap_y": "Gap down",
    "offset_x": "Move right",
    "offset_y": "Move down",
}


def length_field(label: str) -> TypedField:
    """A length in millimetres, as it is typed."""
    return TypedField(
        lambda text: float(units.number(text.removesuffix("mm"))), lambda value: figure(value), label=label
    )


def _whole(label: str, least: int, most: int) -> forms.IntegerField:
    told = f"Write a whole number from {least} to {most}."
    words = dict.fromkeys(("invalid", "min_value", "max_value", "required"), told)
    widget = forms.TextInput(attrs={"inputmode": "numeric"})
    return forms.IntegerField(label=label, min_value=least, max_value=most, error_messages=words, widget=widget)


class LabelForm(forms.Form):
    """A label and its sheet."""

    maker = forms.CharField(label="Who makes it", max_length=120, required=False)
    address = forms.CharField(label="Where", max_length=200, required=False)
    use = forms.CharField(
        label="How to use it", max_length=400, required=False, widget=forms.Textarea(attrs={"rows": 2})
    )
    names = forms.ChoiceField(label="Ingredients by", choices=NAME_CHOICES)
    dates = forms.ChoiceField(label="How long it lasts", choices=LabelText.Dates.choices)
    has_code = forms.TypedChoiceField(label="Code of the batch", choices=CODES, coerce=lambda word: word == "True")
    claims_why = forms.CharField(label="My rules allow these words, because", max_length=200, required=False)
    beside = forms.CharField(label="Where the cautions go instead", max_length=200, required=False)
    side = forms.ChoiceField(label="Label", choices=SIDES)
    shape = forms.ChoiceField(label="Shape", choices=SHAPES)
    paper = forms.ChoiceField(label="Paper", choices=Preferences.Paper.choices)

    def __init__(self, *arguments: Any, prefs: Preferences, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["net"] = mass_field(
            prefs, label="Net weight, where you declare it", required=False,
            help_text="Left empty, that of the lightest piece.",
        )  # fmt: skip
        self.fields["width"] = length_field("Width, mm")
        self.fields["height"] = length_field("Height, mm")
        self.fields["columns"] = _whole("Columns", 1, 50)
        self.fields["rows"] = _whole("Rows", 1, 100)
        for name, label in LENGTHS.items():
            self.fields[name] = length_field(label)
        self.fields["start"] = _whole("First label at", 1, 5000)
        self.fields["count"] = _whole("Labels", 1, MOST_COUNT)

    @property
    def size(self) -> Size:
        """The label as it is cut. Raises :class:`Problem`."""
        data = self.cleaned_data
        return Size(Shape(data["shape"]), data["width"], data["height"]).checked()

    @property
    def grid(self) -> Grid:
        """The sheet it is printed on."""
        data = self.cleaned_data
        margins = (data["left"], data["top"], data["gap_x"], data["gap_y"])
        return Grid(PAGES[data["paper"]], data["columns"], data["rows"], *margins, (data["offset_x"], data["offset_y"]))


def usual(
    text: LabelText, maker: Maker, paper: str, container: Container | None, count: int, size: Size | None = None
) -> dict[str, Any]:
    """What stands in the form at first: a label that suits the container, as many as there are pieces, on as full a
    sheet as the paper takes."""
    chosen = size or (next(iter(suiting(container).values())) if container else Size(Shape.RECTANGLE, 60, 40))
    try:
        grid = fitting_grid(chosen, paper)
    except Problem:
        grid = Grid(PAGES[paper], 1, 1, 0, 0)
    return {
        "maker": maker.name,
        "address": maker.address,
        "use": text.use,
        "names": text.names,
        "dates": text.dates,
        "has_code": text.has_code,
        "claims_why": text.claims_why,
        "side": "one",
        "shape": chosen.shape.value,
        "width": chosen.width_mm,
        "height": chosen.height_mm,
        "paper": paper,
        **of_grid(grid),
        "start": 1,
        "count": max(1, min(count, MOST_COUNT)),
    }


def of_grid(grid: Grid) -> dict[str, Any]:
    """A sheet as it stands in the form."""
    lengths = (grid.left_mm, grid.top_mm, grid.gap_x_mm, grid.gap_y_mm, *grid.offset_mm)
    return {"columns": grid.columns, "rows": grid.rows, **dict(zip(LENGTHS, lengths, strict=True))}


def of_sheet(sheet: Sheet) -> dict[str, Any]:
    """A kept sheet as it stands in the form."""
    return {"paper": sheet.paper, "columns": sheet.columns, "rows": sheet.rows,
            **{name: getattr(sheet, f"{name}_mm") for name in LENGTHS}}  # fmt: skip
