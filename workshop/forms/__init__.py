"""Form fields that read what makers type, through :mod:`balmcore.units`.

A field turns a :class:`~balmcore.errors.Problem` into the sentence beside it; what was
typed stays in the field.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.forms.renderers import TemplatesSetting

from balmcore import units
from balmcore.display import Display, mass_words
from balmcore.errors import Problem
from balmcore.physics.ways_of_heating import BATH, HEATING_METHODS
from workshop.models import LARGEST_STEP_G, LEAST_STEP_G, Preferences

MOST_MONEY = Decimal(100_000)


class Renderer(TemplatesSetting):
    """Every field of every form is drawn by one template."""

    field_template_name = "forms/field.html"


@dataclass(frozen=True)
class FieldError:
    """What is wrong with a field: its name on the page, where it stands, and the sentence."""

    label: str
    id: str
    sentence: str


class TypedField(forms.CharField):
    """A text field whose value is read by the core. ``read`` and ``write`` are set by the form, which knows the
    maker's units; what is ``stored`` is its initial value where the form says nothing else."""

    def __init__(self, read: Callable[[str], Any], write: Callable[[Any], str] = str, **options: Any) -> None:
        super().__init__(**{"max_length": 80, **options})
        self.read, self.write = read, write
        initial = options.get("initial")
        self.stored: Any = None if isinstance(initial, str) else initial
        self.widget.attrs.update({"autocomplete": "off", "inputmode": "decimal"})

    def clean(self, value: Any) -> Any:
        """The value read, or None when nothing was typed and nothing is needed."""
        text = super().clean(value)
        if not text:
            return None
        # What was shown and not touched is what was stored, to its last digit.
        if self.stored is not None and text == self.write(self.stored):
            return self.stored
        try:
            return self.read(text)
        except Problem as problem:
            raise ValidationError(problem.sentence) from None

    def prepare_value(self, value: Any) -> Any:
        """What stands in the field: typed text as it was typed, a stored value as it is read."""
        return value if value is None or isinstance(value, str) else self.write(value)


class AmountField(TypedField):
    """A number between two others, which ``told`` puts into words; nothing typed is a number of nothing, unless the
    field may stay empty."""

    def __init__(
        self,
        read: Callable[[str], Any],
        low: float,
        high: float,
        told: Callable[[float], str],
        **options: Any,
    ) -> None:
        super().__init__(read, **options)
        self.low, self.high, self.told = low, high, told

    def clean(self, value: Any) -> Any:
        """The number, or None where nothing was typed and nothing is needed."""
        text = self.to_python(value) or ""
        if not text and not self.required:
            return None
        try:
            number = self.read(text)
        except Problem as problem:
            raise ValidationError(problem.sentence) from None
        if not self.low <= number <= self.high:
            raise ValidationError(f"This should be between {self.told(self.low)} and {self.told(self.high)}.")
        return number


class WordsForm(forms.Form):
    """A form that is always bound, to words as they were typed or as they are usual: what it says, and one sentence for
    each field that cannot be used."""

    def text(self, name: str) -> str:
        """What stands in a field."""
        return str(self.data.get(name, ""))

    @property
    def problems(self) -> dict[str, str]:
        """The sentence of each field that cannot be used; of all of them as ``whole``."""
        return {"whole" if name == "__all__" else name: str(errors[0]) for name, errors in self.errors.items()}


class RowForm(WordsForm):
    """One row of several, whose fields have the same names in each: read as a whole, with one sentence for it."""

    def read(self) -> None:
        """Take what the row says. Raises :class:`~balmcore.errors.Problem`."""
        raise NotImplementedError

    def clean(self) -> None:
        """Read it; what is wrong is said of the row."""
        try:
            self.read()
        except Problem as problem:
            self.add_error(None, problem.sentence)

    @property
    def problem(self) -> str:
        """What is wrong with it."""
        return next(iter(self.problems.values()), "")


def temp_field(show: Display, **options: Any) -> TypedField:
    """A temperature in degrees C, shown and by default read in the maker's unit."""
    return TypedField(
        lambda text: units.temp_c(text, show.temp),
        lambda value: show.temp_text(value, 0 if float(show.in_temp(value)).is_integer() else 1),
        **options,
    )


def mass_field(prefs: Preferences, **options: Any) -> TypedField:
    """A weight in grams, shown and by default read in the maker's unit."""
    show = prefs.show
    return TypedField(
        lambda text: units.mass_g(text, show.mass, prefs.kitchen), lambda value: show.mass_text(value), **options
    )


def tell(form: forms.BaseForm, problem: Problem, names: Mapping[str, str] | None = None) -> None:
    """Put a refusal beside the field it is about, or on top where there is none; ``names`` are
    fields that the form calls otherwise than the core."""
    where = (names or {}).get(problem.where, problem.where)
    form.add_error(where if where in form.fields else None, problem.sentence)


def money(text: str, currency: str) -> Decimal:
    """An amount of money typed, with or without the maker's sign of currency, to the cent."""
    value = units.number(text.replace(currency, "").strip(" €£$"))
    if value < 0:
        raise Problem("A price is not below nothing.")
    if value > MOST_MONEY:
        raise Problem(f"A price is at most {MOST_MONEY:,.0f} {currency}.".replace(",", " "))
    return round(value, 2)


