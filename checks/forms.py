"""Forms of a check, of a day to look again, and of a wear test. A check is made with a thumb on a phone:
everything is one tap, and everything may stay empty."""

from datetime import date
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.utils import timezone

from balmcore.display import day_words
from balmcore.errors import Problem
from balmcore.physics.firmness import predict
from balmcore.tables import Tables
from balmcore.trials.press import RODS_MM, THUMB_WORDS, RodAdvice, rod_for
from balmcore.units import masses_g
from checks.services import Test, measure, widest_mm
from pours.faults import SIGHTS, SMELLS
from pours.models import Check, Pour, WearTest
from workshop.forms import TypedField, tell, temp_field
from workshop.forms.days import DayField
from workshop.models import Preferences

DAY_WORDS = {"required": "On which day was it?"}
MOST_MINUTES = 600
WORN_ON = {"hands_feet": "hands", "spot": "body"}  # where a formula is for, as a wearer would say it
RODS = [(rod, f"{rod} mm") for rod in RODS_MM]
THUMBS = [(word, word) for word in THUMB_WORDS]


class ManyFiles(forms.ClearableFileInput):
    """A field for several files."""

    allow_multiple_selected = True


class PhotosField(forms.FileField):
    """Photographs, none or several; each is looked at when it is kept."""

    def clean(self, data: Any, initial: Any = None) -> list[UploadedFile]:
        """All files that were sent."""
        return [file for file in (data if isinstance(data, list) else [data]) if file]


def clean_day(day: date, pour: Pour) -> date:
    """A day from the pour until today. Raises :class:`ValidationError`."""
    if day > timezone.localdate():
        raise ValidationError("That day is still to come.")
    if day < pour.poured_on:
        raise ValidationError(f"It was poured on {day_words(pour.poured_on)}: choose that day or a later one.")
    return day


