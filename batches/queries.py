"""What pages show of batches: lists, the weigh sheet with the running account of the scale."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.core.paginator import Page, Paginator

from balmcore.advice.verdict import Verdict, judge
from balmcore.composition import percent_text
from balmcore.making.scaling import Stage, on_grid, pot_stage
from balmcore.physics.firmness import WINDOW_C, points_apart, predict
from balmcore.tables import Ingredient, Tables
from batches.hooks import unfit_among
from batches.models import Batch, BatchFinish, BatchLine
from pantry.models import Lot, Preparation
from pantry.queries import earliest_best_before, lots_of, serving, serving_for
from workshop.models import Preferences
from workshop.pictures.tin import Tin, tin

STAGE_WORDS = {
    Stage.WATER: "First, in a pot of its own: drive the water off",
    Stage.WAX: "Wax",
    Stage.BUTTER: "Butters",
    Stage.OIL: "Oils",
    Stage.POWDER: "Powders, stirred in",
    Stage.COOL: "Off the heat, a little cooler",
}


MOST_CHOSEN, PER_PAGE = 400, 24


@dataclass(frozen=True)
class BatchCard:
    """A batch in a list."""

    batch: Batch
    tin: Tin
    total_g: Decimal
    pieces: str
    unfit: str = ""


@dataclass(frozen=True)
class Agenda:
    """What is to come, by time and then those without one; and what was poured, newest first."""

    open: tuple[BatchCard, ...]
    done: tuple[BatchCard, ...]
    preparations: tuple[Preparation, ...]
    coming: Page
    poured: Page

    @property
    def has_times(self) -> bool:
        """True when anything of it can go into a calendar."""
        return bool(self.preparations) or any(entry.batch.starts_at for entry in self.open)


def agenda(tables: Tables, coming: str = "", poured: str = "") -> Agenda:
    """The plan, by pages: what is to come by time, preparations under way, what was poured."""
    first = Paginator(Batch.objects.unpoured().by_time().for_list(), PER_PAGE).get_page(coming)
    second = Paginator(Batch.objects.poured().for_list(), PER_PAGE).get_page(poured)
    unfit = unfit_among([*first.object_list, *second.object_list], tables)
    return Agenda(
        tuple(batch_card(batch, tables, unfit) for batch in first.object_list),
        tuple(batch_card(batch, tables, unfit) for batch in second.object_list),
        tuple(Preparation.objects.filter(finished_on=None)),
        first,
        second,
    )


def batch_card(batch: Batch, tables: Tables, unfit: Mapping[int, str] | None = None) -> BatchCard:
    """A batch as a tin with its total and its pieces; ``unfit`` are those not fit to use."""
    lines = list(batch.lines.all())
    composition = batch.to_composition(tables)
    roles = composition.role_shares()
    # By the maker's own tests where these are gone by, else as it was kept with its version.
    is_plain = not tables.are_taught or composition.total <= 0
    firmness = batch.version.firmness if is_plain else predict(composition, batch.overrun).firmness_at(WINDOW_C)
    state = "poured" if batch.is_poured else "planned"
    return BatchCard(
        batch,
        tin(roles, firmness, state, f"Batch {batch.pk}"),
        sum((line.mass_g for line in lines), Decimal(0)),
        ", ".join(str(row) for row in batch.containers.all()),
        (unfit or {}).get(batch.pk, ""),
    )


@dataclass(frozen=True)
class Source:
    """Where a line comes from: the lots that gave to it or, before it is weighed, those that will
    (``given`` says which of the two); and what they lack."""

    told: str
    is_given: bool
    several: bool
    short_g: Decimal


@dataclass(frozen=True)
class Weighing:
    """One row at the bench. ``typed`` is what stands in the field, ``other`` what another tab wrote."""

    line: BatchLine
    ingredient: Ingredient
    stage: str
    percent: str
    flag: str
    typed: str
    problem: str
    other: str
    deviation: str
    is_off: bool
    lots: tuple[Lot, ...]
    source: Source
    every_lot: tuple[Lot, ...]

    @property
    def outside_g(self) -> Decimal:
        """Grams weighed that no lot gave, of an ingredient of which lots are kept."""
        return self.line.outside_g if self.every_lot else Decimal(0)


@dataclass(frozen=True)
class WeighSheet:
    """The bench as a whole: rows, running totals, and the firmness of what is really in the pot."""

    batch: Batch
    rows: tuple[Weighing, ...]
    target_g: Decimal
    weighed_g: Decimal
    driven_off_g: Decimal
    left: int
    verdict: Verdict
    planned: float
    moved: int


OFF_BY = Decimal("0.05")


def weigh_sheet(
    batch: Batch,
    tables: Tables,
    prefs: Preferences,
    typed: Mapping[str, str] | None = None,
    problems: Mapping[str, str] | None = None,
    other: Mapping[str, str] | None = None,
) -> WeighSheet:
    """The bench for a batch; ``typed``, ``problems`` and ``other`` are texts by ingredient."""
    typed, problems, other = typed or {}, problems or {}, other or {}
    lines, pot_lines = list(batch.lines.all()), batch.base_lines
    target = sum((line.target_g for line in pot_lines), Decimal(0))
    weighed = sum((line.actual_g for line in pot_lines if line.actual_g is not None), Decimal(0))
    composition, kind = batch.version.to_composition(tables), batch.to_kind(tables)
    _, flags = on_grid(composition, target, batch.resolution_g)
    said = {flag.key: flag.sentence for flag in flags}
    shares = {line.key: line.share for line in composition.lines}
    tracked = lots_of([line.ingredient_key for line in lines])
    rows: list[Weighing] = []
    finishes = {finish.pk: finish for finish in batch.finishes.all()}
    stage_before = ""
    for line in lines:
        item = tables.ingredient(line.ingredient_key)
        stage = _stage_words(line, item, finishes)
        whole = _whole_of(line, lines, finishes)
        gap = None if line.actual_g is None else line.actual_g - line.target_g
        text = "" if line.actual_g is None else prefs.show.mass_number(line.actual_g)
        rows.append(
            Weighing(
                line,
                item,
                stage if stage != stage_before else "",
                percent_text(
                    round(line.target_g / whole, 4) if whole else shares.get(line.ingredient_key, Decimal(0)), 2
                ),
                "" if whole else said.get(line.ingredient_key, ""),
                typed.get(line.slot, text),
                problems.get(line.slot, ""),
                other.get(line.slot, ""),
                _signed(gap, prefs),
                gap is not None and abs(gap) > max(OFF_BY * line.target_g, batch.resolution_g),
                tuple(lots := serving(tracked.get(line.ingredient_key, ()))),
                _source(line, lots, line.ingredient_key in tracked, prefs),
                tuple(tracked.get(line.ingredient_key, ())),
            )
        )
        stage_before = stage
    pot = batch.weighed_in(tables)
    truth = predict(pot.without_volatiles, batch.overrun)
    verdict = judge(truth, kind, prefs.show)
    planned = planned_firmness(batch, tables)
    return WeighSheet(
        batch,
        tuple(rows),
        target,
        weighed,
        pot.total - pot.without_volatiles.total,
        sum(line.actual_g is None for line in pot_lines),
        verdict,
        planned,
        points_apart(verdict.firmness, planned),
    )


def planned_firmness(batch: Batch, tables: Tables) -> float:
    """The firmness that its plan and its formula's studio say, whipped as it is."""
    return predict(batch.version.to_composition(tables).without_volatiles, batch.overrun).firmness_at(WINDOW_C)


