"""Where pieces went, and people who have them."""

from django.db import models
from django.db.models import Q
from django.urls import reverse
from django.utils import timezone

from formulas.models import Formula
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


class Price(models.Model):
    """What a piece of a product is sold for: a formula, the finish of it, and the container by its name."""

    formula = models.ForeignKey(Formula, on_delete=models.CASCADE, related_name="prices")
    finish_name = models.CharField(max_length=60, blank=True)
    size = models.CharField(max_length=120)
    each = models.DecimalField(max_digits=10, decimal_places=2)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.UniqueConstraint(fields=("formula", "finish_name", "size"), name="one_price_of_a_product_and_size"),
            models.CheckConstraint(condition=Q(each__gte=0), name="price_not_negative"),
        ]

    def __str__(self) -> str:
        return f"{self.formula}, {self.size}"


class Market(models.Model):
    """A day on which pieces were taken along and some came back."""

    on = models.DateField(default=timezone.localdate)
    place = models.CharField(max_length=120, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-on", "-pk")

    def __str__(self) -> str:
        return self.place or "A market day"

    def get_absolute_url(self) -> str:
        """What was taken in on it."""
        return reverse("pieces:market_day", args=[self.pk])


class Handout(models.Model):
    """Pieces of a pour that went somewhere. ``is_forgotten`` where it went to a person who was taken out since; ``lot``
    is what pieces that were melted again became. ``size`` is the name of their container, empty where a pour has more
    than one and nobody said which; ``each`` is what one was sold for at a ``market``, where that was said."""

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
    size = models.CharField(max_length=120, blank=True, default="")
    market = models.ForeignKey(Market, on_delete=models.CASCADE, null=True, blank=True, related_name="handouts")
    each = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)

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
