"""What stands on a maker's labels beside what the core knows: who makes it, how it is used, the sheets in use."""

from django.db import models
from django.db.models import Q

from balmcore.labels.declaration import NAMES
from formulas.models import Formula
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
