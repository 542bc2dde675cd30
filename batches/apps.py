"""The app as Django knows it."""

from django.apps import AppConfig


class BatchesConfig(AppConfig):
    """Batches."""

    name = "batches"
    verbose_name = "Batches"
