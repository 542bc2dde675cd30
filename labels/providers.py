"""What pages of the apps below show of labels, pieces and recalls."""

from django.db.models import Sum
from django.urls import reverse

from labels.models import Handout
from pantry.hooks import Use, pages_of_lot
from pantry.models import Lot
from pours.hooks import pieces_gone, ways_of_pour
from pours.models import Pour


@ways_of_pour.register
def label(pour: Pour) -> tuple[str, str]:
    """The labels of a pour."""
    return "Labels", reverse("labels:label", args=[pour.pk])


@ways_of_pour.register
def pieces(pour: Pour) -> tuple[str, str]:
    """Where its pieces went."""
    return "Pieces", reverse("labels:pieces", args=[pour.pk])


@pages_of_lot.register
def recall(lot: Lot) -> Use:
    """Who has anything made from a lot."""
    return Use("Who has it: a recall", reverse("labels:recall_lot", args=[lot.pk]))


@pieces_gone.register
def gone(pour: Pour) -> int:
    """How many pieces of a pour went somewhere."""
    return int(Handout.objects.filter(pour=pour).aggregate(count=Sum("count"))["count"] or 0)
