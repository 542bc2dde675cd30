"""Press tests of a ladder: small cups of one composition with more and less of one ingredient."""

from django.db import models
from django.db.models import F, Q

from formulas.models import Version


class LadderTest(models.Model):
    """A ladder that is tested: the version it was made from, and between which shares of which line."""

    version = models.ForeignKey(Version, on_delete=models.CASCADE, related_name="ladder_tests")
    ingredient_key = models.CharField(max_length=60)
    low = models.DecimalField(max_digits=7, decimal_places=6)
    high = models.DecimalField(max_digits=7, decimal_places=6)
    count = models.PositiveSmallIntegerField()
    cup_g = models.FloatField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
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
    test_c = models.FloatField(null=True, blank=True)
    firmness_21 = models.FloatField(null=True, blank=True)
    sigma = models.FloatField(null=True, blank=True)

    class Meta:
        ordering = ("number",)
        constraints = [models.UniqueConstraint(fields=("ladder", "number"), name="one_cup_of_a_number")]

    def __str__(self) -> str:
        return f"Cup {self.number} of {self.ladder}"
