"""The form of a pour."""

from collections import Counter
from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils import timezone

from balmcore import units
from balmcore.display import mass_words
from balmcore.making.agreeing import contradiction
from balmcore.making.scaling import MOST_PIECES
from balmcore.tables import Tables
from batches.models import Batch, BatchFinish
from batches.showing.queries import planned_net_g, pot_to_fill_g
from bench.hooks import Filled
from bench.weights.reading import MOST_LETTERS, piece_weights_g
from pours.models import COOLED_IN, Pour, PouredPiece
from workshop.forms import TypedField, mass_field, temp_field
from workshop.forms.days import DayField
from workshop.models import Preferences

MOST_PIECE_FIELDS = 24


class PourForm(forms.ModelForm):
    """Day, room, cooling, the weight of each piece, notes and a verdict."""

    class Meta:
        model = Pour
        field_classes = {"poured_on": DayField}
        fields = ("poured_on", "cooling", "cooling_note", "verdict", "notes")
        labels = {
            "poured_on": "Poured on",
            "cooling": "Cooled on or in",
            "cooling_note": "How it was cooled",
            "verdict": "What next",
        }
        widgets = {
            "verdict": forms.RadioSelect,
            "notes": forms.Textarea(attrs={"rows": 4}),
        }
        error_messages = {
            "poured_on": {"required": "On which day was it poured?"},
            "notes": {"max_length": "These notes have %(show_value)d characters; %(limit_value)d fit."},
        }

    def __init__(
        self,
        *arguments: Any,
        batch: Batch,
        tables: Tables,
        prefs: Preferences,
        finish: BatchFinish | None = None,
        **options: Any,
    ) -> None:
        super().__init__(*arguments, **options)
        show, pour = prefs.show, self.instance
        self.batch, self.tables, self.prefs, self.finish = batch, tables, prefs, finish
        self.pot_g, self.net_g = pot_to_fill_g(batch, finish, tables), planned_net_g(batch, finish, tables)
        self.fields["room_c"] = temp_field(show, label="Room", required=False, initial=pour.room_c)
        self.fields["leftover_g"] = mass_field(
            prefs, label="Stayed in the jug", required=False, initial=pour.leftover_g
        )
        self.fields["leftover_kept"] = forms.BooleanField(
            label="Into stock, with the composition it truly has", required=False
        )
        if pour.pk is None:
            self.fields["poured_on"].initial = timezone.localdate
            self.fields["cooling"].initial = COOLED_IN.get(batch.cooling, Pour.Cooling.OTHER)
            self.fields["room_c"].initial = batch.room_c
        self.rows = batch.containers_of(finish)
        for row in self.rows:
            label = f"{row.name}: filled of {row.count}"
            self.fields[f"count_{row.pk}"] = _count_field(label, row.made)
        self._add_weights(list(pour.pieces.all()) if pour.pk else [])

    def _add_weights(self, stored: Sequence[PouredPiece]) -> None:
        """A field for the weight of each of the first pieces, and one for those of all the others of a container."""
        names = [row.name for row in self.rows for _ in range(row.made)]
        self.piece_names = names[:MOST_PIECE_FIELDS]
        used: dict[str, list[Decimal]] = {}
        for piece in stored:
            used.setdefault(piece.name, []).append(piece.mass_g)
        for n, name in enumerate(self.piece_names):
            weights = used.get(name, [])
            self.fields[f"piece_{n}"] = mass_field(
                self.prefs, label=name, required=False, initial=weights.pop(0) if weights else None
            )
        self.other_pieces = Counter(names[MOST_PIECE_FIELDS:])
        for n, (name, count) in enumerate(self.other_pieces.items()):
            weights = used.pop(name, [])
            self.fields[f"others_{n}"] = _weights_field(self.prefs, name, count, weights[:count])
            used[name] = weights[count:]
        # Of containers that the batch has no more: they stay as they are.
        self.kept_pieces = [(name, grams) for name, weights in used.items() for grams in weights]
        self.pieces_told = _told(len(names), len(self.kept_pieces))

    def count_fields(self) -> list[forms.BoundField]:
        """How many of each container were filled."""
        return [self[f"count_{row.pk}"] for row in self.rows]

    def piece_fields(self) -> list[forms.BoundField]:
        """The fields for the weight of each piece, as far as they go."""
        return [self[f"piece_{n}"] for n in range(len(self.piece_names))]

    def other_fields(self) -> list[forms.BoundField]:
        """The fields for the weights of all other pieces of one container."""
        return [self[f"others_{n}"] for n in range(len(self.other_pieces))]

    def beside(self, stored: Pour) -> list[tuple[str, str]]:
        """What another tab wrote where it differs from what is typed here: label and text."""
        theirs = PourForm(instance=stored, batch=self.batch, tables=self.tables, prefs=self.prefs, finish=self.finish)
        found = []
        for field in theirs:
            typed = self.data.get(field.html_name, "")
            text = str(field.field.prepare_value(field.initial) if field.initial not in (None, "") else "")
            if field.name != "leftover_kept" and text != typed:
                choices = dict(getattr(field.field, "choices", ()))
                found.append((str(field.label), str(choices.get(field.initial, text)) or "nothing"))
        return found

    def clean_poured_on(self) -> Any:
        """Not in the future."""
        day = self.cleaned_data["poured_on"]
        if day > timezone.localdate():
            raise ValidationError("That day is still to come.")
        return day

    def clean_leftover_g(self) -> Decimal | None:
        """Not more than was in the pot."""
        leftover: Decimal | None = self.cleaned_data["leftover_g"]
        if leftover is not None and leftover > self.pot_g:
            raise ValidationError(f"Only {mass_words(self.pot_g)} were in the pot.")
        return leftover

    def clean(self) -> dict[str, Any]:
        """So many weights as pieces at the most, and what is in the pieces and in the jug together was in the pot."""
        data: dict[str, Any] = super().clean() or self.cleaned_data
        for row in self.rows:
            weights, count = len(self._weights(data, row.name)), self._count_of(data, row.name)
            if weights > count:
                said = f"{weights} weights for {count} piece{'' if count == 1 else 's'}: which is wrong?"
                self.add_error(f"count_{row.pk}", said)
        typed = [name for name in self.fields if name.startswith(("leftover_g", "piece_", "others_", "count_"))]
        if self.instance.pk and all((data.get(name) or None) == (self.fields[name].initial or None) for name in typed):
            return data  # what stands there already is no reason to refuse a note
        if not self.errors:
            self._require_agreement(data)
        return data

    def _require_agreement(self, data: Mapping[str, Any]) -> None:
        pieces = self._pieces(data)
        weighed = [grams for _, grams in pieces if grams is not None]
        unweighed = [self.net_g.get(name, Decimal(0)) for name, grams in pieces if grams is None]
        if said := contradiction(self.pot_g, weighed, unweighed, data.get("leftover_g")):
            counted = f"count_{self.rows[0].pk}" if self.rows else None
            self.add_error("leftover_g" if data.get("leftover_g") else counted, said)

    @property
    def filled(self) -> Filled:
        """What is said here, as it is written down."""
        data = self.cleaned_data
        return Filled(
            self.finish,
            self._pieces(data),
            data["leftover_g"],
            bool(data["leftover_kept"]),
            data["notes"],
            data["poured_on"],
            data["room_c"],
            data["cooling"],
            data["cooling_note"],
            data["verdict"],
        )

    def _count_of(self, data: Mapping[str, Any], name: str) -> int:
        """How many pieces of that name were filled; as many as stand there where it was left empty."""
        found = [(data.get(f"count_{row.pk}"), row.made) for row in self.rows if row.name == name]
        return sum(made if count is None else count for count, made in found)

    def _weights(self, data: Mapping[str, Any], name: str) -> list[Decimal]:
        weights = [data.get(f"piece_{n}") for n, each in enumerate(self.piece_names) if each == name]
        for n, each in enumerate(self.other_pieces):
            weights += (data.get(f"others_{n}") or ()) if each == name else ()
        return [grams for grams in weights if grams is not None]

    def _pieces(self, data: Mapping[str, Any]) -> list[tuple[str, Decimal | None]]:
        """Name and grams of every piece, None for one that was not weighed; those without a field too."""
        found: list[tuple[str, Decimal | None]] = []
        for name in dict.fromkeys(row.name for row in self.rows):
            weights = self._weights(data, name)
            found += [(name, grams) for grams in weights]
            found += [(name, None)] * (self._count_of(data, name) - len(weights))
        return [*found, *self.kept_pieces]


def _count_field(label: str, made: int) -> TypedField:
    """How many pieces, none too; as many as planned where nothing is said."""
    return TypedField(
        lambda text: 0 if text.strip() == "0" else units.count(text, MOST_PIECES),
        str,
        label=label,
        required=False,
        initial=made,
        max_length=10,
    )


def _weights_field(prefs: Preferences, name: str, count: int, weights: list[Decimal]) -> TypedField:
    """The weights of up to ``count`` pieces, one after the other."""
    return TypedField(
        lambda text: piece_weights_g(text, name, count, prefs),
        lambda those: " ".join(prefs.show.mass_number(grams) for grams in those),
        label=f"The other {count} of {name}, one after the other",
        required=False,
        initial=weights or None,
        max_length=MOST_LETTERS,
        widget=forms.Textarea(attrs={"rows": 2}),
    )


def _told(pieces: int, kept: int) -> str:
    """What the fields leave out, in a sentence; nothing where there is one for each piece."""
    shown = (
        f"These are {MOST_PIECE_FIELDS} of {pieces} pieces; the others stand below."
        if pieces > MOST_PIECE_FIELDS
        else ""
    )
    return f"{shown} Of containers that this batch has no more, and kept: {kept}." if kept else shown
