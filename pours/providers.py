"""What pages of the apps below show of pours."""

from collections.abc import Collection, Sequence

from django.urls import reverse

from balmcore.display import day_words, temp_words
from balmcore.tables import Tables
from batches.hooks import batch_corrected, pour_address, unfit_among, unfit_batches
from batches.models import Batch
from bench.hooks import Filled, record_pours
from formulas.hooks import PourOfVersion, PoursOfVersion, judged_pours, pages_of_formula, pours_of_versions
from formulas.models import Formula
from pantry.hooks import Use, pages_of_lot, unfit_lots
from pantry.models import Lot
from pours import services, tracing
from pours.judged import judged_pours_of
from pours.models import Pour, WearTest
from pours.queries import card
from pours.tracing import unfit

MOST_SHOWN = 8  # pours of a version on a page of versions; the rest stand in the log


batch_corrected.register(services.follow_correction)


@pours_of_versions.register
def pours_by_version(versions: Collection[int], tables: Tables) -> dict[int, PoursOfVersion]:
    """The newest pours of some versions, the oldest of them first."""
    every: dict[int, list[int]] = {}
    newest = Pour.objects.filter(batch__version__in=versions).order_by("-poured_on", "-pk")
    for version, pk in newest.values_list("batch__version", "pk"):
        every.setdefault(version, []).append(pk)
    chosen = [pk for own in every.values() for pk in own[:MOST_SHOWN]]
    found: dict[int, list[PourOfVersion]] = {}
    rows = list(Pour.objects.filter(pk__in=chosen).order_by("poured_on", "pk").for_list()) if chosen else []
    unfit = unfit_among([pour.batch for pour in rows], tables)
    for pour in rows:
        shown = card(pour, tables, unfit)
        measured = f"measured {shown.tested.measured:.0f}" if shown.tested else "not tested"
        predicted = f"predicted {shown.predicted:.0f} at {temp_words(shown.at_c)}"
        told = f"batch {pour.batch_id}, {day_words(pour.poured_on)}, {measured}, {predicted}"
        if pour.finish:
            told = f"{pour.finish}, {told}"
        if shown.unfit:
            told += f". {shown.unfit}"
        verdict = pour.get_verdict_display() if pour.verdict else "not judged"
        address = reverse("pours:pour", args=[pour.pk])
        found.setdefault(pour.batch.version_id, []).append(PourOfVersion(shown.tin, verdict, told, address))
    return {pk: PoursOfVersion(tuple(own), len(every[pk]) - len(own)) for pk, own in found.items()}


@pages_of_formula.register
def its_year(formula: Formula) -> tuple[str, str]:
    """Its pours as one picture."""
    return "A year of it", reverse("pours:year", args=[formula.pk])


@pages_of_lot.register
def made_from(lot: Lot) -> Use:
    """Where everything made from a lot is listed."""
    return Use("What was made from it", reverse("pours:made_from", args=[lot.pk]))


judged_pours.register(judged_pours_of)
unfit_batches.register(unfit)


@unfit_batches.register
def reacted_to(batches: Collection[Batch], _tables: Tables) -> dict[int, str]:
    """The batches that somebody's skin reacted to, which are not given away before it is known why. One query."""
    tests = WearTest.objects.exclude(reaction=WearTest.Reaction.NONE).filter(pour__batch__in=batches)
    return {
        test.pour.batch_id: f"Somebody reacted to it: {test.who}, {test.get_reaction_display().lower()}"
        for test in tests.select_related("pour")
    }


unfit_lots.register(tracing.unfit_lots)


@record_pours.register
def record_bench_pours(batch: Batch, all_filled: Sequence[Filled], tables: Tables) -> str:
    """The pours of what was filled at the bench. Returns where the first stands."""
    return services.record_pours(batch, all_filled, tables)[0].get_absolute_url()


@pour_address.register
def address(batch: Batch) -> str:
    """The page on which the pour of a batch is recorded, or stands."""
    # By its pours, not by what was read of it before: another page may just have recorded the last.
    poured = dict(Pour.objects.filter(batch=batch).order_by("-pk").values_list("finish", "pk"))
    finishes = batch.finishes.all()
    open_one = next((finish for finish in finishes if finish.pk not in poured), None)
    if poured and open_one is None:
        return reverse("pours:pour", args=[min(poured.values())])
    if open_one is None:
        return reverse("pours:record", args=[batch.pk])
    return f"{reverse('pours:record', args=[batch.pk])}?finish={open_one.pk}"
