"""What a batch becomes: the finishes of its melt, its containers, and what goes around each piece."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from balmcore.making.scaling import Filling
from balmcore.tables import Container
from workshop.fields import MassField, MeasureField


class BatchFinish(models.Model):
    """One of several things that a melt becomes: its name and the grams of the base that it takes,
    ``base_g`` as planned and ``taken_g`` as weighed. A batch of one thing has none."""

    batch = models.ForeignKey("batches.Batch", on_delete=models.CASCADE, related_name="finishes")
    position = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=60)
    base_g = MassField()
    taken_g = MassField(null=True, blank=True)

    class Meta:
        ordering = ("position",)
        verbose_name_plural = "batch finishes"
        constraints = [
            models.UniqueConstraint(fields=("batch", "name"), name="finish_once_per_batch"),
            models.CheckConstraint(condition=Q(base_g__gt=0), name="finish_above_nothing"),
            models.CheckConstraint(condition=Q(taken_g__isnull=True) | Q(taken_g__gte=0), name="taken_not_negative"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def mass_g(self) -> Decimal:
        """Grams of the base it took, or is to take."""
        return self.base_g if self.taken_g is None else self.taken_g


class BatchContainer(models.Model):
    """So many of one container, ``filled`` once they are. Name and size are kept as they were when it was planned."""

    batch = models.ForeignKey("batches.Batch", on_delete=models.CASCADE, related_name="containers")
    finish = models.ForeignKey(BatchFinish, on_delete=models.CASCADE, null=True, blank=True, related_name="containers")
    container_key = models.CharField(max_length=60)
    name = models.CharField(max_length=120)
    capacity_ml = MeasureField(low=0.01, high=100_000)
    fill = MeasureField(low=0.001, high=1)
    count = models.PositiveIntegerField()
    filled = models.PositiveIntegerField(null=True, blank=True)
    net_g = MeasureField(low=1e-06, high=100_000, null=True, blank=True)
    kind = models.CharField(max_length=8, blank=True)
    diameter_mm = MeasureField(low=0, high=2000, default=0)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.CheckConstraint(condition=Q(count__gte=1), name="at_least_one_piece"),
            models.CheckConstraint(condition=Q(capacity_ml__gt=0), name="batch_capacity_above_nothing"),
            models.CheckConstraint(condition=Q(fill__gt=0, fill__lte=1), name="batch_fill_up_to_the_brim"),
            models.CheckConstraint(condition=Q(net_g__isnull=True) | Q(net_g__gt=0), name="net_weight_above_nothing"),
        ]

    def __str__(self) -> str:
        return f"{self.made} × {self.name}"

    @property
    def around_keys(self) -> tuple[str, ...]:
        """What goes around each of them."""
        return tuple(row.container_key for row in self.around.all())

    @property
    def made(self) -> int:
        """How many were filled; before that, how many are planned."""
        return self.count if self.filled is None else self.filled

    @property
    def filling(self) -> Filling:
        """It as the core knows it."""
        return Filling(self.container_key, self.capacity_ml, self.fill, self.count, self.net_g)

    @property
    def vessel(self) -> Container:
        """The container as it was."""
        return Container(
            self.container_key, self.name, self.kind, self.capacity_ml, self.fill, self.diameter_mm, 0.0, None, (), ""
        )


class BatchAround(models.Model):
    """What goes around each piece of a container of a batch; its name is kept as it was when it was planned."""

    container = models.ForeignKey(BatchContainer, on_delete=models.CASCADE, related_name="around")
    container_key = models.CharField(max_length=60)
    name = models.CharField(max_length=120)

    class Meta:
        ordering = ("pk",)
        verbose_name_plural = "batch arounds"
        constraints = [models.UniqueConstraint(fields=("container", "container_key"), name="once_around_a_piece")]

    def __str__(self) -> str:
        return self.name
