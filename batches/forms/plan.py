"""The planning form: containers and counts as typed, and what they come to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from functools import cached_property

from django.utils import timezone

from balmcore.advice.safety import Wearer
from balmcore.advice.shelf_life import keeps
from balmcore.composition import Composition, percent_text
from balmcore.errors import Problem
from balmcore.making.dosing import Dosing, dosing
from balmcore.making.method import method_for
from balmcore.making.pot import pot_order, pour_temperature
from balmcore.making.scaling import (
    MOST_PIECES,
    Piece,
    Scaled,
    by_suit,
    film_g,
    pitchers,
    usual_pitcher,
)
from balmcore.making.stock import counts_from
from balmcore.making.whippers import WHIPPERS
from balmcore.physics.cooling import COOLING_METHODS, DEFAULT, WHIPPED
from balmcore.physics.firmness import Prediction, predict
from balmcore.physics.grain import HELD
from balmcore.tables import Container, Ingredient, Kind, Tables
from balmcore.trials.experience import NO_EXPERIENCE, Experience
from balmcore.wording import in_sentence
from batches import estimates
from batches.batch_plan import BatchPlan
from batches.clock.scheduling import Schedule, propose_schedule
from batches.estimates import FinishSummary, summaries
from batches.forms.containers import ContainerForm, fill_text
from batches.forms.finishes import FinishForm, name_apart, planned
from batches.forms.finishes import read as read_finishes
from batches.forms.plan_fields import MOST_LETTERS, MOST_REASON, PlanFields
from batches.forms.sizing import fitting, pieces_of
from batches.models import DEFAULT_PITCHER, Batch
from formulas.models import Version
from pantry.models import Lot
from pantry.queries import earliest_best_before, lots_of, serving_for
from workshop.models import Preferences
from workshop.pictures.graph import MIDDLE
from workshop.web import Fields

MOST_ROWS = 12
USUAL_LOSS_G = 3.0
ON_THE_SPATULA_G = 1.5


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
class PieceSummary:
    """What one piece holds, beside what its fluid ounces might make one believe: ``brimful_g`` would go in. ``each`` is
    what it costs, at least, where the price is not whole."""

    name: str
    piece: Piece
    capacity_ml: float
    brimful_g: float
    missing: Decimal | None
    each: Decimal | None
    is_whole: bool


@dataclass(frozen=True)
class PlanForm:
    """The whole form. ``plan`` and what follows are there when everything could be read."""

    rows: tuple[ContainerForm, ...]
    typed: PlanFields
    finishes: tuple[FinishForm, ...] = ()
    problems: Mapping[str, str] = field(default_factory=dict)
    plan: BatchPlan | None = None
    scaled: Scaled | None = None
    weights: tuple[Weight, ...] = ()
    held: tuple[PieceSummary, ...] = ()
    prediction: Prediction | None = None
    clock: estimates.Clock | None = None
    schedule: Schedule | None = None
    note: str = ""
    cost: estimates.Cost | None = None
    supply: estimates.Supply | None = None
    lots: tuple[tuple[Lot, str], ...] = ()
    parts: tuple[FinishSummary, ...] = ()
    keeping: str = ""

    def with_error(self, problem: Problem) -> "PlanForm":
        """The form with a problem at its place."""
        return replace(self, problems={**self.problems, problem.where or "whole": problem.sentence})

    @property
    def can_be_planned(self) -> bool:
        """True when grams are worked out, and the method and the clock if one is asked for."""
        return self.clock is not None and not self.problems.keys() - {"pour", "override_reason"}


@dataclass(frozen=True)
class Context:
    """What a plan is made for and from: a composition of a kind, the maker's ways, tables and containers."""

    composition: Composition
    kind: Kind
    prefs: Preferences
    tables: Tables
    containers: Mapping[str, Container]
    wearer: Wearer
    experience: Experience = NO_EXPERIENCE

    @classmethod
    def of(
        cls,
        version: Version,
        prefs: Preferences,
        tables: Tables,
        containers: Mapping[str, Container],
        experience: Experience = NO_EXPERIENCE,
    ) -> "Context":
        """For a version of a formula."""
        composition, formula = version.to_composition(tables), version.formula
        wearer = formula.to_wearer(prefs.scent_policy)
        return cls(composition, formula.to_kind(tables), prefs, tables, containers, wearer, experience)

    def row(self, key: str, count: str, fill: str, finish: str = "0") -> ContainerForm:
        """A row of the form with these words in it."""
        cells = {"key": key, "count": count, "fill": fill, "finish": finish}
        return ContainerForm(cells, self.containers, self.prefs)

    @cached_property
    def prediction(self) -> Prediction:
        """The melt before any whipping, water and spirit driven off."""
        return predict(self.composition.without_volatiles)