def best_before_of(batch: Batch) -> dict[str, date]:
    """The earliest best before of the lots behind each line of a batch, by ingredient: of those that gave to it or,
    while none did, of those that its sheet names."""
    behind: dict[str, list[Lot]] = {}
    unweighed = []
    for line in batch.lines.all():
        given = [draw.lot for draw in line.draws.all() if draw.grams > 0]
        behind.setdefault(line.ingredient_key, []).extend(given)
        if not given and line.actual_g is None:
            unweighed.append(line)
    tracked = lots_of(line.ingredient_key for line in unweighed) if unweighed else {}
    for line in unweighed:
        behind[line.ingredient_key] += _named(line, tracked.get(line.ingredient_key, ()))
    return earliest_best_before(behind)


def _named(line: BatchLine, lots: Sequence[Lot]) -> list[Lot]:
    """The lots that a sheet names for a line: the one said when it was poured, or those that would serve now."""
    chosen = [lot for lot in lots if lot.pk == line.lot_id]
    return chosen or list(serving_for(lots, line.target_g)[0])


def name_lots(batch: Batch) -> None:
    """Keep with the lines that nobody weighed from which lot their sheet says that they came, as it says when it is
    poured: what is in stock will be another thing tomorrow."""
    unweighed = [line for line in batch.lines.all() if line.actual_g is None and line.lot_id is None]
    tracked = lots_of(line.ingredient_key for line in unweighed) if unweighed else {}
    for line in unweighed:
        for lot in _named(line, tracked.get(line.ingredient_key, ()))[:1]:
            BatchLine.objects.filter(pk=line.pk).update(lot=lot)
            line.lot_id = lot.pk


def _stage_words(line: BatchLine, item: Ingredient, finishes: Mapping[int, BatchFinish]) -> str:
    """When a line is weighed: its stage in the pot, or the finish it is added to."""
    if line.finish_id is None:
        return STAGE_WORDS[pot_stage(item)] if line.target_g else "Added, and not planned"
    finish = finishes[line.finish_id]
    return f"For “{finish.name}”"


def _whole_of(line: BatchLine, lines: Sequence[BatchLine], finishes: Mapping[int, BatchFinish]) -> Decimal:
    """Grams planned of the finish that a line is added to; 0 for a line of the pot."""
    if line.finish_id is None:
        return Decimal(0)
    own = (other.target_g for other in lines if other.finish_id == line.finish_id)
    return sum(own, finishes[line.finish_id].base_g)


def _signed(gap: Decimal | None, prefs: Preferences) -> str:
    """How far over or under, with its sign; nothing before it is weighed."""
    return "" if gap is None else f"{'+' if gap > 0 else ''}{prefs.show.mass_number(gap)}"


def _source(line: BatchLine, lots: Sequence[Lot], is_tracked: bool, prefs: Preferences) -> Source:
    """Where a line came from, or will. A line that is weighed names no lot it did not draw on."""
    given: dict[Lot, Decimal] = {}
    if line.actual_g is not None:
        for draw in line.draws.all():
            given[draw.lot] = given.get(draw.lot, Decimal(0)) + draw.grams
        short = Decimal(0)
    else:
        given, short = serving_for(lots, line.target_g, line.lot_id)
    held = {lot: grams for lot, grams in given.items() if grams > 0}
    told = [f"{lot} {prefs.show.mass_text(grams)}" if len(held) > 1 else str(lot) for lot, grams in held.items()]
    return Source(", then ".join(told), line.actual_g is not None, len(held) > 1, short if is_tracked else Decimal(0))
