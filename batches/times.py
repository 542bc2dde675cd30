"""A stored batch on the clock: its method, its strip, and giving it another time."""

from dataclasses import dataclass, replace

from django.db import transaction

from balmcore.errors import Problem
from balmcore.making.method import method
from balmcore.making.steps import Bench
from balmcore.physics.cooling import SCHOOLS
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


def clock_of(batch: Batch, prefs: Preferences) -> tuple[Bench, outlook.Clock | None, str]:
    """A stored batch's bench and clock, and why there is none where its method cannot be."""
    bench = methods.bench_of(batch, prefs.show)
    try:
        return bench, outlook.clock_of(bench, method(bench), batch.starts_at), ""
    except Problem as problem:
        return bench, None, problem.sentence


def stored(batch: Batch, prefs: Preferences, typed: Typed | None = None, said: str = "") -> OnClock:
    """The batch as it stands on the clock."""
    start = batch.starts_at
    now = Typed(Batch.When.START if start else "", clock.field(start) if start else "", batch.cooling)
    bench, shown, why_not = clock_of(batch, prefs)
    lines = {line.ingredient_key: line.mass_g for line in batch.lines.all()}
    names = {row.container_key: row.name for row in batch.containers.all()}
    cost = outlook.cost_of(lines, bench.pieces, names, prefs)
    return OnClock(typed or now, shown, outlook.schools(bench), cost, said or why_not)


def typed(data: Fields) -> Typed:
    """The fields for the time as posted."""
    return Typed(data.text("when", 10), data.text("moment", 40), data.text("cooling", 30))


@transaction.atomic
def move(typed: Typed, batch: Batch) -> str:
    """Give a batch another time or way of cooling; returns a word on what had to give way.

    Raises :class:`Problem`, and stores nothing, when that cannot be.
    """
    if hasattr(batch, "pour"):
        raise Problem("This batch was poured: its times stay as they were.")
    if typed.cooling not in SCHOOLS:
        raise Problem("Choose how it cools.")
    made = method(replace(methods.bench_of(batch), school=typed.cooling))
    note, start = "", None
    if typed.when:
        start, note = methods.put(made, typed.when, typed.moment, batch.pk)
    batch.cooling = typed.cooling
    batch.save(update_fields=("cooling",))
    methods.place(batch, start)
    return note
