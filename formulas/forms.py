"""The forms of the formulas app; the studio reads its own form in :mod:`formulas.studio`."""

from typing import Any

from django import forms

from balmcore.tables import Tables
from formulas.models import Formula


class BeginForm(forms.ModelForm):
    """Name and kind of a new formula."""

    def __init__(self, *arguments: Any, tables: Tables, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["kind"] = forms.ChoiceField(
            choices=[(key, key) for key in (*tables.kinds, *tables.starters)],
            widget=forms.RadioSelect,
            error_messages={"required": "Choose what it is to be."},
        )

    class Meta:
        model = Formula
        fields = ("name",)
        error_messages = {
            "name": {
                "required": "Give it a name; it can be changed later.",
                "max_length": "That name has %(show_value)d characters; a label holds %(limit_value)d at most.",
            }
        }


class NameForm(forms.ModelForm):
    """A new name for a formula."""

    class Meta:
        model = Formula
        fields = ("name",)
        error_messages = BeginForm.Meta.error_messages
