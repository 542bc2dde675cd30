"""What can be done to batches: plan one, or a rung of a ladder; mark one poured."""

from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal

from django.db import transaction

from balmcore.advice.safety import Policy
from balmcore.composition import Composition, percent_text
from balmcore.design.ladder import Ladder
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.making.pot import pot_order, pour_temperature
from balmcore.making.scaling import Filling, Scaled, filled_density, with_added
from balmcore.tables import Kind, Tables, shipped
from balmcore.wording import in_sentence
from batches import safety
from batches.batch_plan import BatchPlan
from batches.clock.scheduling import Schedule, schedule_batch
from batches.models import DEFAULT_PITCHER, LADDER_CUP, Batch, BatchAround, BatchContainer, BatchFinish, BatchLine
from formulas.models import Version
from formulas.services import advance_stage, save_trial
from pantry.queries import containers
from workshop.models import Preferences

TEST_CUP = "cup_test_30"


@transaction.atomic
def plan_batch(
    version: Version,
    composition: Composition,
    chosen: BatchPlan,
    scaled: Scaled,
    schedule: Schedule | None = None,
    policy: str = Policy.CAUTIOUS,
    override_reason: str = "",
) -> Batch:
    """A new batch of a version, whose composition it is, with its grams fixed and, with a schedule,
    its place on the clock. Raises :class:`Problem` when that was taken in the meantime, and when
    something is over a limit by ``policy`` and ``override_reason`` does not say that it is known, and why."""
    found = safety.warnings_of(made_of(composition, scaled), version, policy)
    safety.require_yes(found.and_stops(safety.of_leftovers(composition)), override_reason)
    batch = Batch(
        version=version,
        resolution_g=chosen.resolution_g,
        loss_g=chosen.loss_g,
        pour_c=chosen.pour_c,
        overrun=chosen.overrun,
        pitcher_key=chosen.pitcher.key,
        room_c=chosen.room_c,
        cooling=chosen.cooling,
        melting=chosen.melting,
        heating=chosen.heating,
        whipper=chosen.whipper,
        override_reason=override_reason.strip()[:300],
    )
    schedule_batch(batch, schedule)
    batch.save()
    finishes = BatchFinish.objects.bulk_create(
        BatchFinish(batch=batch, position=n, name=portion.finish.name, base_g=portion.base_g)
        for n, portion in enumerate(scaled.portions)
    )
    _store_containers(batch, chosen, finishes)
    _store_lines(batch, composition, scaled, finishes)
    advance_stage(version, Version.Stage.PLANNED)
    return batch


def _store_containers(batch: Batch, chosen: BatchPlan, finishes: Sequence[BatchFinish]) -> None:
    """What it is filled into, as it is today; the fillings of finishes stand in their order."""
    owners = [row for row, finish in zip(finishes, chosen.finishes, strict=True) for _ in finish.fillings]
    rows = []
    for n, filling in enumerate(chosen.fillings):
        container = chosen.containers_by_key[filling.key]
        rows.append(
            BatchContainer(
                batch=batch,
                finish=owners[n] if owners else None,
                container_key=filling.key,
                name=container.name,
                capacity_ml=filling.capacity_ml,
                fill=filling.fill,
                count=filling.count,
                net_g=filling.net_g,
                kind=container.kind,
                diameter_mm=container.diameter_mm,
            )
        )
    BatchContainer.objects.bulk_create(rows)
    known = containers() if chosen.around else {}
    BatchAround.objects.bulk_create(
        BatchAround(container=row, container_key=key, name=known[key].name)
        for row in rows
        for key in chosen.around.get(row.container_key, ())
        if key in known
    )


