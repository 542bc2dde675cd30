"""What pages of the apps below show of the instruments."""

from django.urls import reverse

from workshop.hooks import SettingsPage, settings_pages


@settings_pages.register
def page() -> SettingsPage:
    """The settings of scale and thermometer."""
    return SettingsPage(
        "Scale and thermometer", reverse("instruments:settings"), "Read by a cable, or by a stand-in to try it."
    )