def fresh(about: Context, cooling: str = "", size_g: Decimal | None = None) -> PlanForm:
    """The form for a version: four of a container that suits its kind, the loss and the way of cooling that are
    usual or, where the maker's own pours speak, by them. ``cooling`` is one asked for; ``size_g`` how much its recipe
    makes, where it says so."""
    kind, prefs, show = about.kind, about.prefs, about.prefs.show
    learned = about.experience.usual_loss(DEFAULT_PITCHER, kind.key, prefs.whipper if kind.overrun else "")
    best = about.experience.best_cooling(about.composition) or DEFAULT
    asked = cooling if cooling in COOLING_METHODS else ""
    suited = by_suit(kind, about.containers)
    usual = {
        "resolution": show.step_text(prefs.resolution_g),
        "loss": _loss_text(learned.median if learned else USUAL_LOSS_G, prefs),
        "pour": show.temp_text(pour_temperature(about.composition)),
        "whip": _air_text(kind, prefs.whipper, about.experience) if kind.overrun else "",
        "room": show.temp_text(prefs.cool_room_c),
        "cooling": asked or (WHIPPED if kind.overrun else best),
        "melting": HELD,
        "heating": prefs.heating,
        "whipper": prefs.whipper,
    }
    first = (
        suited[0]
        if size_g is None
        else fitting(size_g, [c for c in suited if set(c.suits) & set(kind.suits)] or suited[:1])
    )
    rows = (about.row(first.key, "4", fill_text(first)),)
    form = _computed(PlanForm(rows, PlanFields(usual, kind, prefs)), about)
    return form if size_g is None else _of_size(form, size_g, about)


def _of_size(form: PlanForm, size_g: Decimal, about: Context) -> PlanForm:
    """The form with as many pieces as so much fills, and what they leave in the jug, so that just that is weighed."""
    if form.plan is None or form.scaled is None:
        return form
    stays = about.composition.without_volatiles.total / about.composition.total
    count, each = pieces_of(size_g * stays, form.plan.loss_g, form.scaled.pieces[0].net_g)
    row = form.rows[0].changed(count=str(count), fill=about.prefs.show.mass_text(each))
    jug, step = form.plan.loss_g, form.plan.resolution_g
    wanted = (size_g / step).quantize(Decimal(1)) * step  # what the scale can show of it
    for _ in range(4):
        sized = _computed(PlanForm((row,), form.typed.changed(loss=_exact_loss(jug, about.prefs))), about)
        if sized.scaled is None:
            return form
        if not (missing := wanted - sized.scaled.total_g):
            break
        jug = max(Decimal(0), jug + missing * stays)
    return sized


def _exact_loss(grams: Decimal, prefs: Preferences) -> str:
    """A loss in the maker's own measure, exactly enough that the sum comes out."""
    show = prefs.show
    return f"{show.figure(show.in_mass(float(grams)), 2 if show.mass == 'g' else 4)} {show.mass}"


def _air_text(kind: Kind, whipper: str, experience: Experience) -> str:
    """What a whipper gains in percent: by the maker's own full cups, or its part of what is usual for the kind."""
    learned = experience.bench.overrun.get(whipper)
    return f"{(learned.median if learned else kind.overrun * WHIPPERS[whipper].gains) * 100:.0f}"


