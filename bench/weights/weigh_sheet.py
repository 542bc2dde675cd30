"""The weigh sheet: every weight of a batch on one page, each written down as soon as it is typed."""

from dataclasses import dataclass, field
from decimal import Decimal

from django.db import transaction
from django.shortcuts import get_object_or_404

from balmcore.errors import Problem
from balmcore.making.weighing import WeightQuestion, weight_question
from balmcore.tables import Ingredient, Tables
from batches.fitness import require_fit, unfit_of
from batches.models import Batch
from batches.showing.sheet import SheetRow, Totals, sheet_rows, totals
from batches.supply.sources import available_g, lots_for
from bench.weights.reading import weight_g
from bench.weights.recording import StaleBatch, record_weights, run_of
from workshop.models import Preferences
from workshop.web import Fields

Texts = dict[str, str]


@dataclass(frozen=True)
class WeightInputs:
    """The weights as posted, by slot: texts that could not be used with their sentences, those that are asked about
    before they are written and, when another tab wrote first, what stands there now (nothing is written then); how far
    the making is by now."""

    batch: Batch
    revision: int
    typed: Texts = field(default_factory=dict)
    problems: Texts = field(default_factory=dict)
    asked: dict[str, WeightQuestion] = field(default_factory=dict)
    other: Texts = field(default_factory=dict)
    unfit: str = ""


@dataclass(frozen=True)
class WeighRow:
    """One line: ``typed`` is what stands in its field, ``other`` what another tab wrote."""

    row: SheetRow
    typed: str
    problem: str
    asked: WeightQuestion | None
    other: str


@dataclass(frozen=True)
class WeighSheet:
    """The page as a whole: its rows, and what the pot comes to by now."""

    rows: tuple[WeighRow, ...]
    totals: Totals
    revision: int


def fresh_inputs(pk: int, tables: Tables) -> WeightInputs:
    """Nothing posted yet. Raises 404 for a batch that is not there."""
    # The revision before the weights: an old one over new weights is refused, a new one over old weights is not.
    revision = run_of(get_object_or_404(Batch, pk=pk)).revision
    batch = Batch.objects.for_page().get(pk=pk)
    return WeightInputs(batch, revision, unfit=unfit_of(batch, tables))


def weigh_sheet(read: WeightInputs, tables: Tables, prefs: Preferences) -> WeighSheet:
    """The page of a batch with what was typed."""
    rows = []
    for row in sheet_rows(read.batch, tables, prefs):
        slot, actual = row.line.slot, row.line.actual_g
        stands = "" if actual is None else prefs.show.mass_number(actual)
        problem, asked = read.problems.get(slot, ""), read.asked.get(slot)
        rows.append(WeighRow(row, read.typed.get(slot, stands), problem, asked, read.other.get(slot, "")))
    return WeighSheet(tuple(rows), totals(read.batch, tables, prefs), read.revision)


@transaction.atomic
def record(data: Fields, pk: int, tables: Tables, prefs: Preferences) -> WeightInputs:
    """Write down every weight of a batch that can be read."""
    batch = get_object_or_404(Batch.objects.for_page(), pk=pk)
    unfit = require_fit(batch, tables)
    lines = {line.slot: line for line in batch.lines.all()}
    typed: Texts = {}
    problems: Texts = {}
    asked: dict[str, WeightQuestion] = {}
    actual: dict[str, Decimal | None] = {}
    chosen = {key: data.whole(f"lot-{key}") for key in lines}
    tracked = lots_for(batch, [line.ingredient_key for line in lines.values()])
    for key, line in lines.items():
        text = data.text(f"use-{key}", 80) or data.text(f"actual-{key}", 80)
        try:
            actual[key] = _grams(text, tables.ingredient(line.ingredient_key), prefs)
        except Problem as problem:
            typed[key], problems[key] = text, problem.sentence
        else:
            # A figure shown to the scale's step and not touched stays what was stored.
            if line.actual_g is not None and text.strip() == prefs.show.mass_number(line.actual_g):
                actual[key] = line.actual_g
            grams = actual[key]
            if grams is None or grams == line.actual_g or data.text(f"sure-{key}", 80) == text:
                continue
            held = available_g(line, tracked, chosen[key])
            if found := weight_question(text, grams, line.target_g, batch.resolution_g, held, prefs.show):
                typed[key], asked[key] = text, found
                del actual[key]
    try:
        run = record_weights(batch, actual, data.whole("revision") or 0, chosen)
    except StaleBatch:
        mine = {key: data.text(f"actual-{key}", 80) for key in lines}
        there = {
            key: "nothing yet" if line.actual_g is None else prefs.show.mass_text(line.actual_g)
            for key, line in lines.items()
        }
        other = {key: text for key, text in there.items() if actual.get(key) != lines[key].actual_g}
        return WeightInputs(batch, run_of(batch).revision, mine, problems, {}, other, unfit)
    return WeightInputs(batch, run.revision, typed, problems, asked, unfit=unfit)


def _grams(text: str, item: Ingredient, prefs: Preferences) -> Decimal | None:
    """Grams of one weight typed, None for an empty field."""
    return weight_g(text, item, prefs) if text.strip() else None
