"""What the workshop has of its own: ingredients, containers, and what goes around a piece."""

from dataclasses import replace

from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import F, Q

from balmcore.errors import Problem
from balmcore.making import stock as stock
from balmcore.tables import ROLES, Ingredient, shipped
from balmcore.tables import custom as own
from balmcore.tables.herbs import infused
from balmcore.tables.records import WHICH_HERB
from workshop.fields import MeasureField

# Own containers and ingredients may both have the number 1; their keys should not be the same.
OWN_INGREDIENT, LEFTOVER = "own-ingredient-", "leftover-"
# What papers say of an own ingredient, and whether its herb is still to be said.
PAPERS = (
    "is_herb_open",
    "inci",
    "allergens",
    "vegan",
    "density_g_ml",
    "shelf_months",
    "lip_ok",
    "pregnancy",
    "avoid_under_years",
    "caution",
)
# What an own scent is taken to be while nothing else is known of it.
SCENTS = {"scent": "fragrance_oil", "flavour": "lip_flavour_oil"}


class OwnContainer(models.Model):
    """A tube, tin, jar or mould of the maker's own: brimful capacity and how far it is filled; or what goes around a
    piece, which nothing is filled into."""

    class Kind(models.TextChoices):
        TIN = "tin", "Tin"
        JAR = "jar", "Jar"
        TUBE = "tube", "Tube"
        POT = "pot", "Pot"
        MOULD = "mould", "Mould"
        GLOSS = "gloss", "Gloss tube"
        VESSEL = "vessel", "Pitcher or bowl"
        AROUND = "around", "Around a piece: liner, band, wrap, bag, label"

    name = models.CharField(max_length=80, unique=True)
    kind = models.CharField(max_length=8, choices=Kind, default=Kind.TIN)
    capacity_ml = MeasureField(validators=[MinValueValidator(0.1), MaxValueValidator(100_000)])
    fill = MeasureField(default=0.9, validators=[MinValueValidator(0.05), MaxValueValidator(1)])
    diameter_mm = MeasureField(low=0, high=2000, null=True, blank=True)
    height_mm = MeasureField(low=0, high=2000, null=True, blank=True)
    empty_g = MeasureField(low=0, high=100_000, null=True, blank=True)

    class Meta:
        ordering = ("name",)
        constraints = [
            models.CheckConstraint(condition=Q(capacity_ml__gt=0), name="capacity_above_nothing"),
            models.CheckConstraint(condition=Q(fill__gt=0, fill__lte=1), name="fill_up_to_the_brim"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def key(self) -> str:
        """Its key among all containers."""
        return f"own-{self.pk}"


class GoesWith(models.Model):
    """What goes around each piece of a container, unless a batch says otherwise."""

    around = models.ForeignKey(OwnContainer, on_delete=models.CASCADE, related_name="goes_with")
    container_key = models.CharField(max_length=60)

    class Meta:
        ordering = ("pk",)
        verbose_name_plural = "goes with"
        constraints = [models.UniqueConstraint(fields=("around", "container_key"), name="goes_once_with_a_container")]

    def __str__(self) -> str:
        return f"{self.around} around {self.container_key}"


class OwnIngredient(models.Model):
    """An ingredient of the maker's own, described by a known one or by a melting range. One that is a
    scent counts as an aromatic whose papers are not known: the strictest general figures are its own.

    ``herb_keys`` are herbs that were steeped in it here, ``is_herb_open`` that nobody has yet said which. The other
    fields are what its papers say, empty where they do not; ``allergens`` are words between commas, ``none`` for none.
    """

    class Scent(models.TextChoices):
        UNSAID = "", "choose"
        NO = "no", "No"
        SCENT = "scent", "Yes: an essential, absolute or perfume oil"
        FLAVOUR = "flavour", "Yes: a flavour documented for lips"

    class Vegan(models.TextChoices):
        YES = "yes", "Yes"
        VARIES = "varies", "It varies"
        NO = "no", "No"

    class Lips(models.TextChoices):
        YES = "yes", "Yes"
        CARE = "care", "With care"
        NO = "no", "No"

    class Pregnancy(models.TextChoices):
        YES = "yes", "Yes"
        ASK = "ask", "Ask first"
        NO = "no", "No"

    name = models.CharField(max_length=80, unique=True)
    role = models.CharField(max_length=6, choices=[(role, role.capitalize()) for role in ROLES])
    like_key = models.CharField(max_length=60, blank=True)
    scent = models.CharField(max_length=7, choices=Scent, default=Scent.UNSAID, blank=True)
    melt_low_c = MeasureField(low=-60, high=200, null=True, blank=True)
    melt_high_c = MeasureField(low=-60, high=200, null=True, blank=True)
    note = models.CharField(max_length=300, blank=True)
    herb_keys = models.CharField(max_length=200, blank=True)
    is_herb_open = models.BooleanField(default=False)
    inci = models.CharField("INCI name", max_length=300, blank=True)
    allergens = models.CharField(max_length=200, blank=True)
    vegan = models.CharField(max_length=6, blank=True, choices=Vegan)
    density_g_ml = MeasureField(low=0.5, high=10, null=True, blank=True)
    shelf_months = MeasureField(low=0, high=1200, null=True, blank=True)
    lip_ok = models.CharField(max_length=4, blank=True, choices=Lips)
    pregnancy = models.CharField(max_length=3, blank=True, choices=Pregnancy)
    avoid_under_years = MeasureField(low=0, high=18, null=True, blank=True)
    caution = models.CharField(max_length=300, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name",)
        constraints = [
            models.CheckConstraint(
                condition=Q(melt_low_c__isnull=True) | Q(melt_low_c__lte=F("melt_high_c")), name="melting_range_upright"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    def clean(self) -> None:
        """A description that the core can make an ingredient of."""
        try:
            self.to_ingredient()
        except Problem as problem:
            raise ValidationError(problem.sentence) from None

    @property
    def key(self) -> str:
        """Its key among all ingredients."""
        return f"{OWN_INGREDIENT}{self.pk}"

    @property
    def herbs(self) -> tuple[str, ...]:
        """The keys of the herbs in it."""
        return tuple(self.herb_keys.split())

    def to_ingredient(self) -> Ingredient:
        """The ingredient as the core knows it. Raises ``Problem`` for a description out of reach."""
        if model := SCENTS.get(self.scent):
            item = own.scent(self.key, self.name, model, self.note)
        elif self.like_key and self.herbs:
            item = shipped().ingredient(self.like_key, "like")
        elif self.like_key:
            item = own.like(self.key, self.name, self.like_key, self.role, self.note)
        else:
            low = self.melt_low_c if self.melt_low_c is not None else -20.0
            high = self.melt_high_c if self.melt_high_c is not None else low
            item = own.by_melting(self.key, self.name, self.role, low, high, self.note)
        if self.herbs:
            item = infused(item, self.key, self.name, self.herbs, self.note)
        if self.is_herb_open:
            item = replace(item, unknown=tuple(dict.fromkeys((WHICH_HERB, *item.unknown))))
        return own.by_papers(item, self._papers(), is_infused=bool(self.herbs))

    def _papers(self) -> own.Papers:
        words = tuple(word for each in self.allergens.split(",") if (word := each.strip()))
        said = None if not words else () if [word.lower() for word in words] == ["none"] else words
        return own.Papers(
            self.inci,
            said,
            self.vegan,
            self.density_g_ml,
            self.shelf_months,
            self.lip_ok,
            self.pregnancy,
            self.avoid_under_years,
            self.caution,
        )
