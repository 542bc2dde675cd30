"""From a lot to everything that was made from it, rests of melts followed too."""

from collections.abc import Iterable
from dataclasses import dataclass

from batches.models import Batch, Draw
from pantry.models import Lot
from pours.models import Pour
from pours.queries import Card, card, full

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


def trace(lot: Lot) -> Trace:
    """Follow a lot through its batches, and through the rests kept of them, to every piece."""
    reached: dict[int, str] = {}
    wave, through = [lot.pk], {lot.pk: ""}
    for _ in range(DEEPEST):
        batches = {
            batch: through[lot_pk]
            for batch, lot_pk in Draw.objects.filter(lot__in=wave).values_list("line__batch", "lot")
        }
        fresh = {batch: words for batch, words in batches.items() if batch not in reached}
        reached |= fresh
        rests = Pour.objects.filter(batch__in=fresh, rest_lot__isnull=False).select_related("rest_lot")
        wave = [pour.rest_lot_id for pour in rests if pour.rest_lot_id]
        through = {pour.rest_lot_id: f"the rest of batch {pour.batch_id}" for pour in rests if pour.rest_lot_id}
        if not wave:
            break
    pours = full(Pour.objects.filter(batch__in=reached)).prefetch_related("pieces")
    open_batches = Batch.objects.filter(pk__in=reached, pour=None).select_related("version__formula")
    return Trace(
        lot,
        tuple(Made(card(pour), tuple(_pieces(pour)), reached[pour.batch_id]) for pour in pours),
        tuple(open_batches),
    )


def _pieces(pour: Pour) -> Iterable[str]:
    for row in pour.batch.containers.all():
        yield f"{row.count} × {row.name}"
