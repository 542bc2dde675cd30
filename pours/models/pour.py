"""Test pours: how a batch was poured and cooled, and what to do next."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from django.db import models
from django.db.models import Prefetch, Q
from django.urls import reverse
from django.utils import timezone

from balmcore.composition import Composition
from balmcore.physics.thermal import PLACE_NAMES
from balmcore.tables import Tables
from batches.models import Batch, BatchContainer, BatchFinish, Draw
from pantry.models import Lot
from workshop.fields import MassField, MeasureField

if TYPE_CHECKING:
    from pours.models.check import Check


class PourQuerySet(models.QuerySet["Pour"]):
    """What is asked of pours again and again."""

    def for_list(self) -> "PourQuerySet":
        """With all that a card shows: four queries more."""
        return self.select_related("batch__version__formula", "finish").prefetch_related(
            "batch__containers", "batch__lines", "batch__finishes", "checks"
        )

    def for_tin(self) -> "PourQuerySet":
        """With what its picture and its title show: two queries more, and one where a melt had several finishes."""
        return self.for_reading().select_related("batch__version__formula").prefetch_related("checks")

    def for_reading(self) -> "PourQuerySet":
        """With what is needed to say what is in its pieces, and no more."""
        return self.select_related("batch", "finish").prefetch_related("batch__lines", "batch__finishes")

    def for_label(self) -> "PourQuerySet":
        """With what stands on its labels, and the lots behind it."""
        draws = Prefetch("batch__lines__draws", Draw.objects.select_related("lot"))
        return self.select_related("batch__version__formula", "finish").prefetch_related(
            "pieces", "batch__containers", "batch__lines", draws
        )

    def for_page(self) -> "PourQuerySet":
        """With all that its own page shows."""
        batches = Prefetch("batch", Batch.objects.for_page())
        return self.select_related("leftover_lot", "finish").prefetch_related(
            "pieces", batches, "checks__photos", "follow_ups", "wear_tests"
        )


class Pour(models.Model):
    """What came of one batch, or of one finish of it. ``predicted`` is the firmness at 21 degrees for what was
    really weighed, as it was said when the pour was written down."""

    class Cooling(models.TextChoices):
        COUNTER = "counter", PLACE_NAMES["counter"]
        REFRIGERATOR = "refrigerator", PLACE_NAMES["refrigerator"]
        FREEZER = "freezer", PLACE_NAMES["freezer"]
        OTHER = "other", "Other"

    class Verdict(models.TextChoices):
        OPEN = "", "Not yet"
        KEEP = "keep", "Keep"
        CHANGE = "change", "Change"
        DROP = "drop", "Drop"

    batch = models.ForeignKey(Batch, on_delete=models.PROTECT, related_name="pours")
    finish = models.OneToOneField(BatchFinish, on_delete=models.PROTECT, null=True, blank=True, related_name="pour")
    poured_on = models.DateField(default=timezone.localdate)
    room_c = MeasureField(low=-40, high=90, null=True, blank=True)
    cooling = models.CharField(max_length=12, choices=Cooling, default=Cooling.COUNTER)
    cooling_note = models.CharField(max_length=200, blank=True)
    predicted = MeasureField(low=0, high=200)
    predicted_sigma = MeasureField(low=0, high=200)
    leftover_g = MassField(null=True, blank=True)
    leftover_lot = models.OneToOneField(
        Lot, on_delete=models.PROTECT, null=True, blank=True, related_name="leftover_of"
    )
    container_lots = models.ManyToManyField(Lot, related_name="filled_at", blank=True)
    best_before = models.DateField(null=True, blank=True, db_index=True)
    notes = models.TextField(max_length=4000, blank=True)
    verdict = models.CharField(max_length=6, choices=Verdict, default=Verdict.OPEN, blank=True)
    revision = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)

    objects = PourQuerySet.as_manager()

    class Meta:
        ordering = ("-poured_on", "-pk")
        indexes = [models.Index(fields=("-poured_on", "-id"), name="pours_by_day")]
        constraints = [
            models.UniqueConstraint(fields=("batch",), condition=Q(finish=None), name="poured_once"),
            models.CheckConstraint(
                condition=Q(predicted__gte=0, predicted_sigma__gt=0), name="prediction_not_negative"
            ),
            models.CheckConstraint(
                condition=Q(leftover_g__isnull=True) | Q(leftover_g__gte=0), name="leftover_not_negative"
            ),
        ]

    def __str__(self) -> str:
        return f"Pour of {self.batch}{f', {self.finish}' if self.finish else ''}"

    @property
    def name(self) -> str:
        """What it is called among others: its formula, and its finish where the melt had several."""
        return f"{self.batch.version.formula.name}{f', {self.finish}' if self.finish else ''}"

    @property
    def title(self) -> str:
        """The same with its version and its batch: ``Undertow v2, lavender, batch 31``."""
        return f"{self.batch.version}{f', {self.finish}' if self.finish else ''}, batch {self.batch_id}"

    def get_absolute_url(self) -> str:
        """Its page."""
        return reverse("pours:pour", args=[self.pk])

    @property
    def cooled_by(self) -> str:
        """The key of the way in which it really cooled, empty for another one."""
        return cooled_by(self.cooling, self.batch.cooling)

    @property
    def standing(self) -> "list[Check]":
        """Its checks that count, the oldest first; a mistake does not. Read with :meth:`PourQuerySet.for_list`."""
        return [check for check in self.checks.all() if check.counts]

    @property
    def tested(self) -> "Check | None":
        """The last check with a firmness, None before one."""
        return last_tested(self.standing)

    @property
    def containers(self) -> list[BatchContainer]:
        """What it was filled into."""
        return self.batch.containers_of(self.finish)

    @property
    def pieces_made(self) -> int:
        """How many pieces were poured."""
        return sum(row.made for row in self.containers)

    def to_composition(self, tables: Tables) -> Composition:
        """What is in its pieces."""
        return self.batch.to_composition(tables, self.finish)


def last_tested(standing: "Sequence[Check]") -> "Check | None":
    """The last of some checks with a firmness, None without one."""
    return next((check for check in reversed(standing) if check.measured is not None), None)


def cooled_by(stood: str, planned: str) -> str:
    """The way of cooling that a pour really had, by where it stood: the planned one where that agrees."""
    if COOLED_IN.get(planned) == stood:
        return planned
    return {
        Pour.Cooling.COUNTER: "counter",
        Pour.Cooling.REFRIGERATOR: "cold",
        Pour.Cooling.FREEZER: "freezer",
    }.get(Pour.Cooling(stood), "")


# Where a batch stands to cool, by the way it was planned to cool.
COOLED_IN = {
    "rest_then_cold": Pour.Cooling.REFRIGERATOR,
    "cold": Pour.Cooling.REFRIGERATOR,
    "counter": Pour.Cooling.COUNTER,
    "freezer": Pour.Cooling.FREEZER,
}


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
