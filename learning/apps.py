"""The app as Django knows it."""

from django.apps import AppConfig


class LearningConfig(AppConfig):
    """Learning."""

    name = "learning"
    verbose_name = "Learning"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import learning.providers  # noqa: F401
