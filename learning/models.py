"""Press tests of a ladder: small cups of one composition with more and less of one ingredient."""

from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import F, Q

from balmcore.trials.press import RODS_MM
from formulas.models import Version
from pours.models.check import require_readings
from workshop.fields import MeasureField


class LadderTest(models.Model):
    """A ladder that is tested: the version it was made from, and between which shares of which line."""

    version = models.ForeignKey(Version, on_delete=models.CASCADE, related_name="ladder_tests")
    ingredient_key = models.CharField(max_length=60)
    low = models.DecimalField(max_digits=7, decimal_places=6)
    high = models.DecimalField(max_digits=7, decimal_places=6)
    count = models.PositiveSmallIntegerField()
    cup_g = MeasureField(low=0, high=100_000)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        db_table = "pours_laddertest"
        ordering = ("-pk",)
        constraints = [
            models.CheckConstraint(condition=Q(low__gte=0, high__gt=F("low"), high__lte=1), name="ladder_rises"),
        ]

    def __str__(self) -> str:
        return f"Ladder of {self.version}"


class LadderCup(models.Model):
    """One cup and what the scale said of it, at a temperature; ``firmness_21`` as of a check."""

    ladder = models.ForeignKey(LadderTest, on_delete=models.CASCADE, related_name="cups")
    number = models.PositiveSmallIntegerField()
    share = models.DecimalField(max_digits=7, decimal_places=6)
    readings = models.JSONField(default=list, blank=True)
    rod_mm = models.PositiveSmallIntegerField(null=True, blank=True)
    test_c = MeasureField(low=-40, high=200, null=True, blank=True)
    firmness_21 = MeasureField(low=-200, high=300, null=True, blank=True)
    sigma = MeasureField(low=0, high=10_000, null=True, blank=True)

    class Meta:
        db_table = "pours_laddercup"
        ordering = ("number",)
        constraints = [models.UniqueConstraint(fields=("ladder", "number"), name="one_cup_of_a_number")]

    def __str__(self) -> str:
        return f"Cup {self.number} of {self.ladder}"

    def clean(self) -> None:
        """Its readings are grams-force of a scale, pressed by a rod of ours."""
        require_readings(self.readings)
        if self.rod_mm is not None and self.rod_mm not in RODS_MM:
            raise ValidationError({"rod_mm": f"There is no rod of {self.rod_mm} mm."})


class SupplyAnswer(models.Model):
    """What the maker says of a change of material that the tests show: that it was then, or that there was none."""

    day = models.DateField()
    group = models.CharField(max_length=60)
    is_refused = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return f"{'No change' if self.is_refused else 'A change'} of {self.group} on {self.day}"
