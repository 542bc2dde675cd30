"""What a lot's papers say, put right: the record keeps what stood there."""

from typing import Any

from django import forms

from balmcore.display import figure
from pantry.forms import day_field
from pantry.models import Lot
from pantry.services import odd_days
from workshop.forms import TypedField, money
from workshop.models import Preferences


class DetailsForm(forms.Form):
    """Supplier, code, price and dates of a lot as they should be."""

    NAMES = ("supplier", "code", "price", "bought", "best_before")

    supplier = forms.CharField(max_length=120, required=False)
    code = forms.CharField(label="Their lot", max_length=60, required=False)

    def __init__(self, *arguments: Any, prefs: Preferences, lot: Lot, suppliers: list[str], **options: Any) -> None:
        initial = {name: getattr(lot, name) for name in self.NAMES if name != "price"}
        super().__init__(*arguments, **{**options, "initial": initial})
        self.lot = lot
        self.fields["price"] = TypedField(
            lambda text: money(text, prefs.currency),
            lambda price: figure(price, 2),
            label=f"Paid for it, {prefs.currency}",
            initial=lot.price,
            required=False,
        )
        self.fields["bought"] = day_field("Bought", past=True)
        self.fields["best_before"] = day_field("Best before")
        self.fields["supplier"].widget.attrs["list"] = "suppliers"
        self.suppliers = suppliers

    def clean(self) -> dict[str, Any]:
        """Days that can be."""
        data: dict[str, Any] = self.cleaned_data
        for name, sentence in odd_days(data.get("bought"), self.lot.opened, data.get("best_before")).items():
            self.add_error(name if name in self.fields else None, sentence)
        return data
