"""Checks: what was seen and measured of a pour on one day. They are added, never written over."""

from datetime import date, timedelta

from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import Exists, F, OuterRef, Q
from django.utils import timezone

from balmcore.trials.press import MOST_READINGS, RODS_MM, THUMB_WORDS, Repeated, repeated
from pours.models.pour import Pour
from workshop.fields import MeasureField
from workshop.files import photos

LAPSES = timedelta(days=60)
MOST_GRAMS_FORCE = 100_000


def require_readings(readings: object) -> None:
    """Readings of a press test as they are kept: so many grams-force. Raises ``ValidationError``."""
    if not (
        isinstance(readings, list)
        and len(readings) <= MOST_READINGS
        and all(type(one) in (int, float) and 0 < one < MOST_GRAMS_FORCE for one in readings)
    ):
        raise ValidationError({"readings": f"should be at most {MOST_READINGS} grams-force, each above nothing."})


class CheckQuerySet(models.QuerySet["Check"]):
    """What is asked of checks again and again."""

    def standing(self) -> "CheckQuerySet":
        """Those that count: not what was a mistake."""
        return self.exclude(exclusion=Check.Exclusion.MISTAKE)

    def tests(self) -> "CheckQuerySet":
        """Those with a firmness, that count."""
        return self.standing().filter(measured__isnull=False)

    def last_of(self, pour: str) -> "CheckQuerySet":
        """The last test of an outer query's pour, by the name it has there."""
        return self.tests().filter(pour=OuterRef(pour)).order_by("-checked_on", "-pk")


class Check(models.Model):
    """One look at a pour, with the prediction that stood then, for the temperature of its test.

    ``readings`` are the peaks of a press test in grams, ``measured`` the firmness they give at ``test_c``
    with one sigma, ``firmness_21`` the same brought to 21 degrees by the model's slope: None for tests
    from before that was kept. What nobody looked at is empty.
    """

    class Method(models.TextChoices):
        NONE = "", "No test"
        PRESS = "press", "Press test"
        THUMB = "thumb", "Thumb grade"

    class Sight(models.TextChoices):
        UNSEEN = "", "Not looked"
        NONE = "none", "None"
        SOME = "some", "Some"
        MUCH = "much", "Much"

    class Colour(models.TextChoices):
        UNSEEN = "", "Not looked"
        SAME = "same", "As poured"
        PALER = "paler", "Paler"
        DARKER = "darker", "Darker"
        UNEVEN = "uneven", "Uneven"

    class Scent(models.TextChoices):
        UNSEEN = "", "Not smelled"
        NONE = "none", "None"
        FAINT = "faint", "Faint"
        RIGHT = "right", "Right"
        STRONG = "strong", "Strong"

    class Age(models.TextChoices):
        UNSEEN = "", "Not smelled"
        FRESH = "fresh", "Fresh"
        HINT = "hint", "A hint of old oil"
        RANCID = "rancid", "Rancid"

    class Exclusion(models.TextChoices):
        COUNTED = "", "Counts"
        UNTAUGHT = "untaught", "Stays, and teaches nothing"
        MISTAKE = "mistake", "Was a mistake"

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="checks")
    checked_on = models.DateField(default=timezone.localdate)
    is_day_known = models.BooleanField(default=True)
    method = models.CharField(max_length=5, choices=Method, default=Method.NONE, blank=True)
    rod_mm = models.PositiveSmallIntegerField(choices=[(rod, f"{rod} mm") for rod in RODS_MM], null=True, blank=True)
    readings = models.JSONField(default=list, blank=True)
    thumb = models.CharField(max_length=12, choices=[(word, word) for word in THUMB_WORDS], blank=True)
    test_c = MeasureField(low=-40, high=200, null=True, blank=True)
    predicted = MeasureField(low=0, high=200)
    predicted_sigma = MeasureField(low=0, high=200)
    measured = MeasureField(low=0, high=200, null=True, blank=True)
    measured_sigma = MeasureField(low=0, high=200, null=True, blank=True)
    firmness_21 = MeasureField(low=-200, high=300, null=True, blank=True)
    grain = models.CharField(max_length=4, choices=Sight, default=Sight.UNSEEN, blank=True)
    bloom = models.CharField(max_length=4, choices=Sight, default=Sight.UNSEEN, blank=True)
    sweating = models.CharField(max_length=4, choices=Sight, default=Sight.UNSEEN, blank=True)
    sinkholes = models.CharField(max_length=4, choices=Sight, default=Sight.UNSEEN, blank=True)
    specks = models.CharField(max_length=4, choices=Sight, default=Sight.UNSEEN, blank=True)
    colour = models.CharField(max_length=6, choices=Colour, default=Colour.UNSEEN, blank=True)
    scent = models.CharField(max_length=6, choices=Scent, default=Scent.UNSEEN, blank=True)
    age = models.CharField(max_length=6, choices=Age, default=Age.UNSEEN, blank=True)
    notes = models.TextField(max_length=2000, blank=True)
    exclusion = models.CharField(max_length=8, choices=Exclusion, default=Exclusion.COUNTED, blank=True)
    exclusion_reason = models.CharField(max_length=200, blank=True)
    revision = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)

    objects = CheckQuerySet.as_manager()

    class Meta:
        ordering = ("checked_on", "pk")
        constraints = [
            models.CheckConstraint(condition=Q(predicted__gte=0, predicted_sigma__gt=0), name="check_predicted"),
            models.CheckConstraint(
                condition=Q(measured__isnull=True, measured_sigma__isnull=True)
                | Q(measured__gte=0, measured_sigma__gt=0, test_c__isnull=False),
                name="check_measured_at_a_temperature",
            ),
            models.CheckConstraint(condition=Q(exclusion="") | ~Q(exclusion_reason=""), name="excluded_with_a_reason"),
        ]

    def __str__(self) -> str:
        return f"Check of {self.pour} on {self.checked_on}"

    def clean(self) -> None:
        """Its readings are grams-force of a scale, as they were pressed."""
        require_readings(self.readings)

    @property
    def counts(self) -> bool:
        """False for one that was a mistake."""
        return self.exclusion != self.Exclusion.MISTAKE

    @property
    def days(self) -> int:
        """Days since the pour."""
        return (self.checked_on - self.pour.poured_on).days

    @property
    def repeated(self) -> Repeated | None:
        """Its readings taken together, with their mean and spread; None where there is but one."""
        if len(self.readings) < 2 or self.rod_mm is None:
            return None
        return repeated(self.readings, self.rod_mm, 0.0)

    @property
    def firmness(self) -> float | None:
        """Its firmness at 21 degrees or, where that was not kept, at its own temperature."""
        return self.measured if self.firmness_21 is None else self.firmness_21


