"""Forms for what is made weeks ahead, and for what the papers of an own ingredient say."""

from datetime import timedelta
from decimal import Decimal
from typing import Any

from django import forms
from django.utils import timezone

from balmcore import units
from balmcore.display import figure
from balmcore.recipes.words.known import refusal
from balmcore.tables import Ingredient, Role, Tables
from balmcore.tables.herbs import OTHER, herb_name, herbs
from pantry.forms import count_field, day_field
from pantry.models import OwnIngredient, Preparation
from pantry.picking import PickField
from workshop.forms import AmountField, mass_field
from workshop.models import Preferences


def _number(text: str) -> float:
    return float(units.number(text))


def herb_choices(*others: str) -> list[tuple[str, str]]:
    """The herbs that the tables know, ``others`` by their keys, and any other."""
    keys = dict.fromkeys((*herbs(), *(key for key in others if key != OTHER)))
    return [*sorted(((key, herb_name(key)) for key in keys), key=lambda pair: pair[1]), (OTHER, "Another herb")]


class PapersForm(forms.ModelForm):
    """What the papers of an own ingredient say, and of an infusion which herbs are in it."""

    class Meta:
        model = OwnIngredient
        fields = ("inci", "allergens", "vegan", "lip_ok", "pregnancy", "caution")
        labels = {
            "inci": "INCI name, for the label",
            "allergens": "Allergens",
            "vegan": "Vegan?",
            "lip_ok": "On lips?",
            "pregnancy": "In pregnancy and nursing?",
            "caution": "What else to mind",
        }
        help_texts = {"allergens": "Between commas; “none” if its papers say so."}

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        row: OwnIngredient = self.instance
        answers = {"vegan": row.Vegan, "lip_ok": row.Lips, "pregnancy": row.Pregnancy}
        for name, choices in answers.items():
            self.fields[name] = forms.ChoiceField(
                label=self.fields[name].label, choices=[("", "not said"), *choices.choices], required=False
            )
        self.fields["years"] = AmountField(
            _number,
            0,
            18,
            figure,
            write=figure,
            label="Not under how many years",
            initial=row.avoid_under_years,
            required=False,
        )
        self.fields["years"].help_text = "0 where any age may wear it."
        self.fields["density"] = AmountField(
            _number, 0.5, 10, figure, write=figure, label="Density, g/mL", initial=row.density_g_ml, required=False
        )
        self.fields["months"] = AmountField(
            _number, 1, 1200, figure, write=figure, label="Keeps, months", initial=row.shelf_months, required=False
        )
        if row.herbs or row.is_herb_open:
            self.fields["herbs"] = forms.MultipleChoiceField(
                label="Herbs in it",
                choices=herb_choices(*row.herbs),
                initial=row.herbs,
                required=True,
                widget=forms.CheckboxSelectMultiple,
                error_messages={"required": "Which herb is in it? “Another herb” is an answer too."},
            )
            self.order_fields(["herbs"])

    def save(self, commit: bool = True) -> OwnIngredient:
        """Write down what was said; a herb that was asked for is answered."""
        row: OwnIngredient = self.instance
        data = self.cleaned_data
        row.avoid_under_years, row.density_g_ml, row.shelf_months = data["years"], data["density"], data["months"]
        if "herbs" in data:
            row.herb_keys, row.is_herb_open = " ".join(data["herbs"]), False
        row.save()
        return row


class PreparationForm(forms.Form):
    """An infusion or a rendering to begin."""

    name = forms.CharField(label="What", max_length=80)
    kind = forms.ChoiceField(choices=Preparation.Kind.choices)
    shake = count_field("Shake every so many days", 1, 90)
    passes = count_field("Passes through the filter", 2, 20)
    note = forms.CharField(max_length=300, required=False)

    def __init__(self, *arguments: Any, prefs: Preferences, tables: Tables, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.prefs, self.tables = prefs, tables
        self.fields["base"] = PickField(tables, roles=("oil", "wax"), label="In which oil, or as which wax")
        self.fields["herb"] = forms.ChoiceField(
            label="Which herb", choices=[("", "as its name says"), *herb_choices()], required=False
        )
        self.fields["raw"] = mass_field(prefs, label="Herb or comb, going in")
        oil = mass_field(prefs, label="Oil, on a herb", required=False)
        oil.read = self._oil_g
        self.fields["oil"] = oil
        self.fields["started"] = day_field("Begun", past=True, required=True, initial=timezone.localdate)
        self.fields["ready"] = day_field("Ready on")
        self.fields["ready"].help_text = (
            f"Left empty, a herb is strained {prefs.infusion_days} days after it was begun, as your settings say; wax "
            "is ready the same day."
        )
        self.order_fields(["kind", "name", "herb", "base", "raw", "oil", "started", "ready", "shake", "passes", "note"])

    def _oil_g(self, text: str) -> Decimal:
        """Grams of the oil, in millilitres too as it is known which."""
        base = self.tables.ingredients.get(self.cleaned_data.get("base", ""))
        return units.mass_g(text, self.prefs.mass_unit, self.prefs.kitchen, base.density_g_ml if base else None)

    def clean(self) -> dict[str, Any]:
        """Amounts above nothing, days in order, an oil for an infusion and a wax for a rendering."""
        data: dict[str, Any] = self.cleaned_data
        infusion = data.get("kind") == Preparation.Kind.INFUSION
        if infusion and (why := refusal(data.get("name", ""))):
            self.add_error("name", why)
        if (raw := data.get("raw")) is not None and raw <= 0:
            self.add_error("raw", "Something has to go in.")
        if infusion and "oil" not in self.errors and not data.get("oil"):
            self.add_error("oil", "How much oil goes on it?")
        role = Role.OIL if infusion else Role.WAX
        if (base := data.get("base")) and self.tables.ingredient(base).role != role:
            self.add_error("base", f"Choose {'an oil' if infusion else 'a wax'} for this.")
        started, ready = data.get("started"), data.get("ready")
        if started and not ready and "ready" not in self.errors:
            data["ready"] = started + timedelta(days=self.prefs.infusion_days if infusion else 0)
        if started and ready and ready < started:
            self.add_error("ready", "It cannot be ready before it was begun.")
        return data

    def preparation(self) -> Preparation:
        """What to begin."""
        data = self.cleaned_data
        infusion = data["kind"] == Preparation.Kind.INFUSION
        return Preparation(
            kind=data["kind"],
            name=data["name"],
            herb_keys=data["herb"] if infusion else "",
            base_key=data["base"],
            raw_g=round(data["raw"], 6),
            base_g=round(data["oil"], 6) if infusion else Decimal(0),
            started_on=data["started"],
            ready_on=data["ready"],
            shake_every_days=data["shake"] or 1,
            passes=data["passes"] or 1,
            note=data["note"],
        )


class FinishForm(forms.Form):
    """What came of a preparation, and when."""

    def __init__(self, *arguments: Any, prefs: Preferences, item: Ingredient | None = None, **options: Any) -> None:
        super().__init__(*arguments, **options)
        density = item.density_g_ml if item else None
        came = mass_field(prefs, label="Came out")
        came.read = lambda text: units.mass_g(text, prefs.mass_unit, prefs.kitchen, density)
        self.fields["yield_g"] = came
        self.fields["day"] = day_field("On", past=True, required=True, initial=timezone.localdate)
