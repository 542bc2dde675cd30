"""The app as Django knows it."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    """The bench."""

    name = "bench"
    verbose_name = "Bench"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import bench.providers  # noqa: F401