def _loss_text(grams: float, prefs: Preferences) -> str:
    show = prefs.show
    return f"{show.figure(show.in_mass(grams), 1 if show.mass == 'g' else 2)} {show.mass}"


def read(data: Fields, about: Context) -> PlanForm:
    """The form as posted, with one action carried out: ``add_row``, ``drop_row``, ``fit`` or none."""
    columns = (data.texts("container"), data.texts("count"), data.texts("fill"))
    which = data.texts("finish")
    rows = [about.row(*(cell[:80] for cell in cells)) for cells in list(zip(*columns, strict=False))[:MOST_ROWS]]
    rows = [row.changed(finish=which[n]) if n < len(which) else row for n, row in enumerate(rows)]
    finishes = read_finishes(data, about.tables, about.prefs)
    for n, row in enumerate(rows):
        # Another container chosen: its usual fill comes with it.
        if data.whole("chosen") == n and row.text("key") in about.containers:
            rows[n] = row.changed(fill=fill_text(about.containers[row.text("key")]))
    if (drop := data.whole("drop_row")) is not None and drop < len(rows):
        del rows[drop]
    if data.text("add_row") and len(rows) < MOST_ROWS:
        taken = {row.text("key") for row in rows}
        extra = next(c for c in by_suit(about.kind, about.containers) if c.key not in taken)
        rows.append(about.row(extra.key, "1", fill_text(extra)))
    typed = PlanFields(_words(data), about.kind, about.prefs)
    rows = sorted(_for_finishes(rows, finishes, data, about), key=lambda row: row.finish_number)
    if data.text("chosen_whipper") and (whipper := typed.text("whipper")) in WHIPPERS:
        typed = typed.changed(whip=_air_text(about.kind, whipper, about.experience))
    found = _computed(PlanForm(tuple(rows), typed, finishes), about)
    if found.plan and found.scaled and data.text("chosen_pitcher"):
        loss = _loss_text(_stays(found), about.prefs)
        found = _computed(replace(found, typed=typed.changed(loss=loss)), about)
    # The list of lots keeps what was chosen in it; only choosing fits the counts anew.
    if fit := data.text("use_up", 40) if data.text("chosen_lot") else data.text("fit", 40):
        found = _fitted(found, fit, about)
    return found


def _words(data: Fields) -> dict[str, str]:
    """What was typed outside the rows."""
    names = (
        "resolution",
        "loss",
        "pour",
        "whip",
        "pitcher",
        "room",
        "cooling",
        "melting",
        "heating",
        "whipper",
        "when",
        "moment",
    )
    return {name: data.text(name, MOST_LETTERS) for name in names} | {
        "override_reason": data.text("override_reason", MOST_REASON)
    }


def _for_finishes(
    rows: list[ContainerForm], finishes: Sequence[FinishForm], data: Fields, about: Context
) -> list[ContainerForm]:
    """The rows as the finishes changed: a new one gets a container, those of one taken away go to the first."""
    if data.text("add_finish") and rows and len(rows) < MOST_ROWS:
        key, fill = rows[0].text("key"), rows[0].text("fill")
        usual = fill_text(about.containers[key]) if key in about.containers else fill
        rows = [*rows, about.row(key, "1", usual, str(len(finishes) - 1))]
    gone, last = data.whole("drop_finish"), len(finishes) - 1

    def moved(number: int) -> int:
        if gone is not None:
            number = 0 if number == gone else number - (number > gone)
        return number if number <= last else 0

    return [row.changed(finish=str(moved(row.finish_number))) for row in rows]


def _stays(form: PlanForm) -> float:
    """Grams that stay in the pitcher chosen and on the spatula."""
    assert form.plan is not None
    assert form.scaled is not None
    density = form.scaled.density_g_ml * (1 + form.plan.overrun)
    return film_g(density, form.scaled.product_g / density, form.plan.pitcher.diameter_mm or 70) + ON_THE_SPATULA_G


