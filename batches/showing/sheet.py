"""The sheet of a batch: what is to be weighed, line by line, from which lot, and what was."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from balmcore.advice.verdict import Verdict, judge
from balmcore.composition import percent_text
from balmcore.making.pot import Stage, stages, usual_stage
from balmcore.making.scaling import on_grid
from balmcore.physics.firmness import points_apart, predict
from balmcore.tables import Ingredient, Tables
from batches.models import Batch, BatchFinish, BatchLine
from batches.showing.queries import planned_firmness
from batches.supply.sources import Source, lots_for, source_of
from pantry.models import Lot
from workshop.models import Preferences

STAGE_WORDS = {
    Stage.WATER: "First, in a pot of its own: drive the water off",
    Stage.WAX: "Wax",
    Stage.BUTTER: "Butters",
    Stage.OIL: "Oils",
    Stage.POWDER: "Powders, stirred in",
    Stage.DELICATE: "Off the heat: what cannot stand the melt",
    Stage.COOL: "Off the heat, a little cooler",
}
OFF_BY = Decimal("0.05")


@dataclass(frozen=True)
class SheetRow:
    """One line: when it is weighed, its part, how far off it was weighed, where it comes from, and every lot of it, fit
    ones first."""

    line: BatchLine
    ingredient: Ingredient
    stage: str
    percent: str
    flag: str
    deviation: str
    is_off: bool
    source: Source
    every_lot: tuple[Lot, ...]

    @property
    def lots(self) -> tuple[Lot, ...]:
        """The lots that could serve it."""
        return self.source.lots

    @property
    def outside_g(self) -> Decimal:
        """Grams weighed that no lot gave, of an ingredient of which lots are kept."""
        return self.line.outside_g if self.every_lot else Decimal(0)


@dataclass(frozen=True)
class Totals:
    """The pot as a whole: its sums, of the figures as they are shown, and the firmness of what is really in it beside
    the planned one."""

    target_g: Decimal
    weighed_g: Decimal
    driven_off_g: Decimal
    left: int
    verdict: Verdict
    planned: float
    moved: int


def totals(batch: Batch, tables: Tables, prefs: Preferences) -> Totals:
    """What a batch comes to as it is weighed by now; what is not weighed yet counts as planned."""
    lines = batch.base_lines
    pot = batch.weighed_in(tables)
    truth = predict(pot.without_volatiles, batch.overrun)
    verdict = judge(truth, batch.to_kind(tables), prefs.show, batch.drop_shift)
    planned = planned_firmness(batch, tables)
    return Totals(
        prefs.show.shown_sum_g(line.target_g for line in lines),
        prefs.show.shown_sum_g(line.actual_g for line in lines if line.actual_g is not None),
        pot.total - pot.without_volatiles.total,
        sum(line.actual_g is None for line in lines),
        verdict,
        planned,
        points_apart(verdict.firmness, planned),
    )


def sheet_rows(batch: Batch, tables: Tables, prefs: Preferences) -> list[SheetRow]:
    """Every line of a batch, in the order of the pot and then by finish. One query for the lots."""
    lines = list(batch.lines.all())
    composition = batch.version.to_composition(tables)
    target = sum((line.target_g for line in batch.base_lines), Decimal(0))
    _, flags = on_grid(composition, target, batch.resolution_g)
    flagged = {flag.key: flag.sentence for flag in flags}
    shares = {line.key: line.share for line in composition.lines}
    tracked = lots_for(batch, [line.ingredient_key for line in lines])
    finishes = {finish.pk: finish for finish in batch.finishes.all()}
    rows: list[SheetRow] = []
    stage_before, when = "", stages(batch.weighed_in(tables))
    for line in lines:
        item = tables.ingredient(line.ingredient_key)
        stage = _stage_words(line, when.get(item) or usual_stage(item), finishes)
        whole = _whole_of(line, lines, finishes)
        share = round(line.target_g / whole, 4) if whole else shares.get(line.ingredient_key, Decimal(0))
        gap = None if line.actual_g is None else line.actual_g - line.target_g
        rows.append(
            SheetRow(
                line,
                item,
                stage if stage != stage_before else "",
                percent_text(share, 2),
                "" if whole else flagged.get(line.ingredient_key, ""),
                _signed(gap, prefs),
                gap is not None and abs(gap) > max(OFF_BY * line.target_g, batch.resolution_g),
                source_of(line, tracked, prefs),
                tuple(
                    sorted(tracked.get(line.ingredient_key, ()), key=lambda lot: (not lot.is_fit, lot.is_past, lot.pk))
                ),
            )
        )
        stage_before = stage
    return rows


def _stage_words(line: BatchLine, stage: Stage, finishes: Mapping[int, BatchFinish]) -> str:
    """When a line is weighed: its stage in the pot, or the finish it is added to."""
    if line.finish_id is None:
        return STAGE_WORDS[stage] if line.target_g else "Added, and not planned"
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
