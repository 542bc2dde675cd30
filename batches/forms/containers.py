"""Rows of containers as typed: which, how many, and how far each is filled."""

import re
from collections.abc import Mapping
from decimal import Decimal

from django import forms

from balmcore import units
from balmcore.composition import percent_text
from balmcore.errors import Problem
from balmcore.making.scaling import MOST_PIECES, Filling
from balmcore.tables import Container
from workshop.forms import RowForm
from workshop.models import Preferences

BRIMFUL = ("brimful", "brim", "full", "to the brim")


class ContainerForm(RowForm):
    """One row: a container, how many of it, how far each is filled, and the number of the finish that it is for.
    ``filling`` is what it says, once it was read."""

    key = forms.CharField(required=False)
    count = forms.CharField(required=False)
    fill = forms.CharField(required=False)
    finish = forms.CharField(required=False)
    filling: Filling

    def __init__(self, data: Mapping[str, str], containers: Mapping[str, Container], prefs: Preferences) -> None:
        super().__init__(data)
        self.containers, self.prefs = containers, prefs

    def read(self) -> None:
        """The row as a filling. Raises :class:`Problem`."""
        container = self.containers.get(self.text("key"))
        if container is None:
            raise Problem("That container is no longer in the pantry: choose another.")
        fill, net_g = _fill(self.text("fill"), container, self.prefs)
        count = units.count(self.text("count"), MOST_PIECES)
        self.filling = Filling(container.key, container.capacity_ml, fill, count, net_g)

    def changed(self, **changes: str) -> "ContainerForm":
        """The same row with other words in it."""
        return ContainerForm({**self.data, **changes}, self.containers, self.prefs)

    @property
    def finish_number(self) -> int:
        """The finish it is for; the first where that is not a number."""
        text = self.text("finish")
        return int(text) if text.isascii() and text.isdigit() and len(text) < 4 else 0


def fill_text(container: Container) -> str:
    """How far a container is usually filled, as text."""
    return f"{percent_text(Decimal(str(container.fill)), 0)} %"


def _fill(text: str, container: Container, prefs: Preferences) -> tuple[float, float | None]:
    """Share filled and net weight of a fill typed: ``90 %``, ``brimful``, ``50 mL``, ``2 fl oz``,
    ``50 g``, ``1.75 oz``. A net weight leaves the usual fill standing."""
    plain = text.strip().lower()
    if plain in BRIMFUL:
        return 1.0, None
    unit = re.sub(r"[\d.,/½¼¾\s]+", " ", plain).strip().rstrip(".")
    kind, _ = units.size(unit, prefs.kitchen) if unit not in ("", "%") else ("", 0.0)
    if kind == "mass":
        net_g = float(units.mass_g(text, prefs.mass_unit, prefs.kitchen))
        if net_g <= 0:
            raise Problem("A net weight is more than nothing.")
        return container.fill, net_g
    if kind == "volume":
        fill = units.volume_ml(text, "ml", prefs.kitchen) / container.capacity_ml
        if fill > 1 + 1e-9:
            raise Problem(f"“{text.strip()}” does not go into {container.capacity_ml:.0f} mL.")
    else:
        fill = float(units.share(text))
    if fill <= 0:
        raise Problem("Filled to nothing holds nothing: write 90 for 90 %.")
    return min(fill, 1.0), None
