"""Reads the demo workshop from its one file of data, through the same services the screens use."""

import tomllib
from collections import Counter
from collections.abc import Iterable
from dataclasses import replace
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

from django.utils import timezone

from balmcore.composition import Composition
from balmcore.making.portions import FinishPlan, Wanted
from balmcore.making.pot import pour_temperature
from balmcore.making.scaling import Filling
from balmcore.tables import Container, shipped
from batches.batch_plan import BatchPlan, setup_of
from batches.clock.scheduling import schedule_batch, schedule_for
from batches.models import Batch, BatchFinish
from batches.services import plan_batch
from bench.hooks import Filled
from bench.weights.recording import record_weights
from demo.year import ladder_test, since
from formulas.models import Formula, Version
from formulas.services import begin_formula, save_version
from learning.experience import experience_of
from pantry.models import Entry, Lot, Preparation
from pantry.services import Purchase, begin_preparation, correct, finish_preparation, mark, receive
from pantry.tables import workshop_tables
from pours.services import record_pour
from workshop.services import preferences

FILE = Path(__file__).parent / "net_loft.toml"
YEAR = Path(__file__).parent / "net_loft_year.toml"
LOSS_G = Decimal(3)
RESOLUTION_G = Decimal("0.1")


def load(file: Path = FILE) -> int:
    """Load every formula of the file; returns how many."""
    now = timezone.now()
    with file.open("rb") as source:
        workshop = tomllib.load(source)
    bought = [_lot(entry, now) for entry in workshop["lot"]]
    for entry in workshop["formula"]:
        _formula(entry, now)
    for entry in workshop.get("preparation", ()):
        _preparation(entry, now)
    for lot in bought:
        if workshop.get("is_used_up"):
            correct(lot, Decimal(0), "Used up.")
    _put_again(now)
    return len(workshop["formula"])


def _put_again(now: datetime) -> None:
    """What has a time gets it once more, by the pace that the pours written down since have shown."""
    experience = experience_of(workshop_tables(), preferences())
    tables = experience.tables or workshop_tables()
    for batch in Batch.objects.on_clock().for_page():
        assert batch.ready_at is not None
        setup = setup_of(batch, tables, pace=experience.pace)
        schedule_batch(batch, schedule_for(setup, Batch.When.READY, batch.ready_at, now, frozenset({batch.pk})))
        batch.save()


def _day(now: datetime, days_ago: int) -> date:
    return timezone.localdate(now - timedelta(days=days_ago))


def _lot(entry: dict[str, Any], now: datetime) -> Lot:
    key = entry["item"]
    opened = entry.get("opened_days_ago")
    keeps = entry.get("keeps_days")
    lot = receive(
        Purchase(
            key,
            Decimal(entry["amount"]),
            key in shipped().containers,
            entry["supplier"],
            entry.get("code", ""),
            _day(now, entry["days_ago"]),
            None if opened is None else _day(now, opened),
            None if keeps is None else _day(now, -keeps),
            Decimal(str(entry["price"])),
        )
    )
    if "marked" in entry:
        mark(lot, entry["marked"], entry["marked_note"])
    Entry.objects.filter(lot=lot, kind=Entry.Kind.RECEIVED).update(at=now - timedelta(days=entry["days_ago"]))
    return lot


def _preparation(entry: dict[str, Any], now: datetime) -> None:
    row = begin_preparation(
        Preparation(
            kind=entry["kind"],
            name=entry["name"],
            base_key=entry["base"],
            raw_g=Decimal(entry["raw_g"]),
            base_g=Decimal(entry.get("base_g", 0)),
            started_on=_day(now, entry["started_days_ago"]),
            ready_on=_day(now, -entry["ready_in_days"]),
            passes=entry.get("passes", 1),
            note=entry.get("note", ""),
        )
    )
    if "yield_g" in entry:
        finish_preparation(row, Decimal(entry["yield_g"]), _day(now, entry["finished_days_ago"]), workshop_tables())


def _formula(entry: dict[str, Any], now: datetime) -> None:
    formula: Formula | None = None
    for step in entry["version"]:
        composition = Composition.of({key: Decimal(str(percent)) / 100 for key, percent in step["lines"].items()})
        if formula is None:
            formula = begin_formula(entry["name"], shipped().kind(entry["kind"]), composition, step["note"])
            version = formula.versions.get()
        else:
            version = save_version(formula, composition, seen=version.pk, made_from=version.number, note=step["note"])
        when = now - timedelta(days=step["days_ago"])
        Version.objects.filter(pk=version.pk).update(created=when)
        for work in step.get("batch", []):
            _batch(version, work, now, weighed=work.get("weighed"))
        for work in step.get("pour", []):
            _pour(version, work, now)
        for work in step.get("ladder", []):
            ladder_test(version, work)


