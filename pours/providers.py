"""What pages of the apps below show of pours."""

from collections.abc import Collection, Sequence
from decimal import Decimal

from django.db.models import Subquery
from django.db.models.functions import Coalesce
from django.urls import reverse
from django.utils import timezone

from balmcore.composition import Composition
from balmcore.display import day_words, temp_words
from balmcore.making.scaling import in_pot, with_added
from balmcore.tables import Ingredient, Tables
from batches.hooks import (
    CalendarDay,
    calendar_days,
    ladder_tests,
    pour_address,
    unfit_among,
    unfit_batches,
)
from batches.models import Batch, BatchLine
from bench.hooks import Filled, record_pours
from formulas.hooks import PourOfVersion, judged_pours, pours_of_versions
from formulas.models import Version
from pantry.hooks import Use, pages_of_lot, unfit_lots
from pantry.models import Lot
from pours import services, tracing
from pours.models import Check, FollowUp, Pour
from pours.queries import card
from pours.tracing import unfit
from workshop.models import Preferences
from workshop.pictures.tin import Tin, tin

MOST_DAYS = 400


@judged_pours.register
def judged_pours_of(version: Version, tables: Tables, prefs: Preferences) -> list[tuple[Composition, Tin]]:
    """The judged pours of a formula, the oldest version first. No query as long as no pour was written down."""
    if not prefs.records_revision:
        return []
    lines = BatchLine.objects.filter(
        batch__version__formula=version.formula_id, batch__state=Batch.State.POURED, batch__pours__verdict__gt=""
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
    return found


@calendar_days.register
def days_to_look() -> list[CalendarDay]:
    """The days on which pours are to be looked at again."""
    rows = FollowUp.objects.asked(timezone.localdate()).select_related("pour__batch__version__formula", "pour__finish")
    found = []
    for row in rows[:MOST_DAYS]:
        name = row.pour.title
        address = f"{reverse('pours:check', args=[row.pour_id])}?follow_up={row.pk}"
        found.append(CalendarDay(f"follow-up-{row.pk}", f"Look at {name} after {row.words}", row.due_on, address))
    return found


@ladder_tests.register
def cups(version: Version) -> str:
    """Where the cups of a ladder are written down."""
    return reverse("pours:begin_ladder", args=[version.pk])


@pours_of_versions.register
def pours_by_version(versions: Collection[int], tables: Tables) -> dict[int, list[PourOfVersion]]:
    """The pours of some versions, the oldest first."""
    found: dict[int, list[PourOfVersion]] = {}
    rows = list(Pour.objects.filter(batch__version__in=versions).order_by("poured_on", "pk").for_list())
    unfit = unfit_among([pour.batch for pour in rows], tables)
    for pour in rows:
        shown = card(pour, tables, unfit)
        measured = f"measured {shown.tested.measured:.0f}" if shown.tested else "not tested"
        told = f"{day_words(pour.poured_on)}, {measured}, predicted {shown.predicted:.0f} at {temp_words(shown.at_c)}"
        if pour.finish:
            told = f"{pour.finish}, {told}"
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
unfit_lots.register(tracing.unfit_lots)


@record_pours.register
def record_bench_pours(batch: Batch, all_filled: Sequence[Filled], tables: Tables) -> str:
    """The pours of what was filled at the bench. Returns where the first stands."""
    return services.record_pours(batch, all_filled, tables)[0].get_absolute_url()


@pour_address.register
def address(batch: Batch) -> str:
    """The page on which the pour of a batch is recorded, or stands."""
    if batch.is_poured:
        return reverse("pours:pour", args=[Pour.objects.filter(batch=batch).values_list("pk", flat=True).first()])
    finishes = list(batch.finishes.all())
    if not finishes:
        return reverse("pours:record", args=[batch.pk])
    poured = set(Pour.objects.filter(batch=batch).values_list("finish", flat=True))
    open_one = next(finish for finish in finishes if finish.pk not in poured)
    return f"{reverse('pours:record', args=[batch.pk])}?finish={open_one.pk}"
