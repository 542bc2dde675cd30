"""The form of one instrument."""

from typing import Any
from urllib.parse import urlsplit

from django import forms
from django.core.exceptions import ValidationError

from instruments.models import SIMULATOR, Instrument
from instruments.services import DEFAULT_UNITS

BAUDS = (1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200)
UNITS = {
    Instrument.Kind.SCALE: (Instrument.Unit.GRAMS, Instrument.Unit.OUNCES),
    Instrument.Kind.THERMOMETER: (Instrument.Unit.CELSIUS, Instrument.Unit.FAHRENHEIT),
}
REMOTE = ("socket://", "rfc2217://")


class InstrumentForm(forms.Form):
    """Where an instrument speaks, how fast, and in which unit when it names none; nothing for none."""

    address = forms.CharField(label="Speaks at", max_length=200, required=False)
    baud = forms.TypedChoiceField(label="Bauds", coerce=int, choices=[(baud, f"{baud}") for baud in BAUDS])
    unit = forms.ChoiceField(label="Unit, when it names none")
    tare = forms.RegexField(
        r"^[!-~]{0,12}$",
        label="Its line takes this to be tared",
        required=False,
        help_text="Such as T, by its papers. Left empty, what stands on it is subtracted here.",
        error_messages={"invalid": "Write up to twelve plain letters and signs, without spaces."},
    )

    def __init__(self, data: Any = None, *, kind: str, stored: Instrument | None = None) -> None:
        chosen = Instrument.Kind(kind)
        initial = {
            "address": stored.address if stored else "",
            "baud": stored.baud if stored else 9600,
            "unit": stored.unit if stored else DEFAULT_UNITS[chosen],
            "tare": stored.tare if stored else "",
        }
        super().__init__(data, initial=initial, prefix=kind)
        self.kind, self.stored = chosen, stored
        if chosen is not Instrument.Kind.SCALE:
            del self.fields["tare"]
        units = self.fields["unit"]
        assert isinstance(units, forms.ChoiceField)
        units.choices = [(unit.value, unit.label) for unit in UNITS[chosen]]
        self.fields["address"].widget.attrs.update(
            {"list": "ports", "autocomplete": "off", "placeholder": "/dev/ttyUSB0, socket://192.168.1.9:4001, stand-in"}
        )

    def clean_address(self) -> str:
        """A port, an address that can be opened, or the stand-in."""
        address: str = self.cleaned_data["address"].strip()
        if address in ("", SIMULATOR) or address.startswith("/dev/") or address.upper().startswith("COM"):
            return address
        if not address.startswith(REMOTE):
            raise ValidationError("Write a port such as /dev/ttyUSB0, socket://address:port, or stand-in.")
        try:
            parts = urlsplit(address)
            found = bool(parts.hostname and parts.port)
        except ValueError:
            found = False
        if not found:
            raise ValidationError("Write it like socket://192.168.1.9:4001, address and port.")
        return address