class CheckPhoto(models.Model):
    """A photograph of a check, by the name of its file; see :mod:`workshop.files.photos`."""

    check_of = models.ForeignKey(Check, on_delete=models.CASCADE, related_name="photos")
    file = models.CharField(max_length=40)

    class Meta:
        ordering = ("pk",)

    def __str__(self) -> str:
        return self.file

    def clean(self) -> None:
        """A name that our photographs have."""
        if not photos.NAME.fullmatch(self.file):
            raise ValidationError({"file": "is no name of a photograph."})


class FollowUpQuerySet(models.QuerySet["FollowUp"]):
    """What is asked of follow-ups again and again."""

    def open(self) -> "FollowUpQuerySet":
        """Those nobody answered, of pours that are not dropped, and not gone by since somebody looked later."""
        seen = Check.objects.standing().filter(pour=OuterRef("pour"), checked_on__gte=OuterRef("due_on"))
        return self.filter(~Exists(seen), answer=None, let_go=None).exclude(pour__verdict=Pour.Verdict.DROP)

    def due(self, today: date) -> "FollowUpQuerySet":
        """The last due one of each pour: to look once is enough."""
        later = FollowUp.objects.filter(pour=OuterRef("pour"), due_on__gt=OuterRef("due_on"), due_on__lte=today)
        return self.asked(today).filter(~Exists(later), due_on__lte=today)

    def asked(self, today: date) -> "FollowUpQuerySet":
        """Those still worth asking for: what is two months overdue tells of another day than it was meant for."""
        return self.open().filter(due_on__gte=today - LAPSES)


class FollowUp(models.Model):
    """A day on which a pour should be looked at again, and the check that answered it."""

    pour = models.ForeignKey(Pour, on_delete=models.CASCADE, related_name="follow_ups")
    due_on = models.DateField()
    words = models.CharField(max_length=60)
    let_go = models.DateField(null=True, blank=True, help_text="When it was ticked off without a look.")
    answer = models.OneToOneField(Check, on_delete=models.SET_NULL, null=True, blank=True, related_name="answers")

    objects = FollowUpQuerySet.as_manager()

    class Meta:
        ordering = ("due_on", "pk")
        constraints = [models.UniqueConstraint(fields=("pour", "due_on"), name="one_follow_up_a_day")]
        indexes = [models.Index(F("due_on"), condition=Q(answer=None), name="follow_ups_open")]

    def __str__(self) -> str:
        return f"{self.words} ({self.due_on})"
