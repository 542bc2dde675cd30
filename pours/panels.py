"""What pages of the apps below show of pours."""

from django.urls import reverse

from balmcore.composition import Composition
from balmcore.tables import Tables
from batches.models import Batch
from batches.points import pour_address
from formulas.models import Version
from formulas.points import judged_pours
from pantry.models import Lot
from pantry.points import Use, pages_of_lot
from pours.models import Pour
from workshop.pictures.tin import Tin, tin


@judged_pours.register
def judged(version: Version, tables: Tables) -> list[tuple[Composition, Tin]]:
    """The judged pours of a formula, the oldest version first. Two queries, one while there is none."""
    pours = Pour.objects.filter(batch__version__formula=version.formula_id, verdict__gt="")
    found = []
    for pour in (
        pours.order_by("batch__version__number", "batch").select_related("batch").prefetch_related("batch__lines")
    ):
        composition = pour.batch.to_composition(tables)
        firmness = pour.predicted if pour.measured is None else pour.measured
        name = f"Batch {pour.batch_id}, {pour.verdict}"
        found.append((composition, tin(composition.role_shares(), firmness, "judged", name)))
    return found


@pages_of_lot.register
def made_from(lot: Lot) -> Use:
    """Where everything made from a lot is listed."""
    return Use("What was made from it", reverse("pours:made_from", args=[lot.pk]))


@pour_address.register
def address(batch: Batch) -> str:
    """The page on which the pour of a batch is recorded, or stands."""
    if batch.is_poured:
        return reverse("pours:pour", args=[Pour.objects.values_list("pk", flat=True).get(batch=batch)])
    return reverse("pours:record", args=[batch.pk])
