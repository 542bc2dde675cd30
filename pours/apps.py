"""The app as Django knows it."""

from django.apps import AppConfig


class PoursConfig(AppConfig):
    """Pours."""

    name = "pours"
    verbose_name = "Pours"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import pours.panels  # noqa: F401
