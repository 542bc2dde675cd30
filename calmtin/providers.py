"""What pages of the apps below show of the whole."""

from django.urls import reverse

from workshop.hooks import SettingsPage, settings_pages


@settings_pages.register
def close() -> SettingsPage:
    """Where Calm Tin is closed."""
    return SettingsPage("Close Calm Tin", reverse("close"), "What you wrote down stays; the same start opens it again.")
