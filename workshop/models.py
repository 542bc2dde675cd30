"""How this workshop likes its measures, rooms and cautions: one row."""

from dataclasses import replace
from decimal import Decimal

from django.core.exceptions import ValidationError
from django.db import models
from django.utils import timezone

from balmcore.display import COMMA, DAY_FIRST, MONTH_FIRST, POINT, YEAR_FIRST, Display
from balmcore.making.schedule import HANDS
from balmcore.making.whippers import HAND, WHIPPERS
from balmcore.physics.ways_of_heating import BATH, HEATING_METHODS
from balmcore.tables import Kind, shipped
from workshop.fields import MassField, MeasureField

LEAST_STEP_G, LARGEST_STEP_G = Decimal("0.0005"), Decimal(50)


class Preferences(models.Model):
    """The one set of preferences of the workshop; see :func:`workshop.services.preferences`.

    ``records_revision`` is another number after every pour and check that is written down, 0 before the first:
    whoever worked something out of them looks here, in a row that is read anyway, whether it still holds.
    """

    class Mass(models.TextChoices):
        GRAMS = "g", "Grams"
        OUNCES = "oz", "Ounces"

    class Temp(models.TextChoices):
        CELSIUS = "C", "°C"
        FAHRENHEIT = "F", "°F"

    class Kitchen(models.TextChoices):
        METRIC = "metric", "Metric: cup 250 mL, tablespoon 15 mL"
        US = "us", "US: cup 237 mL, tablespoon ½ fl oz"
        AUSTRALIAN = "au", "Australian: cup 250 mL, tablespoon 20 mL"

    class ScentPolicy(models.TextChoices):
        CAUTIOUS = "cautious", "Cautious"
        USUAL = "usual", "Usual"

    class Mark(models.TextChoices):
        POINT = POINT, "Point: 12.5"
        COMMA = COMMA, "Comma: 12,5"

    class DateOrder(models.TextChoices):
        DAY = DAY_FIRST, "Day: 31 May 2026"
        MONTH = MONTH_FIRST, "Month: May 31, 2026"
        YEAR = YEAR_FIRST, "Year: 2026 May 31"

    class WeekBegins(models.IntegerChoices):
        MONDAY = 0, "Monday"
        SATURDAY = 5, "Saturday"
        SUNDAY = 6, "Sunday"

    class Paper(models.TextChoices):
        A4 = "a4", "A4"
        LETTER = "letter", "Letter"

    class Theme(models.TextChoices):
        SYSTEM = "system", "As the system"
        LIGHT = "light", "Light"
        DARK = "dark", "Dark"

    replaced: tuple[str, ...] = ()  # what of it could not be, and is as usual instead

    mass_unit = models.CharField("Weights in", max_length=2, choices=Mass, default=Mass.GRAMS)
    temp_unit = models.CharField("Temperatures in", max_length=1, choices=Temp, default=Temp.CELSIUS)
    kitchen = models.CharField("Cups and spoons of", max_length=6, choices=Kitchen, default=Kitchen.METRIC)
    resolution_g = MassField("Scale's smallest step", default=Decimal("0.1"))
    cool_room_c = MeasureField("Cool room", low=-40, high=90, default=18.0)
    warm_room_c = MeasureField("Warm room", low=-40, high=90, default=26.0)
    hot_pocket_c = MeasureField("Hot pocket", low=-40, high=90, default=35.0)
    heating = models.CharField(
        "Heated", max_length=10, default=BATH, choices=[(each.key, each.name) for each in HEATING_METHODS.values()]
    )
    whipper = models.CharField(
        "Whipped by", max_length=5, default=HAND, choices=[(each.key, each.name) for each in WHIPPERS.values()]
    )
    cooks = models.PositiveSmallIntegerField("Cooks at the bench", default=1)
    rings = models.PositiveSmallIntegerField("Rings or baths", default=1)
    refrigerators = models.PositiveSmallIntegerField("Batches the refrigerator holds at once", default=1)
    freezers = models.PositiveSmallIntegerField("Batches the freezer holds at once", default=1)
    scent_policy = models.CharField("Scent limits", max_length=8, choices=ScentPolicy, default=ScentPolicy.CAUTIOUS)
    currency = models.CharField("Money in", max_length=4, default="€")
    label_price = models.DecimalField("One label costs", max_digits=8, decimal_places=2, default=Decimal(0))
    infusion_days = models.PositiveSmallIntegerField("Herbs stand in oil for, days", default=28)
    by_own_tests = models.BooleanField("Predictions by my own tests", default=True)
    records_revision = models.PositiveIntegerField(default=0, editable=False)
    decimal_mark = models.CharField("Decimals after a", max_length=1, choices=Mark, default=Mark.POINT)
    date_order = models.CharField("Dates begin with the", max_length=5, choices=DateOrder, default=DateOrder.DAY)
    week_begins = models.PositiveSmallIntegerField("Weeks begin on", choices=WeekBegins, default=WeekBegins.MONDAY)
    paper = models.CharField("Paper", max_length=6, choices=Paper, default=Paper.A4)
    theme = models.CharField("Light or dark", max_length=6, choices=Theme, default=Theme.SYSTEM)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=models.Q(pk=1), name="one_row_of_preferences"),
            models.CheckConstraint(condition=models.Q(resolution_g__gt=0), name="scale_step_above_nothing"),
            models.CheckConstraint(condition=models.Q(label_price__gte=0), name="label_price_not_negative"),
            models.CheckConstraint(
                condition=models.Q(infusion_days__gte=1, infusion_days__lte=365), name="infusion_within_a_year"
            ),
            models.CheckConstraint(
                condition=models.Q(cooks__gte=1, rings__gte=1, refrigerators__gte=1, freezers__gte=1),
                name="one_of_each_at_least",
            ),
        ]

    def clean(self) -> None:
        """The three rooms rise in temperature, and the scale's step is one that scales have."""
        if not self.cool_room_c < self.warm_room_c < self.hot_pocket_c:
            raise ValidationError({"warm_room_c": "The rooms should rise in temperature, from cool to hot."})
        if not LEAST_STEP_G <= self.resolution_g <= LARGEST_STEP_G:
            raise ValidationError({"resolution_g": f"A scale counts in {LEAST_STEP_G} to {LARGEST_STEP_G} g."})

    @property
    def rooms(self) -> tuple[float, float, float]:
        """Cool room, warm room and hot pocket."""
        return self.cool_room_c, self.warm_room_c, self.hot_pocket_c

    @property
    def room(self) -> dict[str, int]:
        """How many batches have room at once, by what they occupy."""
        return {
            HANDS: self.cooks,
            "stove": self.rings,
            "refrigerator": self.refrigerators,
            "freezer": self.freezers,
        }

    @property
    def show(self) -> Display:
        """How to show quantities to this maker."""
        return Display(self.mass_unit, self.temp_unit, float(self.resolution_g), self.decimal_mark, self.date_order)


