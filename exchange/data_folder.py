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

KEY_FILE, DATABASE_FILE = "secret-key", "workshop.sqlite3"
COPIES = ("hand-*.sqlite3", "day-*.sqlite3", "before-*.sqlite3")
MAKING = ".making-"  # what is being written, before it is what it should be
OUR_TABLES = {"django_migrations", "formulas_formula", "formulas_version"}
SOON_CHECKED_BYTES = 200 * 1024**2
LOCK_FILE, ADDRESS_FILE = "serving.lock", "serving"
OWNER_ONLY = 0o077


class Unusable(Exception):
    """The folder or its database cannot be used as it is. The text is a sentence for the maker."""


def prepare(folder: Path) -> None:
    """Make the folder, for its owner only, and its secret key where there is none. Files made from now
    on are their owner's alone. Raises :class:`Unusable`."""
    os.umask(OWNER_ONLY)
    with _explained(folder):
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        for file in (folder, *([folder / KEY_FILE] if (folder / KEY_FILE).exists() else [])):
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


def address_of(folder: Path) -> str:
    """Where a server that has a folder is open, as it said; empty where none has it, or none said so yet."""
    if not served_at(folder):
        return ""
    with suppress(OSError):
        return (folder / ADDRESS_FILE).read_text()
    return ""


def _served_words(folder: Path) -> str:
    with suppress(OSError):
        return f"This workshop is served already, at {(folder / ADDRESS_FILE).read_text()}."
    return "This workshop is served already."


def inspect(folder: Path, anew: bool = False) -> bool:
    """Look at the database before anything touches it; returns whether there is one already.

    Raises :class:`Unusable` for one that is damaged, locked, of another program, or missing although there are copies
    of it, unless a workshop is to be begun ``anew`` beside them.
    """
    file = folder / DATABASE_FILE
    if not file.exists() or not file.stat().st_size:
        if copies_of(folder) and not anew:
            what = "is empty" if file.exists() else "is not there"
            raise Unusable(
                f"{file} {what}, though this workshop is not new. {_copy_words(folder)} To begin an empty one beside "
                "the copies start with make run ANEW=1, or with serve --anew."
            )
        return False
    try:
        with opened(file) as database:
            found = database.execute(f"PRAGMA {_check_of(file)}(1)").fetchone()
            tables = {name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    except sqlite3.OperationalError as refusal:
        raise Unusable(f"{file} cannot be opened ({refusal}): close what else uses it, and start again.") from None
    except sqlite3.DatabaseError:
        found, tables = None, set()
    if found != ("ok",):
        raise Unusable(f"{file} is damaged and was left as it is. {_copy_words(folder)}")
    if tables and not tables >= OUR_TABLES:
        raise Unusable(
            f"{file} is of another program: it was not touched. Move it away, or choose another folder with "
            "CALM_TIN_DATA."
        )
    _for_owner_only(file)
    return True


def _check_of(file: Path) -> str:
    """Everything is looked at where that is soon done; of a large one the rest is looked at while it is open."""
    return "integrity_check" if file.stat().st_size < SOON_CHECKED_BYTES else "quick_check"


def copies_of(folder: Path) -> list[Path]:
    """All copies beside the database, the oldest first."""
    found = [file for pattern in COPIES for file in folder.glob(pattern)]
    return sorted(found, key=lambda file: file.name.partition("-")[2])  # its moment; files can be written anew


def newest_sound(folder: Path) -> Path | None:
    """The newest copy that is whole."""
    return next((copy for copy in reversed(copies_of(folder)) if is_whole(copy)), None)


def _copy_words(folder: Path) -> str:
    whole = newest_sound(folder)
    if whole is None:
        return "No copy of it that is whole lies beside it: put back one of your own, or move it away to begin anew."
    return f"The newest copy beside it is {whole.name}: put it back with manage.py restore {whole} --yes."


def opened(file: Path) -> "closing[sqlite3.Connection]":
    """A database that must be there, until this is left. A copy cannot be written to; the workshop itself can, as what
    a cut of the power left half done is undone when it is opened. Raises :class:`sqlite3.Error`."""
    mode = "rw" if file.name == DATABASE_FILE else "ro"
    return closing(sqlite3.connect(f"{file.resolve().as_uri()}?mode={mode}", uri=True, timeout=5))


def is_whole(file: Path) -> bool:
    """True for a database in which everything is where it should be."""
    try:
        with opened(file) as database:
            return bool(database.execute("PRAGMA integrity_check(1)").fetchone() == ("ok",))
    except sqlite3.Error:
        return False


def fresh_name(folder: Path, sort: str) -> Path:
    """The name of a copy of this moment that none has yet."""
    named, number = f"{sort}-{datetime.now().astimezone():%Y-%m-%d-%H%M%S}", 1
    while (copy := folder / f"{named}{f'-{number}' if number > 1 else ''}.sqlite3").exists():
        number += 1
    return copy
