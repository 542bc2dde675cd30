"""What pages of the pantry show of the apps above: those register, see :mod:`workshop.hooks`."""

from collections.abc import Collection
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Exists, OuterRef, Q, QuerySet

from balmcore.tables import Tables, shipped
from pantry.models import Lot
from workshop.hooks import Hook


@dataclass(frozen=True)
class Use:
    """Something that uses an ingredient, or a page about it: what to call it, and where it is."""

    name: str
    address: str


# The current versions that hold an ingredient, by its key.
uses_of_ingredient: Hook[[str], list[Use]] = Hook()
# Whether anything, old versions too, needs an ingredient to be readable.
needs_ingredient: Hook[[str], bool] = Hook()
# Those of some lots made here that hold something of a lot that is not good, by number: what to say of each.
unfit_lots: Hook[[Collection[Lot], Tables], dict[int, str]] = Hook()


@dataclass(frozen=True)
class HeldFor:
    """What a lot is held for: what to call it, where it is, and how much."""

    name: str
    address: str
    amount: Decimal


# For what a lot is held, and how much of it.
holds_of_lot: Hook[[Lot], list[HeldFor]] = Hook()
# Pages that tell more of a lot, such as what was made from it.
pages_of_lot: Hook[[Lot], Use] = Hook()


def with_unfit(lots: "QuerySet[Lot]") -> list[Lot]:
    """Some lots; those made here of something that is not good know it, as ``unfit``. One query, and a few more where
    any lot is marked and one of these may hold some of it."""
    marked = Exists(Lot.objects.exclude(state=Lot.State.GOOD).order_by())
    plain = Q(state=Lot.State.GOOD, origin=Lot.Origin.BOUGHT)
    mixed = Exists(Lot.objects.filter(prepared_into__lot=OuterRef("pk")).exclude(plain).order_by())
    rows = tuple(lots.annotate(is_any_marked=marked, is_mixed=mixed))
    suspect = [
        lot
        for lot in rows
        if lot.is_any_marked and lot.left > 0 and (lot.is_mixed or lot.origin == Lot.Origin.LEFTOVER)
    ]
    if suspect:
        said = {pk: sentence for answer in unfit_lots.ask(suspect, shipped()) for pk, sentence in answer.items()}
        for lot in suspect:
            lot.unfit = said.get(lot.pk, "")
    return list(rows)
