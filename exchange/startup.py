"""Bringing a data folder up to date before it is used: looked at, copied, migrated."""

from pathlib import Path

from django.core.management import call_command
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.loader import MigrationLoader

from balmcore.errors import Problem
from exchange.copies import Reason, make_copy
from exchange.data_folder import DATABASE_FILE, Unusable, inspect


def known_steps() -> set[tuple[str, str]]:
    """The steps (app, name) by which this Calm Tin makes its tables. No database is asked."""
    return set(MigrationLoader(None, ignore_no_migrations=True).graph.nodes)


def bring_up_to_date(folder: Path, anew: bool = False) -> Path | None:
    """Migrate the database of a folder, or begin one; returns the copy that was made before, None where none was due.

    Raises :class:`~exchange.data_folder.Unusable` for a database that is damaged, locked, or written by
    a newer Calm Tin, and when the disk is full; the database is left as it was.
    """
    exists = inspect(folder, anew)
    try:
        executor = MigrationExecutor(connection)
        unknown = sorted(set(executor.loader.applied_migrations) - set(executor.loader.graph.nodes))
        if unknown:
            told = ", ".join(f"{app} {name}" for app, name in unknown[:3])
            raise Unusable(
                f"{folder / DATABASE_FILE} was written by a newer Calm Tin, which knows {told}. Start that one, or "
                "choose another folder; nothing was changed."
            )
        due = executor.migration_plan(executor.loader.graph.leaf_nodes())
        copy = make_copy(folder, Reason.BEFORE) if exists and due else None
        call_command("migrate", verbosity=0)
    except Problem as problem:
        raise Unusable(problem.sentence) from None
    except DatabaseError as refusal:
        raise Unusable(
            f"{folder / DATABASE_FILE} could not be brought up to date ({refusal}): make room on the disk and close "
            "what else uses it, then start again."
        ) from None
    return copy
