"""Copies of the workshop beside it: one for every day of use, one before every change of its tables, and putting
one back.

A copy is made by SQLite's online backup, whole even while it is written to, and looked at before it counts.
"""

import re
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path

from balmcore.errors import Problem
from exchange.data_folder import DAILY, DATABASE_FILE, Unusable, copies_of, copy_database, fresh_name, served_at

DAILY_KEPT, LEAST_FREE_MB = 14, 200
NAME = re.compile(r"(?:day|before)-[0-9-]{10,25}\.sqlite3")
TABLES = {"formulas": "formulas_formula", "batches": "batches_batch", "pours": "pours_pour", "lots": "pantry_lot"}


@dataclass(frozen=True)
class Copy:
    """A copy: its file, when it was made and how large it is. ``is_daily`` for one of a day of use."""

    file: Path
    made: datetime
    size_kb: int

    @property
    def name(self) -> str:
        """The name of its file."""
        return self.file.name

    @property
    def is_daily(self) -> bool:
        """True for one made because a day of use began, or because its maker asked for one."""
        return self.name.startswith("day-")


@dataclass(frozen=True)
class Preview:
    """What a copy holds, by name, and the day on which it was last written to."""

    counts: dict[str, int]
    until: date | None


def list_copies(folder: Path) -> list[Copy]:
    """The copies beside the workshop, the newest first."""
    rows = [(file, file.stat()) for file in reversed(copies_of(folder))]
    return [Copy(file, datetime.fromtimestamp(at.st_mtime).astimezone(), at.st_size // 1024) for file, at in rows]


def named(folder: Path, name: str) -> Path:
    """The copy of that name. Raises :class:`Problem` for a name that is none, or one that is not there."""
    if not NAME.fullmatch(name) or not (folder / name).is_file():
        raise Problem("There is no copy of that name any more.")
    return folder / name


def backup(folder: Path, file: Path | None = None) -> Path:
    """Copy the workshop into a file, by default one of this moment beside it; fourteen of days are kept. Raises
    :class:`Problem` where there is no room, or where the copy is not whole."""
    copy = file or fresh_name(folder, "day")
    if copy.resolve() == (folder / DATABASE_FILE).resolve():
        raise Problem("That is the workshop itself: choose another file.")
    try:
        with closing(sqlite3.connect(folder / DATABASE_FILE)) as source, closing(sqlite3.connect(copy)) as target:
            source.backup(target)
        _require_whole(copy)
    except (sqlite3.Error, OSError, Problem) as refusal:
        with suppress(OSError):
            copy.unlink(missing_ok=True)
        raise Problem(f"No copy could be made ({refusal}): make room on the disk, and try again.") from None
    if file is None:
        for old in sorted(folder.glob(DAILY))[:-DAILY_KEPT]:
            old.unlink()
    return copy


def before_a_change(folder: Path) -> Path | None:
    """A copy before much is changed at once; None where the workshop is no file. Raises :class:`Problem`."""
    if not (folder / DATABASE_FILE).exists():
        return None
    try:
        return copy_database(folder)
    except Unusable as refusal:
        raise Problem(str(refusal)) from None


def daily(folder: Path, today: date) -> Path | None:
    """A copy of today, where there is none yet. Raises :class:`Problem`."""
    if not (folder / DATABASE_FILE).exists() or any(folder.glob(f"day-{today:%Y-%m-%d}-*.sqlite3")):
        return None
    return backup(folder)


def _require_whole(file: Path) -> None:
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as database:
            found = database.execute("PRAGMA integrity_check(1)").fetchone()
    except sqlite3.Error as refusal:
        raise Problem(f"{file.name} is no workshop that can be read ({refusal}).") from None
    if found != ("ok",):
        raise Problem(f"{file.name} is damaged: choose another copy.")


def preview(file: Path, known: set[tuple[str, str]]) -> Preview:
    """What a copy holds. ``known`` are the steps (app, name) by which this Calm Tin made its tables. Raises
    :class:`Problem` for a file that is no workshop, a damaged one, and one of a newer Calm Tin."""
    if not file.is_file():
        raise Problem(f"There is no file {file}.")
    _require_whole(file)
    with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as database:
        try:
            steps = set(database.execute("SELECT app, name FROM django_migrations"))
            counts = {
                name: database.execute(f"SELECT COUNT(*) FROM {table}").fetchone()[0] for name, table in TABLES.items()
            }
            until = database.execute("SELECT MAX(at) FROM pantry_entry").fetchone()[0]
        except sqlite3.Error:
            raise Problem(f"{file.name} is no workshop of Calm Tin.") from None
    if unknown := sorted(steps - known):
        told = ", ".join(f"{app} {name}" for app, name in unknown[:3])
        raise Problem(f"{file.name} was written by a newer Calm Tin, which knows {told}: start that one.")
    return Preview(counts, date.fromisoformat(until[:10]) if until else None)


def restore(folder: Path, file: Path, known: set[tuple[str, str]]) -> Path | None:
    """Put a copy in the place of the workshop; returns the copy of what was there before, None where there was
    nothing. All or nothing: it is written by one online backup. Raises :class:`Problem` as :func:`preview` does."""
    preview(file, known)
    live = folder / DATABASE_FILE
    before = None
    if live.exists() and live.stat().st_size:
        before = before_a_change(folder) if _is_readable(live) else _moved_aside(folder, live)
    try:
        with closing(sqlite3.connect(file)) as source, closing(sqlite3.connect(live, timeout=20)) as target:
            source.backup(target)
    except sqlite3.Error as refusal:
        raise Problem(
            f"It could not be put back ({refusal}): close what else uses the workshop, and try again."
        ) from None
    return before


def _moved_aside(folder: Path, live: Path) -> Path:
    """A damaged workshop under another name: as it is, since what is damaged is no copy for anybody to put back."""
    aside = fresh_name(folder, "damaged")
    live.rename(aside)
    for beside in ("-wal", "-shm"):
        live.with_name(live.name + beside).unlink(missing_ok=True)
    return aside


def _is_readable(file: Path) -> bool:
    try:
        _require_whole(file)
    except Problem:
        return False
    return True


def examine(folder: Path, known: set[tuple[str, str]]) -> Iterator[tuple[bool, str]]:
    """What ``doctor`` says of a workshop: whether each thing is as it should be, and a sentence on it."""
    live = folder / DATABASE_FILE
    try:
        found = preview(live, known)
    except Problem as problem:
        yield False, problem.sentence
    else:
        told = ", ".join(f"{count} {name}" for name, count in found.counts.items())
        yield True, f"The workshop is whole: {told}."
    copies = list_copies(folder)
    if not copies:
        yield False, "There is no copy beside it: make one with manage.py backup."
    for copy in copies[:3]:
        try:
            preview(copy.file, known)
        except Problem as problem:
            yield False, problem.sentence
        else:
            yield True, f"{copy.name} is whole."
    yield True, served_at(folder) or "No server has this workshop open."
    free_mb = shutil.disk_usage(folder).free // 1024**2
    yield (
        free_mb > LEAST_FREE_MB,
        f"{free_mb} MB are free on its disk{'' if free_mb > LEAST_FREE_MB else ': make room'}.",
    )
    rights = folder.stat().st_mode & 0o077
    yield not rights, f"{folder} is {'readable by others: chmod 700 it' if rights else 'its owner’s alone'}."
    photos = folder / "photos"
    lost = _lost_photos(live, photos) if live.exists() else 0
    yield (
        not lost,
        f"{lost} photographs are named and not there." if lost else "Every photograph that is named is there.",
    )


def _lost_photos(live: Path, photos: Path) -> int:
    try:
        with closing(sqlite3.connect(f"file:{live}?mode=ro", uri=True)) as database:
            names = [name for (name,) in database.execute("SELECT file FROM pours_checkphoto")]
    except sqlite3.Error:
        return 0
    return sum(not (photos / name).is_file() for name in names)
