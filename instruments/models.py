"""The scale and the thermometer of the bench: where they speak, and in which unit when they do not say."""

from django.db import models
from django.db.models import Q

SIMULATOR = "stand-in"


class Instrument(models.Model):
    """One instrument. ``address`` is a port or an address that pyserial opens, or ``stand-in``; ``tare`` is what
    the line of a scale takes to tare it, empty where it takes nothing."""

    class Kind(models.TextChoices):
        SCALE = "scale", "Scale"
        THERMOMETER = "thermometer", "Thermometer"

    class Unit(models.TextChoices):
        GRAMS = "g", "g"
        OUNCES = "oz", "oz"
        CELSIUS = "C", "°C"
        FAHRENHEIT = "F", "°F"

    kind = models.CharField(max_length=12, choices=Kind, unique=True)
    address = models.CharField(max_length=200)
    baud = models.PositiveIntegerField(default=9600)
    unit = models.CharField(max_length=2, choices=Unit)
    tare = models.CharField(max_length=12, blank=True, default="")

    class Meta:
        ordering = ("kind",)
        constraints = [
            models.CheckConstraint(condition=Q(baud__gte=110, baud__lte=4_000_000), name="baud_within_reason"),
        ]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} at {self.address}"
