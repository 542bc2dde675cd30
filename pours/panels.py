"""What pages of the apps below show of pours."""

from collections.abc import Collection
from decimal import Decimal

from django.urls import reverse

from balmcore.composition import Composition
from balmcore.making.scaling import in_pot
from balmcore.tables import Ingredient, Tables
from balmcore.units import temp_words
from batches.models import Batch, BatchLine
from batches.points import pour_address, unfit_among, unfit_batches
from formulas.models import Version
from formulas.points import PourOfVersion, judged_pours, pours_of_versions
from pantry.models import Lot
from pantry.points import Use, pages_of_lot
from pours.models import Pour
from pours.queries import card, for_list
from pours.tracing import unfit
from workshop.pictures.tin import Tin, tin


@judged_pours.register
def judged(version: Version, tables: Tables) -> list[tuple[Composition, Tin]]:
    """The judged pours of a formula, the oldest version first. One query."""
    lines = BatchLine.objects.filter(
        batch__version__formula=version.formula_id, batch__state=Batch.State.POURED, batch__pour__verdict__gt=""
    ).order_by("batch__version__number", "batch", "position")
    pots: dict[tuple[object, ...], list[tuple[Ingredient, Decimal | None, Decimal]]] = {}
    pour = ("batch", "batch__pour__verdict", "batch__pour__measured", "batch__pour__predicted")
    for *told, key, actual, target in lines.values_list(*pour, "ingredient_key", "actual_g", "target_g"):
        pots.setdefault(tuple(told), []).append((tables.ingredient(key), actual, target))
    found = []
    for (batch, verdict, measured, predicted), pot in pots.items():
        composition = in_pot(pot).dried
        firmness = predicted if measured is None else measured
        assert isinstance(firmness, float)
        picture = tin(composition.role_shares(), firmness, "judged", f"Batch {batch}, {verdict}")
        found.append((composition, picture))
    return found


@pours_of_versions.register
def poured(versions: Collection[int], tables: Tables) -> dict[int, list[PourOfVersion]]:
    """The pours of some versions, the oldest first."""
    found: dict[int, list[PourOfVersion]] = {}
    rows = list(for_list(Pour.objects.filter(batch__version__in=versions).order_by("poured_on", "pk")))
    unfit = unfit_among([pour.batch for pour in rows], tables)
    for pour in rows:
        shown = card(pour, tables, unfit)
        measured = "not tested" if pour.measured is None else f"measured {pour.measured:.0f}"
        told = f"{pour.poured_on:%-d %B %Y}, {measured}, predicted {pour.predicted:.0f} at {temp_words(shown.at_c)}"
        if shown.unfit:
            told += f". {shown.unfit}"
        verdict = pour.get_verdict_display() if pour.verdict else "not judged"
        address = reverse("pours:pour", args=[pour.pk])
        found.setdefault(pour.batch.version_id, []).append(PourOfVersion(shown.tin, verdict, told, address))
    return found


@pages_of_lot.register
def made_from(lot: Lot) -> Use:
    """Where everything made from a lot is listed."""
    return Use("What was made from it", reverse("pours:made_from", args=[lot.pk]))


unfit_batches.register(unfit)


@pour_address.register
def address(batch: Batch) -> str:
    """The page on which the pour of a batch is recorded, or stands."""
    if batch.is_poured:
        return reverse("pours:pour", args=[Pour.objects.values_list("pk", flat=True).get(batch=batch)])
    return reverse("pours:record", args=[batch.pk])