class OwnKind(models.Model):
    """A shipped kind with another window, or with a ``name`` a kind of the workshop's own like it."""

    like_key = models.CharField(max_length=40)
    name = models.CharField(max_length=60, blank=True)
    firm_low = MeasureField(low=0, high=150)
    firm_high = MeasureField(low=0, high=150)
    hold_firmness = MeasureField(low=0, high=150, null=True, blank=True)
    hold_temp_c = MeasureField(low=-40, high=120, null=True, blank=True)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.UniqueConstraint(fields=("like_key",), condition=models.Q(name=""), name="one_window_of_a_kind"),
            models.UniqueConstraint(fields=("name",), condition=~models.Q(name=""), name="one_kind_of_a_name"),
            models.CheckConstraint(
                condition=models.Q(firm_low__gte=0, firm_high__gt=models.F("firm_low"), firm_high__lte=130),
                name="window_from_low_to_high",
            ),
            models.CheckConstraint(
                condition=models.Q(hold_firmness__isnull=True, hold_temp_c__isnull=True)
                | models.Q(hold_firmness__gt=0, hold_temp_c__isnull=False),
                name="hold_of_both_or_neither",
            ),
        ]

    def __str__(self) -> str:
        return self.name or self.like_key

    def clean(self) -> None:
        """Like a kind that there is."""
        if self.like_key not in shipped().kinds:
            raise ValidationError({"like_key": f"There is no kind {self.like_key}."})

    @property
    def key(self) -> str:
        """Its key among all kinds."""
        return f"own-kind-{self.pk}" if self.name else self.like_key

    def to_kind(self) -> Kind:
        """The kind it is like, with its own window and name."""
        like = shipped().kind(self.like_key)
        return replace(
            like,
            key=self.key,
            name=self.name or like.name,
            firm_low=self.firm_low,
            firm_high=self.firm_high,
            hold_firmness=self.hold_firmness,
            hold_temp_c=self.hold_temp_c,
        )


class SentForm(models.Model):
    """A form that was sent, by the token it carried, and where it led; empty while it is being done."""

    token = models.CharField(max_length=40, primary_key=True)
    led_to = models.CharField(max_length=500, blank=True)
    at = models.DateTimeField(default=timezone.now, db_index=True)

    def __str__(self) -> str:
        return self.token
