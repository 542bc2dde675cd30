"""What belongs to this computer and its door: who gets in. Copies and exports hold none of it, and putting a copy back
leaves it as it is."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from exchange.data_folder import opened

# Those that point at others first. Sessions, tries and sent forms are for the moment; the others stay over a restore.
OF_THE_MOMENT = ("django_session", "axes_accessattempt", "axes_accessattemptexpiration", "axes_accesslog",
                 "axes_accessfailurelog", "workshop_sentform")  # fmt: skip
WITH_JOURNAL = b"\2\2"  # bytes 18 and 19 of a database that is written with a write-ahead log
STAYING = ("devices_device", "devices_sharing", "auth_user_groups", "auth_user_user_permissions",
           "auth_group_permissions", "auth_group", "auth_user")  # fmt: skip


def take_out(file: Path) -> None:
    """Take all of it out of a copy, and out of the space between its rows."""
    with closing(sqlite3.connect(file, isolation_level=None)) as database:
        database.execute("PRAGMA journal_mode=DELETE")  # a copy has no -wal and -shm beside it
        found = list(_held(database))
        for table in found:
            database.execute(f'DELETE FROM "{table}"')
        database.execute("VACUUM")


def holds_any(file: Path) -> bool:
    """True for a copy, as earlier versions made them, that holds some of it, or is read with a journal beside it."""
    with file.open("rb") as content:
        if content.read(20)[18:] == WITH_JOURNAL:
            return True
    with opened(file) as database:
        return any(_held(database))


def _held(database: sqlite3.Connection) -> Iterator[str]:
    known = {name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    for table in (*OF_THE_MOMENT, *STAYING):
        if table in known and database.execute(f'SELECT EXISTS (SELECT 1 FROM "{table}")').fetchone()[0]:
            yield table


def carry_over(live: Path, fresh: Path) -> None:
    """The devices and the door of a workshop into the one that is put in its place. Raises :class:`sqlite3.Error`."""
    with closing(sqlite3.connect(fresh, isolation_level=None)) as database:
        database.execute("ATTACH ? AS live", [str(live)])
        database.execute("BEGIN IMMEDIATE")
        for table in reversed(STAYING):
            columns = [_columns(database, schema, table) for schema in ("main", "live")]
            both = ", ".join(f'"{name}"' for name in columns[0] if name in columns[1])
            if both:
                database.execute(f'DELETE FROM main."{table}"')
                database.execute(f'INSERT INTO main."{table}" ({both}) SELECT {both} FROM live."{table}"')
        database.execute("COMMIT")
        database.execute("DETACH live")


def _columns(database: sqlite3.Connection, schema: str, table: str) -> list[str]:
    return [name for _, name, *_ in database.execute(f'PRAGMA {schema}.table_info("{table}")')]
