"""The tables of an earlier version, brought up to date in a database of their own, as an old workshop would be."""

import tempfile
import zipfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.db import DatabaseError, connection, models
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.loader import MigrationLoader

from balmcore.errors import Problem
from exchange.apart import run_apart
from exchange.package.rows import plain_rows
from exchange.package.tables import APPS

LONGEST_S = 300
Step = tuple[str, str]


@contextmanager
def upgraded_package(package: zipfile.ZipFile, made: Sequence[str]) -> Iterator[zipfile.ZipFile]:
    """A ZIP of the same tables as this version has them. ``made`` are the steps by which they were made. The work is
    done by a process of its own, which knows no other workshop. Raises :class:`Problem`."""
    require_all(made)
    with tempfile.TemporaryDirectory(prefix="calm-tin-") as name:
        folder = Path(name)
        with zipfile.ZipFile(folder / "before.zip", "w", zipfile.ZIP_DEFLATED) as before:
            for entry in package.infolist():
                if entry.filename == "about.json" or entry.filename.startswith("tables/"):
                    with package.open(entry) as source, before.open(entry.filename, "w", force_zip64=True) as target:
                        while piece := source.read(1 << 20):
                            target.write(piece)
        files = (str(folder / "before.zip"), str(folder / "after.zip"))
        if told := run_apart(folder / "workshop", "upgrade_export", *files, longest_s=LONGEST_S):
            raise Problem(f"It is of an earlier version, and could not be brought up to date: {told}")
        with zipfile.ZipFile(folder / "after.zip") as after:
            yield after


def require_all(made: Sequence[str]) -> tuple[set[Step], set[Step]]:
    """The steps (app, name), and those that came before one of them. Raises :class:`Problem` where one that must have
    been before is missing."""
    steps = {(app, name) for app, _, name in (step.partition(".") for step in made)}
    graph = MigrationLoader(None, ignore_no_migrations=True).graph
    parents = {parent.key for step in steps for parent in graph.node_map[step].parents}
    if lost := sorted(key for key in parents - steps if key[0] in APPS):
        raise Problem(f"It does not say how all of its tables were made ({lost[0][0]} {lost[0][1]} is missing).")
    return steps, parents


def load_as_made(package: zipfile.ZipFile, made: Sequence[str]) -> None:
    """Into the empty database of this process: tables as those steps make them, the rows of the ZIP, then the steps
    since. Raises :class:`Problem`."""
    steps, parents = require_all(made)
    try:
        state = MigrationExecutor(connection).migrate(sorted(steps - parents))
        with connection.constraint_checks_disabled():
            for model in state.apps.get_models():
                label = model._meta.label_lower
                if f"tables/{label}.json" in package.namelist() and model._meta.app_label in APPS:
                    _load(model, package)
        connection.check_constraints()
        call_command("migrate", verbosity=0)
        connection.check_constraints()
    except (DatabaseError, ValueError, TypeError, ArithmeticError, LookupError) as refusal:
        raise Problem(f"Its rows do not stand together ({refusal}).") from None


def _load(model: type[models.Model], package: zipfile.ZipFile) -> None:
    """The rows of a table as it was then."""
    for pk, fields in plain_rows(package, model._meta.label_lower):
        row, many = model(pk=pk), dict[str, Any]()
        for name, value in fields.items():
            field: Any = model._meta.get_field(name)
            if field.many_to_many:
                many[name] = value
            elif field.is_relation:
                setattr(row, field.attname, value)
            else:
                setattr(row, field.attname, field.to_python(value))
        row.save_base(raw=True, force_insert=True)
        for name, numbers in many.items():
            getattr(row, name).set(numbers)
