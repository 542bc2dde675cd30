"""The fields of a plan outside its rows."""

from collections.abc import Mapping, Sequence
from decimal import Decimal

from django import forms

from balmcore import units
from balmcore.display import mass_words, percent_words, temp_words
from balmcore.making.scaling import Filling
from balmcore.making.whippers import WHIPPERS
from balmcore.physics.cooling import COOLING_METHODS
from balmcore.physics.grain import HELD, MELTING_METHODS
from balmcore.physics.ways_of_heating import DIRECT, HEATING_METHODS
from balmcore.tables import Container, Kind, shipped
from batches.batch_plan import BatchPlan
from batches.models import DEFAULT_PITCHER
from workshop.forms import AmountField, WordsForm
from workshop.models import Preferences

MOST_LETTERS, MOST_REASON = 80, 300


class PlanFields(WordsForm):
    """Scale, loss, pouring, whipping, pitcher, room, ways of melting, heating and cooling, the time, and what is said
    to a limit that it is over."""

    pitcher = forms.CharField(required=False)
    cooling = forms.ChoiceField(
        choices=[(key, key) for key in COOLING_METHODS],
        error_messages=dict.fromkeys(("required", "invalid_choice"), "Choose how it cools."),
    )
    melting = forms.ChoiceField(
        choices=[(key, key) for key in MELTING_METHODS],
        required=False,
        error_messages={"invalid_choice": "Choose how far it is melted."},
    )
    heating = forms.ChoiceField(
        choices=[(key, key) for key in (*HEATING_METHODS, DIRECT)],
        required=False,
        error_messages={"invalid_choice": "Choose how it is heated."},
    )
    whipper = forms.ChoiceField(
        choices=[(key, key) for key in WHIPPERS],
        required=False,
        error_messages={"invalid_choice": "Choose what whips it."},
    )
    when = forms.CharField(required=False)
    moment = forms.CharField(required=False)
    override_reason = forms.CharField(required=False)

    def __init__(self, data: Mapping[str, str], kind: Kind, prefs: Preferences) -> None:
        super().__init__(data)
        self.kind, self.prefs = kind, prefs

        def mass(text: str) -> Decimal:
            return units.mass_g(text, prefs.mass_unit, prefs.kitchen)

        def temp(text: str) -> Decimal:
            return Decimal(str(units.temp_c(text, prefs.temp_unit)))

        def percent(text: str) -> Decimal:
            return units.number(text.removesuffix("%"))

        self.fields["resolution"] = AmountField(mass, 0.0005, 50, mass_words)
        self.fields["loss"] = AmountField(mass, 0, 5000, mass_words)
        self.fields["pour"] = AmountField(temp, -20, 120, temp_words)
        self.fields["room"] = AmountField(temp, 5, 40, temp_words)
        self.fields["whip"] = AmountField(percent, 0, 400, percent_words, required=bool(kind.overrun))

    def changed(self, **changes: str) -> "PlanFields":
        """The same with other words in it."""
        return PlanFields({**self.data, **changes}, self.kind, self.prefs)

    def to_plan(self, fillings: Sequence[Filling], containers: Mapping[str, Container]) -> BatchPlan:
        """What they say for some fillings, with the usual pitcher; nothing of it is wrong."""
        data = self.cleaned_data
        return BatchPlan(
            fillings,
            {filling.key: containers[filling.key] for filling in fillings},
            float(data["pour"]),
            data["resolution"],
            data["loss"],
            float(data["whip"] or 0) / 100,
            shipped().containers[DEFAULT_PITCHER],
            float(data["room"]),
            data["cooling"],
            melting=data["melting"] or HELD,
            heating=data["heating"] or self.prefs.heating,
            whipper=data["whipper"] or self.prefs.whipper,
        )
