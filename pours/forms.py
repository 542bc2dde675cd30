"""The form of a pour."""

from collections import Counter
from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils import timezone

from balmcore.display import mass_words
from batches.forms.weights import MOST_LETTERS, piece_weights_g
from batches.models import Batch, BatchFinish
from pours.models import COOLED_IN, Pour
from workshop.forms import TypedField, mass_field, temp_field
from workshop.forms.days import DayField
from workshop.models import Preferences

MOST_PIECE_FIELDS = 24
# Scales are read one after the other, each to its step: so much apart is no contradiction.
WEIGHED_APART, LEAST_APART_G = Decimal("0.03"), Decimal(2)


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
        self, *arguments: Any, batch: Batch, prefs: Preferences, finish: BatchFinish | None = None, **options: Any
    ) -> None:
        super().__init__(*arguments, **options)
        show, pour = prefs.show, self.instance
        self.batch, self.prefs, self.finish = batch, prefs, finish
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
        stored = list(pour.pieces.all()) if pour.pk else []
        rows = batch.containers_of(finish)
        names = [row.name for row in rows for _ in range(row.count)]
        self.piece_names = names[:MOST_PIECE_FIELDS]
        used: dict[str, list[Decimal]] = {}
        for piece in stored:
            used.setdefault(piece.name, []).append(piece.mass_g)
        for n, name in enumerate(self.piece_names):
            weights = used.get(name, [])
            self.fields[f"piece_{n}"] = mass_field(
                prefs, label=name, required=False, initial=weights.pop(0) if weights else None
            )
        self.other_pieces = Counter(names[MOST_PIECE_FIELDS:])
        for n, (name, count) in enumerate(self.other_pieces.items()):
            weights = used.pop(name, [])
            self.fields[f"others_{n}"] = _weights_field(prefs, name, count, weights[:count])
            used[name] = weights[count:]
        # Of containers that the batch has no more: they stay as they are.
        self.kept_pieces = [(name, grams) for name, weights in used.items() for grams in weights]
        self.pieces_told = _told(len(names), len(self.kept_pieces))

    def piece_fields(self) -> list[forms.BoundField]:
        """The fields for the weight of each piece, as far as they go."""
        return [self[f"piece_{n}"] for n in range(len(self.piece_names))]

    def other_fields(self) -> list[forms.BoundField]:
        """The fields for the weights of all other pieces of one container."""
        return [self[f"others_{n}"] for n in range(len(self.other_pieces))]

    def beside(self, stored: Pour) -> list[tuple[str, str]]:
        """What another tab wrote where it differs from what is typed here: label and text."""
        theirs = PourForm(instance=stored, batch=self.batch, prefs=self.prefs, finish=self.finish)
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
        rest: Decimal | None = self.cleaned_data["leftover_g"]
        total = sum((line.mass_g for line in self.batch.lines.all()), Decimal(0))
        if rest is not None and rest > total:
            raise ValidationError(f"Only {mass_words(total)} were in the pot.")
        return rest

    def clean(self) -> dict[str, Any]:
        """What is in the pieces and in the jug together was in the pot."""
        data: dict[str, Any] = super().clean() or self.cleaned_data
        typed = [name for name in self.fields if name == "leftover_g" or name.startswith(("piece_", "others_"))]
        if all((data.get(name) or None) == (self.fields[name].initial or None) for name in typed):
            return data  # what stands there already is no reason to refuse a note
        weighed = sum((grams for _, grams in self._pieces(data)), Decimal(0))
        rest, pot = data.get("leftover_g") or Decimal(0), self._pot_g()
        if weighed + rest > pot * (1 + WEIGHED_APART) + LEAST_APART_G:
            said = f"the pieces hold {mass_words(weighed)}"
            said += f" and {mass_words(rest)} stayed in the jug, {mass_words(weighed + rest)} together" if rest else ""
            where = "leftover_g" if rest else None
            self.add_error(where, f"By these weights {said}; {mass_words(pot)} were in the pot. Which is wrong?")
        return data

    def _pot_g(self) -> Decimal:
        """Grams that there were to fill: of the melt, or of the base that the finish took and what was added to it."""
        if self.finish is None:
            return sum((line.mass_g for line in self.batch.base_lines), Decimal(0))
        own = (line.mass_g for line in self.batch.lines.all() if line.finish_id == self.finish.pk)
        return sum(own, self.finish.mass_g)

    @property
    def keeps_leftover(self) -> bool:
        """True when what stayed in the jug goes into stock."""
        return bool(self.cleaned_data["leftover_kept"])

    @property
    def pieces(self) -> list[tuple[str, Decimal]]:
        """Name and grams of every piece that was weighed, those without a field too."""
        return self._pieces(self.cleaned_data)

    def _pieces(self, data: Mapping[str, Any]) -> list[tuple[str, Decimal]]:
        weights = [(name, data.get(f"piece_{n}")) for n, name in enumerate(self.piece_names)]
        for n, name in enumerate(self.other_pieces):
            weights += [(name, grams) for grams in data.get(f"others_{n}") or ()]
        return [*((name, grams) for name, grams in weights if grams is not None), *self.kept_pieces]

    @property
    def columns(self) -> dict[str, Any]:
        """The plain columns of the pour."""
        return {
            name: self.cleaned_data[name]
            for name in ("poured_on", "room_c", "cooling", "cooling_note", "leftover_g", "verdict", "notes")
        }


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
