"""Weights as they are typed at the bench, read and written down."""

from dataclasses import dataclass, field
from decimal import Decimal

from django.db import transaction
from django.shortcuts import get_object_or_404

from balmcore import units
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.making.portions import drops_g
from balmcore.making.scaling import MOST_PIECES
from balmcore.tables import Ingredient, Tables
from batches import services
from batches.fitness import require_fit
from batches.models import Batch
from workshop.models import Preferences
from workshop.web import Fields

MOST_G, MOST_DROPS = Decimal(50_000), 2000
MOST_LETTERS = 8 * MOST_PIECES  # of the weights of pieces, written one after the other

Texts = dict[str, str]


@dataclass(frozen=True)
class WeightInputs:
    """The weights as posted, by ingredient: texts that could not be used with their sentences, and,
    when another tab wrote first, what stands there now (nothing is written then)."""

    batch: Batch
    typed: Texts = field(default_factory=dict)
    problems: Texts = field(default_factory=dict)
    other: Texts = field(default_factory=dict)
    unfit: str = ""


@transaction.atomic
def record(data: Fields, pk: int, tables: Tables, prefs: Preferences) -> WeightInputs:
    """Write down every weight of a batch that can be read."""
    batch = get_object_or_404(Batch.objects.for_page(), pk=pk)
    unfit = require_fit(batch, tables)
    lines = {line.slot: line for line in batch.lines.all()}
    typed: Texts = {}
    problems: Texts = {}
    actual: dict[str, Decimal | None] = {}
    for key, line in lines.items():
        text = data.text(f"actual-{key}", 80)
        try:
            actual[key] = _grams(text, tables.ingredient(line.ingredient_key), prefs)
        except Problem as problem:
            typed[key], problems[key] = text, problem.sentence
        else:
            # A figure shown to the scale's step and not touched stays what was stored.
            if line.actual_g is not None and text.strip() == prefs.show.mass_number(line.actual_g):
                actual[key] = line.actual_g
    chosen = {key: data.whole(f"lot-{key}") for key in lines}
    try:
        services.record_weights(batch, actual, data.whole("revision") or 0, chosen)
    except services.StaleBatch:
        mine = {key: data.text(f"actual-{key}", 80) for key in lines}
        there = {
            key: "nothing yet" if line.actual_g is None else prefs.show.mass_text(line.actual_g)
            for key, line in lines.items()
        }
        other = {key: text for key, text in there.items() if actual.get(key) != lines[key].actual_g}
        return WeightInputs(batch, mine, problems, other, unfit)
    return WeightInputs(batch, typed, problems, unfit=unfit)


def _grams(text: str, item: Ingredient, prefs: Preferences) -> Decimal | None:
    """Grams of one weight typed, None for an empty field."""
    return weight_g(text, item, prefs) if text.strip() else None


def weight_g(text: str, item: Ingredient | None, prefs: Preferences) -> Decimal:
    """Grams of a weight typed at the bench: sums such as ``9.0 + 2.1`` of what went in one after the other;
    of an ingredient also volumes by its density, and drops where a drop's weight is known.

    Raises :class:`Problem`.
    """
    grams = sum((_part_g(part, item, prefs) for part in text.split("+")), Decimal(0))
    if grams > MOST_G:
        raise Problem(f"{mass_words(grams)} is more than this bench holds: check the figure.")
    return grams


def piece_weights_g(text: str, name: str, count: int, prefs: Preferences) -> list[Decimal]:
    """Grams of up to ``count`` pieces, written one after the other; each as for :func:`weight_g`.

    Raises :class:`Problem`.
    """
    found = units.apart(text)
    if len(found) > count:
        raise Problem(f"{name}: {len(found)} weights for {count} piece{'' if count == 1 else 's'}.", "pieces")
    return [weight_g(part, None, prefs) for part in found]


def _part_g(text: str, item: Ingredient | None, prefs: Preferences) -> Decimal:
    if item is None:
        return units.mass_g(text, prefs.mass_unit, prefs.kitchen)
    if (number := units.drops(text, MOST_DROPS)) is not None:
        return round(drops_g(item, number), 6)
    return units.mass_g(text, prefs.mass_unit, prefs.kitchen, item.density_g_ml, item.bulk_density_g_ml)
