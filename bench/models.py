"""A batch being made: what was done at the bench, in the order in which it was done.

Nothing is overwritten. What is taken back stays in the record as taken back, so that a bench opens
again where it was, and a record says what was skipped or done out of order.
"""

from datetime import datetime
from decimal import Decimal
from typing import Any

from django.db import models
from django.db.models import Q
from django.utils import timezone

from batches.models import Batch
from workshop.fields import MassField

FASTEST = 600


class Session(models.Model):
    """One making of a batch. ``revision`` counts what was done, so that nothing is done twice. In a
    rehearsal ``speed`` is how much faster the clock runs, and nothing but its own events is written."""

    batch = models.ForeignKey(Batch, on_delete=models.CASCADE, related_name="sessions")
    is_rehearsal = models.BooleanField(default=False)
    speed = models.PositiveSmallIntegerField(default=1)
    revision = models.PositiveIntegerField(default=0)
    begun = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=("batch", "is_rehearsal"), name="one_session_of_a_sort"),
            models.CheckConstraint(condition=Q(speed__gte=1, speed__lte=FASTEST), name="speed_within_reason"),
        ]

    def __str__(self) -> str:
        return f"{'Rehearsal' if self.is_rehearsal else 'Making'} of {self.batch}"


def stamp(begun: datetime, revision: int, weights: int) -> str:
    """What moves when anything of a bench does: a page that holds another one is old. A rehearsal begun anew
    has its own."""
    return f"{begun.timestamp():.6f}.{revision}.{weights}"


class Event(models.Model):
    """Something done at one step. What it was is in the columns; ``data`` holds what its taking back needs
    and the weights of pieces."""

    class Kind(models.TextChoices):
        WEIGHED = "weighed", "Weighed"
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

    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="events")
    kind = models.CharField(max_length=10, choices=Kind)
    step = models.CharField(max_length=120)
    title = models.CharField(max_length=160, blank=True)
    slot = models.CharField(max_length=80, blank=True)
    grams = MassField(null=True, blank=True)
    temp_c = models.FloatField(null=True, blank=True)
    text = models.CharField(max_length=1000, blank=True)
    data: "models.JSONField[Any, Any]" = models.JSONField(default=dict, blank=True)
    at = models.DateTimeField(default=timezone.now)
    is_undone = models.BooleanField(default=False)

    class Meta:
        ordering = ("pk",)
        indexes = [models.Index(fields=("session", "id"), name="events_in_order")]

    def __str__(self) -> str:
        return f"{self.get_kind_display()}: {self.step}"

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
