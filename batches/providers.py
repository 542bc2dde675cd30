"""What pages of the apps below show of batches."""

from django.urls import reverse

from batches.supply.reserving import holds
from formulas.hooks import ways_on
from formulas.models import Version
from pantry.hooks import HeldFor, holds_of_lot
from pantry.models import Lot
from pantry.queries import lots_of


@ways_on.register
def from_version(version: Version) -> dict[str, str]:
    """Planning a batch of a version, and a ladder of it."""
    return {
        "batch": f"{reverse('batches:plan')}?version={version.pk}",
        "ladder": f"{reverse('batches:ladder')}?version={version.pk}",
    }


@holds_of_lot.register
def planned_of(lot: Lot) -> list[HeldFor]:
    """The planned batches that a lot is held for, in the order of their days."""
    held = holds(lots_of([lot.item_key])).get(lot.pk, ())
    return [
        HeldFor(f"batch {hold.batch.pk}, {hold.batch.version}", hold.batch.get_absolute_url(), hold.amount)
        for hold in held
    ]
