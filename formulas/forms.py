"""The forms of the formulas app; the studio reads its own form in :mod:`formulas.studio`."""

from django import forms

from balmcore.tables import shipped
from formulas.models import Formula


class BeginForm(forms.ModelForm):
    """Name and kind of a new formula."""

    kind = forms.ChoiceField(
        choices=lambda: [(key, key) for key in (*shipped().kinds, *shipped().starters)],
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
