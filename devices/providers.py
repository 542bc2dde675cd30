"""What pages of the apps below show of devices."""

from django.urls import reverse

from workshop.hooks import SettingsPage, settings_pages


@settings_pages.register
def page() -> SettingsPage:
    """The settings of phones."""
    return SettingsPage(
        "Let a phone in", reverse("devices:phones"), "See and run this workshop from the phone beside the stove."
    )
