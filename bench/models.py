"""A batch being made: what was done at the bench, in the order in which it was done.

Nothing is overwritten. What is taken back stays in the record as taken back, so that a bench opens
again where it was, and a record says what was skipped or done out of order.
"""

import secrets
from collections.abc import Callable, Mapping
from datetime import datetime
from decimal import Decimal
from typing import Any

from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import Q
from django.utils import timezone

from batches.models import Batch
from workshop.fields import MassField, MeasureField
from workshop.files import photos

FASTEST = 600
MOST_G = 1_000_000


class BenchRun(models.Model):
    """One making of a batch. ``revision`` is another number after all that is done or weighed, wherever it is written
    down, so that nothing is done twice and two tabs cannot overwrite each other; nobody can guess it, so that a
    workshop that was put back and goes on another way is told apart as well. In a rehearsal ``speed`` is how much
    faster the clock runs, and nothing but its own events is written."""

    batch = models.ForeignKey(Batch, on_delete=models.CASCADE, related_name="runs")
    is_rehearsal = models.BooleanField(default=False)
    speed = models.PositiveSmallIntegerField(default=1)
    revision = models.PositiveIntegerField(default=0)
    begun = models.DateTimeField(default=timezone.now)

    class Meta:
        db_table = "bench_session"
        constraints = [
            models.UniqueConstraint(fields=("batch", "is_rehearsal"), name="one_session_of_a_sort"),
            models.CheckConstraint(condition=Q(speed__gte=1, speed__lte=FASTEST), name="speed_within_reason"),
        ]

    def __str__(self) -> str:
        return f"{'Rehearsal' if self.is_rehearsal else 'Making'} of {self.batch}"


def fresh_revision() -> int:
    """The number of a making after something was done."""
    return secrets.randbelow(2**31 - 1) + 1


def stamp(begun: datetime, revision: int) -> str:
    """What moves when anything of a bench does: a page that holds another one is old. A rehearsal begun anew
    has its own."""
    return f"{begun.timestamp():.6f}.{revision}"


class EventQuerySet(models.QuerySet["Event"]):
    """What is asked of events again and again."""

    def standing(self) -> "EventQuerySet":
        """What was really done, and not taken back."""
        return self.filter(run__is_rehearsal=False, is_undone=False)

    def at_steps(self) -> "EventQuerySet":
        """What of it was done at a step, and not written on the weigh sheet."""
        return self.standing().filter(is_from_sheet=False)


