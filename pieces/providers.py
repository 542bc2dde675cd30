"""What pages of the apps below show of pieces and recalls."""

from django.db.models import Sum
from django.urls import reverse

from pantry.hooks import Use, pages_of_lot
from pantry.models import Lot
from pieces.models import Handout
from pours.hooks import pieces_gone, ways_of_pour
from pours.models import Pour


@ways_of_pour.register
def pieces(pour: Pour) -> tuple[str, str]:
    """Where its pieces went."""
    return "Pieces", reverse("pieces:pieces", args=[pour.pk])


@pages_of_lot.register
def recall(lot: Lot) -> Use:
    """Who has anything made from a lot."""
    return Use("Who has it: a recall", reverse("pieces:recall_lot", args=[lot.pk]))


@pieces_gone.register
def gone(pour: Pour) -> int:
    """How many pieces of a pour went somewhere."""
    return int(Handout.objects.filter(pour=pour).aggregate(count=Sum("count"))["count"] or 0)
