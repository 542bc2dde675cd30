"""Weights as they are typed at the bench, read and written down."""

from decimal import Decimal

from balmcore import units
from balmcore.errors import Problem
from balmcore.tables import library
from batches import services
from batches.models import Batch
from workshop.models import Preferences
from workshop.web import Fields

MOST_G = Decimal(50_000)

Texts = dict[str, str]


def take(data: Fields, batch: Batch, prefs: Preferences) -> tuple[Texts, Texts, Texts]:
    """Write down every weight that can be read.

    Returns, by ingredient, the texts that could not be used, their sentences, and, when
    another tab wrote first, what stands there now (nothing is written then).
    """
    typed: Texts = {}
    problems: Texts = {}
    actual: dict[str, Decimal | None] = {}
    for line in batch.lines.all():
        key = line.ingredient_key
        text = data.text(f"actual-{key}", 80)
        try:
            actual[key] = _grams(text, key, prefs)
        except Problem as problem:
            typed[key], problems[key] = text, problem.sentence
        else:
            # A figure shown to the scale's step and not touched stays what was stored.
            if line.actual_g is not None and text.strip() == prefs.show.mass_number(line.actual_g):
                actual[key] = line.actual_g
    chosen = {line.ingredient_key: data.whole(f"lot-{line.ingredient_key}") for line in batch.lines.all()}
    try:
        services.weigh(batch.pk, actual, data.whole("revision") or 0, chosen)
    except services.WeighedElsewhere:
        batch = Batch.objects.prefetch_related("lines").get(pk=batch.pk)  # as it stands by now
        mine = {line.ingredient_key: data.text(f"actual-{line.ingredient_key}", 80) for line in batch.lines.all()}
        there = {
            line.ingredient_key: prefs.show.mass_text(line.actual_g) if line.actual_g is not None else "nothing yet"
            for line in batch.lines.all()
        }
        other = {key: text for key, text in there.items() if actual.get(key) != _stored(batch, key)}
        return mine, problems, other
    return typed, problems, {}


def _stored(batch: Batch, key: str) -> Decimal | None:
    return next(line.actual_g for line in batch.lines.all() if line.ingredient_key == key)


def _grams(text: str, key: str, prefs: Preferences) -> Decimal | None:
    """Grams of one weight typed, None for an empty field. Volumes go by the ingredient's density."""
    if not text.strip():
        return None
    item = library().ingredient(key)
    grams = units.mass_g(text, prefs.mass_unit, prefs.kitchen, item.density_g_ml, item.bulk_density_g_ml)
    if grams > MOST_G:
        raise Problem(f"{grams:.0f} g is more than this bench holds: check the figure.")
    return round(grams, 6)
