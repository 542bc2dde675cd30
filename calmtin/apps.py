"""The app as Django knows it."""

from django.apps import AppConfig
from django.conf import settings

from calmtin.data_folder import prepare


class CalmTinConfig(AppConfig):
    """Calm Tin."""

    name = "calmtin"
    verbose_name = "Calm Tin"

    def ready(self) -> None:
        """Make the folder for what the maker owns, before anything is read from it."""
        prepare(settings.DATA_DIR)
