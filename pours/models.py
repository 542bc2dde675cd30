"""Test pours: how a batch was poured and cooled, how firm it came out, and what to do next."""

from django.db import models
from django.db.models import Q
from django.utils import timezone

from balmcore.composition import Composition
from balmcore.tables import Tables
from balmcore.trials.press import RODS_MM, THUMB_WORDS
from batches.models import Batch, BatchContainer, BatchFinish
from pantry.models import Lot
from workshop.fields import MassField


class Pour(models.Model):
    """What came of one batch, or of one finish of it. Predicted and measured firmness are for the
    temperature of the test."""

    class Cooling(models.TextChoices):
        COUNTER = "counter", "Counter"
        REFRIGERATOR = "refrigerator", "Refrigerator"
        FREEZER = "freezer", "Freezer"
        OTHER = "other", "Other"

    class Verdict(models.TextChoices):
        OPEN = "", "Not yet"
        KEEP = "keep", "Keep"
        CHANGE = "change", "Change"
        DROP = "drop", "Drop"

    class Method(models.TextChoices):
        NONE = "", "Not tested yet"
        PRESS = "press", "Press test"
        THUMB = "thumb", "Thumb grade"

    batch = models.ForeignKey(Batch, on_delete=models.PROTECT, related_name="pours")
    finish = models.OneToOneField(BatchFinish, on_delete=models.PROTECT, null=True, blank=True, related_name="pour")
    poured_on = models.DateField(default=timezone.localdate)
    room_c = models.FloatField(null=True, blank=True)
    cooling = models.CharField(max_length=12, choices=Cooling, default=Cooling.COUNTER)
    cooling_note = models.CharField(max_length=200, blank=True)
    method = models.CharField(max_length=5, choices=Method, default=Method.NONE, blank=True)
    rod_mm = models.PositiveSmallIntegerField(choices=[(rod, f"{rod} mm") for rod in RODS_MM], null=True, blank=True)
    press_g = models.FloatField(null=True, blank=True)
    thumb = models.CharField(max_length=12, choices=[(word, word) for word in THUMB_WORDS], blank=True)
    test_c = models.FloatField(null=True, blank=True)
    predicted = models.FloatField()
    predicted_sigma = models.FloatField()
    measured = models.FloatField(null=True, blank=True)
    measured_sigma = models.FloatField(null=True, blank=True)
    rest_g = MassField(null=True, blank=True)
    rest_lot = models.OneToOneField(Lot, on_delete=models.PROTECT, null=True, blank=True, related_name="rest_of")
    container_lots = models.ManyToManyField(Lot, related_name="filled_at", blank=True)
    notes = models.TextField(max_length=4000, blank=True)
    verdict = models.CharField(max_length=6, choices=Verdict, default=Verdict.OPEN, blank=True)
    revision = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-poured_on", "-pk")
        indexes = [models.Index(fields=("-poured_on", "-id"), name="pours_by_day")]
        constraints = [
            models.UniqueConstraint(fields=("batch",), condition=Q(finish=None), name="poured_once"),
            models.CheckConstraint(
                condition=Q(predicted__gte=0, predicted_sigma__gt=0), name="prediction_not_negative"
            ),
            models.CheckConstraint(
                condition=Q(measured__isnull=True) | Q(measured__gte=0), name="measured_not_negative"
            ),
            models.CheckConstraint(condition=Q(rest_g__isnull=True) | Q(rest_g__gte=0), name="rest_not_negative"),
            models.CheckConstraint(condition=Q(press_g__isnull=True) | Q(press_g__gt=0), name="press_above_nothing"),
        ]

    def __str__(self) -> str:
        return f"Pour of {self.batch}{f', {self.finish}' if self.finish else ''}"

    @property
    def containers(self) -> list[BatchContainer]:
        """What it was filled into."""
        return self.batch.containers_of(self.finish)

    def to_composition(self, tables: Tables) -> Composition:
        """What is in its pieces."""
        return self.batch.to_composition(tables, self.finish)


class PouredPiece(models.Model):
    """One filled container and what its content weighed."""

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="pieces")
    name = models.CharField(max_length=120)
    mass_g = MassField()

    class Meta:
        ordering = ("pk",)
        constraints = [models.CheckConstraint(condition=Q(mass_g__gte=0), name="piece_not_negative")]

    def __str__(self) -> str:
        return f"{self.name} {self.mass_g} g"