class Event(models.Model):
    """Something done at one step. What it was is in the columns; ``data`` holds what its taking back needs
    and the weights of pieces. ``grams`` of a weight are so many more; of one put right, all that there are of its
    line, None for a line that was not weighed after all."""

    class Kind(models.TextChoices):
        WEIGHED = "weighed", "Weighed"
        CORRECTED = "corrected", "Put right"
        TAKEN = "taken", "Taken"
        DONE = "done", "Done"
        SKIPPED = "skipped", "Skipped"
        ADDED = "added", "Added"
        RESCALED = "rescaled", "Rescaled"
        FILLED = "filled", "Filled"
        MEASURED = "measured", "Measured"
        NOTE = "note", "Note"
        PHOTO = "photo", "Photograph"
        TIMER = "timer", "Timer"
        REWARMED = "rewarmed", "Warmed again"
        PIECES = "pieces", "More pieces"

    run = models.ForeignKey(BenchRun, on_delete=models.CASCADE, related_name="events")
    kind = models.CharField(max_length=10, choices=Kind)
    step = models.CharField(max_length=120)
    title = models.CharField(max_length=160, blank=True)
    slot = models.CharField(max_length=80, blank=True)
    grams = MassField(null=True, blank=True)
    temp_c = MeasureField(low=-100, high=500, null=True, blank=True)
    text = models.CharField(max_length=1000, blank=True)
    data: "models.JSONField[Any, Any]" = models.JSONField(default=dict, blank=True)
    at = models.DateTimeField(default=timezone.now)
    is_undone = models.BooleanField(default=False)
    is_from_sheet = models.BooleanField(default=False)

    objects = EventQuerySet.as_manager()

    class Meta:
        ordering = ("pk",)
        indexes = [models.Index(fields=("run", "id"), name="events_in_order")]

    def __str__(self) -> str:
        return f"{self.get_kind_display()}: {self.step}"

    def clean(self) -> None:
        """What its kind needs is there, each thing as it is read again."""
        if not isinstance(self.data, dict):
            raise ValidationError({"data": "should be names with values."})
        needed = SHAPES.get(self.kind, {})
        for name, is_so in {**needed, **{k: OPTIONAL[k] for k in OPTIONAL if k in self.data}}.items():
            if name not in self.data or not is_so(self.data[name]):
                raise ValidationError({"data": f"{name} is not there, or not as it should be."})

    @property
    def was_g(self) -> Decimal | None:
        """What was weighed or taken before it, None for nothing."""
        return _mass(self.data.get("was"))

    @property
    def pieces(self) -> list[tuple[str, Decimal | None]]:
        """What was filled: a name and its grams for every piece, None for one that was not weighed."""
        return [(name, _mass(grams)) for name, grams in self.data.get("pieces", ())]

    @property
    def stayed_g(self) -> Decimal | None:
        """What stayed in the jug, None where it was not said."""
        return _mass(self.data.get("stayed"))


def _mass(text: str | None) -> Decimal | None:
    return None if text is None else Decimal(text)


def _is_mass(value: Any) -> bool:
    try:
        return isinstance(value, str) and abs(Decimal(value)) < MOST_G
    except ArithmeticError:
        return False


def _is_mass_or_none(value: Any) -> bool:
    return value is None or _is_mass(value)


def _is_number(value: Any) -> bool:
    return type(value) in (int, float) and abs(value) < MOST_G


def _are_masses(value: Any) -> bool:
    return isinstance(value, dict) and all(map(_is_mass, value.values()))


def _are_words(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(each, str) for each in value)


def _are_pieces(value: Any) -> bool:
    return isinstance(value, list) and all(
        isinstance(each, list) and len(each) == 2 and isinstance(each[0], str) and _is_mass_or_none(each[1])
        for each in value
    )


def _is_bool(value: Any) -> bool:
    return isinstance(value, bool)


def _is_photo(value: Any) -> bool:
    return isinstance(value, str) and bool(photos.NAME.fullmatch(value))


Shape = Mapping[str, Callable[[Any], bool]]
# What an event of a kind holds in ``data``.
SHAPES: Mapping[str, Shape] = {
    Event.Kind.WEIGHED: {"was": _is_mass_or_none},
    Event.Kind.CORRECTED: {"was": _is_mass_or_none},
    Event.Kind.TAKEN: {"finish": lambda value: isinstance(value, str) and value.isdigit(), "was": _is_mass_or_none},
    Event.Kind.ADDED: {"was": _is_mass_or_none, "is_new": _is_bool},
    Event.Kind.RESCALED: {"was": _are_masses, "after": _are_masses, "reopened": _are_words},
    Event.Kind.MEASURED: {"cup_ml": _is_number, "overrun": _is_number, "was": _is_number},
    Event.Kind.FILLED: {"pieces": _are_pieces, "stayed": _is_mass_or_none, "keep": _is_bool},
    Event.Kind.PHOTO: {"file": _is_photo},
    Event.Kind.PIECES: {"container": _is_number, "count": _is_number},
    Event.Kind.TIMER: {"minutes": _is_number},
}
OPTIONAL: Shape = {
    "shift": _is_number,
    "shift_was": _is_number,
    "want": _is_number,
    "file": _is_photo,
    "stopped": _is_bool,
    "before": _are_words,
}
