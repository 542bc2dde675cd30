"""What pages of the apps below show of the whole."""

from django.urls import reverse

from workshop.points import settings_pages


@settings_pages.register
def page() -> tuple[str, str]:
    """The copies of the workshop."""
    return "Copies of the workshop", reverse("backups")
