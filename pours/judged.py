"""The judged pours of a formula, as they stand on its triangle."""

from decimal import Decimal
from functools import lru_cache

from django.db.models import Subquery
from django.db.models.functions import Coalesce

from balmcore.composition import Composition
from balmcore.making.scaling import in_pot, with_added
from balmcore.tables import Ingredient, Tables
from batches.models import Batch, BatchLine
from formulas.models import Version
from pours.models import Check
from workshop.models import Preferences
from workshop.pictures.tin import Tin, tin


def judged_pours_of(version: Version, tables: Tables, prefs: Preferences) -> list[tuple[Composition, Tin]]:
    """The judged pours of a formula, the oldest version first. No query as long as no pour was written down."""
    return list(_judged(version.formula_id, prefs.records_revision, tables)) if prefs.records_revision else []


@lru_cache(maxsize=64)
def _judged(formula: int, records_revision: int, tables: Tables) -> tuple[tuple[Composition, Tin], ...]:
    """Kept until a pour or a check is written down: the studio asks at every edit."""
    lines = BatchLine.objects.filter(
        batch__version__formula=formula, batch__state=Batch.State.POURED, batch__pours__verdict__gt=""
    ).order_by("batch__version__number", "batch", "batch__pours", "position")
    finish = "batch__pours__finish"
    last = Subquery(Check.objects.last_of("batch__pours").values("measured")[:1])
    told = ("batch", "batch__pours", finish, "batch__pours__verdict", "last", "batch__pours__predicted")
    taken = Coalesce(f"{finish}__taken_g", f"{finish}__base_g")
    pots: dict[tuple[object, ...], list[tuple[Ingredient, Decimal | None, Decimal]]] = {}
    added: dict[tuple[object, ...], list[tuple[Ingredient, Decimal]]] = {}
    found_rows = lines.annotate(taken=taken, last=last).values_list(
        *told, "taken", "finish", "ingredient_key", "actual_g", "target_g"
    )
    for *pour, own, key, actual, target in found_rows:
        if own is None:
            pots.setdefault(tuple(pour), []).append((tables.ingredient(key), actual, target))
        elif own == pour[2]:
            mass = target if actual is None else actual
            added.setdefault(tuple(pour), []).append((tables.ingredient(key), mass))
    found = []
    for pour, pot in pots.items():
        batch, _, _, verdict, measured, predicted, base_g = pour
        composition = in_pot(pot).without_volatiles
        if isinstance(base_g, Decimal):
            composition = with_added(composition, base_g, added.get(pour, ()))
        firmness = predicted if measured is None else measured
        assert isinstance(firmness, float)
        picture = tin(composition.role_shares(), firmness, "judged", f"Batch {batch}, {verdict}")
        found.append((composition, picture))
    return tuple(found)
