"""Reads the demo workshop from its one file of data, through the same services the screens use."""

import tomllib
from collections.abc import Iterable
from datetime import datetime, timedelta
from decimal import Decimal
from pathlib import Path
from typing import Any

from django.utils import timezone

from balmcore.batch import Filling, pour_temperature
from balmcore.firmness import predict
from balmcore.formula import Formula as Composition
from balmcore.tables import library
from batches.models import Batch
from batches.services import Plan, plan, weigh
from formulas.models import Formula, Version
from formulas.services import begin, save_version
from pours.models import Pour
from pours.services import Test, record

FILE = Path(__file__).parent / "net_loft.toml"
LOSS_G = Decimal(3)
RESOLUTION_G = Decimal("0.1")


def load(file: Path = FILE) -> int:
    """Load every formula of the file; returns how many."""
    now = timezone.now()
    with file.open("rb") as source:
        formulas = tomllib.load(source)["formula"]
    for entry in formulas:
        _formula(entry, now)
    return len(formulas)


def _formula(entry: dict[str, Any], now: datetime) -> None:
    formula: Formula | None = None
    for step in entry["version"]:
        composition = Composition.of({key: Decimal(str(percent)) / 100 for key, percent in step["lines"].items()})
        if formula is None:
            formula = begin(entry["name"], entry["kind"], composition, step["note"])
            version = formula.versions.get()
        else:
            version = save_version(formula, composition, seen=version.pk, made_from=version.pk, note=step["note"])
        when = now - timedelta(days=step["days_ago"])
        Version.objects.filter(pk=version.pk).update(created=when)
        for work in step.get("batch", []):
            _batch(version, work, now, weighed=work.get("weighed"))
        for work in step.get("pour", []):
            _pour(version, work, now)


def _batch(version: Version, work: dict[str, Any], now: datetime, weighed: dict[str, float] | None) -> Batch:
    containers, kind = library().containers, version.formula.kind
    chosen = [containers[key] for key in work["containers"]]
    batch = plan(
        version,
        Plan(
            [Filling(c.key, c.capacity_ml, c.fill, work["containers"][c.key]) for c in chosen],
            {c.key: c.name for c in chosen},
            round(pour_temperature(predict(version.core).set_c)),
            RESOLUTION_G,
            LOSS_G,
            kind.overrun,
        ),
    )
    Batch.objects.filter(pk=batch.pk).update(created=now - timedelta(days=work["days_ago"]))
    if weighed is not None:
        lines = list(batch.lines.all())
        # A batch under way has only the lines it names; a pour was weighed to the end.
        done: Iterable[Any] = lines if "cooling" in work else [line for line in lines if line.ingredient_key in weighed]
        actual = {
            line.ingredient_key: line.target_g + Decimal(str(weighed.get(line.ingredient_key, 0))) for line in done
        }
        batch = weigh(batch.pk, actual, batch.revision)
    return batch


def _pour(version: Version, work: dict[str, Any], now: datetime) -> Pour:
    batch = _batch(version, work, now, work.get("weighed", {}))
    press, thumb = work.get("press"), work.get("thumb")
    test = Test("")
    if press:
        test = Test("press", press["rod_mm"], float(press["grams"]), test_c=float(press["at_c"]))
    elif thumb:
        test = Test("thumb", thumb=thumb["word"], test_c=float(thumb["at_c"]))
    fields = {
        "poured_on": timezone.localdate(now - timedelta(days=work["days_ago"])),
        "room_c": float(work["room_c"]),
        "cooling": work["cooling"],
        "notes": work["notes"],
        "verdict": work["verdict"],
    }
    return record(batch, None, fields, test, [])
