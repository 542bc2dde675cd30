"""The app as Django knows it."""

from django.apps import AppConfig
from django.forms import Field


class WorkshopConfig(AppConfig):
    """Workshop."""

    name = "workshop"
    verbose_name = "Workshop"

    def ready(self) -> None:
        """Say in a maker's words what Django says in its own."""
        Field.default_error_messages["required"] = "Something has to stand here."
