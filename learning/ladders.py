"""The press tests of a ladder's cups, the line through them, and the share for the firmness wanted."""

from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from django.db import transaction

from balmcore import units
from balmcore.composition import Composition, percent_text, set_shares
from balmcore.design.ladder import Ladder, Rung, ladder
from balmcore.display import Display, figure
from balmcore.errors import Problem
from balmcore.physics.basis import firmness_lost
from balmcore.physics.firmness import predict
from balmcore.tables import Kind, Tables
from balmcore.trials.ladder_fit import FEWEST, LadderFit, RungTest, fit_ladder
from balmcore.trials.press import RODS_MM, at_window, repeated, sensible_temp
from balmcore.wording import in_sentence
from formulas.models import Version
from formulas.services import save_version
from learning.models import LadderCup, LadderTest
from workshop.models import Preferences
from workshop.pictures.graph import HALF, Graph, graph
from workshop.web import Fields

MARGIN = 8.0
RODS = tuple((str(rod), f"{rod} mm") for rod in RODS_MM)


@dataclass(frozen=True)
class Fitted:
    """A ladder with the line through its tests, None before three of them; and the picture of both."""

    ladder: Ladder
    name: str
    fit: LadderFit | None
    picture: Graph

    @property
    def doubts(self) -> tuple[str, ...]:
        """Sentences on cups that do not fit."""
        return self.fit.doubts if self.fit else ()


def begin_ladder(version: Version, made: Ladder, cup_g: Decimal) -> LadderTest:
    """A ladder whose cups are to be tested."""
    low, high = made.rungs[0].share, made.rungs[-1].share
    return LadderTest.objects.create(
        version=version, ingredient_key=made.key, low=low, high=high, count=len(made.rungs), cup_g=float(cup_g)
    )


def cups_of(test: LadderTest, tables: Tables, resolution_g: Decimal) -> Ladder:
    """The ladder as it was made, its cups as they are pressed: nobody whips a cup. Raises :class:`Problem` when it can
    no longer be."""
    composition = test.version.to_composition(tables)
    between = (test.low, test.high)
    return ladder(composition, test.ingredient_key, between, test.count, Decimal(str(test.cup_g)), resolution_g)


def as_pressed(kind: Kind) -> Kind:
    """A kind with the window that its melt has before it is whipped."""
    points = firmness_lost(kind.overrun)
    return replace(kind, firm_low=kind.firm_low + points, firm_high=kind.firm_high + points, overrun=0.0)


@dataclass(frozen=True)
class CupRow:
    """One cup as it stands on the page: its rung, what stands in its fields, what is wrong with it."""

    rung: Rung
    percent: str
    readings: str
    rod: str
    temp: str
    problem: str = ""
    grams: tuple[float, ...] = ()
    rod_mm: int | None = None
    temp_c: float | None = None


class CupProblem(Problem):
    """A cup whose test cannot be used; ``number`` is the cup's."""

    def __init__(self, number: int, problem: Problem) -> None:
        super().__init__(problem.sentence, problem.where)
        self.number = number


def cup_rows(test: LadderTest, made: Ladder, posted: Fields | None, prefs: Preferences) -> list[CupRow]:
    """The cups as posted or, where nothing was, as they are kept."""
    kept = {cup.number: cup for cup in test.cups.all()}
    rows, show = [], prefs.show
    for rung in made.rungs:
        n, cup, percent = rung.number, kept.get(rung.number), percent_text(rung.share, 1)
        grams, temp = _shown(cup, show)
        if posted is None:
            rows.append(CupRow(rung, percent, grams, str(cup.rod_mm if cup else 6), temp))
            continue
        row = CupRow(
            rung, percent, posted.text(f"readings_{n}", 80), posted.text(f"rod_{n}", 4), posted.text(f"temp_{n}", 40)
        )
        try:
            # What was shown and not touched is what is kept, to its last digit.
            found = cup.readings if cup and row.readings == grams else _readings(row.readings, show)
            temp_c = cup.test_c if cup and row.temp == temp else _temp(row.temp, show)
            row = replace(row, grams=tuple(found), rod_mm=posted.whole(f"rod_{n}"), temp_c=temp_c)
        except Problem as problem:
            row = replace(row, problem=problem.sentence)
        rows.append(row)
    return rows


def _shown(cup: LadderCup | None, show: Display) -> tuple[str, str]:
    """The readings and the temperature of a cup as its fields show them."""
    if cup is None:
        return "", ""
    readings = " ".join(show.mass_number(each) for each in cup.readings)
    return readings, "" if cup.test_c is None else show.temp_text(cup.test_c, 1)


def _readings(text: str, show: Display) -> list[float]:
    return [float(each) for each in units.masses_g(text, show.mass)] if text.strip() else []