def a_plan(version: Version, counts: dict[str, int], composition: Composition) -> BatchPlan:
    """The loft's usual plan for so many of some containers."""
    known = shipped().containers
    chosen: list[Container] = [known[key] for key in counts]
    return BatchPlan(
        [Filling(c.key, c.capacity_ml, c.fill, counts[c.key]) for c in chosen],
        {c.key: c for c in chosen},
        round(pour_temperature(composition)),
        RESOLUTION_G,
        LOSS_G,
        version.formula.to_kind(shipped()).overrun,
        known["jug_pouring_500"],
    )


def plan(version: Version, counts: dict[str, int], finishes: Iterable[dict[str, Any]] = ()) -> Batch:
    """A batch by the loft's usual plan; ``finishes`` have containers and additions of their own."""
    composition = version.to_composition(shipped())
    parts = [_finish(each) for each in finishes]
    counts = counts or {filling.key: filling.count for part in parts for filling in part.fillings}
    chosen = a_plan(version, counts, composition)
    if parts:
        fillings = [filling for part in parts for filling in part.fillings]
        chosen = replace(chosen, finishes=parts, fillings=fillings)
    return plan_batch(version, composition, chosen, chosen.scaled(composition))


def _finish(entry: dict[str, Any]) -> FinishPlan:
    known = shipped()
    sorts = [(known.containers[key], count) for key, count in entry["containers"].items()]
    add = [
        Wanted(known.ingredient(key), Decimal(str(percent)) / 100, Wanted.How.PERCENT)
        for key, percent in entry.get("add", {}).items()
    ]
    return FinishPlan(
        entry["name"], tuple(Filling(c.key, c.capacity_ml, c.fill, count) for c, count in sorts), tuple(add)
    )


def _batch(version: Version, work: dict[str, Any], now: datetime, weighed: dict[str, float] | None) -> Batch:
    batch = plan(version, work.get("containers", {}), work.get("finishes", ()))
    if "ready_at" in work:
        clock = time.fromisoformat(work["ready_at"])
        deadline = datetime.combine(_day(now, -work["ready_in_days"]), clock, timezone.get_current_timezone())
        schedule_batch(batch, schedule_for(setup_of(batch, shipped()), Batch.When.READY, deadline, now))
        batch.save()
    Batch.objects.filter(pk=batch.pk).update(created=now - timedelta(days=work["days_ago"]))
    if weighed is not None:
        lines = list(batch.lines.all())
        # A batch under way has only the lines it names; a pour was weighed to the end.
        done: Iterable[Any] = lines if "cooling" in work else [line for line in lines if line.ingredient_key in weighed]
        actual = {line.slot: line.target_g + Decimal(str(weighed.get(line.ingredient_key, 0))) for line in done}
        when = now - timedelta(days=work["days_ago"])
        batch = Batch.objects.for_page().get(pk=batch.pk)
        record_weights(batch, actual, 0, at=when)
        Entry.objects.filter(draw__line__batch=batch).update(at=when)
    return batch


def _pour(version: Version, work: dict[str, Any], now: datetime) -> None:
    batch = _batch(version, work, now, work.get("weighed", {}))
    fields: dict[str, Any] = {
        "poured_on": timezone.localdate(now - timedelta(days=work["days_ago"])),
        "room_c": float(work["room_c"]),
        "cooling": work["cooling"],
        "notes": work["notes"],
        "leftover_g": Decimal(work["leftover_g"]) if "leftover_g" in work else None,
    }
    pieces = [(name, Decimal(str(grams))) for name, grams in work.get("pieces", ())]
    finishes: list[BatchFinish | None] = [*batch.finishes.all()]
    for finish in finishes or [None]:
        keeps = "leftover_g" in work and work.get("kept", True)
        weighed = Counter(name for name, _ in pieces)
        rest = [(row.name, None) for row in batch.containers_of(finish) for _ in range(row.count - weighed[row.name])]
        pour = record_pour(batch, Filled(finish, [*pieces, *rest], keeps_leftover=keeps, **fields), shipped())
        since(pour, work, timezone.localdate(now))
