"""What stands on a maker's labels beside what the core knows: who makes it, how it is used, the sheets in use."""

from django.db import models
from django.db.models import Q
from django.utils import timezone

from balmcore.labels.declaration import NAMES
from formulas.models import Formula
from pours.models import Pour
from workshop.fields import MeasureField
from workshop.models import Preferences

NAME_CHOICES = list(zip(NAMES, ("INCI", "Common names", "Both"), strict=True))


class Maker(models.Model):
    """Who makes it, as labels say it: one row."""

    name = models.CharField(max_length=120, blank=True)
    address = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.CheckConstraint(condition=Q(pk=1), name="one_maker")]

    def __str__(self) -> str:
        return self.name


class LabelText(models.Model):
    """What the labels of one formula say: how it is used, which names and dates, whether a code of the batch stands
    on them, and why its words may be said."""

    class Dates(models.TextChoices):
        BEST = "best", "Best before"
        OPEN = "open", "Months after opening"
        BOTH = "both", "Both"

    formula = models.OneToOneField(Formula, on_delete=models.CASCADE, related_name="label_text")
    use = models.CharField(max_length=400, blank=True)
    names = models.CharField(max_length=6, choices=NAME_CHOICES, default="inci")
    dates = models.CharField(max_length=4, choices=Dates, default=Dates.BEST)
    has_code = models.BooleanField(default=False)
    claims_why = models.CharField(max_length=200, blank=True)

    def __str__(self) -> str:
        return f"Labels of {self.formula}"


class Sheet(models.Model):
    """A sheet of labels as it is bought, by its name; lengths in millimetres."""

    name = models.CharField(max_length=60, unique=True)
    paper = models.CharField(max_length=6, choices=Preferences.Paper, default=Preferences.Paper.A4)
    columns = models.PositiveSmallIntegerField()
    rows = models.PositiveSmallIntegerField()
    left_mm = MeasureField(low=-500, high=500)
    top_mm = MeasureField(low=-500, high=500)
    gap_x_mm = MeasureField(low=-500, high=500, default=0)
    gap_y_mm = MeasureField(low=-500, high=500, default=0)
    offset_x_mm = MeasureField(low=-500, high=500, default=0)
    offset_y_mm = MeasureField(low=-500, high=500, default=0)

    class Meta:
        ordering = ("name",)
        constraints = [models.CheckConstraint(condition=Q(columns__gte=1, rows__gte=1), name="a_label_at_least")]

    def __str__(self) -> str:
        return self.name


class Person(models.Model):
    """Somebody who has pieces: a name, and a word how to reach them."""

    name = models.CharField(max_length=80, unique=True)
    contact = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ("name",)
        verbose_name_plural = "people"

    def __str__(self) -> str:
        return self.name


class Handout(models.Model):
    """Pieces of a pour that went somewhere. ``is_forgotten`` where it went to a person who was taken out since."""

    class How(models.TextChoices):
        KEPT = "kept", "Kept back as a sample"
        GIVEN = "given", "Given"
        SOLD = "sold", "Sold"
        SPOILED = "spoiled", "Spoiled"

    pour = models.ForeignKey(Pour, on_delete=models.PROTECT, related_name="handouts")
    how = models.CharField(max_length=7, choices=How)
    count = models.PositiveIntegerField()
    person = models.ForeignKey(Person, on_delete=models.SET_NULL, null=True, blank=True, related_name="handouts")
    is_forgotten = models.BooleanField(default=False)
    on = models.DateField(default=timezone.localdate)
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ("on", "pk")
        constraints = [models.CheckConstraint(condition=Q(count__gte=1), name="a_piece_at_least")]
        indexes = [models.Index(fields=("pour", "on"), name="handouts_of_a_pour")]

    def __str__(self) -> str:
        return f"{self.count} {self.get_how_display().lower()}"

    @property
    def to_whom(self) -> str:
        """Who has them, in words."""
        return str(self.person) if self.person else "somebody who was taken out" if self.is_forgotten else ""
