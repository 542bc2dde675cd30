"""The app as Django knows it."""

from django.apps import AppConfig


class PantryConfig(AppConfig):
    """Pantry."""

    name = "pantry"
    verbose_name = "Pantry"
