"""The ladder's form: an ingredient between two shares, in so many test cups."""

from collections.abc import Mapping
from decimal import Decimal

from django import forms

from balmcore import units
from balmcore.composition import percent_text
from balmcore.design.ladder import MOST, Ladder, Rung, ladder
from balmcore.display import figure, mass_words, percent_words
from balmcore.errors import Problem
from balmcore.tables import Ingredient, Kind, Role, Tables
from balmcore.wording import in_sentence
from formulas.models import Version
from workshop.forms import AmountField, WordsForm, tell
from workshop.models import Preferences
from workshop.pictures.graph import HALF, Graph, graph
from workshop.web import Fields

USUAL_CUP_G = 20
USUAL_LOSS_G, MOST_LOSS_G = 3, 500
MOST_CUP_G = 50_000
BELOW, ABOVE = 12.0, 6.0  # points of firmness drawn beyond the line and the kind's window
USUAL_STEP = Decimal("0.05")  # to either side of the present share


class LadderForm(WordsForm):
    """An ingredient between two shares, so many cups of so many grams. ``ladder`` is there when nothing is wrong."""

    key = forms.CharField(required=False)
    ladder: Ladder | None = None

    def __init__(self, data: Mapping[str, str], version: Version, tables: Tables, prefs: Preferences) -> None:
        super().__init__(data)
        self.composition, self.kind = version.to_composition(tables), version.formula.to_kind(tables)
        self.prefs = prefs

        def mass(text: str) -> Decimal:
            return units.mass_g(text, prefs.mass_unit, prefs.kitchen)

        for name in ("low", "high"):
            self.fields[name] = AmountField(units.share, 0, 1, lambda share: percent_words(share * 100))
        self.fields["count"] = AmountField(lambda text: units.count(text, MOST), 1, MOST, figure)
        self.fields["cup"] = AmountField(mass, 0, MOST_CUP_G, mass_words)
        self.fields["loss"] = AmountField(mass, 0, MOST_LOSS_G, mass_words)

    @property
    def lines(self) -> tuple[Ingredient, ...]:
        """What can be given more and less of."""
        return self.composition.ingredients

    def clean(self) -> None:
        """The ladder, where it can be; what stands in the way is said at its field."""
        data = self.cleaned_data
        if self.errors:
            return
        between = data["low"], data["high"]
        step, overrun = self.prefs.resolution_g, self.kind.overrun
        try:
            self.ladder = ladder(
                self.composition, data["key"], between, data["count"], data["cup"], step, overrun, data["loss"]
            )
        except Problem as problem:
            tell(self, problem)

    @property
    def picture(self) -> Graph | None:
        """The cups under the line of the firmness to expect."""
        return _picture(self.ladder, self.kind) if self.is_valid() and self.ladder else None

    @property
    def rows(self) -> list[tuple[Rung, str]]:
        """The rungs with their percentages."""
        return [(rung, percent_text(rung.share, 2)) for rung in self.ladder.rungs] if self.ladder else []

    @property
    def stocks(self) -> list[tuple[Ingredient, Decimal, Decimal]]:
        """Grams of every ingredient in the low and in the high stock melt."""
        if self.ladder is None:
            return []
        low, high = self.ladder.low, self.ladder.high
        return [(item, low.lines[item.key], high.lines[item.key]) for item in low.composition.ingredients]


def read(data: Fields, version: Version, tables: Tables, prefs: Preferences) -> LadderForm:
    """The form as posted or, where nothing was, five cups around the present share of the wax."""
    composition, show = version.to_composition(tables), prefs.show
    usual = next((line for line in composition.lines if line.ingredient.role == Role.WAX), composition.lines[0])
    key = data.text("key") if data.text("key") in composition.keys else usual.key
    share = composition.share_of(key)
    around = {
        "low": percent_text(max(share - USUAL_STEP, Decimal(0))),
        "high": percent_text(min(share + USUAL_STEP, Decimal(1))),
    }
    # Another ingredient chosen: the shares around its own come with it.
    ends = {name: data.text(name, 40) for name in around} if key == data.text("was") else around
    rest = {"count": "5", "cup": show.mass_text(USUAL_CUP_G), "loss": show.mass_text(USUAL_LOSS_G)}
    typed = {name: data.text(name, 40) or usually for name, usually in rest.items()}
    form = LadderForm({"key": key, **ends, **typed}, version, tables, prefs)
    form.full_clean()
    return form


def _picture(made: Ladder, kind: Kind) -> Graph:
    """The cups along the axis of the ingredient, under the line of the firmness to expect."""
    name = next(item.name for item in made.low.composition.ingredients if item.key == made.key)
    firmnesses = [firmness for _, firmness in made.line]
    low = max(0.0, min(*firmnesses, kind.firm_low) - BELOW)
    high = max(*firmnesses, kind.firm_high) + ABOVE
    levels = [
        (kind.firm_low, f"{in_sentence(kind.name)} from {figure(kind.firm_low)}"),
        (kind.firm_high, f"{in_sentence(kind.name)} to {figure(kind.firm_high)}"),
    ]
    ends = made.line[0][0], made.line[-1][0]
    margin = (ends[1] - ends[0]) * 0.06
    return graph(
        [made.line],
        (ends[0] - margin, ends[1] + margin),
        (low, high),
        [(float(rung.share), f"{percent_text(rung.share, 1)} %") for rung in made.rungs],
        [(float(at), str(at)) for at in range(0, 120, 10) if low <= at <= high],
        f"Firmness to expect at 21 degrees by the share of {in_sentence(name)}.",
        levels=levels,
        size=HALF,
        cups=[(float(rung.share), rung.firmness, str(rung.number)) for rung in made.rungs],
    )
