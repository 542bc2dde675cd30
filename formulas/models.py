"""Formulas and their versions. A version never changes; a save makes the next one."""

from decimal import Decimal

from django.db import models
from django.db.models import Q

from balmcore import composition as core
from balmcore.advice.safety import AREAS, AUDIENCES
from balmcore.tables import Kind, library


class Formula(models.Model):
    """What the maker calls one thing, through all its versions."""

    name = models.CharField(max_length=120)
    kind_key = models.CharField(max_length=40)
    audience = models.CharField(
        max_length=20, choices={key: name for key, (name, _) in AUDIENCES.items()}, default="adult"
    )
    area = models.CharField(max_length=20, choices=AREAS, default="body")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self) -> str:
        return self.name

    @property
    def kind(self) -> Kind:
        """The kind with its window."""
        return library().kinds[self.kind_key]


class Version(models.Model):
    """One state of a formula: its lines, why it was made, and how far it has come."""

    class Stage(models.IntegerChoices):
        DRAFT = 0, "draft"
        PLANNED = 1, "planned"
        POURED = 2, "poured"
        JUDGED = 3, "judged"

    formula = models.ForeignKey(Formula, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    made_from = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True, related_name="children")
    note = models.CharField(max_length=500, blank=True)
    is_current = models.BooleanField(default=True)
    stage = models.PositiveSmallIntegerField(choices=Stage, default=Stage.DRAFT)
    firmness = models.FloatField(help_text="Predicted at 21 °C when it was saved.")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-number",)
        constraints = [
            models.UniqueConstraint(fields=("formula", "number"), name="one_version_of_a_number"),
            models.UniqueConstraint(fields=("formula",), condition=Q(is_current=True), name="one_current_version"),
            models.CheckConstraint(condition=Q(firmness__gte=0), name="version_firmness_not_negative"),
        ]

    def __str__(self) -> str:
        return f"{self.formula.name} v{self.number}"

    @property
    def core(self) -> core.Formula:
        """The formula as the core knows it."""
        return core.Formula(tuple(core.Line(line.ingredient_key, line.share, line.locked) for line in self.lines.all()))


class Line(models.Model):
    """One ingredient of a version, as a share of the whole."""

    version = models.ForeignKey(Version, on_delete=models.CASCADE, related_name="lines")
    position = models.PositiveSmallIntegerField()
    ingredient_key = models.CharField(max_length=60)
    share = models.DecimalField(max_digits=7, decimal_places=6)
    locked = models.BooleanField(default=False)

    class Meta:
        ordering = ("position",)
        constraints = [
            models.UniqueConstraint(fields=("version", "ingredient_key"), name="ingredient_once_per_version"),
            models.CheckConstraint(
                condition=Q(share__gte=Decimal(0), share__lte=Decimal(1)), name="share_between_0_and_1"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.ingredient_key} {self.share}"
