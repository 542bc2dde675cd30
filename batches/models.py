"""A batch: one version scaled to containers, its grams per line, and what was really weighed."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from balmcore import formula as core
from balmcore.batch import Filling
from formulas.models import Version


class Batch(models.Model):
    """A planned melt. ``revision`` counts the saves, so that two tabs cannot overwrite each other."""

    version = models.ForeignKey(Version, on_delete=models.PROTECT, related_name="batches")
    resolution_g = models.DecimalField(max_digits=12, decimal_places=6)
    loss_g = models.DecimalField(max_digits=12, decimal_places=6, default=Decimal(0))
    pour_c = models.FloatField()
    overrun = models.FloatField(default=0)
    revision = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)
        verbose_name_plural = "batches"
        constraints = [
            models.CheckConstraint(condition=Q(resolution_g__gt=0), name="batch_scale_step_above_nothing"),
            models.CheckConstraint(condition=Q(loss_g__gte=0), name="loss_not_negative"),
            models.CheckConstraint(condition=Q(overrun__gte=0), name="overrun_not_negative"),
        ]

    def __str__(self) -> str:
        return f"Batch {self.pk} of {self.version}"

    @property
    def fillings(self) -> list[Filling]:
        """The containers as the core knows them."""
        return [Filling(row.container_key, row.capacity_ml, row.fill, row.count) for row in self.containers.all()]

    @property
    def planned(self) -> core.Formula:
        """The composition of the targets."""
        return core.Formula.of({line.ingredient_key: line.target_g for line in self.lines.all()})

    @property
    def true_composition(self) -> core.Formula:
        """What is in the pot: weighed where it was weighed, the target where it was not; the
        targets throughout while all that was weighed is nothing."""
        weighed = core.Formula.of({line.ingredient_key: line.mass_g for line in self.lines.all()})
        return weighed if weighed.total else self.planned

    @property
    def is_weighed(self) -> bool:
        """True when every line has its actual weight."""
        return all(line.actual_g is not None for line in self.lines.all())

    @property
    def is_begun(self) -> bool:
        """True when at least one line was weighed."""
        return any(line.actual_g is not None for line in self.lines.all())


class BatchContainer(models.Model):
    """So many of one container. Name and size are kept as they were when it was planned."""

    batch = models.ForeignKey(Batch, on_delete=models.CASCADE, related_name="containers")
    container_key = models.CharField(max_length=60)
    name = models.CharField(max_length=120)
    capacity_ml = models.FloatField()
    fill = models.FloatField()
    count = models.PositiveIntegerField()

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.CheckConstraint(condition=Q(count__gte=1), name="at_least_one_piece"),
            models.CheckConstraint(condition=Q(capacity_ml__gt=0), name="batch_capacity_above_nothing"),
            models.CheckConstraint(condition=Q(fill__gt=0, fill__lte=1), name="batch_fill_up_to_the_brim"),
        ]

    def __str__(self) -> str:
        return f"{self.count} × {self.name}"


class BatchLine(models.Model):
    """One weighing, in the order of the pot."""

    batch = models.ForeignKey(Batch, on_delete=models.CASCADE, related_name="lines")
    position = models.PositiveSmallIntegerField()
    ingredient_key = models.CharField(max_length=60)
    target_g = models.DecimalField(max_digits=12, decimal_places=6)
    actual_g = models.DecimalField(max_digits=12, decimal_places=6, null=True, blank=True)

    class Meta:
        ordering = ("position",)
        constraints = [
            models.UniqueConstraint(fields=("batch", "ingredient_key"), name="ingredient_once_per_batch"),
            models.CheckConstraint(condition=Q(target_g__gte=0), name="target_not_negative"),
            models.CheckConstraint(condition=Q(actual_g__isnull=True) | Q(actual_g__gte=0), name="actual_not_negative"),
        ]

    def __str__(self) -> str:
        return f"{self.ingredient_key} {self.target_g} g"

    @property
    def mass_g(self) -> Decimal:
        """What was weighed, or the target."""
        return self.target_g if self.actual_g is None else self.actual_g
