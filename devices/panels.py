"""What pages of the apps below show of devices."""

from django.urls import reverse

from workshop.points import settings_pages


@settings_pages.register
def page() -> tuple[str, str]:
    """The settings of phones."""
    return "Let a phone in", reverse("devices:phones")
