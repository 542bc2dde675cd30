"""The app as Django knows it."""

from django.apps import AppConfig


class CalmTinConfig(AppConfig):
    """Calm Tin."""

    name = "calmtin"
    verbose_name = "Calm Tin"
