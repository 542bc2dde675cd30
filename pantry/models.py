"""What the workshop owns: lots of ingredients and containers, its own ingredients and containers,
rests of earlier melts, and what is being prepared."""

from dataclasses import replace
from datetime import date
from decimal import Decimal

from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.db.models import F, Q
from django.utils import timezone

from balmcore.composition import Composition, mixture
from balmcore.display import day_words
from balmcore.errors import Problem
from balmcore.making import stock as stock
from balmcore.tables import ROLES, Ingredient, Tables, shipped
from balmcore.tables import custom as own
from balmcore.tables.herbs import herb_name, herbs, infused
from balmcore.tables.records import WHICH_HERB
from balmcore.wording import listed
from workshop.fields import MassField, MeasureField

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
    """A tube, tin, jar or mould of the maker's own: brimful capacity and how far it is filled."""

    class Kind(models.TextChoices):
        TIN = "tin", "Tin"
        JAR = "jar", "Jar"
        TUBE = "tube", "Tube"
        POT = "pot", "Pot"
        MOULD = "mould", "Mould"
        GLOSS = "gloss", "Gloss tube"
        VESSEL = "vessel", "Pitcher or bowl"

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


class Leftover(models.Model):
    """What stayed of a melt, with the composition it truly had."""

    name = models.CharField(max_length=120)
    made_on = models.DateField(default=timezone.localdate)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return self.name

    @property
    def key(self) -> str:
        """Its key among all ingredients."""
        return f"{LEFTOVER}{self.pk}"

    def to_ingredient(self, tables: Tables) -> Ingredient:
        """The rest as one ingredient made of others."""
        shares = {line.ingredient_key: line.share for line in self.lines.all()}
        return mixture(self.key, self.name, Composition.of(shares, tables), f"Melted {day_words(self.made_on)}.")


class LeftoverLine(models.Model):
    """One plain ingredient of a rest, as a share of it."""

    leftover = models.ForeignKey(Leftover, on_delete=models.CASCADE, related_name="lines")
    ingredient_key = models.CharField(max_length=60)
    share = models.DecimalField(max_digits=7, decimal_places=6)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.CheckConstraint(condition=Q(share__gt=0, share__lte=1), name="leftover_share_up_to_the_whole")
        ]

    def __str__(self) -> str:
        return f"{self.ingredient_key} {self.share}"


class Lot(models.Model):
    """One purchase or preparation: grams of an ingredient, or pieces of a container.

    ``left`` is always the sum of its entries; it changes only with one. ``unfit`` is what is wrong with something
    that it was made of, where that was looked at: see :func:`pantry.hooks.judged`.
    """

    unfit = ""
    held = past = Decimal(0)  # what planned batches hold of it, and what is past its date, where that was looked at

    class State(models.TextChoices):
        GOOD = "good", "Good"
        RANCID = "rancid", "Rancid"
        RECALLED = "recalled", "Recalled"

    class Origin(models.TextChoices):
        BOUGHT = "bought", "Bought"
        PREPARED = "prepared", "Prepared here"
        LEFTOVER = "leftover", "Rest of a melt"

    item_key = models.CharField(max_length=60, db_index=True)
    origin = models.CharField(max_length=8, choices=Origin, default=Origin.BOUGHT)
    is_container = models.BooleanField(default=False)
    supplier = models.CharField(max_length=120, blank=True)
    code = models.CharField(max_length=60, blank=True)
    bought = models.DateField(null=True, blank=True)
    opened = models.DateField(null=True, blank=True)
    best_before = models.DateField(null=True, blank=True)
    received = MassField()
    left = MassField()
    price = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    state = models.CharField(max_length=8, choices=State, default=State.GOOD)
    smelled = models.DateField(null=True, blank=True, help_text="When it was past its date, and found to be good.")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.CheckConstraint(condition=Q(left__gte=0), name="lot_not_below_nothing"),
            models.CheckConstraint(condition=Q(received__gt=0), name="lot_above_nothing"),
            models.CheckConstraint(condition=Q(price__isnull=True) | Q(price__gte=0), name="lot_price_not_negative"),
            models.CheckConstraint(
                condition=Q(best_before__isnull=True) | Q(bought__isnull=True) | Q(best_before__gte=F("bought")),
                name="best_before_not_before_bought",
            ),
        ]

    def __str__(self) -> str:
        return f"lot {self.pk}" + (f" ({self.code})" if self.code else "")

    def to_lot(self, left: Decimal | None = None) -> stock.Lot:
        """The lot as the core knows it, with what is left of it or with so much."""
        amount = self.left if left is None else left
        return stock.Lot(self.pk, amount, self.best_before, self.bought, self.is_fit, self.is_past)

    @property
    def is_fit(self) -> bool:
        """True for one that may be used: it is good, and so is what it was made of."""
        return self.state == self.State.GOOD and not self.unfit

    @property
    def is_plain(self) -> bool:
        """True for a good one that was bought: nothing has to be followed back through it."""
        return self.state == self.State.GOOD and self.origin == self.Origin.BOUGHT

    @property
    def is_past(self) -> bool:
        """True when its best before has passed."""
        return self.is_past_on(timezone.localdate())

    def is_past_on(self, day: date) -> bool:
        """True when its best before has passed on a day, and nobody smelled it since and found it good."""
        return self.best_before is not None and self.best_before < day and self.smelled is None


