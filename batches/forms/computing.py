"""The planning form with what follows from its fields: grams, stock, cost, method and clock."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal
from functools import cached_property

from django.utils import timezone

from balmcore.advice.safety import Wearer
from balmcore.advice.shelf_life import keeps
from balmcore.composition import Composition, percent_text
from balmcore.errors import Problem
from balmcore.making.cost import wrapped
from balmcore.making.dosing import Dosing, dosing
from balmcore.making.method import method_for
from balmcore.making.pot import pot_order
from balmcore.making.scaling import (
    Filling,
    Piece,
    Scaled,
    pitchers,
    usual_pitcher,
)
from balmcore.physics.firmness import Prediction, predict
from balmcore.tables import Container, Ingredient, Kind, Tables
from balmcore.trials.experience import NO_EXPERIENCE, Experience
from batches.batch_plan import BatchPlan
from batches.clock.datetimes import parse_datetime
from batches.clock.scheduling import Schedule, propose_schedule
from batches.forms.containers import ContainerForm
from batches.forms.finishes import FinishForm, name_apart, planned
from batches.forms.plan_fields import PlanFields
from batches.models import Batch
from batches.showing import estimates
from batches.showing.estimates import FinishSummary, summaries
from batches.supply.costs import Cost, cost_at
from batches.supply.reserving import free_lots
from formulas.models import Version
from pantry.models import Lot
from pantry.orders.services import coming_words, on_order, ordered
from pantry.queries import earliest_best_before, goes_with, paid_for, serving_for, tools
from workshop.forms import FieldError
from workshop.models import Preferences
from workshop.pictures.graph import MIDDLE


@dataclass(frozen=True)
class Weight:
    """One line of the result, in the order of the pot. ``missing_g`` is what the stock lacks, ``held_g`` what other
    planned batches hold of it, ``past_g`` what is past its date by then, ``coming`` what is on order of it."""

    ingredient: Ingredient
    grams: Decimal
    percent: str
    flag: str
    dosing: Dosing | None
    missing_g: Decimal | None
    held_g: Decimal = Decimal(0)
    past_g: Decimal = Decimal(0)
    coming: str = ""


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
    is_tool: bool = False


@dataclass(frozen=True)
class Around:
    """Something that may go around the pieces: whether it does, whether it usually goes with one of their containers,
    and how many are short in stock."""

    key: str
    name: str
    is_ticked: bool
    is_usual: bool
    missing: Decimal | None = None


# What the fields are called on the page, and where they stand there, as far as their ids are other words.
LABELS = {
    "resolution": "Scale's step", "pitcher": "Pitcher", "loss": "Stays in the jug", "pour": "Poured at", "room": "Room",
    "whip": "Whipped", "whipper": "Whipped by", "heating": "Heated", "melting": "Melted", "cooling": "Cooling",
    "moment": "On the clock", "override_reason": "I know, and why", "fit": "Use up a lot",
}  # fmt: skip
PLACES = {"override_reason": "known-why", "fit": "use-up"}


@dataclass(frozen=True)
class PlanForm:
    """The whole form. ``plan`` and what follows are there when everything could be read. ``ticked`` is what goes around
    the pieces, ``offered`` what was seen and could have been ticked; ``around`` is both as it is shown."""

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
    cost: Cost | None = None
    supply: estimates.Supply | None = None
    lots: tuple[tuple[Lot, str], ...] = ()
    parts: tuple[FinishSummary, ...] = ()
    keeping: str = ""
    ticked: frozenset[str] = frozenset()
    offered: frozenset[str] = frozenset()
    around: tuple[Around, ...] = ()

    def with_error(self, problem: Problem) -> "PlanForm":
        """The form with a problem at its place."""
        return replace(self, problems={**self.problems, problem.where or "whole": problem.sentence})

    @property
    def told_above(self) -> list[FieldError]:
        """What is wrong anywhere in it, each with where it stands."""
        found = [
            FieldError(LABELS.get(name, ""), PLACES.get(name, name) if name in LABELS else "", sentence)
            for name, sentence in self.problems.items()
        ]
        found += [FieldError(f"Container {n + 1}", f"container-{n}", row.problem)
                  for n, row in enumerate(self.rows) if row.problem]  # fmt: skip
        for n, finish in enumerate(self.finishes):
            wrong = [finish.problem, *(row.problem for row in finish.additions)]
            found += [FieldError(f"Finish {n + 1}", f"finish-name-{n}", said) for said in wrong if said]
        return found

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
    def goes_with(self) -> dict[str, frozenset[str]]:
        """What there is to go around a piece, and with which containers it usually goes."""
        own = [key for key, each in self.containers.items() if each.is_around]
        usual = goes_with() if own else {}
        return {key: usual.get(key, frozenset()) for key in own}

    @cached_property
    def prediction(self) -> Prediction:
        """The melt before any whipping, water and spirit driven off."""
        return predict(self.composition.without_volatiles)


def computed(form: PlanForm, about: Context) -> PlanForm:
    """The form with everything that follows from its fields."""
    typed, show = form.typed, about.prefs.show
    fillings = [(row.finish_number, row.filling) for row in form.rows if row.is_valid()]
    name_apart(form.finishes)
    form = replace(form, problems=typed.problems, prediction=about.prediction)
    if form.problems or len(fillings) < len(form.rows) or not all(finish.is_valid() for finish in form.finishes):
        return form
    parts = planned(form.finishes, fillings)
    in_order = [filling for part in parts for filling in part.fillings] if parts else [each for _, each in fillings]
    form = _wrapped(form, {filling.key for filling in in_order}, about)
    plan = replace(
        typed.to_plan(in_order, about.containers), finishes=parts, around=_around(form.ticked, in_order, about)
    )
    try:
        scaled = plan.scaled(about.composition, about.wearer)
        plan = replace(plan, pitcher=_pitcher(typed.text("pitcher"), scaled, plan.overrun, about.containers))
    except Problem as problem:
        return form.with_error(Problem(problem.sentence, "pitcher" if problem.where == "pitcher" else "whole"))
    set_c = about.prediction.set_c
    if set_c is not None and not plan.overrun and plan.pour_c < set_c:
        said = f"At {show.temp_text(plan.pour_c)} it has set already; a skin forms at {show.temp_text(set_c)}."
        form = form.with_error(Problem(said, "pour"))
    elif not plan.overrun and plan.pour_c < plan.room_c:
        said = f"The room is {show.temp_text(plan.room_c)}: pour at that or warmer."
        form = form.with_error(Problem(said, "pour"))
    form = replace(form, plan=plan, scaled=scaled)
    return _on_clock(_in_stock(form, plan, scaled, about), plan, scaled, about)


def _in_stock(form: PlanForm, plan: BatchPlan, scaled: Scaled, about: Context) -> PlanForm:
    """The form with its grams, what the stock says to them, and what they cost."""
    counts, needed = estimates.needs(scaled)
    counts |= {key: int(count) for key, count in wrapped(scaled.pieces, plan.around).items()}
    comes_back = tools(about.containers)
    known = free_lots([*needed, *counts], on=_day_of(form), comes_back=comes_back)
    supply = estimates.supply_of(about.composition, needed, counts, known)
    names = {key: about.tables.ingredient(key).name for key in needed}
    in_base = [key for key in supply.lots if about.composition.share_of(key)]
    lots = [(lot, names[key]) for key in in_base for lot in supply.lots[key]]
    containers_by_key = {key: about.containers[key].name for key in counts}
    wanted = {**needed, **{key: Decimal(count) for key, count in counts.items()}}
    prices = paid_for(wanted, known, comes_back)
    cost = cost_at(needed, scaled.pieces, containers_by_key, prices, about.tables, about.prefs, around=plan.around)
    serving = {key: list(serving_for(supply.lots.get(key, ()), grams)[0]) for key, grams in needed.items()}
    kept = keeps(timezone.localdate(), about.composition, earliest_best_before(serving))
    costs = list(cost.bill.pieces) if cost.is_known and not scaled.portions else []
    return replace(
        form,
        supply=supply,
        lots=tuple(sorted(lots, key=lambda pair: pair[1])),
        cost=cost,
        weights=_weights(about.composition, scaled, supply, plan.resolution_g, known, _coming(form, supply, about)),
        held=tuple(
            PieceSummary(
                plan.containers_by_key[p.key].name,
                p,
                plan.containers_by_key[p.key].capacity_ml,
                plan.containers_by_key[p.key].capacity_ml * scaled.density_g_ml,
                supply.missing.get(p.key),
                costs[n].total if costs else None,
                bool(costs) and costs[n].is_whole,
                p.key in comes_back,
            )
            for n, p in enumerate(scaled.pieces)
        ),
        keeping=kept.sentence if kept else "",
        around=tuple(replace(each, missing=supply.missing.get(each.key)) for each in form.around),
        parts=summaries(scaled, plan, prices, about.tables, about.prefs),
    )


def _wrapped(form: PlanForm, keys: set[str], about: Context) -> PlanForm:
    """The form with what goes around its pieces: what is ticked, and what usually goes with a container of it and was
    not yet seen there."""
    usual = {key for key, goes in about.goes_with.items() if goes & keys}
    ticked = ((form.ticked & about.goes_with.keys()) | (usual - form.offered)) if about.goes_with else frozenset()
    names = ((key, about.containers[key].name) for key in about.goes_with)
    around = tuple(Around(key, name, key in ticked, key in usual) for key, name in names)
    return replace(form, ticked=frozenset(ticked), around=around)


def _around(ticked: Collection[str], fillings: Sequence[Filling], about: Context) -> dict[str, tuple[str, ...]]:
    """What goes around each piece of a container: around those that it usually goes with, or else around all."""
    keys = {filling.key for filling in fillings}
    found: dict[str, tuple[str, ...]] = {}
    for around in sorted(ticked):
        for key in sorted((about.goes_with[around] & keys) or keys):
            found[key] = (*found.get(key, ()), around)
    return found


def _coming(form: PlanForm, supply: estimates.Supply, about: Context) -> dict[str, str]:
    """What is on order of what is missing, in words, by key."""
    if not supply.missing:
        return {}
    by, show = _day_of(form), about.prefs.show
    return {
        key: f"{show.mass_text(ordered(own))} on order, {coming_words(own, by)}"
        for key, own in on_order(supply.missing).items()
    }


def _day_of(form: PlanForm) -> date | None:
    """The day that the plan is for, None while that is not said or cannot be read."""
    if not form.typed.text("when"):
        return None
    try:
        return timezone.localdate(parse_datetime(form.typed.text("moment"), timezone.now())[0])
    except Problem:
        return None


def _on_clock(form: PlanForm, plan: BatchPlan, scaled: Scaled, about: Context) -> PlanForm:
    """The form with its method and the place on the clock that is asked for."""
    problems = dict(form.problems)
    setup = plan.setup(
        about.composition, about.kind, scaled.total_g, about.prefs.show, scaled.portions, about.experience.pace
    )
    try:
        made = method_for(setup)
    except Problem as problem:
        where = problem.where if problem.where in ("melting", "heating", "whipper", "pitcher") else "cooling"
        return form.with_error(Problem(problem.sentence, where))
    schedule, note = None, ""
    when, moment = form.typed.text("when"), form.typed.text("moment")
    if moment and not when:
        note = "Say whether to start at that time, or to be ready by it."
    if when in (Batch.When.START, Batch.When.READY):
        try:
            schedule = propose_schedule(setup, when, moment)
            setup = replace(setup, is_made_ready=schedule.is_made_ready)
            made, note = method_for(setup), schedule.note
        except Problem as problem:
            problems["moment"] = problem.sentence
    clock = estimates.clock_of(setup, made, schedule.start if schedule else None, MIDDLE)
    return replace(form, problems=problems, clock=clock, schedule=schedule, note=note)


def _pitcher(key: str, scaled: Scaled, overrun: float, containers: Mapping[str, Container]) -> Container:
    """The pitcher chosen, or the smallest that holds the melt; the largest bowl for whipping. One that is too small is
    filled in rounds.

    Raises :class:`Problem` for one that is gone.
    """
    if not key:
        return usual_pitcher(containers, float(scaled.melt_g) / (scaled.density_g_ml * (1 + overrun)), overrun)
    chosen = next((c for c in pitchers(containers) if c.key == key), None)
    if chosen is None:
        raise Problem("That pitcher is no longer in the pantry: choose another.", "pitcher")
    return chosen


def _weights(
    composition: Composition,
    scaled: Scaled,
    supply: estimates.Supply,
    resolution_g: Decimal,
    known: Mapping[str, Sequence[Lot]],
    coming: Mapping[str, str],
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
            sum((lot.held for lot in known.get(item.key, ())), Decimal(0)),
            sum((lot.past for lot in known.get(item.key, ())), Decimal(0)),
            coming.get(item.key, ""),
        )
        for item in pot_order(composition)
    )
