"""Lots and their accounts, rests of earlier melts, and what is being prepared."""

from datetime import date
from decimal import Decimal

from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import F, Q
from django.utils import timezone

from balmcore.composition import Composition, mixture
from balmcore.display import day_words
from balmcore.making import stock as stock
from balmcore.tables import Ingredient, Tables
from balmcore.tables.herbs import herb_name
from balmcore.wording import listed
from pantry.models.own import LEFTOVER
from workshop.fields import MassField


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

    def to_lot(self, today: date | None = None) -> stock.Lot:
        """The lot as the core knows it today."""
        is_past = self.is_past_on(today or timezone.localdate())
        return stock.Lot(self.pk, self.left, self.best_before, self.bought, self.is_fit, is_past)

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
        """``arnica and comfrey``, ``an unnamed herb``: what its cautions will go by."""
        keys = self.herb_keys.split()
        return listed([herb_name(key) for key in keys]) if keys else ""

    @property
    def yield_share(self) -> Decimal | None:
        """What came out over what went in."""
        return None if self.yield_g is None or not self.given_g else self.yield_g / self.given_g