class Entry(models.Model):
    """One line of a lot's account: what came in or went out, and why. Entries are never changed."""

    class Kind(models.TextChoices):
        RECEIVED = "received", "Received"
        WEIGHED = "weighed", "Weighed into a batch"
        RETURNED = "returned", "Put back from a batch"
        USED = "used", "Filled"
        PREPARED = "prepared", "Into a preparation"
        CORRECTED = "corrected", "Corrected to the scale"
        WASTED = "wasted", "Wasted"
        MARKED = "marked", "Marked"
        SMELLED = "smelled", "Smelled, and still good"

    lot = models.ForeignKey(Lot, on_delete=models.CASCADE, related_name="entries")
    kind = models.CharField(max_length=9, choices=Kind)
    amount = MassField(default=Decimal(0))
    note = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("pk",)
        verbose_name_plural = "entries"

    def __str__(self) -> str:
        return f"{self.get_kind_display()} {self.amount}"


class Preparation(models.Model):
    """Something made weeks ahead: a herb steeping in oil, or comb rendered to clean wax.

    ``ready_on`` is the day to strain an infusion, ``herb_keys`` what steeps in it; ``sources`` are the lots that went
    in, ``lot`` is what it became.
    """

    class Kind(models.TextChoices):
        INFUSION = "infusion", "Herb in oil"
        RENDERING = "rendering", "Wax from comb"

    kind = models.CharField(max_length=9, choices=Kind)
    name = models.CharField(max_length=80)
    base_key = models.CharField(max_length=60)
    herb_keys = models.CharField(max_length=200, blank=True)
    raw_g = MassField()
    base_g = MassField(default=Decimal(0))
    started_on = models.DateField(default=timezone.localdate)
    ready_on = models.DateField()
    shake_every_days = models.PositiveSmallIntegerField(default=1)
    passes = models.PositiveSmallIntegerField(default=1)
    yield_g = MassField(null=True, blank=True)
    finished_on = models.DateField(null=True, blank=True)
    lot = models.OneToOneField(Lot, on_delete=models.SET_NULL, null=True, blank=True, related_name="preparation")
    sources = models.ManyToManyField(Lot, related_name="prepared_into", blank=True)
    note = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ("finished_on", "ready_on", "pk")
        constraints = [
            models.CheckConstraint(condition=Q(raw_g__gt=0, base_g__gte=0), name="preparation_above_nothing"),
            models.CheckConstraint(condition=Q(ready_on__gte=F("started_on")), name="ready_not_before_started"),
            models.CheckConstraint(condition=Q(yield_g__isnull=True) | Q(yield_g__gt=0), name="yield_above_nothing"),
        ]

    def __str__(self) -> str:
        return self.name

    def clean(self) -> None:
        """Shaken and filtered at least so often as can be."""
        if not (1 <= self.shake_every_days <= 90 and 1 <= self.passes <= 20):
            raise ValidationError("Shaken every 1 to 90 days, and filtered 1 to 20 times.")

    @property
    def given_g(self) -> Decimal:
        """What can come out of it again: the oil of an infusion, the comb of a rendering."""
        return self.base_g if self.kind == self.Kind.INFUSION else self.raw_g

    @property
    def herb_words(self) -> str:
        """``arnica and comfrey``, ``herb not known``: what its cautions will go by."""
        known = [herb_name(key) for key in self.herb_keys.split() if key in herbs()]
        return listed(known or ["herb not known"]) if self.herb_keys else ""

    @property
    def yield_share(self) -> Decimal | None:
        """What came out over what went in."""
        return None if self.yield_g is None or not self.given_g else self.yield_g / self.given_g
