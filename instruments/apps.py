"""The app as Django knows it."""

from django.apps import AppConfig


class InstrumentsConfig(AppConfig):
    """Scale and thermometer."""

    name = "instruments"
    verbose_name = "Instruments"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import instruments.providers  # noqa: F401
