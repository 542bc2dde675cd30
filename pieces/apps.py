"""The app as Django knows it."""

from django.apps import AppConfig


class PiecesConfig(AppConfig):
    """Pieces."""

    name = "pieces"
    verbose_name = "Pieces"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import pieces.providers  # noqa: F401