def _temp(text: str, show: Display) -> float | None:
    return units.temp_c(text, show.temp) if text.strip() else None


def with_problem(rows: list[CupRow], problem: CupProblem) -> list[CupRow]:
    """The rows with what is wrong beside the cup it is about."""
    return [replace(row, problem=problem.sentence) if row.rung.number == problem.number else row for row in rows]


@transaction.atomic
def record_cups(test: LadderTest, made: Ladder, rows: list[CupRow], resolution_g: float) -> None:
    """Write down what the scale said of every cup; without readings a cup is not tested. All or none: raises
    :class:`CupProblem` for the first that cannot be used."""
    LadderCup.objects.filter(ladder=test).delete()
    for row in rows:
        if row.grams:
            try:
                LadderCup.objects.create(ladder=test, **_cup(row, resolution_g))
            except Problem as problem:
                raise CupProblem(row.rung.number, problem) from None


def _cup(row: CupRow, resolution_g: float) -> dict[str, Any]:
    if row.rod_mm is None:
        raise Problem("Which rod was it pressed with?", "rod_mm")
    if row.temp_c is None:
        raise Problem("How warm was the cup? Firmness means little without it.", "test_c")
    temp_c = sensible_temp(row.temp_c)
    found = repeated(row.grams, row.rod_mm, resolution_g)
    return {
        "number": row.rung.number,
        "share": row.rung.share,
        "readings": list(row.grams),
        "rod_mm": row.rod_mm,
        "test_c": temp_c,
        "firmness_21": at_window(found.measured.firmness, temp_c, predict(row.rung.composition)),
        "sigma": found.measured.sigma,
    }


def fitted(test: LadderTest, made: Ladder, kind: Kind) -> Fitted:
    """The line through the tested cups beside the model's."""
    cups = [cup for cup in test.cups.all() if cup.firmness_21 is not None]
    tests = [RungTest(cup.number, float(cup.share), cup.firmness_21 or 0.0, cup.sigma or 4.0) for cup in cups]
    fit = fit_ladder(made.line, tests) if len(tests) >= FEWEST else None
    name = next(item.name for item in made.low.composition.ingredients if item.key == made.key)
    return Fitted(made, name, fit, _picture(made, tests, fit, kind, name))


def _picture(made: Ladder, tests: list[RungTest], fit: LadderFit | None, kind: Kind, name: str) -> Graph:
    lines = [list(made.line)]
    if fit is not None:
        shares = fit.shares.tolist()
        for values in (fit.firmness, fit.firmness - fit.sigma, fit.firmness + fit.sigma):
            lines.append(list(zip(shares, values.tolist(), strict=True)))
    heights = [y for line in lines for _, y in line] + [test.firmness for test in tests]
    low, high = max(0.0, min(*heights, kind.firm_low) - MARGIN), max(*heights, kind.firm_high) + MARGIN
    ends = made.line[0][0], made.line[-1][0]
    margin = (ends[1] - ends[0]) * 0.06
    return graph(
        lines,
        (ends[0] - margin, ends[1] + margin),
        (low, high),
        [(float(rung.share), f"{percent_text(rung.share, 1)} %") for rung in made.rungs],
        [(float(at), str(at)) for at in range(0, 130, 10) if low <= at <= high],
        f"Firmness at 21 degrees by the share of {in_sentence(name)}: the model and the tested cups.",
        levels=[(kind.firm_low, f"from {figure(kind.firm_low)}"), (kind.firm_high, f"to {figure(kind.firm_high)}")],
        size=HALF,
        dots=[(test.share, test.firmness, "tests", f"Cup {test.number}: {test.firmness:.0f}") for test in tests],
    )


def picked(test: LadderTest, found: Fitted, firmness: float) -> tuple[Composition, str]:
    """The composition with the share for a firmness, and the sentence on it. Raises :class:`Problem`."""
    if found.fit is None:
        raise Problem("Test three cups at least: two points make any line.", "firmness")
    share, sigma = found.fit.share_for(firmness)
    start = found.ladder.low.composition
    exact = Decimal(str(round(share, 4)))
    told = (
        f"{found.name} {percent_text(exact)} % for firmness {firmness:.0f}, "
        f"give or take {figure(sigma * 100, 1)} percent, by {test.cups.count()} tested cups."
    )
    return set_shares(start, {found.ladder.key: exact}, follow=True), told


def make_version(test: LadderTest, composition: Composition, told: str, tables: Tables) -> Version:
    """The share picked from a ladder as the next version of its formula."""
    version, note = test.version, f"From a ladder: {told}"
    current = version.formula.versions.get(is_current=True)
    return save_version(version.formula, composition, seen=current.pk, made_from=version.number, note=note)
