"""The app as Django knows it."""

from django.apps import AppConfig


class LabelsConfig(AppConfig):
    """Labels."""

    name = "labels"
    verbose_name = "Labels"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import labels.providers  # noqa: F401