def _fitted(form: PlanForm, fit: str, about: Context) -> PlanForm:
    """The form with its counts fitted to the stock, or to using up one lot (``fit`` is its number)."""
    if form.plan is None or form.scaled is None:
        return form
    plan, lot = form.plan, None
    stays = about.composition.without_volatiles.total / about.composition.total
    if fit == "stock":
        if form.supply is None or form.supply.most is None:
            return replace(form, problems={"fit": "No lot of any of these is written down: nothing to fit to."})
        total = form.supply.most.total_g
    else:
        lot = next((lot for lot, _ in form.lots if str(lot.pk) == fit), None)
        if lot is None:
            return replace(form, problems={"fit": "That lot is not one of this formula's: choose another."})
        total = lot.left / about.composition.share_of(lot.item_key) * about.composition.total
    total *= stays  # what boils away fills nothing
    counts = counts_from(total, plan.loss_g, form.scaled.pieces, plan.resolution_g)
    if not any(counts):
        return replace(form, problems={"fit": "That is not enough for a single piece."})
    rows = [row.changed(count=str(min(n, MOST_PIECES))) for row, n in zip(form.rows, counts, strict=True) if n]
    if fit == "stock":
        return _computed(PlanForm(tuple(rows), form.typed), about)
    # What does not fill a whole piece stays in the jug, so that the lot is really used up; and not more than it.
    assert lot is not None
    stays_g = float(total) - sum(piece.net_g * n for piece, n in zip(form.scaled.pieces, counts, strict=True))
    while True:
        found = _computed(PlanForm(tuple(rows), form.typed.changed(loss=_loss_text(stays_g, about.prefs))), about)
        if found.scaled is None or found.scaled.lines[lot.item_key] <= lot.left or stays_g <= 0:
            return found
        stays_g = max(0.0, stays_g - float(plan.resolution_g))


def _computed(form: PlanForm, about: Context) -> PlanForm:
    """The form with everything that follows from its fields."""
    typed, show = form.typed, about.prefs.show
    fillings = [(row.finish_number, row.filling) for row in form.rows if row.is_valid()]
    name_apart(form.finishes)
    form = replace(form, problems=typed.problems, prediction=about.prediction)
    if form.problems or len(fillings) < len(form.rows) or not all(finish.is_valid() for finish in form.finishes):
        return form
    parts = planned(form.finishes, fillings)
    in_order = [filling for part in parts for filling in part.fillings] if parts else [each for _, each in fillings]
    plan = replace(typed.to_plan(in_order, about.containers), finishes=parts)
    try:
        scaled = plan.scaled(about.composition, about.wearer)
        plan = replace(plan, pitcher=_pitcher(typed.text("pitcher"), scaled, plan.overrun, about.containers))
    except Problem as problem:
        return form.with_error(Problem(problem.sentence, "pitcher" if problem.where == "pitcher" else "whole"))
    set_c = about.prediction.set_c
    if set_c is not None and not plan.overrun and plan.pour_c < set_c:
        said = f"At {show.temp_text(plan.pour_c)} it has set already; a skin forms at {show.temp_text(set_c)}."
        form = form.with_error(Problem(said, "pour"))
    form = replace(form, plan=plan, scaled=scaled)
    return _on_clock(_in_stock(form, plan, scaled, about), plan, scaled, about)


