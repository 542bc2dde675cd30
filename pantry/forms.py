"""Forms of the pantry."""

from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from balmcore import units
from pantry.models import OwnContainer
from workshop.forms import TypedField
from workshop.models import Preferences


class OwnContainerForm(forms.ModelForm):
    """A container of the maker's own: its brimful volume in mL, fl oz, cups or spoons."""

    class Meta:
        model = OwnContainer
        fields = ("name",)
        error_messages = {
            "name": {
                "required": "Give it a name you will know it by.",
                "max_length": "That name has %(show_value)d characters; %(limit_value)d fit.",
                "unique": "You have a container of that name already.",
            }
        }

    def __init__(self, *arguments: Any, prefs: Preferences, **options: Any) -> None:
        super().__init__(*arguments, **options)
        kitchen = prefs.kitchen
        self.fields["capacity"] = TypedField(
            lambda text: units.volume_ml(text, "ml", kitchen),
            label="Brimful, in mL",
            help_text="Or write 2 fl oz. Fill it with water on the scale: grams of water are mL.",
        )
        self.fields["fill"] = TypedField(lambda text: float(units.share(text)), label="Filled to, in %", initial="90")

    def clean_capacity(self) -> float:
        """Above nothing, at most 100 litres."""
        value: float = self.cleaned_data["capacity"]
        if not 0.1 <= value <= 100_000:
            raise ValidationError("A container holds between 0.1 mL and 100 litres.")
        return value

    def clean_fill(self) -> float:
        """Above nothing."""
        value: float = self.cleaned_data["fill"]
        if value < 0.05:
            raise ValidationError("Fill it to between 5 and 100 %.")
        return value

    def save(self, commit: bool = True) -> OwnContainer:
        """Store it."""
        row: OwnContainer = self.instance
        row.capacity_ml, row.fill = self.cleaned_data["capacity"], self.cleaned_data["fill"]
        row.save()
        return row
