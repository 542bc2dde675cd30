"""What can be done to batches: plan one, change its plan, write down weights."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal

from django.db import transaction

from balmcore.composition import percent_text
from balmcore.design.ladder import Ladder
from balmcore.errors import Problem
from balmcore.making.scaling import Filling, Scaled, density_at, pot_order, pour_temperature, scale
from balmcore.physics.cooling import DEFAULT
from balmcore.physics.firmness import predict
from balmcore.tables import Container, library
from batches import drawing, methods
from batches.models import JUG, Batch, BatchContainer, BatchLine
from formulas.models import Version
from formulas.services import beside, mark

TEST_CUP = "cup_test_30"


@dataclass(frozen=True)
class Plan:
    """What the maker chose: fillings with their containers, scale, loss, pouring, whipping,
    pitcher, room and the way of cooling."""

    fillings: Sequence[Filling]
    vessels: Mapping[str, Container]
    pour_c: float
    resolution_g: Decimal
    loss_g: Decimal
    overrun: float
    pitcher: Container
    room_c: float = 20.0
    cooling: str = DEFAULT

    def scaled(self, version: Version) -> Scaled:
        """The plan in grams for a version. Raises :class:`Problem`."""
        return scale(version.core, self.fillings, self.pour_c, self.resolution_g, self.loss_g, self.overrun)


@transaction.atomic
def plan(version: Version, chosen: Plan, start: datetime | None = None) -> Batch:
    """A new batch with its grams fixed and, with a start, its place on the clock.

    Raises :class:`Problem`.
    """
    scaled = chosen.scaled(version)
    batch = Batch.objects.create(
        version=version,
        resolution_g=chosen.resolution_g,
        loss_g=chosen.loss_g,
        pour_c=chosen.pour_c,
        overrun=chosen.overrun,
        vessel_key=chosen.pitcher.key,
        room_c=chosen.room_c,
        cooling=chosen.cooling,
    )
    BatchContainer.objects.bulk_create(
        BatchContainer(
            batch=batch,
            container_key=filling.key,
            name=chosen.vessels[filling.key].name,
            capacity_ml=filling.capacity_ml,
            fill=filling.fill,
            count=filling.count,
            net_g=filling.net_g,
            kind=chosen.vessels[filling.key].kind,
            diameter_mm=chosen.vessels[filling.key].diameter_mm,
        )
        for filling in chosen.fillings
    )
    BatchLine.objects.bulk_create(
        BatchLine(batch=batch, position=n, ingredient_key=key, target_g=scaled.lines[key])
        for n, key in enumerate(pot_order(version.core))
    )
    mark(version, Version.Stage.PLANNED)
    methods.place(batch, start)
    return batch


@transaction.atomic
def plan_rung(version: Version, made: Ladder, number: int, resolution_g: Decimal) -> Batch:
    """One cup of a ladder as a batch of its own, of a trial version beside the one it is made from.

    Raises :class:`Problem` for a rung that is not there.
    """
    rung = next((rung for rung in made.rungs if rung.number == number), None)
    if rung is None:
        raise Problem(f"The ladder has no rung {number}.")
    name = library().ingredient(made.key).name
    note = (
        f"Ladder, rung {number} of {len(made.rungs)}: {name.lower()} {percent_text(rung.share)} %, "
        f"{rung.low_g.normalize():f} g of the low melt and {rung.high_g.normalize():f} g of the high."
    )
    trial = beside(version, rung.formula, note)
    pour_c = pour_temperature(predict(rung.formula).set_c)
    grams = float(rung.low_g + rung.high_g)
    cup = Filling("ladder-cup", grams / density_at(rung.formula.density_g_ml(), pour_c), 1.0, 1)
    test_cup = library().containers[TEST_CUP]
    vessel = replace(
        test_cup, key="ladder-cup", name=f"Test cup, rung {number} of {len(made.rungs)}", capacity_ml=cup.capacity_ml
    )
    return plan(trial, Plan([cup], {cup.key: vessel}, pour_c, resolution_g, Decimal(0), 0.0, library().containers[JUG]))


class WeighedElsewhere(Problem):
    """Weights of this batch were saved in another tab since the page was opened."""


@transaction.atomic
def weigh(
    batch_pk: int,
    actual_g: Mapping[str, Decimal | None],
    revision: int,
    lots: Mapping[str, int | None] | None = None,
) -> Batch:
    """Write down what the scale said for some lines; None clears one. What is weighed leaves its
    lot: the one chosen in ``lots``, then the first to expire.

    Raises :class:`WeighedElsewhere` when the batch moved on since ``revision``, and
    :class:`Problem` when it was poured.
    """
    batch = Batch.objects.get(pk=batch_pk)
    if hasattr(batch, "pour"):
        raise Problem("This batch was poured: its weights stay as they were.")
    if batch.revision != revision:
        raise WeighedElsewhere(
            "Another tab wrote weights of this batch down. What you typed is kept below; look at both, then go on."
        )
    moved = False
    for line in batch.lines.filter(ingredient_key__in=actual_g).select_related("batch__version__formula"):
        before = line.actual_g, line.lot_id
        line.actual_g = actual_g[line.ingredient_key]
        if lots and line.ingredient_key in lots:
            line.lot_id = drawing.own_lot(line, lots[line.ingredient_key])
        if (line.actual_g, line.lot_id) != before:
            line.save(update_fields=("actual_g", "lot"))
            drawing.settle(line)
            moved = True
    if moved:  # what was only said again is no news to another tab
        batch.revision += 1
        batch.save(update_fields=("revision",))
    return batch


@transaction.atomic
def call_off(batch: Batch) -> None:
    """Take back a batch that was planned and not poured: what was weighed goes back to its lots.

    Raises :class:`Problem` for a poured one.
    """
    if hasattr(batch, "pour"):
        raise Problem("This batch was poured: its record stays.")
    for line in batch.lines.all():
        line.actual_g = None
        drawing.settle(line)
    batch.delete()
