"""Formulas and their versions. A version never changes; a save makes the next one."""

from collections.abc import Iterable
from dataclasses import replace
from decimal import Decimal

from django.db import models
from django.db.models import Q
from django.urls import reverse

from balmcore.advice.caution import Caution
from balmcore.advice.safety import Wearer
from balmcore.advice.wearers import AREAS, AUDIENCES
from balmcore.composition import Composition
from balmcore.composition import Line as CompositionLine
from balmcore.design.meant import SEASONS, SKINS, Meant, against
from balmcore.display import Display
from balmcore.tables import Kind, Tables
from workshop.fields import MeasureField


class VersionQuerySet(models.QuerySet["Version"]):
    """Versions as pages ask for them."""

    def current(self) -> "VersionQuerySet":
        """The version that each formula stands at."""
        return self.filter(is_current=True)

    def up_to(self, number: int) -> "VersionQuerySet":
        """The versions of a formula up to one of them, the newest first."""
        return self.filter(number__lte=number).order_by("-number")

    def with_lines(self) -> "VersionQuerySet":
        """With formula and lines, in two queries."""
        return self.select_related("formula").prefetch_related("lines")


class Formula(models.Model):
    """What the maker calls one thing, through all its versions; with a window of its own, where its
    maker wants it firmer or softer than its kind is."""

    name = models.CharField(max_length=120)
    kind_key = models.CharField(max_length=40)
    audience = models.CharField(
        max_length=20, choices={key: name for key, (name, _) in AUDIENCES.items()}, default="adult"
    )
    area = models.CharField(max_length=20, choices=AREAS, default="body")
    firm_low = MeasureField(low=0, high=150, null=True, blank=True)
    firm_high = MeasureField(low=0, high=150, null=True, blank=True)
    hold_firmness = MeasureField(low=0, high=150, null=True, blank=True)
    hold_temp_c = MeasureField(low=-40, high=120, null=True, blank=True)
    put_away = models.DateField(null=True, blank=True, help_text="Since when it is no longer made.")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)
        constraints = [
            models.CheckConstraint(
                condition=Q(firm_low__isnull=True, firm_high__isnull=True)
                | Q(firm_low__gte=0, firm_high__gt=models.F("firm_low"), firm_high__lte=130),
                name="formula_window_from_low_to_high",
            )
        ]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Its page in the studio."""
        return reverse("formulas:studio", args=[self.pk])

    def to_kind(self, tables: Tables) -> Kind:
        """The kind with its window: the formula's own, where it has one."""
        kind = tables.kind(self.kind_key)
        if self.firm_low is None or self.firm_high is None:
            return kind
        return replace(
            kind,
            firm_low=self.firm_low,
            firm_high=self.firm_high,
            hold_firmness=self.hold_firmness,
            hold_temp_c=self.hold_temp_c,
        )

    def to_wearer(self, policy: str) -> Wearer:
        """Who wears it and where, by a policy of caution."""
        return Wearer(self.audience, self.area, policy)

    @property
    def has_own_window(self) -> bool:
        """True when it is held against a window of its own."""
        return self.firm_low is not None


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
    held = models.CharField(max_length=40, blank=True, help_text="Groups whose totals stay, with commas between.")
    vegan = models.BooleanField(default=False)
    without = models.JSONField(default=list, blank=True)
    stock_only = models.BooleanField(default=False)
    skin = models.CharField(max_length=10, choices=SKINS, blank=True)
    season = models.CharField(max_length=10, choices=SEASONS, blank=True)
    percent_of = models.CharField(max_length=5, choices={"whole": "the whole", "base": "the base"}, default="whole")
    stage = models.PositiveSmallIntegerField(choices=Stage, default=Stage.DRAFT)
    created = models.DateTimeField(auto_now_add=True)

    objects = VersionQuerySet.as_manager()

    class Meta:
        ordering = ("-number",)
        constraints = [
            models.UniqueConstraint(fields=("formula", "number"), name="one_version_of_a_number"),
            models.UniqueConstraint(fields=("formula",), condition=Q(is_current=True), name="one_current_version"),
        ]

    def __str__(self) -> str:
        return f"{self.formula.name} v{self.number}"

    @property
    def held_groups(self) -> list[str]:
        """The groups whose totals stay."""
        return [role for role in self.held.split(",") if role]

    @property
    def meant(self) -> Meant:
        """What it is meant for."""
        return Meant(self.vegan, tuple(self.without), self.stock_only, self.skin, self.season)

    def against(self, composition: Composition, tables: Tables, show: Display) -> tuple[Caution, ...]:
        """What of what it became goes against what it is meant for."""
        return against(composition, self.meant, self.formula.to_kind(tables), tables, show)

    def to_composition(self, tables: Tables) -> Composition:
        """What it consists of. Raises ``Problem`` for an ingredient that the tables do not know."""
        return composed(self.lines.all(), tables)


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


def composed(lines: Iterable[Line], tables: Tables) -> Composition:
    """What lines consist of, in their order. Raises ``Problem`` for an ingredient that the tables do not know."""
    return Composition(
        tuple(CompositionLine(tables.ingredient(line.ingredient_key), line.share, line.locked) for line in lines)
    )


class Recipe(models.Model):
    """The text that a formula was read from, as it was pasted, with what was answered of it; what it wishes is its
    version's. ``total_g`` is how much it makes, where it says so; ``version`` the one that was read from it last."""

    formula = models.OneToOneField(Formula, on_delete=models.CASCADE, related_name="recipe")
    version = models.ForeignKey(Version, on_delete=models.SET_NULL, null=True, related_name="+")
    text = models.TextField()
    kitchen = models.CharField(max_length=10)
    answers = models.JSONField(default=dict, blank=True)
    total_g = models.DecimalField(max_digits=13, decimal_places=6, null=True, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"the recipe of {self.formula}"

    def get_absolute_url(self) -> str:
        """Its page, with its questions."""
        return reverse("formulas:recipe", args=[self.formula_id])


class Question(models.Model):
    """A doubt about a line of a recipe that its maker has not answered yet."""

    ON_AMOUNTS = ("amount", "form", "unit", "alternative", "left out")

    recipe = models.ForeignKey(Recipe, on_delete=models.CASCADE, related_name="questions")
    position = models.PositiveSmallIntegerField()
    kind = models.CharField(max_length=20)
    asks = models.CharField(max_length=400)
    line = models.CharField(max_length=620)
    line_number = models.PositiveSmallIntegerField()
    ingredient_key = models.CharField(max_length=60, blank=True)

    class Meta:
        ordering = ("position",)

    def __str__(self) -> str:
        return self.asks

    @property
    def is_on_amounts(self) -> bool:
        """Whether how much of something is in it depends on the answer."""
        return self.kind in self.ON_AMOUNTS

    @property
    def address(self) -> str:
        """Where it is answered."""
        return f"{self.recipe.get_absolute_url()}#row-{self.line_number}"


class Meaning(models.Model):
    """What this maker always means by something that recipes leave open: which shea, what a cup of pellets weighs."""

    key = models.CharField(max_length=200, unique=True)
    value = models.CharField(max_length=200)
    said = models.CharField(max_length=300)

    class Meta:
        ordering = ("key",)

    def __str__(self) -> str:
        return self.said
