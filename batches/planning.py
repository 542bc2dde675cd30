"""The planning form: containers and counts as typed, and what they come to."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from decimal import Decimal

from balmcore import units
from balmcore.composition import percent_text
from balmcore.errors import Problem
from balmcore.making.dosing import Dosing, dosing
from balmcore.making.method import method
from balmcore.making.scaling import MOST_PIECES, Piece, Scaled, film_g, pot_order, pour_temperature
from balmcore.making.steps import Bench
from balmcore.making.stock import counts_from
from balmcore.physics.cooling import DEFAULT, SCHOOLS
from balmcore.physics.firmness import Prediction, predict
from balmcore.tables import Container, Ingredient, library
from batches import methods, outlook
from batches.filling import Row, by_suit, fill_text, filled, pitchers
from batches.models import JUG, Batch
from batches.services import Plan
from formulas.models import Version
from pantry.models import Lot
from workshop.models import Preferences
from workshop.pictures.graph import MIDDLE
from workshop.web import Fields, Reading

MOST_ROWS = 12
USUAL_LOSS_G = 3.0
ON_THE_SPATULA_G = 1.5
WHIPPED = "cold"  # a whipped butter is chilled anyway


@dataclass(frozen=True)
class Weight:
    """One line of the result, in the order of the pot. ``missing_g`` is what the stock lacks."""

    ingredient: Ingredient
    grams: Decimal
    percent: str
    flag: str
    dosing: Dosing | None
    missing_g: Decimal | None


@dataclass(frozen=True)
class Held:
    """What one piece holds, beside what its fluid ounces might make one believe."""

    name: str
    piece: Piece
    capacity_ml: float
    missing: Decimal | None
    each: Decimal | None


@dataclass(frozen=True)
class Bare:
    """The fields outside the rows, as typed."""

    resolution: str
    loss: str
    pour: str
    whip: str
    pitcher: str
    room: str
    cooling: str
    when: str
    moment: str


@dataclass(frozen=True)
class Planning:
    """The whole form. ``plan`` and what follows are there when everything could be read."""

    rows: tuple[Row, ...]
    typed: Bare
    problems: Mapping[str, str] = field(default_factory=dict)
    plan: Plan | None = None
    scaled: Scaled | None = None
    weights: tuple[Weight, ...] = ()
    held: tuple[Held, ...] = ()
    prediction: Prediction | None = None
    clock: outlook.Clock | None = None
    start: datetime | None = None
    note: str = ""
    cost: outlook.Cost | None = None
    supply: outlook.Supply | None = None
    lots: tuple[tuple[Lot, str], ...] = ()

    def told(self, problem: Problem) -> "Planning":
        """The form with a problem at its place."""
        return replace(self, problems={**self.problems, problem.where or "whole": problem.sentence})

    @property
    def can_be_planned(self) -> bool:
        """True when grams are worked out, and the method and the clock if one is asked for."""
        return self.clock is not None and not self.problems.keys() - {"pour"}


def fresh(version: Version, prefs: Preferences, containers: Mapping[str, Container]) -> Planning:
    """The form for a version: four of a container that suits its kind, the usual loss."""
    kind, show = version.formula.kind, prefs.show
    suited = by_suit(version, containers)
    prediction = predict(version.core)
    typed = Bare(
        resolution=show.step_text(prefs.resolution_g),
        loss=_loss_text(USUAL_LOSS_G, prefs),
        pour=show.temp_text(pour_temperature(prediction.set_c)),
        whip=f"{kind.overrun * 100:.0f}" if kind.overrun else "",
        pitcher="",
        room=show.temp_text(prefs.cool_room_c),
        cooling=WHIPPED if kind.overrun else DEFAULT,
        when="",
        moment="",
    )
    rows = (Row(suited[0].key, "4", fill_text(suited[0])),)
    return _computed(Planning(rows, typed), version, prefs, containers)


def _loss_text(grams: float, prefs: Preferences) -> str:
    show = prefs.show
    return f"{show.in_mass(grams):.{1 if show.mass == 'g' else 2}f} {show.mass}"


def read(data: Fields, version: Version, prefs: Preferences, containers: Mapping[str, Container]) -> Planning:
    """The form as posted, with one action carried out: ``add_row``, ``drop_row``, ``fit`` or none."""
    columns = (data.texts("container"), data.texts("count"), data.texts("fill"))
    rows = [Row(*(cell[:80] for cell in cells)) for cells in list(zip(*columns, strict=False))[:MOST_ROWS]]
    for n, row in enumerate(rows):
        # Another container chosen: its usual fill comes with it.
        if data.whole("chosen") == n and row.key in containers:
            rows[n] = replace(row, fill=fill_text(containers[row.key]))
    if (drop := data.whole("drop_row")) is not None and drop < len(rows):
        del rows[drop]
    if data.text("add_row") and len(rows) < MOST_ROWS:
        taken = {row.key for row in rows}
        extra = next(c for c in by_suit(version, containers) if c.key not in taken)
        rows.append(Row(extra.key, "1", fill_text(extra)))
    typed = Bare(**{name: data.text(name, 80) for name in Bare.__annotations__})
    found = _computed(Planning(tuple(rows), typed), version, prefs, containers)
    if found.plan and found.scaled and data.text("chosen_pitcher"):
        loss = _loss_text(_stays(found), prefs)
        found = _computed(replace(found, typed=replace(typed, loss=loss)), version, prefs, containers)
    # The list of lots keeps what was chosen in it; only choosing fits the counts anew.
    if fit := data.text("use_up", 40) if data.text("chosen_lot") else data.text("fit", 40):
        found = _fitted(found, fit, version, prefs, containers)
    return found


def _stays(form: Planning) -> float:
    """Grams that stay in the pitcher chosen and on the spatula."""
    assert form.plan is not None
    assert form.scaled is not None
    density = form.scaled.density_g_ml * (1 + form.plan.overrun)
    return film_g(density, form.scaled.product_g / density, form.plan.pitcher.diameter_mm or 70) + ON_THE_SPATULA_G


def _fitted(
    form: Planning, fit: str, version: Version, prefs: Preferences, containers: Mapping[str, Container]
) -> Planning:
    """The form with its counts fitted to the stock, or to using up one lot (``fit`` is its number)."""
    if form.plan is None or form.scaled is None:
        return form
    formula, plan = version.core, form.plan
    if fit == "stock":
        if form.supply is None or form.supply.most is None:
            return replace(form, problems={"fit": "No lot of any of these is written down: nothing to fit to."})
        total = form.supply.most.total_g
    else:
        lot = next((lot for lot, _ in form.lots if str(lot.pk) == fit), None)
        if lot is None:
            return replace(form, problems={"fit": "That lot is not one of this formula's: choose another."})
        total = lot.left / next(line.share for line in formula.lines if line.key == lot.item_key) * formula.total
    counts = counts_from(total, plan.loss_g, form.scaled.pieces)
    if not any(counts):
        return replace(form, problems={"fit": "That is not enough for a single piece."})
    rows = [replace(row, count=str(min(n, MOST_PIECES))) for row, n in zip(form.rows, counts, strict=True) if n]
    loss = form.typed.loss
    if fit != "stock":
        # What does not fill a whole piece stays in the jug, so that the lot is really used up.
        filled = sum(piece.net_g * n for piece, n in zip(form.scaled.pieces, counts, strict=True))
        loss = _loss_text(float(total) - filled, prefs)
    typed = replace(form.typed, loss=loss)
    return _computed(Planning(tuple(rows), typed), version, prefs, containers)


def _computed(form: Planning, version: Version, prefs: Preferences, containers: Mapping[str, Container]) -> Planning:
    typed, read = form.typed, Reading()
    rows, fillings = filled(form.rows, containers, prefs)

    def mass(text: str) -> Callable[[], Decimal]:
        return lambda: units.mass_g(text, prefs.mass_unit, prefs.kitchen)

    def temp(text: str) -> Callable[[], Decimal]:
        return lambda: Decimal(str(units.temp_c(text, prefs.temp_unit)))

    resolution = read.amount("resolution", mass(typed.resolution), 0.0005, 50, " g")
    loss = read.amount("loss", mass(typed.loss), 0, 5000, " g")
    pour = read.amount("pour", temp(typed.pour), -20, 120, " °C")
    room = read.amount("room", temp(typed.room), 5, 40, " °C")
    overrun = Decimal(0)
    if typed.whip or version.formula.kind.overrun:
        overrun = read.amount("whip", lambda: units.number(typed.whip.removesuffix("%")), 0, 400, " %") / 100
    if typed.cooling not in SCHOOLS:
        read.problems["cooling"] = "Choose how it cools."
    prediction = predict(version.core, float(overrun))
    form = replace(form, rows=rows, problems=read.problems, prediction=prediction)
    if read.problems or any(row.problem for row in rows):
        return form
    vessels = {filling.key: containers[filling.key] for filling in fillings}
    plan = Plan(fillings, vessels, float(pour), round(resolution, 6), round(loss, 6), float(overrun),
                library().containers[JUG], float(room), typed.cooling)  # fmt: skip
    try:
        scaled = plan.scaled(version)
        plan = replace(plan, pitcher=_pitcher(typed.pitcher, scaled, float(overrun), containers))
    except Problem as problem:
        read.problems[problem.where if problem.where == "pitcher" else "whole"] = problem.sentence
        return form
    if prediction.set_c is not None and not overrun and float(pour) < prediction.set_c:
        show = prefs.show
        read.problems["pour"] = (
            f"At {show.temp_text(float(pour))} it has set already; a skin forms at {show.temp_text(prediction.set_c)}."
        )
    return _looked_out(replace(form, plan=plan, scaled=scaled), plan, scaled, version, prefs, read.problems)


def _looked_out(
    form: Planning, plan: Plan, scaled: Scaled, version: Version, prefs: Preferences, problems: dict[str, str]
) -> Planning:
    """The form with its clock, cost and stock."""
    formula = version.core
    counts = {piece.key: piece.count for piece in scaled.pieces}
    supply = outlook.supply_of(formula, scaled.lines, counts)
    lots = [(lot, library().ingredient(key).name) for key, own in supply.lots.items() for lot in own]
    cost = outlook.cost_of(scaled.lines, scaled.pieces, {k: v.name for k, v in plan.vessels.items()}, prefs)
    each = {piece.key: piece.total for piece in cost.bill.pieces} if cost.is_known else {}
    form = replace(
        form,
        supply=supply,
        lots=tuple(sorted(lots, key=lambda pair: pair[1])),
        cost=cost,
        weights=_weights(version, scaled, supply, plan.resolution_g),
        held=tuple(
            Held(
                plan.vessels[p.key].name, p, plan.vessels[p.key].capacity_ml, supply.missing.get(p.key), each.get(p.key)
            )
            for p in scaled.pieces
        ),
    )
    bench = Bench(formula, version.formula.kind, tuple(plan.fillings), scaled.pieces, dict(plan.vessels), plan.pitcher,
                  float(scaled.total_g), plan.pour_c, plan.overrun, plan.room_c, plan.cooling, prefs.show)  # fmt: skip
    try:
        made = method(bench)
    except Problem as problem:
        problems["cooling"] = problem.sentence
        return form
    start, note = None, ""
    if form.typed.moment and not form.typed.when:
        note = "Say whether to start at that time, or to be ready by it."
    if form.typed.when in (Batch.When.START, Batch.When.READY):
        try:
            start, note = methods.put(made, form.typed.when, form.typed.moment)
        except Problem as problem:
            problems["moment"] = problem.sentence
    return replace(form, clock=outlook.clock_of(bench, made, start, MIDDLE), start=start, note=note)


def _pitcher(key: str, scaled: Scaled, overrun: float, containers: Mapping[str, Container]) -> Container:
    """The pitcher chosen, or the smallest that holds the melt; the largest bowl for whipping.

    Raises :class:`Problem` for one that is too small.
    """
    melt_ml = float(scaled.total_g) / (scaled.density_g_ml * (1 + overrun))
    known = pitchers(containers)
    if not key and overrun:
        return known[-1]  # whipping wants a bowl, and room
    if not key:
        return next((c for c in known if c.capacity_ml * c.fill >= melt_ml), known[-1])
    chosen = next((c for c in known if c.key == key), None)
    if chosen is None:
        raise Problem("That pitcher is no longer in the pantry: choose another.", "pitcher")
    if melt_ml > chosen.capacity_ml:
        raise Problem(
            f"That is {melt_ml:.0f} mL of melt; this holds {chosen.capacity_ml:.0f} to the brim: take a larger one.",
            "pitcher",
        )
    return chosen


def _weights(version: Version, scaled: Scaled, supply: outlook.Supply, resolution_g: Decimal) -> tuple[Weight, ...]:
    flags = {flag.key: flag.sentence for flag in scaled.flags}
    formula = version.core
    shares = {line.key: line.share for line in formula.lines}
    ways = {key: dosing(formula, key, scaled.total_g, resolution_g) for key in flags}
    return tuple(
        Weight(
            library().ingredient(key),
            scaled.lines[key],
            percent_text(shares[key], 2),
            flags.get(key, ""),
            ways.get(key),
            supply.missing.get(key),
        )
        for key in pot_order(formula)
    )
