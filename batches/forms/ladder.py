"""The ladder's form: an ingredient between two shares, in so many test cups."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal

from balmcore import units
from balmcore.composition import percent_text
from balmcore.design.ladder import MOST, Ladder, Rung, ladder
from balmcore.display import figure, mass_words
from balmcore.errors import Problem
from balmcore.tables import Ingredient, Kind, Role, Tables
from balmcore.wording import in_sentence
from formulas.models import Version
from workshop.models import Preferences
from workshop.pictures.graph import HALF, Graph, graph
from workshop.web import Fields, Reading

USUAL_CUP_G = 20
USUAL_LOSS_G, MOST_LOSS_G = 3, 500
BELOW, ABOVE = 12.0, 6.0  # points of firmness drawn beyond the line and the kind's window
USUAL_STEP = Decimal("0.05")  # to either side of the present share


@dataclass(frozen=True)
class LadderForm:
    """The fields as typed, what is wrong with them, and the ladder when nothing is."""

    key: str
    low: str
    high: str
    count: str
    cup: str
    loss: str
    lines: tuple[Ingredient, ...]
    problems: Mapping[str, str] = field(default_factory=dict)
    ladder: Ladder | None = None
    picture: Graph | None = None

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
    composition, kind = version.to_composition(tables), version.formula.to_kind(tables)
    lines = composition.ingredients
    usual = next((line for line in composition.lines if line.ingredient.role == Role.WAX), composition.lines[0])
    key = data.text("key") if data.text("key") in composition.keys else usual.key
    share = composition.share_of(key)
    chosen = key == data.text("was")
    low = data.text("low", 40) if chosen else percent_text(max(share - USUAL_STEP, Decimal(0)))
    high = data.text("high", 40) if chosen else percent_text(min(share + USUAL_STEP, Decimal(1)))
    count = data.text("count", 40) or "5"
    cup = data.text("cup", 40) or prefs.show.mass_text(USUAL_CUP_G)
    loss = data.text("loss", 40) or prefs.show.mass_text(USUAL_LOSS_G)
    reading = Reading()
    problems = reading.problems
    between = (
        reading.value("low", lambda: units.share(low), Decimal(0)),
        reading.value("high", lambda: units.share(high), Decimal(1)),
    )
    rungs = reading.value("count", lambda: units.count(count, MOST), MOST)
    grams = reading.value("cup", lambda: units.mass_g(cup, prefs.mass_unit, prefs.kitchen), Decimal(USUAL_CUP_G))
    stays = reading.amount(
        "loss", lambda: units.mass_g(loss, prefs.mass_unit, prefs.kitchen), 0, MOST_LOSS_G, mass_words
    )
    made = None
    if not problems:
        try:
            made = ladder(composition, key, between, rungs, grams, prefs.resolution_g, kind.overrun, stays)
        except Problem as problem:
            problems[problem.where if problem.where in ("low", "count", "cup", "loss") else "whole"] = problem.sentence
    picture = _picture(made, kind) if made else None
    return LadderForm(key, low, high, count, cup, loss, lines, problems, made, picture)


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
