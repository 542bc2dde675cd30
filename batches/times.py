"""A stored batch on the clock: its method, its strip, and giving it another time."""

from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from balmcore.cooling import SCHOOLS
from balmcore.method import method
from balmcore.problems import Problem
from batches import clock, methods, outlook
from batches.models import Batch
from workshop.models import Preferences
from workshop.web import Fields


@dataclass(frozen=True)
class Typed:
    """What stands in the fields for the time."""

    when: str
    moment: str
    cooling: str


@dataclass(frozen=True)
class OnClock:
    """A batch's clock, its ways of cooling and its cost; ``said`` is why a wish was not met."""

    typed: Typed
    clock: outlook.Clock | None
    choices: list[outlook.Choice]
    cost: outlook.Cost
    said: str = ""
    note: str = ""


def stored(batch: Batch, prefs: Preferences, typed: Typed | None = None, said: str = "") -> OnClock:
    """The batch as it stands on the clock."""
    start = batch.starts_at
    now = Typed(Batch.When.START if start else "", clock.field(start) if start else "", batch.cooling)
    bench = methods.bench_of(batch, prefs.show)
    shown = None
    try:
        shown = outlook.clock_of(bench, method(bench), start)
    except Problem as problem:
        said = said or problem.sentence
    lines = {line.ingredient_key: line.mass_g for line in batch.lines.all()}
    names = {row.container_key: row.name for row in batch.containers.all()}
    cost = outlook.cost_of(lines, bench.pieces, names, prefs)
    return OnClock(typed or now, shown, outlook.schools(bench), cost, said)


def moved(data: Fields, batch: Batch, prefs: Preferences) -> OnClock:
    """The batch given another time or way of cooling; nothing is stored when that cannot be."""
    typed = Typed(data.text("when", 10), data.text("moment", 40), data.text("cooling", 30))
    try:
        note = _move(typed, batch)
    except Problem as problem:
        batch.refresh_from_db(fields=("cooling", "starts_at", "length_min"))
        return stored(batch, prefs, typed, problem.sentence)
    return OnClock(typed, None, [], stored(batch, prefs).cost, note=note)


@transaction.atomic
def _move(typed: Typed, batch: Batch) -> str:
    """Store the wish; returns a word on what had to give way."""
    if hasattr(batch, "pour"):
        raise Problem("This batch was poured: its times stay as they were.")
    if typed.cooling not in SCHOOLS:
        raise Problem("Choose how it cools.")
    batch.cooling = typed.cooling
    made = method(methods.bench_of(batch))
    note, start = "", None
    if typed.when:
        now = timezone.now()
        wanted, note = clock.moment(typed.moment, now)
        put = methods.placed(made, typed.when, wanted, now, batch.pk)
        start = methods.moment_of(put.start)
        if put.moved_for:
            note = f"{note} Moved to {clock.said(start)}, as another batch has {put.moved_for} then.".strip()
    batch.save(update_fields=("cooling",))
    methods.place(batch, start)
    return note
