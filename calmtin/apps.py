"""The app as Django knows it."""

from django.apps import AppConfig


class CalmTinConfig(AppConfig):
    """Calm Tin."""

    name = "calmtin"
    verbose_name = "Calm Tin"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import calmtin.providers  # noqa: F401
