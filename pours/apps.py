"""The app as Django knows it."""

from django.apps import AppConfig
from django.db.models.signals import post_delete


class PoursConfig(AppConfig):
    """Pours."""

    name = "pours"
    verbose_name = "Pours"

    def ready(self) -> None:
        """Answer what pages of the apps below ask for; what is taken away teaches no more, by whatever way it goes."""
        import pours.providers  # noqa: F401
        from pours.models import Check, Pour, WearTest

        for model in (Pour, Check, WearTest):
            post_delete.connect(_taken_away, model)


def _taken_away(**of_the_signal: object) -> None:
    from workshop.services import bump_records_revision

    bump_records_revision()
