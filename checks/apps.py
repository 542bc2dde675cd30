"""The app as Django knows it."""

from django.apps import AppConfig


class ChecksConfig(AppConfig):
    """Checks."""

    name = "checks"
    verbose_name = "Checks"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import checks.providers  # noqa: F401
