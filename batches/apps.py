"""The app as Django knows it."""

from django.apps import AppConfig


class BatchesConfig(AppConfig):
    """Batches."""

    name = "batches"
    verbose_name = "Batches"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import batches.providers  # noqa: F401
