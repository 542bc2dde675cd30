"""What pages of the apps below show of the instruments."""

from django.urls import reverse

from workshop.points import settings_pages


@settings_pages.register
def page() -> tuple[str, str]:
    """The settings of scale and thermometer."""
    return "Scale and thermometer", reverse("instruments:settings")
