"""From a lot to everything that was made from it, rests of melts followed too."""

from dataclasses import dataclass

from django.db.models import Sum

from balmcore.tables import Tables
from balmcore.wording import in_sentence
from batches.models import Batch, Draw
from pantry.models import Lot, Preparation
from pours.models import Pour
from pours.queries import Card, card, for_list

DEEPEST = 20  # a rest of a rest of a rest


@dataclass(frozen=True)
class Made:
    """A pour made from a lot, with its pieces; ``through`` names the rest by which it got in."""

    card: Card
    pieces: tuple[str, ...]
    through: str


@dataclass(frozen=True)
class Trace:
    """Everything made from one lot: pours, batches begun and not poured, and the pieces in all."""

    lot: Lot
    made: tuple[Made, ...]
    open: tuple[Batch, ...]

    @property
    def pieces(self) -> int:
        """How many pieces hold some of it."""
        return sum(row.count for made in self.made for row in made.card.pour.batch.containers.all())


def trace(lot: Lot, tables: Tables) -> Trace:
    """Follow a lot through its batches, through the rests kept of them and through what was
    prepared with it, to every piece. What went back to the lot was not made from it."""
    reached = dict.fromkeys(Pour.objects.filter(container_lots=lot).values_list("batch", flat=True), "")
    wave = {lot.pk: ""}
    for _ in range(DEEPEST):
        given = Draw.objects.filter(lot__in=wave).values_list("line__batch", "lot").annotate(net=Sum("grams"))
        fresh = {batch: wave[lot_pk] for batch, lot_pk, net in given if net > 0 and batch not in reached}
        reached |= fresh
        rests = Pour.objects.filter(batch__in=fresh, rest_lot__isnull=False).values_list("rest_lot", "batch")
        prepared = Preparation.objects.filter(sources__in=wave, lot__isnull=False).values_list("lot", "name")
        wave = {pk: f"the rest of batch {batch}" for pk, batch in rests} | {
            pk: in_sentence(name) for pk, name in prepared
        }
        if not wave:
            break
    pours = for_list(Pour.objects.filter(batch__in=reached))
    open_batches = Batch.objects.unpoured().filter(pk__in=reached).select_related("version__formula")
    return Trace(
        lot,
        tuple(
            Made(card(pour, tables), tuple(str(row) for row in pour.batch.containers.all()), reached[pour.batch_id])
            for pour in pours
        ),
        tuple(open_batches),
    )