GRAM_STEPS = ("0.001 g", "0.01 g", "0.1 g", "0.5 g", "1 g")
USUAL_STEPS = {"oz": ("0.01 oz", "0.05 oz"), "g": ("0.1 g", "1 g")}  # of scales that most have
OUNCE_STEPS = ("0.005 oz", "0.01 oz", "0.05 oz", "0.1 oz")


SHARED = ("cooks", "rings", "refrigerators", "freezers")
HEATING_HELP = (
    f"What plans begin with. {HEATING_METHODS[BATH].reason} A flame, or a pot straight on the plate, is none of them."
)


class PreferencesForm(forms.ModelForm):
    """All preferences on one page. A bare number is read in the unit it was shown in."""

    class Meta:
        model = Preferences
        fields = (
            "mass_unit", "temp_unit", "kitchen", "decimal_mark", "date_order", "week_begins", "paper",
            "scent_policy", "theme", "currency", "infusion_days", "heating", "whipper",
            "cooks", "rings", "refrigerators", "freezers",
        )  # fmt: skip
        error_messages = {
            "infusion_days": dict.fromkeys(
                ("required", "invalid", "min_value", "max_value"), "Write a whole number of days, from 1 to 365."
            ),
            **{
                name: dict.fromkeys(("required", "invalid", "min_value", "max_value"), "A whole number, from 1 to 20.")
                for name in SHARED
            },
        }
        widgets = {
            "mass_unit": forms.RadioSelect,
            "temp_unit": forms.RadioSelect,
            "decimal_mark": forms.RadioSelect,
            "date_order": forms.RadioSelect,
            "paper": forms.RadioSelect,
            "scent_policy": forms.RadioSelect,
            "theme": forms.RadioSelect,
        }

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        instance = self.instance
        show = instance.show
        step = mass_field(
            instance,
            label="Scale's smallest step",
            help_text="What the last digit of your scale counts in, such as "
            f"{show.figure(0.1)} g or {show.figure(0.05)} oz.",
            initial=instance.resolution_g,
        )
        step.write = show.step_text
        step.widget.attrs["list"] = "scale-steps"
        self.steps = [show.step_text(units.mass_g(step)) for step in (OUNCE_STEPS if show.mass == "oz" else GRAM_STEPS)]
        self.fields["resolution_g"] = step
        for name, label, help_text in (
            ("cool_room_c", "Cool room", "Where your balms stand in winter."),
            ("warm_room_c", "Warm room", "The same place on a summer afternoon."),
            ("hot_pocket_c", "Hot pocket", "A trouser pocket in July."),
        ):
            room = temp_field(show, label=label, help_text=help_text, initial=getattr(instance, name))
            self.fields[name] = room
        self.fields["label_price"] = TypedField(
            self._label_price,
            lambda value: show.figure(value, 2),
            label="One label costs",
            initial=instance.label_price,
        )
        days = self.fields["infusion_days"]
        days.validators = [MinValueValidator(1), MaxValueValidator(365)]
        days.widget = forms.TextInput(attrs={"inputmode": "numeric"})
        days.help_text = "Makers say two to eight weeks; four is our default. Each infusion can have its own."
        for name in SHARED:
            field = self.fields[name]
            field.validators = [MinValueValidator(1), MaxValueValidator(20)]
            field.widget = forms.TextInput(attrs={"inputmode": "numeric"})
        self.fields["heating"].help_text = HEATING_HELP
        self.fields["scent_policy"].help_text = (
            "Handbooks differ on how much scent is wise. Cautious is our default, "
            "as a little less scent never hurt anyone; usual follows the common handbook figures."
        )

    def _label_price(self, text: str) -> Decimal:
        return money(text, self.data.get("currency") or self.instance.currency)

    def clean_resolution_g(self) -> Decimal:
        """The scale's step: above nothing, at most 50 g."""
        value: Decimal = self.cleaned_data["resolution_g"]
        if not LEAST_STEP_G <= value <= LARGEST_STEP_G:
            raise ValidationError(f"A scale's smallest step is {mass_words(0.001)} to {mass_words(50)}.")
        return round(value, 6)

    def clean(self) -> dict[str, Any]:
        """The three rooms should rise in temperature, or their names would mislead."""
        data: dict[str, Any] = self.cleaned_data
        cool, warm, hot = (data.get(name) for name in ("cool_room_c", "warm_room_c", "hot_pocket_c"))
        if cool is not None and warm is not None and cool >= warm:
            self.add_error("warm_room_c", "The warm room should be warmer than the cool room.")
        if warm is not None and hot is not None and warm >= hot:
            self.add_error("hot_pocket_c", "The hot pocket should be hotter than the warm room.")
        step = data.get("resolution_g")
        if (
            data.get("mass_unit")
            and "mass_unit" in self.changed_data
            and step is not None
            and step == self.fields["resolution_g"].initial
        ):
            data["resolution_g"] = self._nearest_step(step)
        return data

    def _nearest_step(self, step: Decimal) -> Decimal:
        """The step that scales of the other unit have, nearest in proportion to one that was not typed anew."""
        steps = USUAL_STEPS[self.cleaned_data["mass_unit"]]
        return min((round(units.mass_g(each), 6) for each in steps), key=lambda each: abs(math.log(each / step)))

    def save(self, commit: bool = True) -> Preferences:
        """Store the one row."""
        prefs: Preferences = self.instance
        for name in ("resolution_g", "label_price", "cool_room_c", "warm_room_c", "hot_pocket_c"):
            setattr(prefs, name, self.cleaned_data[name])
        prefs.pk = 1
        prefs.save()
        return prefs