def _in_stock(form: PlanForm, plan: BatchPlan, scaled: Scaled, about: Context) -> PlanForm:
    """The form with its grams, what the stock says to them, and what they cost."""
    counts, needed = estimates.needs(scaled)
    known = lots_of([*needed, *counts])
    supply = estimates.supply_of(about.composition, needed, counts, known)
    names = {key: about.tables.ingredient(key).name for key in needed}
    in_base = [key for key in supply.lots if about.composition.share_of(key)]
    lots = [(lot, names[key]) for key in in_base for lot in supply.lots[key]]
    containers_by_key = {key: vessel.name for key, vessel in plan.containers_by_key.items()}
    cost = estimates.cost_of(needed, scaled.pieces, containers_by_key, known, about.tables, about.prefs)
    serving = {key: list(serving_for(supply.lots.get(key, ()), grams)[0]) for key, grams in needed.items()}
    kept = keeps(timezone.localdate(), about.composition, earliest_best_before(serving))
    costs = list(cost.bill.pieces) if cost.is_known and not scaled.portions else []
    return replace(
        form,
        supply=supply,
        lots=tuple(sorted(lots, key=lambda pair: pair[1])),
        cost=cost,
        weights=_weights(about.composition, scaled, supply, plan.resolution_g),
        held=tuple(
            PieceSummary(
                plan.containers_by_key[p.key].name,
                p,
                plan.containers_by_key[p.key].capacity_ml,
                plan.containers_by_key[p.key].capacity_ml * scaled.density_g_ml,
                supply.missing.get(p.key),
                costs[n].total if costs else None,
                bool(costs) and costs[n].is_whole,
            )
            for n, p in enumerate(scaled.pieces)
        ),
        keeping=kept.sentence if kept else "",
        parts=summaries(scaled, plan, known, about.tables, about.prefs),
    )


def _on_clock(form: PlanForm, plan: BatchPlan, scaled: Scaled, about: Context) -> PlanForm:
    """The form with its method and the place on the clock that is asked for."""
    problems = dict(form.problems)
    setup = plan.setup(
        about.composition, about.kind, scaled.total_g, about.prefs.show, scaled.portions, about.experience.pace
    )
    try:
        made = method_for(setup)
    except Problem as problem:
        where = problem.where if problem.where in ("melting", "heating", "whipper") else "cooling"
        return form.with_error(Problem(problem.sentence, where))
    schedule, note = None, ""
    when, moment = form.typed.text("when"), form.typed.text("moment")
    if moment and not when:
        note = "Say whether to start at that time, or to be ready by it."
    if when in (Batch.When.START, Batch.When.READY):
        try:
            schedule = propose_schedule(made, when, moment)
            note = schedule.note
        except Problem as problem:
            problems["moment"] = problem.sentence
    clock = estimates.clock_of(setup, made, schedule.start if schedule else None, MIDDLE)
    return replace(form, problems=problems, clock=clock, schedule=schedule, note=note)


def _pitcher(key: str, scaled: Scaled, overrun: float, containers: Mapping[str, Container]) -> Container:
    """The pitcher chosen, or the smallest that holds the melt; the largest bowl for whipping.

    Raises :class:`Problem` for one that is too small.
    """
    melt_ml = float(scaled.melt_g) / (scaled.density_g_ml * (1 + overrun))
    known = pitchers(containers)
    largest = known[-1]
    if melt_ml > largest.capacity_ml:
        raise Problem(
            f"That is {melt_ml:.0f} mL of melt; your largest vessel, {in_sentence(largest.name)}, holds "
            f"{largest.capacity_ml:.0f} to the brim: make it in several batches, or write down a larger one.",
            "pitcher",
        )
    if not key:
        return usual_pitcher(containers, melt_ml, overrun)
    chosen = next((c for c in known if c.key == key), None)
    if chosen is None:
        raise Problem("That pitcher is no longer in the pantry: choose another.", "pitcher")
    if melt_ml > chosen.capacity_ml:
        raise Problem(
            f"That is {melt_ml:.0f} mL of melt; this holds {chosen.capacity_ml:.0f} to the brim: take a larger one.",
            "pitcher",
        )
    return chosen


def _weights(
    composition: Composition, scaled: Scaled, supply: estimates.Supply, resolution_g: Decimal
) -> tuple[Weight, ...]:
    flags = {flag.key: flag.sentence for flag in scaled.flags}
    ways = {key: dosing(composition, key, scaled.total_g, resolution_g) for key in flags}
    return tuple(
        Weight(
            item,
            scaled.lines[item.key],
            percent_text(composition.share_of(item.key), 2),
            flags.get(item.key, ""),
            ways.get(item.key),
            supply.missing.get(item.key),
        )
        for item in pot_order(composition)
    )
