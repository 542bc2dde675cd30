"""What pages of the apps below show of batches."""

from django.urls import reverse

from formulas.hooks import ways_on
from formulas.models import Version


@ways_on.register
def from_version(version: Version) -> dict[str, str]:
    """Planning a batch of a version, and a ladder of it."""
    return {
        "batch": f"{reverse('batches:plan')}?version={version.pk}",
        "ladder": f"{reverse('batches:ladder')}?version={version.pk}",
    }
