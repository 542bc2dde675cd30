"""Kinds as this workshop sees them: shipped windows moved, and kinds of the maker's own."""

from dataclasses import dataclass
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.db.models import QuerySet

from balmcore import units
from balmcore.display import figure
from balmcore.errors import Problem
from balmcore.tables import Kind, Tables, shipped
from balmcore.wording import in_sentence
from workshop.forms import TypedField, temp_field
from workshop.hooks import Hook
from workshop.models import OwnKind, Preferences

FIRMEST = 130.0
TICKS = (0, 20, 40, 60, 80, 100, 120)  # of the ruler of all windows
WINDOW = ("firm_low", "firm_high", "hold_firmness", "hold_temp_c")
# Whether anything needs a kind to be readable.
needs_kind: Hook[[str], bool] = Hook()


@dataclass(frozen=True)
class KindRow:
    """A kind in the list: as it is here, as it was shipped, and the row that moved or made it."""

    kind: Kind
    shipped: Kind
    row: OwnKind | None

    @property
    def window(self) -> str:
        """``48 to 64``."""
        return f"{figure(self.kind.firm_low)} to {figure(self.kind.firm_high)}"

    @property
    def bar_width(self) -> float:
        """How wide its window is on the ruler of all kinds, which ends at :data:`FIRMEST`."""
        return self.kind.firm_high - self.kind.firm_low

    @property
    def is_own(self) -> bool:
        """True for a kind of the workshop's own."""
        return self.row is not None and bool(self.row.name)


def kind_rows(tables: Tables) -> list[KindRow]:
    """Every kind, the workshop's own last."""
    rows = {row.key: row for row in OwnKind.objects.all()}
    known = shipped().kinds
    return [
        KindRow(kind, known[rows[key].like_key] if key in rows else known[key], rows.get(key))
        for key, kind in tables.kinds.items()
    ]


class KindForm(forms.Form):
    """A window, and what has to hold, of one kind; ``name`` and ``like`` for one of the maker's own."""

    name = forms.CharField(max_length=60, required=False)

    def __init__(self, *arguments: Any, prefs: Preferences, kind: Kind | None = None, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.kind = kind
        kinds = [(each.key, each.name) for each in shipped().kinds.values()]
        self.fields["like"] = forms.ChoiceField(label="Made from", choices=kinds, required=kind is None)

        for name, label in (("firm_low", "Firmness from"), ("firm_high", "to"), ("hold_firmness", "keeps")):
            self.fields[name] = TypedField(
                lambda text: float(units.number(text)),
                figure,
                label=label,
                required=name != "hold_firmness",
            )
        self.fields["hold_temp_c"] = temp_field(prefs.show, label="up to", required=False)
        if kind is not None:
            for name in WINDOW:
                field = self.fields[name]
                assert isinstance(field, TypedField)
                field.initial = field.stored = getattr(kind, name)

    def clean_name(self) -> str:
        """A name that no other kind has, where it is for a kind of one's own."""
        name: str = self.cleaned_data["name"].strip()
        if self.kind is None and not name:
            raise ValidationError("Give it a name you will know it by.")
        names = {kind.name.lower() for kind in shipped().kinds.values()}
        if name and (name.lower() in names or OwnKind.objects.filter(name__iexact=name).exists()):
            raise ValidationError(f"There is a kind named {name} already.")
        return name

    def clean(self) -> dict[str, Any]:
        """A window from a lower to a higher firmness, and a hold that says both or neither."""
        data: dict[str, Any] = self.cleaned_data
        if self.errors:
            return data
        try:
            require_window(data["firm_low"], data["firm_high"], data["hold_firmness"], data["hold_temp_c"])
        except Problem as problem:
            self.add_error(problem.where, problem.sentence)
        return data

    @property
    def window(self) -> dict[str, float | None]:
        """The window and the hold."""
        return {name: self.cleaned_data[name] for name in WINDOW}

    @property
    def window_text(self) -> str:
        """The window in points."""
        return f"{figure(self.cleaned_data['firm_low'])} to {figure(self.cleaned_data['firm_high'])}"


def require_window(low: float, high: float, hold: float | None, at: float | None) -> None:
    """Raises :class:`Problem` for a window upside down or off the scale, or half a hold."""
    if not 0 <= low < high <= FIRMEST:
        raise Problem(f"A window runs from a lower to a higher firmness, between 0 and {figure(FIRMEST)}.", "firm_low")
    if (hold is None) != (at is None):
        raise Problem("A hold needs both: a firmness and the temperature up to which it is kept.", "hold_temp_c")
    if hold is not None and not 0 < hold <= high:
        raise Problem("What it keeps in the heat lies above nothing, and not above its own window.", "hold_firmness")


def move_window(key: str, window: dict[str, float | None]) -> None:
    """Give a kind another window: a shipped one here and from now on, or one of the workshop's own."""
    own = _rows(key)
    if not own.update(**window):
        OwnKind.objects.create(like_key=key, **window)


def make_kind(name: str, like_key: str, window: dict[str, float | None]) -> OwnKind:
    """A kind of the workshop's own, like a shipped one."""
    return OwnKind.objects.create(name=name, like_key=like_key, **window)


def take_back(key: str, tables: Tables) -> str:
    """A shipped kind as it was shipped, or an own one gone; returns what to say.

    Raises :class:`Problem` for an own kind that formulas are of.
    """
    kind, own = tables.kind(key), _rows(key)
    if key not in shipped().kinds and any(needs_kind.ask(key)):
        raise Problem(f"Formulas are of this kind: {in_sentence(kind.name)} stays, so that they can still be read.")
    own.delete()
    return f"{kind.name} is as we ship it." if key in shipped().kinds else f"{kind.name} is taken away."


def _rows(key: str) -> QuerySet[OwnKind]:
    pks = [row.pk for row in OwnKind.objects.all() if row.key == key]
    return OwnKind.objects.filter(pk__in=pks)
