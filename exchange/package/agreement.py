"""What rows have to say together, when each alone is as it should be: looked at after an import, and by ``doctor``."""

from collections.abc import Collection, Iterator
from decimal import Decimal

from django.db.models import F, OuterRef, Q, Subquery, Sum
from django.db.models.functions import Coalesce

from balmcore.errors import Problem
from balmcore.tables import Tables
from batches.models import Batch, BatchContainer, BatchLine, Draw
from formulas.models import Formula, Line, Version
from learning.models import LadderTest
from pantry.models import Entry, LeftoverLine, Lot, Preparation
from pantry.queries import containers
from pantry.tables import workshop_tables
from pieces.models import Handout
from pours.models import FollowUp, Pour
from workshop.fields import MassField

OFF_BY = Decimal("0.01")  # of a whole
MOST_SAID = 3


def require_agreement(known: Collection[str] = ()) -> None:
    """Raises :class:`Problem` for the first things that do not agree, other than those that are ``known``."""
    found = [sentence for sentence in disagreements() if sentence not in known]
    if found:
        raise Problem(" ".join(found[:MOST_SAID]))


def disagreements() -> Iterator[str]:
    """A sentence on each thing that does not agree."""
    try:
        tables = workshop_tables()
    except Problem as problem:  # an own ingredient, kind or leftover that cannot be
        yield problem.sentence
        return
    yield from _accounts()
    yield from _keys(tables)
    yield from _wholes(tables)
    yield from _parents()
    yield from _batches(tables)


def _accounts() -> Iterator[str]:
    """A lot holds what its entries add up to, and what went into a batch left it."""
    entries = (
        Entry.objects.filter(lot=OuterRef("pk")).order_by().values("lot").annotate(all=Sum("amount")).values("all")
    )
    booked = Coalesce(Subquery(entries), 0, output_field=MassField())
    for lot in Lot.objects.annotate(booked=booked).exclude(left=F("booked")):
        yield f"Of {lot} {lot.left.normalize():f} are left, and its entries add up to another amount."
    odd = Draw.objects.exclude(lot=F("entry__lot")).count() + Draw.objects.exclude(grams=-F("entry__amount")).count()
    if odd:
        yield f"{odd} weights of batches do not agree with the accounts of their lots."


def _keys(tables: Tables) -> Iterator[str]:
    """What is named is known: ingredients, containers, kinds."""
    known, kinds, containers_by_key = set(tables.ingredients), set(tables.kinds), set(containers())
    plain = {key for key in known if not tables.ingredients[key].made_of}
    for model, column, names in (
        (Line, "ingredient_key", known),
        (BatchLine, "ingredient_key", known),
        (LeftoverLine, "ingredient_key", plain),
        (LadderTest, "ingredient_key", known),
        (Preparation, "base_key", known),
        (Lot, "item_key", known | containers_by_key),
        (Formula, "kind_key", kinds),
    ):
        asked = set(model.objects.order_by().values_list(column, flat=True).distinct())
        for key in sorted(asked - names):
            yield f"Nothing here is called {key}, which {model._meta.verbose_name_plural} name."
    mixed = Lot.objects.filter(is_container=True).exclude(item_key__in=containers_by_key).count()
    mixed += Lot.objects.filter(is_container=False).exclude(item_key__in=known).count()
    if mixed:
        yield f"{mixed} lots are of containers and say that they are not, or the other way round."


def _wholes(tables: Tables) -> Iterator[str]:
    """The lines of a version, and of what stayed of a melt, are the whole of it."""
    for version in Version.objects.annotate(whole=Sum("lines__share")).select_related("formula"):
        if abs((version.whole or Decimal(0)) - 1) > OFF_BY:
            yield f"The lines of {version} do not add up to one hundred percent."
    for formula in Formula.objects.exclude(versions__is_current=True):
        yield f"{formula} has no version that is the one in hand."
    for key, item in tables.ingredients.items():
        if item.made_of and abs(sum(part for _, part in item.parts) - 1) > float(OFF_BY):
            yield f"The parts of {item.name} ({key}) do not add up to the whole."


def _parents() -> Iterator[str]:
    """Parts belong to the whole they say; no version comes from itself."""
    others = (
        (BatchLine, Q(finish__isnull=False) & ~Q(finish__batch=F("batch"))),
        (BatchContainer, Q(finish__isnull=False) & ~Q(finish__batch=F("batch"))),
        (Pour, Q(finish__isnull=False) & ~Q(finish__batch=F("batch"))),
        (FollowUp, Q(answer__isnull=False) & ~Q(answer__pour=F("pour"))),
    )
    for model, stray in others:
        if count := model.objects.filter(stray).count():
            yield f"{count} {model._meta.verbose_name_plural} belong to two wholes at once."
    before = dict(Version.objects.exclude(made_from=None).values_list("pk", "made_from"))
    for start in before:
        seen, at = {start}, before.get(start)
        while at is not None and at not in seen:
            seen.add(at)
            at = before.get(at)
        if at is not None:
            yield f"Version row {start} was made from itself."
            return


def _batches(tables: Tables) -> Iterator[str]:
    """Every batch can be worked out, and its bench names lines that it has."""
    for batch in Batch.objects.for_page().iterator(chunk_size=200):
        try:
            for composition in batch.compositions(tables).values():
                composition.require_mass()
            batch.to_planned(tables).require_mass()
        except (Problem, ArithmeticError) as refusal:
            yield f"Batch {batch.pk} cannot be worked out ({refusal})."
    pieces = (
        BatchContainer.objects.filter(batch=OuterRef("pour__batch"))
        .order_by()
        .values("batch")
        .annotate(n=Sum(Coalesce("filled", "count")))
    )
    gone = (
        Handout.objects.order_by()
        .values("pour")
        .annotate(gone=Sum("count"), most=Subquery(pieces.values("n")))
        .filter(gone__gt=F("most"))
    )
    if count := gone.count():
        yield f"Of {count} pours more pieces went than were filled."
