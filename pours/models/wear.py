"""Wear tests: what somebody says of a balm on skin."""

from django.db import models
from django.db.models import Q
from django.utils import timezone

from pours.models.pour import Pour


class WearTest(models.Model):
    """What one wearer said. Grades run from 1 to 5; what was not asked is empty."""

    class Where(models.TextChoices):
        LIPS = "lips", "Lips"
        HANDS = "hands", "Hands"
        FACE = "face", "Face"
        BODY = "body", "Body"
        FEET = "feet", "Feet"

    class Reaction(models.TextChoices):
        NONE = "none", "None"
        TINGLE = "tingle", "Tingling or warmth"
        SKIN = "skin", "Redness, itching or a rash"
        STRONG = "strong", "Swelling, blisters or trouble breathing"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="wear_tests")
    who = models.CharField(max_length=60, default="me")
    worn_on = models.DateField(default=timezone.localdate)
    where = models.CharField(max_length=5, choices=Where)
    glide = models.PositiveSmallIntegerField("Drags 1 … 5 glides", null=True, blank=True)
    grease = models.PositiveSmallIntegerField("Dry 1 … 5 greasy", null=True, blank=True)
    shine = models.PositiveSmallIntegerField("Matt 1 … 5 shines", null=True, blank=True)
    stick = models.PositiveSmallIntegerField("Not sticky 1 … 5 sticky", null=True, blank=True)
    grit = models.PositiveSmallIntegerField("Smooth 1 … 5 gritty", null=True, blank=True)
    scent = models.PositiveSmallIntegerField("Scent faint 1 … 5 strong", null=True, blank=True)
    sink_minutes = models.PositiveSmallIntegerField("Minutes to sink in", null=True, blank=True)
    lip_colour = models.CharField("Colour on lips", max_length=60, blank=True)
    reaction = models.CharField(max_length=6, choices=Reaction)
    said = models.TextField("In their words", max_length=1000, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("worn_on", "pk")
        constraints = [
            models.CheckConstraint(
                condition=Q(**{f"{name}__isnull": True}) | Q(**{f"{name}__gte": 1, f"{name}__lte": 5}),
                name=f"{name}_from_1_to_5",
            )
            for name in ("glide", "grease", "shine", "stick", "grit", "scent")
        ]

    def __str__(self) -> str:
        return f"{self.who}, {self.get_where_display().lower()}, {self.worn_on}"

    @property
    def reacted(self) -> bool:
        """True for any reaction."""
        return self.reaction != self.Reaction.NONE
