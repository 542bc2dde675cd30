"""The maker's own containers, beside those of the shipped table."""

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import Q


class OwnContainer(models.Model):
    """A tube, tin, jar or mould of the maker's own: brimful capacity and how far it is filled."""

    name = models.CharField(max_length=80, unique=True)
    capacity_ml = models.FloatField(validators=[MinValueValidator(0.1), MaxValueValidator(100_000)])
    fill = models.FloatField(default=0.9, validators=[MinValueValidator(0.05), MaxValueValidator(1)])

    class Meta:
        ordering = ("name",)
        constraints = [
            models.CheckConstraint(condition=Q(capacity_ml__gt=0), name="capacity_above_nothing"),
            models.CheckConstraint(condition=Q(fill__gt=0, fill__lte=1), name="fill_up_to_the_brim"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def key(self) -> str:
        """Its key among all containers."""
        return f"own-{self.pk}"
