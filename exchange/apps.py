"""The app as Django knows it."""

import sys

from django.apps import AppConfig
from django.conf import settings

from exchange.data_folder import Unusable, prepare


class ExchangeConfig(AppConfig):
    """Copies and exports."""

    name = "exchange"
    verbose_name = "Copies and exports"

    def ready(self) -> None:
        """Make the folder for what the maker owns, before anything is read from it; a sentence and the
        end where it cannot be."""
        try:
            prepare(settings.DATA_DIR)
        except Unusable as problem:
            sys.exit(f"Calm Tin cannot start. {problem}")
        import exchange.providers  # noqa: F401
