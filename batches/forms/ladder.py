"""The ladder's form: an ingredient between two shares, in so many test cups."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal

from balmcore import units
from balmcore.composition import percent_text
from balmcore.design.ladder import MOST, Ladder, Rung, ladder
from balmcore.errors import Problem
from balmcore.tables import Ingredient, Role, Tables
from formulas.models import Version
from workshop.models import Preferences
from workshop.web import Fields, Reading

USUAL_CUP_G = 20
USUAL_STEP = Decimal("0.05")  # to either side of the present share


@dataclass(frozen=True)
class LadderForm:
    """The fields as typed, what is wrong with them, and the ladder when nothing is."""

    key: str
    low: str
    high: str
    count: str
    cup: str
    lines: tuple[Ingredient, ...]
    problems: Mapping[str, str] = field(default_factory=dict)
    ladder: Ladder | None = None

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
    reading = Reading()
    problems = reading.problems
    between = (
        reading.value("low", lambda: units.share(low), Decimal(0)),
        reading.value("high", lambda: units.share(high), Decimal(1)),
    )
    rungs = reading.value("count", lambda: units.count(count, MOST), MOST)
    grams = reading.value("cup", lambda: units.mass_g(cup, prefs.mass_unit, prefs.kitchen), Decimal(USUAL_CUP_G))
    made = None
    if not problems:
        try:
            made = ladder(composition, key, between, rungs, grams, prefs.resolution_g, kind.overrun)
        except Problem as problem:
            problems[problem.where if problem.where in ("low", "count", "cup") else "whole"] = problem.sentence
    return LadderForm(key, low, high, count, cup, lines, problems, made)
