"""What pages of the apps below show of the whole."""

from django.urls import reverse

from workshop.hooks import SettingsPage, settings_pages


@settings_pages.register
def page() -> SettingsPage:
    """The copies of the workshop."""
    return SettingsPage(
        "Copies of the workshop",
        reverse("exchange:copies"),
        "Copies every day, putting one back, everything in one file.",
    )
