"""The app as Django knows it."""

from django.apps import AppConfig


class WorkshopConfig(AppConfig):
    """Workshop."""

    name = "workshop"
    verbose_name = "Workshop"