class CheckForm(forms.ModelForm):
    """What was seen, smelled and pressed on one day; a verdict where one is ready for it."""

    photos = PhotosField(required=False, label="Photographs")
    verdict = forms.ChoiceField(
        choices=Pour.Verdict.choices, required=False, label="What next", widget=forms.RadioSelect
    )

    class Meta:
        model = Check
        field_classes = {"checked_on": DayField}
        fields = ("checked_on", "method", "rod_mm", "thumb", *SIGHTS, *SMELLS, "notes")
        labels = {
            "checked_on": "Looked at on",
            "method": "Firmness",
            "rod_mm": "Rod",
            "thumb": "Under the thumb",
            "bloom": "Bloom",
            "sinkholes": "Sinkholes",
            "age": "Smell of age",
        }
        widgets = {
            "notes": forms.Textarea(attrs={"rows": 3}),
            **dict.fromkeys(("method", "rod_mm", "thumb", *SIGHTS, *SMELLS), forms.RadioSelect),
        }
        error_messages = {
            "checked_on": DAY_WORDS,
            "notes": {"max_length": "These notes have %(show_value)d characters; %(limit_value)d fit."},
        }

    def __init__(self, *arguments: Any, pour: Pour, tables: Tables, prefs: Preferences, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.pour, self.prefs = pour, prefs
        self.fields["test_c"] = temp_field(prefs.show, label="Piece at the test", required=False)
        self.fields["readings"] = readings_field(prefs)
        self.fields["photos"].widget = ManyFiles(attrs={"accept": "image/*"})
        for name, choices in (("rod_mm", RODS), ("thumb", THUMBS)):
            field = self.fields[name]
            assert isinstance(field, forms.ChoiceField)
            field.choices = choices
        self.fields["checked_on"].initial = timezone.localdate
        self.fields["verdict"].initial = pour.verdict
        room = pour.room_c
        self.fields["test_c"].help_text = f"The room was {prefs.show.temp_text(room)}." if room is not None else ""
        at = predict(pour.to_composition(tables), pour.batch.overrun).firmness_at(21.0 if room is None else room)
        self.rod: RodAdvice | None = rod_for(at, float(pour.batch.resolution_g), widest_mm(pour))
        if self.rod:
            self.fields["rod_mm"].initial = self.rod.rod_mm

    @property
    def sights(self) -> list[forms.BoundField]:
        """What is looked for."""
        return [self[name] for name in (*SIGHTS, *SMELLS)]

    def clean_checked_on(self) -> date:
        """From the pour until today."""
        return clean_day(self.cleaned_data["checked_on"], self.pour)

    def clean(self) -> dict[str, Any]:
        """A test that is chosen should be complete and usable; an empty check is none."""
        data = super().clean() or self.cleaned_data
        if data.get("method") == Check.Method.THUMB and not data.get("thumb"):
            self.add_error("thumb", "Choose the word that fits.")
        if not self.errors:
            try:
                measure(self.test, float(self.pour.batch.resolution_g), widest_mm(self.pour))
            except Problem as problem:
                tell(self, problem, {"grams": "readings"})
        looked = ("method", *SIGHTS, *SMELLS, "notes", "photos")
        if not self.errors and not any(data.get(name) for name in looked) and data.get("verdict") == self.pour.verdict:
            self.add_error(None, "Nothing was said of it yet: tap what you see, or press it.")
        return data

    @property
    def test(self) -> Test:
        """The test chosen; what belongs to the other method is left out."""
        data = self.cleaned_data
        if data["method"] == Check.Method.PRESS:
            grams = tuple(float(each) for each in data["readings"] or ())
            return Test(data["method"], data["rod_mm"], grams, "", data["test_c"])
        return Test(data["method"], thumb=data["thumb"] if data["method"] else "", test_c=data["test_c"])

    @property
    def columns(self) -> dict[str, Any]:
        """The plain columns of the check."""
        return {name: self.cleaned_data[name] for name in ("checked_on", *SIGHTS, *SMELLS, "notes")}

    @property
    def says_something(self) -> bool:
        """False where only the verdict is new: that makes no check."""
        return any(self.cleaned_data.get(name) for name in ("method", *SIGHTS, *SMELLS, "notes", "photos"))


def readings_field(prefs: Preferences) -> TypedField:
    """One or more peak readings, in grams."""
    show = prefs.show
    return TypedField(
        lambda text: masses_g(text, show.mass),
        lambda value: " ".join(show.mass_number(grams) for grams in value),
        label="Peak readings",
        required=False,
        help_text="The highest number each time; several are better than one.",
    )


class FollowUpForm(forms.Form):
    """A day of one's own on which to look again."""

    due_on = DayField(label="Look again on", error_messages=DAY_WORDS)
    words = forms.CharField(label="Why", max_length=60, required=False)


class WearForm(forms.ModelForm):
    """What somebody says of it on skin."""

    class Meta:
        model = WearTest
        field_classes = {"worn_on": DayField}
        fields = (
            "who", "worn_on", "where", "glide", "grease", "sink_minutes", "shine", "stick", "grit", "scent",
            "lip_colour", "reaction", "said",
        )  # fmt: skip
        labels = {"who": "Who", "worn_on": "Worn on", "where": "Where", "reaction": "Any reaction"}
        widgets = {
            "where": forms.RadioSelect,
            "reaction": forms.RadioSelect,
            "said": forms.Textarea(attrs={"rows": 3}),
        }
        error_messages = {
            "worn_on": DAY_WORDS,
            "who": {"required": "Whose skin was it? “me” will do."},
            "where": {"required": "Where was it worn?"},
            "reaction": {"required": "Was there a reaction? “None” is an answer too."},
        }

    GRADES = ("glide", "grease", "shine", "stick", "grit", "scent")

    def __init__(self, *arguments: Any, pour: Pour, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.pour = pour
        self.fields["worn_on"].initial = timezone.localdate
        where = self.fields["where"]
        assert isinstance(where, forms.ChoiceField)
        where.choices = WearTest.Where.choices
        area = pour.batch.version.formula.area
        self.fields["where"].initial = WORN_ON.get(area, area)
        for name in self.GRADES:
            label = str(self.fields[name].label)
            steps = [("", "not said"), *((str(n), str(n)) for n in range(1, 6))]
            self.fields[name] = forms.TypedChoiceField(
                choices=steps, coerce=int, empty_value=None, required=False, label=label, widget=forms.RadioSelect
            )
        reaction = self.fields["reaction"]
        assert isinstance(reaction, forms.ChoiceField)
        reaction.choices, reaction.initial, reaction.required = WearTest.Reaction.choices, None, True
        self.fields["sink_minutes"].widget = forms.TextInput(attrs={"inputmode": "numeric"})
        self.fields["sink_minutes"].error_messages["invalid"] = "Write whole minutes, such as 15."

    def grades(self) -> list[forms.BoundField]:
        """The grades from 1 to 5."""
        return [self[name] for name in self.GRADES]

    def clean_worn_on(self) -> date:
        """From the pour until today."""
        return clean_day(self.cleaned_data["worn_on"], self.pour)

    def clean_sink_minutes(self) -> int | None:
        """Up to ten hours."""
        minutes: int | None = self.cleaned_data["sink_minutes"]
        if minutes is not None and minutes > MOST_MINUTES:
            raise ValidationError(f"That is longer than anyone waits: up to {MOST_MINUTES} minutes.")
        return minutes
