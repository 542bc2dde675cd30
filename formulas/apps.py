"""The app as Django knows it."""

from django.apps import AppConfig


class FormulasConfig(AppConfig):
    """Formulas."""

    name = "formulas"
    verbose_name = "Formulas"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for."""
        import formulas.providers  # noqa: F401