def _store_lines(batch: Batch, composition: Composition, scaled: Scaled, finishes: Sequence[BatchFinish]) -> None:
    """What is weighed, in the order of the pot and then by finish."""
    lines = [
        BatchLine(batch=batch, ingredient_key=item.key, target_g=scaled.lines[item.key])
        for item in pot_order(composition)
    ]
    for row, portion in zip(finishes, scaled.portions, strict=True):
        lines += [
            BatchLine(batch=batch, finish=row, ingredient_key=one.key, target_g=portion.add[one.key], drops=one.drops)
            for one in portion.finish.add
        ]
    for n, line in enumerate(lines):
        line.position = n
    BatchLine.objects.bulk_create(lines)


def made_of(composition: Composition, scaled: Scaled | None) -> dict[str, Composition]:
    """What a plan makes, by the name of its finish: the whole melt where it is one thing."""
    portions = scaled.portions if scaled else ()
    return {portion.finish.name: portion.composition for portion in portions} or {"": composition.without_volatiles}


def rounded_compositions(composition: Composition, scaled: Scaled) -> dict[str, Composition]:
    """The same by the grams as they are rounded to the scale."""
    lines = (line._replace(share=scaled.lines[line.key]) for line in composition.lines)
    base = Composition(tuple(lines)).require_mass().without_volatiles
    items = {one.key: one.ingredient for portion in scaled.portions for one in portion.finish.add}
    return {
        portion.finish.name: with_added(base, portion.base_g, ((items[k], g) for k, g in portion.add.items()))
        for portion in scaled.portions
    } or {"": base}


def plan_warnings(
    version: Version, composition: Composition, scaled: Scaled | None, tables: Tables, prefs: Preferences
) -> safety.Warned:
    """What is to be minded of a plan: of its percentages, and where only the scale's rounding brings it over
    a limit, that as well, without a yes being asked."""
    policy = prefs.scent_policy
    found = safety.warnings_of(made_of(composition, scaled), version, policy, tables, prefs.show)
    found = found.and_stops(safety.of_leftovers(composition))
    if scaled is None or not scaled.total_g:
        return found
    known = {caution.about for caution in found.stops}
    over = safety.warnings_of(rounded_compositions(composition, scaled), version, policy).stops
    return found.and_by_rounding([caution for caution in over if caution.about not in known])


@transaction.atomic
def plan_rung(version: Version, kind: Kind, made: Ladder, number: int, resolution_g: Decimal) -> Batch:
    """One cup of a ladder as a batch of its own, of a trial version beside the one it is made from.

    Raises :class:`Problem` for a rung that is not there.
    """
    rung = next((rung for rung in made.rungs if rung.number == number), None)
    if rung is None:
        raise Problem(f"The ladder has no rung {number}.")
    name = next(item.name for item in rung.composition.ingredients if item.key == made.key)
    note = (
        f"Ladder, rung {number} of {len(made.rungs)}: {in_sentence(name)} {percent_text(rung.share)} %, "
        f"{mass_words(rung.low_g)} of the low melt and {mass_words(rung.high_g)} of the high."
    )
    trial = save_trial(version, rung.composition, note)
    pour_c = pour_temperature(rung.composition)
    grams = float(rung.low_g + rung.high_g)
    cup = Filling(LADDER_CUP, grams / filled_density(rung.composition, pour_c, 0.0), 1.0, 1)
    test_cup = shipped().containers[TEST_CUP]
    vessel = replace(
        test_cup, key=LADDER_CUP, name=f"Test cup, rung {number} of {len(made.rungs)}", capacity_ml=cup.capacity_ml
    )
    pitcher = shipped().containers[DEFAULT_PITCHER]
    chosen = BatchPlan([cup], {cup.key: vessel}, pour_c, resolution_g, Decimal(0), 0.0, pitcher)
    return plan_batch(
        trial, rung.composition, chosen, chosen.scaled(rung.composition, version.formula.to_wearer(Policy.CAUTIOUS))
    )


def mark_poured(batch: Batch) -> None:
    """Note that what is in the pot was poured: its plan and its weights stay as they are."""
    batch.state = Batch.State.POURED
    batch.save(update_fields=("state",))
    advance_stage(batch.version, Version.Stage.POURED)
