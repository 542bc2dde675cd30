"""Forms of the pantry: every amount is read as makers type it."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.utils import timezone

from balmcore import units
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.tables import ROLES, Container, Tables
from balmcore.tables import custom as own
from pantry.models import SCENTS, Lot, Order, OwnContainer, OwnIngredient
from pantry.picking import VESSEL, PickField
from pantry.services import MOST, Purchase, odd_days
from workshop.forms import TypedField, mass_field, money, tell, temp_field
from workshop.forms.days import FIRST_DAY, LAST_DAY, DayField
from workshop.models import Preferences

WATER_G_ML = 0.998  # at 20 degrees C


def day_field(label: str, past: bool = False, **options: Any) -> DayField:
    """A day, typed or picked; ``past`` for what has happened, and so cannot be still to come."""
    options.setdefault("required", False)
    said = f"A day lies between {FIRST_DAY:%Y} and {LAST_DAY:%Y}."
    latest = [MaxValueValidator(timezone.localdate, "That day is still to come.")] if past else []
    return DayField(
        validators=[MinValueValidator(FIRST_DAY, said), MaxValueValidator(LAST_DAY, said), *latest],
        label=label,
        **options,
    )


def count_field(label: str, initial: int, most: int) -> forms.IntegerField:
    """A whole number from one up."""
    said = f"Write a whole number from 1 to {most}."
    return forms.IntegerField(
        label=label,
        initial=initial,
        min_value=1,
        max_value=most,
        required=False,
        widget=forms.TextInput(attrs={"inputmode": "numeric"}),
        error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), said),
    )


class OwnContainerForm(forms.ModelForm):
    """A container of the maker's own: its brimful volume in mL, fl oz, cups or spoons, or two
    weights: empty, and brimful of water."""

    class Meta:
        model = OwnContainer
        fields = ("name", "kind")
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
            help_text="Or write 2 fl oz. Leave it empty when you measure it with water.",
            required=False,
        )
        self.fields["fill"] = TypedField(lambda text: float(units.share(text)), label="Filled to, in %", initial="90")
        self.fields["kind"].required = False
        self.fields["empty"] = mass_field(prefs, label="Empty, on the scale", required=False)
        self.fields["water"] = mass_field(prefs, label="Brimful of water", required=False)
        for name, label in (("diameter_mm", "Inside width, mm"), ("height_mm", "Inside height, mm")):
            self.fields[name] = TypedField(lambda text: float(units.number(text)), label=label, required=False)

    def clean_kind(self) -> str:
        """A tin where nothing is said."""
        return self.cleaned_data["kind"] or OwnContainer.Kind.TIN

    def clean_fill(self) -> float:
        """Above nothing."""
        value: float = self.cleaned_data["fill"]
        if value < 0.05:
            raise ValidationError("Fill it to between 5 and 100 %.")
        return value

    def _size(self, name: str) -> float | None:
        value: float | None = self.cleaned_data[name]
        if value is not None and not 1 <= value <= 2000:
            raise ValidationError("A size lies between 1 and 2000 mm.")
        return value

    def clean_diameter_mm(self) -> float | None:
        """Between a millimetre and two metres."""
        return self._size("diameter_mm")

    def clean_height_mm(self) -> float | None:
        """Between a millimetre and two metres."""
        return self._size("height_mm")

    def clean(self) -> dict[str, Any]:
        """A volume from the two weights when none was typed; above nothing, at most 100 litres."""
        data: dict[str, Any] = self.cleaned_data
        capacity, empty, water = (data.get(name) for name in ("capacity", "empty", "water"))
        if data.get("kind") == OwnContainer.Kind.AROUND:  # nothing is filled into it
            data["capacity"], data["fill"] = 1.0, 1.0
            return data
        if "capacity" in self.errors:
            return data
        if capacity is None and empty is not None and water is not None:
            capacity = data["capacity"] = float(water - empty) / WATER_G_ML
            if capacity <= 0:
                self.add_error("water", "Full of water it weighs more than empty: check both.")
                return data
        if capacity is None:
            self.add_error("capacity", "How much goes in? Write it, or weigh it empty and brimful of water.")
        elif not 0.1 <= capacity <= 100_000:
            self.add_error("capacity", "A container holds between 0.1 mL and 100 litres.")
        return data

    def save(self, commit: bool = True) -> OwnContainer:
        """Store it."""
        row: OwnContainer = self.instance
        data = self.cleaned_data
        row.capacity_ml, row.fill = data["capacity"], data["fill"]
        row.diameter_mm, row.height_mm = data["diameter_mm"], data["height_mm"]
        row.empty_g = None if data["empty"] is None else float(data["empty"])
        row.save()
        return row


class OwnIngredientForm(forms.ModelForm):
    """An ingredient of the maker's own: a name, a role, and a likeness or a melting range."""

    class Meta:
        model = OwnIngredient
        fields = ("name", "role", "like_key", "scent", "note")
        error_messages = {
            "name": {
                "required": "Give it a name you will know it by.",
                "unique": "You have an ingredient of that name already.",
            }
        }

    def __init__(self, *arguments: Any, prefs: Preferences, tables: Tables, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.tables = tables
        self.fields["like_key"] = PickField(
            tables, label="Like this one", required=False, help_text="Left empty, it goes by its melting range."
        )
        self.fields["melt_low_c"] = temp_field(prefs.show, label="Begins to melt at", required=False)
        self.fields["melt_high_c"] = temp_field(prefs.show, label="Molten at", required=False)
        self.fields["role"] = forms.ChoiceField(label="Role", choices=[(role, role.capitalize()) for role in ROLES])
        self.fields["note"].required = False
        self.fields["scent"].label = "Is it a scent?"
        self.fields[
            "scent"
        ].help_text = "A scent whose papers we do not know is held to 1 %, kept off lips and from children under two."

    def clean_name(self) -> str:
        """Not the name of something known already."""
        name: str = self.cleaned_data["name"]
        if any(item.name.lower() == name.lower() for item in self.tables.ingredients.values()):
            raise ValidationError(f"{name} is in the pantry already: give yours a name of its own.")
        return name

    def clean(self) -> dict[str, Any]:
        """A likeness, or both ends of a melting range; the core says what does not fit."""
        data: dict[str, Any] = self.cleaned_data
        if self.errors:
            return data
        low, high = data.get("melt_low_c"), data.get("melt_high_c")
        like = self.tables.ingredient(data["like_key"]) if data["like_key"] else None
        # Too much scent hurts: what stands outside wax, butter and oil has to say whether it is one.
        if data["role"] == "extra" and not data["scent"] and not (like and like.group != "aromatic"):
            self.add_error("scent", "Is it a scent? Scents are counted against the limits of who wears it.")
            return data
        if data["scent"] in SCENTS and data["role"] != "extra":
            self.add_error("role", "A scent is an extra.")
            return data
        if data["scent"] in SCENTS:
            data["like_key"], low, high = "", None, None
        if data["like_key"]:
            data["melt_low_c"] = data["melt_high_c"] = low = high = None
            if own.is_own(self.tables.ingredient(data["like_key"])):
                self.add_error("like_key", "Choose one of the shipped ingredients.")
                return data
        elif (low is None or high is None) and data["role"] in ("wax", "butter"):
            self.add_error("melt_low_c", "Say what it is like, or between which temperatures it melts.")
            return data
        elif (low is None) != (high is None):
            self.add_error("melt_low_c", "A melting range has two ends.")
            return data
        row: OwnIngredient = self.instance
        row.name, row.role, row.like_key, row.scent = data["name"], data["role"], data["like_key"], data["scent"]
        row.melt_low_c, row.melt_high_c = low, high
        try:
            row.to_ingredient()
        except Problem as problem:
            tell(self, problem, {"like": "like_key"})
        return data


class ItemForm(forms.Form):
    """So much of an ingredient or of a container, from somebody, for a price."""

    supplier = forms.CharField(max_length=120, required=False)

    def __init__(
        self,
        *arguments: Any,
        prefs: Preferences,
        tables: Tables,
        containers_by_key: Mapping[str, Container],
        **options: Any,
    ) -> None:
        super().__init__(*arguments, **options)
        self.prefs, self.tables, self.containers_by_key = prefs, tables, containers_by_key
        vessels = {key: each.name for key, each in containers_by_key.items() if each.kind != VESSEL}
        self.fields["item"] = PickField(tables, vessels, label="What")
        self.fields["amount"] = forms.CharField(
            label="How much", max_length=80, help_text="500 g, 17½ oz, 1 L; for containers, how many."
        )
        self.fields["price"] = TypedField(
            lambda text: money(text, prefs.currency), label=f"Paid for it, {prefs.currency}", required=False
        )
        self.fields["supplier"].widget.attrs["list"] = "suppliers"

    @property
    def is_container(self) -> bool:
        """True where it is counted in pieces."""
        return self.cleaned_data["item"] in self.containers_by_key

    def clean(self) -> dict[str, Any]:
        """The amount in grams or pieces."""
        data: dict[str, Any] = self.cleaned_data
        if text := data.get("amount"):
            try:
                data["amount"] = self._amount(text, data.get("item", ""))
            except Problem as problem:
                self.add_error("amount", problem.sentence)
        return data

    def _amount(self, text: str, key: str) -> Decimal:
        if key in self.containers_by_key:
            return Decimal(units.count(text, int(MOST)))
        item = self.tables.ingredients.get(key)
        density = item.density_g_ml if item else None
        grams = units.mass_g(text, self.prefs.mass_unit, self.prefs.kitchen, density)
        if not 0 < grams <= MOST:
            raise Problem(
                f"A lot holds more than nothing and less than a ton: write what came in, such as {mass_words(500)}."
            )
        return grams


class ReceiveForm(ItemForm):
    """A lot as it comes in: of what, how much, from whom, how long it keeps; ``order`` is what it was ordered as."""

    code = forms.CharField(label="Their lot number", max_length=60, required=False)
    order = forms.IntegerField(required=False, widget=forms.HiddenInput)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["bought"] = day_field("Bought", past=True, initial=timezone.localdate)
        self.fields["opened"] = day_field("Opened", past=True)
        self.fields["best_before"] = day_field("Best before")
        self.order_fields(["item", "amount", "price", "supplier", "code", "bought", "best_before", "opened"])

    def clean(self) -> dict[str, Any]:
        """The amount in grams or pieces, and days that can be."""
        data = super().clean()
        days = {name: data.get(name) for name in ("bought", "opened", "best_before")}
        for name, sentence in odd_days(**days).items():
            self.add_error(name, sentence)
        return data

    def purchase(self) -> Purchase:
        """The lot to receive."""
        data = self.cleaned_data
        names = ("supplier", "code", "bought", "opened", "best_before", "price")
        return Purchase(data["item"], data["amount"], self.is_container, **{name: data[name] for name in names})


class OrderForm(ItemForm):
    """What was ordered, and when it comes."""

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["ordered_on"] = day_field("Ordered", past=True, initial=timezone.localdate)
        self.fields["price"].label = f"Costs, {self.prefs.currency}"
        self.fields["comes_on"] = day_field("Comes", help_text="Left empty where nobody said.")
        self.order_fields(["item", "amount", "price", "supplier", "ordered_on", "comes_on"])

    def clean(self) -> dict[str, Any]:
        """It comes after it was ordered."""
        data = super().clean()
        ordered, comes = data.get("ordered_on") or timezone.localdate(), data.get("comes_on")
        if comes and comes < ordered:
            self.add_error("comes_on", "It cannot come before it was ordered.")
        return data

    def order(self) -> Order:
        """The order, not yet stored."""
        data = self.cleaned_data
        return Order(
            item_key=data["item"],
            is_container=self.is_container,
            amount=data["amount"],
            supplier=data["supplier"],
            price=data["price"],
            ordered_on=data["ordered_on"] or timezone.localdate(),
            comes_on=data["comes_on"],
        )


class LotForm(forms.Form):
    """Everything that can be done to a lot; ``do`` says which."""

    ACTIONS = ("waste", "correct", "open", "smelled", *Lot.State.values)
    do = forms.ChoiceField(
        choices=[(action, action) for action in ACTIONS],
        error_messages=dict.fromkeys(("required", "invalid_choice"), "Choose what is to be done with it."),
    )
    note = forms.CharField(max_length=150, required=False)
    day = day_field("Opened", past=True)

    def __init__(
        self, *arguments: Any, prefs: Preferences, lot: Lot, density: float | None = None, **options: Any
    ) -> None:
        super().__init__(*arguments, **options)
        self.fields["amount"] = TypedField(self._reader(prefs, lot, density), label="How much", required=False)

    @staticmethod
    def _reader(prefs: Preferences, lot: Lot, density: float | None) -> Any:
        if not lot.is_container:
            return lambda text: units.mass_g(text, prefs.mass_unit, prefs.kitchen, density)

        def pieces(text: str) -> Decimal:
            value = units.number(text)
            if value < 0 or value != value.to_integral_value():
                raise Problem(f"“{text[:40]}” is not a number of pieces.")
            return value

        return pieces

    def clean(self) -> dict[str, Any]:
        """An amount where one is needed."""
        data: dict[str, Any] = self.cleaned_data
        if data.get("do") in ("waste", "correct") and data.get("amount") is None and "amount" not in self.errors:
            self.add_error("amount", "How much? Write it here.")
        return data
