"""The folder that holds everything the maker owns: the database, the secret key, gathered styles.

Only its owner may read it. What stands in the way of using it is said in one sentence, and nothing is
written over: an :class:`Unusable` names the file and what to do.
"""

import os
import secrets
import sqlite3
import stat
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from datetime import datetime
from pathlib import Path

from filelock import FileLock, Timeout

KEY_FILE, DATABASE_FILE, COPIES = "secret-key", "workshop.sqlite3", "before-*.sqlite3"
DAILY = "day-*.sqlite3"
LOCK_FILE, ADDRESS_FILE = "serving.lock", "serving"
COPIES_KEPT = 5
OWNER_ONLY = 0o077


class Unusable(Exception):
    """The folder or its database cannot be used as it is. The text is a sentence for the maker."""


def prepare(folder: Path) -> None:
    """Make the folder, for its owner only, and its secret key where there is none. Files made from now
    on are their owner's alone. Raises :class:`Unusable`."""
    os.umask(OWNER_ONLY)
    with _explained(folder):
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        for file in (folder, *(folder / name for name in (KEY_FILE, DATABASE_FILE) if (folder / name).exists())):
            _for_owner_only(file)
        secret_key(folder)
    if not os.access(folder, os.W_OK | os.X_OK):
        raise Unusable(f"Nothing can be written into {folder}: change its permissions, or choose another folder.")


def secret_key(folder: Path) -> str:
    """The key of this workshop: made once, by a rename, and readable by its owner only."""
    file = folder / KEY_FILE
    if file.exists() and (key := file.read_text().strip()):
        return key
    fresh = folder / f"{KEY_FILE}.{os.getpid()}"
    with os.fdopen(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as new:
        new.write(key := secrets.token_urlsafe(50))
    fresh.replace(file)
    return key


def _for_owner_only(file: Path) -> None:
    """Take every right from others; a file of somebody else's keeps the rights it has."""
    mode = stat.S_IMODE(file.stat().st_mode)
    if mode & OWNER_ONLY:
        with suppress(PermissionError):
            file.chmod(mode & ~OWNER_ONLY)


@contextmanager
def _explained(folder: Path) -> Iterator[None]:
    """Turns what the system refuses into a sentence."""
    try:
        yield
    except OSError as refusal:
        raise Unusable(
            f"The folder {folder} cannot be used ({os.strerror(refusal.errno or 0).lower()}): make room, change its "
            "permissions, or choose another with CALM_TIN_DATA."
        ) from None


@contextmanager
def only_server(folder: Path) -> Iterator[Path]:
    """Hold a folder for one server as long as it runs, killed or not; gives the file in which it says its address.

    Raises :class:`Unusable` where another server has it.
    """
    lock = _lock(folder)
    try:
        lock.acquire(timeout=0)
    except Timeout:
        raise Unusable(f"{_served_words(folder)} Open that one, or close it first, or choose another folder.") from None
    said = folder / ADDRESS_FILE
    try:
        yield said
    finally:
        said.unlink(missing_ok=True)
        lock.release()


def served_at(folder: Path) -> str:
    """A sentence on the server that has a folder; empty where none has."""
    if not (folder / LOCK_FILE).exists():
        return ""
    try:
        with _lock(folder).acquire(timeout=0):
            return ""
    except Timeout:
        return _served_words(folder)


def _lock(folder: Path) -> FileLock:
    return FileLock(folder / LOCK_FILE, mode=0o600)


def _served_words(folder: Path) -> str:
    with suppress(OSError):
        return f"This workshop is served already, at {(folder / ADDRESS_FILE).read_text()}."
    return "This workshop is served already."


def inspect(folder: Path) -> bool:
    """Look at the database before anything touches it; returns whether there is one already.

    Raises :class:`Unusable` for one that is damaged, locked, or empty although the workshop is not new.
    """
    file = folder / DATABASE_FILE
    if not file.exists():
        return False
    if not file.stat().st_size:
        if copies_of(folder):
            raise Unusable(f"{file} is empty, though this workshop is not new. {_copy_words(folder)}")
        return False
    try:
        with closing(sqlite3.connect(file, timeout=5)) as database:
            found = database.execute("PRAGMA quick_check(1)").fetchone()
    except sqlite3.OperationalError as refusal:
        raise Unusable(f"{file} cannot be opened ({refusal}): close what else uses it, and start again.") from None
    except sqlite3.DatabaseError:
        found = None
    if found != ("ok",):
        raise Unusable(f"{file} is damaged and was left as it is. {_copy_words(folder)}")
    return True


def copies_of(folder: Path) -> list[Path]:
    """All copies beside the database, the oldest first."""
    found = [file for pattern in (COPIES, DAILY) for file in folder.glob(pattern)]
    return sorted(found, key=lambda file: file.stat().st_mtime)


def _copy_words(folder: Path) -> str:
    copies = copies_of(folder)
    if not copies:
        return "No copy of it lies beside it: put back one of your own, or move it away to begin anew."
    newest = copies[-1]
    return f"The newest copy beside it is {newest.name}: put it back with manage.py restore {newest} --yes."


def fresh_name(folder: Path, sort: str) -> Path:
    """The name of a copy of this moment that none has yet."""
    named, number = f"{sort}-{datetime.now().astimezone():%Y-%m-%d-%H%M%S}", 1
    while (copy := folder / f"{named}{f'-{number}' if number > 1 else ''}.sqlite3").exists():
        number += 1
    return copy


def copy_database(folder: Path) -> Path:
    """A copy beside the database, whole even while it is written to; the last few are kept.

    Raises :class:`Unusable` when there is no room for it.
    """
    copy = fresh_name(folder, "before")
    try:
        with (
            closing(sqlite3.connect(folder / DATABASE_FILE)) as source,
            closing(sqlite3.connect(copy)) as target,
        ):
            source.backup(target)
    except sqlite3.Error as refusal:
        copy.unlink(missing_ok=True)
        raise Unusable(f"No copy could be made before the update ({refusal}): make room, and start again.") from None
    for old in sorted(folder.glob(COPIES))[:-COPIES_KEPT]:
        old.unlink()
    return copy
