"""What is weighed into a batch, the lots it came from, and what of it became a lot again."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from batches.models.parts import BatchFinish
from pantry.models import Entry, Lot
from workshop.fields import MassField


class BatchLine(models.Model):
    """One weighing, in the order of the pot, or of what is added to one ``finish``. ``drops`` are counted
    into each piece instead; a ``target_g`` of nothing was not planned."""

    batch = models.ForeignKey("batches.Batch", on_delete=models.CASCADE, related_name="lines")
    finish = models.ForeignKey(BatchFinish, on_delete=models.CASCADE, null=True, blank=True, related_name="lines")
    drops = models.PositiveSmallIntegerField(default=0)
    position = models.PositiveSmallIntegerField()
    ingredient_key = models.CharField(max_length=60)
    target_g = MassField()
    actual_g = MassField(null=True, blank=True)
    lot = models.ForeignKey(Lot, on_delete=models.SET_NULL, null=True, blank=True, related_name="chosen_for")

    class Meta:
        ordering = ("position",)
        constraints = [
            models.UniqueConstraint(
                fields=("batch", "ingredient_key"), condition=Q(finish=None), name="ingredient_once_per_batch"
            ),
            models.UniqueConstraint(
                fields=("finish", "ingredient_key"), condition=~Q(finish=None), name="ingredient_once_per_finish"
            ),
            models.CheckConstraint(condition=Q(target_g__gte=0), name="target_not_negative"),
            models.CheckConstraint(condition=Q(actual_g__isnull=True) | Q(actual_g__gte=0), name="actual_not_negative"),
        ]

    def __str__(self) -> str:
        return f"{self.ingredient_key} {self.target_g} g"

    @property
    def slot(self) -> str:
        """Its place in a form: the ingredient, and the finish it is added to."""
        return self.ingredient_key if self.finish_id is None else f"{self.ingredient_key}.{self.finish_id}"

    @property
    def mass_g(self) -> Decimal:
        """What was weighed, or the target."""
        return self.target_g if self.actual_g is None else self.actual_g

    @property
    def drawn_g(self) -> Decimal:
        """Grams of it that lots have given."""
        return sum((draw.grams for draw in self.draws.all()), Decimal(0))

    @property
    def outside_g(self) -> Decimal:
        """Grams weighed that no lot gave."""
        return max((self.actual_g or Decimal(0)) - self.drawn_g, Decimal(0))


class Draw(models.Model):
    """Grams that one lot gave to one weighing; negative when some went back. ``was_added`` where they were put into the
    lot's account first, as it was received without them."""

    line = models.ForeignKey(BatchLine, on_delete=models.CASCADE, related_name="draws")
    lot = models.ForeignKey(Lot, on_delete=models.PROTECT, related_name="draws")
    entry = models.OneToOneField(Entry, on_delete=models.PROTECT, related_name="draw")
    grams = MassField()
    was_added = models.BooleanField(default=False)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{self.grams} g of {self.lot}"


class Rest(models.Model):
    """What of a batch became a lot again, but for what stayed in a jug: its pot as it was called off, or pieces that
    were melted again."""

    batch = models.ForeignKey("batches.Batch", on_delete=models.PROTECT, related_name="rests")
    finish = models.ForeignKey(BatchFinish, on_delete=models.PROTECT, null=True, blank=True, related_name="rests")
    lot = models.OneToOneField(Lot, on_delete=models.PROTECT, related_name="rest_of")

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"Rest of {self.batch}"
