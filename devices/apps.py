"""The app as Django knows it."""

from django.apps import AppConfig


class DevicesConfig(AppConfig):
    """Phones that may use the workshop."""

    name = "devices"
    verbose_name = "Devices"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import devices.providers  # noqa: F401
