"""The planning form: containers and counts as typed, and the grams they come to."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal

from balmcore import units
from balmcore.batch import MOST_PIECES, Filling, Piece, Scaled, pot_order, pour_temperature
from balmcore.firmness import Prediction, predict
from balmcore.formula import percent_text
from balmcore.problems import Problem
from balmcore.tables import Container, Ingredient, library
from batches.services import Plan
from formulas.models import Version
from workshop.models import Preferences
from workshop.web import Fields

MOST_ROWS = 12
USUAL_LOSS_G = 3.0


@dataclass(frozen=True)
class Row:
    """One container as typed, and what is wrong with it."""

    key: str
    count: str
    fill: str
    problem: str = ""


@dataclass(frozen=True)
class Weight:
    """One line of the result, in the order of the pot."""

    ingredient: Ingredient
    grams: Decimal
    percent: str
    flag: str


@dataclass(frozen=True)
class Planning:
    """The whole form. ``plan`` and ``scaled`` are there when everything could be read."""

    rows: tuple[Row, ...]
    resolution: str
    loss: str
    pour: str
    whip: str
    problems: Mapping[str, str] = field(default_factory=dict)
    plan: Plan | None = None
    scaled: Scaled | None = None
    weights: tuple[Weight, ...] = ()
    prediction: Prediction | None = None

    @property
    def pieces(self) -> list[tuple[str, Piece]]:
        """Each container's name and what one of it holds."""
        if self.plan is None or self.scaled is None:
            return []
        return [(self.plan.names[piece.key], piece) for piece in self.scaled.pieces]


def by_suit(version: Version, containers: Mapping[str, Container]) -> list[Container]:
    """All containers, those that suit the version's kind first, then the maker's own, then others."""
    suits = version.formula.kind.suits

    def place(container: Container) -> int:
        matches = [n for n, family in enumerate(suits) if family in container.suits]
        return matches[0] if matches else len(suits) + (container.kind != "own")

    return sorted(containers.values(), key=place)


def fresh(version: Version, prefs: Preferences, containers: Mapping[str, Container]) -> Planning:
    """The form for a version: four of a container that suits its kind, the usual loss."""
    kind, show = version.formula.kind, prefs.show
    suited = by_suit(version, containers)
    prediction = predict(version.core)
    typed = Planning(
        rows=(Row(suited[0].key, "4", percent_text(Decimal(str(suited[0].fill)), 0)),),
        resolution=show.step_text(prefs.resolution_g),
        loss=f"{show.in_mass(USUAL_LOSS_G):.{1 if show.mass == 'g' else 2}f} {show.mass}",
        pour=show.temp_text(pour_temperature(prediction.set_c)),
        whip=f"{kind.overrun * 100:.0f}" if kind.overrun else "",
    )
    return _computed(typed, version, prefs, containers)


def read(data: Fields, version: Version, prefs: Preferences, containers: Mapping[str, Container]) -> Planning:
    """The form as posted, with one action carried out: ``add_row``, ``drop_row`` or none."""
    columns = (data.texts("container"), data.texts("count"), data.texts("fill"))
    rows = [Row(*(cell[:80] for cell in cells)) for cells in list(zip(*columns, strict=False))[:MOST_ROWS]]
    for n, row in enumerate(rows):
        # Another container chosen: its usual fill comes with it.
        if data.whole("chosen") == n and row.key in containers:
            rows[n] = replace(row, fill=percent_text(Decimal(str(containers[row.key].fill)), 0))
    if (drop := data.whole("drop_row")) is not None and drop < len(rows):
        del rows[drop]
    if data.text("add_row") and len(rows) < MOST_ROWS:
        taken = {row.key for row in rows}
        extra = next(c for c in by_suit(version, containers) if c.key not in taken)
        rows.append(Row(extra.key, "1", percent_text(Decimal(str(extra.fill)), 0)))
    resolution, loss, pour, whip = (data.text(name, 80) for name in ("resolution", "loss", "pour", "whip"))
    typed = Planning(tuple(rows), resolution, loss, pour, whip)
    return _computed(typed, version, prefs, containers)


def _computed(typed: Planning, version: Version, prefs: Preferences, containers: Mapping[str, Container]) -> Planning:
    show, problems = prefs.show, dict[str, str]()
    rows, fillings, names = [], [], dict[str, str]()
    for row in typed.rows:
        try:
            filling = _filling(row, containers)
        except Problem as problem:
            rows.append(replace(row, problem=problem.sentence))
        else:
            rows.append(row)
            fillings.append(filling)
            names[filling.key] = containers[filling.key].name

    def value(name: str, text: str, low: float, high: float, unit: str = "") -> Decimal:
        try:
            number = _amount(name, text, prefs)
            if not low <= number <= high:
                raise Problem(f"This should be between {low:g} and {high:g}{unit}.")
        except Problem as problem:
            problems[name] = problem.sentence
            return Decimal(0)
        return number

    resolution = value("resolution", typed.resolution, 0.0005, 50, " g")
    loss = value("loss", typed.loss, 0, 5000, " g")
    pour = value("pour", typed.pour, -20, 120, " °C")
    whip = value("whip", typed.whip, 0, 400, " %") / 100 if typed.whip or version.formula.kind.overrun else Decimal(0)
    prediction = predict(version.core, float(whip))
    typed = replace(typed, rows=tuple(rows), problems=problems, prediction=prediction)
    if problems or any(row.problem for row in rows):
        return typed
    chosen = Plan(fillings, names, float(pour), round(resolution, 6), round(loss, 6), float(whip))
    try:
        scaled = chosen.scaled(version)
    except Problem as problem:
        problems[problem.where or "whole"] = problem.sentence
        return typed
    if prediction.set_c is not None and not whip and float(pour) < prediction.set_c:
        problems["pour"] = (
            f"At {show.temp_text(float(pour))} it has set already; a skin forms at {show.temp_text(prediction.set_c)}."
        )
    return replace(typed, plan=chosen, scaled=scaled, weights=_weights(version, scaled))


def _weights(version: Version, scaled: Scaled) -> tuple[Weight, ...]:
    flags = {flag.key: flag.sentence for flag in scaled.flags}
    formula = version.core
    shares = {line.key: line.share for line in formula.lines}
    return tuple(
        Weight(library().ingredient(key), scaled.lines[key], percent_text(shares[key], 2), flags.get(key, ""))
        for key in pot_order(formula)
    )


def _filling(row: Row, containers: Mapping[str, Container]) -> Filling:
    container = containers.get(row.key)
    if container is None:
        raise Problem("That container is no longer in the pantry: choose another.")
    fill = units.share(row.fill)
    if fill <= 0:
        raise Problem("Filled to nothing holds nothing: write 90 for 90 %.")
    return Filling(container.key, container.capacity_ml, float(fill), units.count(row.count, MOST_PIECES))


def _amount(name: str, text: str, prefs: Preferences) -> Decimal:
    if name == "pour":
        return Decimal(str(units.temp_c(text, prefs.temp_unit)))
    if name == "whip":
        return units.number(text.strip().removesuffix("%"))
    return units.mass_g(text, prefs.mass_unit, prefs.kitchen)
