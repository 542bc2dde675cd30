"""Where pieces went, and people who have them."""

from django.db import models
from django.db.models import Q
from django.utils import timezone

from pantry.models import Lot
from pours.models import Pour


class Person(models.Model):
    """Somebody who has pieces: a name, and a word how to reach them."""

    name = models.CharField(max_length=80, unique=True)
    contact = models.CharField(max_length=200, blank=True)

    class Meta:
        db_table = "labels_person"
        ordering = ("name",)
        verbose_name_plural = "people"

    def __str__(self) -> str:
        return self.name


class Handout(models.Model):
    """Pieces of a pour that went somewhere. ``is_forgotten`` where it went to a person who was taken out since; ``lot``
    is what pieces that were melted again became."""

    class How(models.TextChoices):
        KEPT = "kept", "Kept back as a sample"
        GIVEN = "given", "Given"
        SOLD = "sold", "Sold"
        SPOILED = "spoiled", "Spoiled"
        MELTED = "melted", "Melted again"

    pour = models.ForeignKey(Pour, on_delete=models.PROTECT, related_name="handouts")
    how = models.CharField(max_length=7, choices=How)
    count = models.PositiveIntegerField()
    person = models.ForeignKey(Person, on_delete=models.SET_NULL, null=True, blank=True, related_name="handouts")
    is_forgotten = models.BooleanField(default=False)
    on = models.DateField(default=timezone.localdate)
    note = models.CharField(max_length=200, blank=True)
    lot = models.OneToOneField(Lot, on_delete=models.PROTECT, null=True, blank=True, related_name="melted_from")

    class Meta:
        db_table = "labels_handout"
        ordering = ("on", "pk")
        constraints = [models.CheckConstraint(condition=Q(count__gte=1), name="a_piece_at_least")]
        indexes = [models.Index(fields=("pour", "on"), name="handouts_of_a_pour")]

    def __str__(self) -> str:
        return f"{self.count} {self.get_how_display().lower()}"

    @property
    def to_whom(self) -> str:
        """Who has them, in words."""
        return str(self.person) if self.person else "somebody who was taken out" if self.is_forgotten else ""
