"""Copies of the workshop beside it: asked for by hand, one for every day of use, one before every change of its tables
and before another is put in its place.

A copy is made by SQLite's online backup, whole even while it is written to, under another name until it was looked at.
It holds nothing of who gets in.
"""

import re
import shutil
import sqlite3
import time
from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from enum import StrEnum
from pathlib import Path

from balmcore.errors import Problem
from exchange import access
from exchange.data_folder import DATABASE_FILE, MAKING, copies_of, fresh_name, opened

NAME = re.compile(r"(hand|day|before)-(\d{4}-\d{2}-\d{2})-(\d{6})(?:-\d{1,7})?\.sqlite3")
DAYS_KEPT, MONTHS_KEPT_DAYS, BEFORE_KEPT_DAYS = 14, 365, 90
LEFT_BEHIND_S = 3600  # what is still being made is younger
TABLES = {"formulas": "formulas_formula", "batches": "batches_batch", "pours": "pours_pour", "lots": "pantry_lot"}

_being_read: list[Path] = []


class Reason(StrEnum):
    """Why a copy was made, by the first word of its name."""

    HAND = "hand"
    DAY = "day"
    BEFORE = "before"


@dataclass(frozen=True)
class Copy:
    """A copy: its file, why and when it was made, how large it is. ``kept_until`` is None where it is kept until its
    maker deletes it; ``is_monthly`` for one of a day that stands for its month."""

    file: Path
    reason: Reason
    made: datetime
    size_kb: int
    kept_until: date | None
    is_monthly: bool = False

    @property
    def name(self) -> str:
        """The name of its file."""
        return self.file.name

    @property
    def is_by_hand(self) -> bool:
        """True for one that its maker asked for."""
        return self.reason is Reason.HAND

    @property
    def is_before(self) -> bool:
        """True for one made before a change."""
        return self.reason is Reason.BEFORE


@dataclass(frozen=True)
class Preview:
    """What a copy holds, by name, the day on which it was last written to, and the steps by which it was made."""

    counts: dict[str, int]
    until: date | None
    steps: frozenset[tuple[str, str]]


def list_copies(folder: Path) -> list[Copy]:
    """The copies beside the workshop, the newest first."""
    found, days, months = list[Copy](), set[str](), set[str]()
    for file in copies_of(folder):
        if (named := NAME.fullmatch(file.name)) is None:
            continue
        with suppress(OSError, ValueError):
            reason, made = Reason(named[1]), datetime.strptime(named[2] + named[3], "%Y-%m-%d%H%M%S").astimezone()
            day, size_kb = made.date(), file.stat().st_size // 1024
            if reason is Reason.DAY and named[2] in days:
                reason = Reason.HAND  # as earlier versions named those that their maker asked for
            is_monthly = reason is Reason.DAY and named[2][:7] not in months
            if reason is Reason.DAY:
                days.add(named[2])
                months.add(named[2][:7])
            until = _kept_until(reason, day, is_monthly)
            found.append(Copy(file, reason, made, size_kb, until, is_monthly))
    return found[::-1]


def _kept_until(reason: Reason, day: date, is_monthly: bool) -> date | None:
    if reason is Reason.HAND:
        return None
    if reason is Reason.BEFORE:
        return day + timedelta(days=BEFORE_KEPT_DAYS)
    return day + timedelta(days=MONTHS_KEPT_DAYS if is_monthly else DAYS_KEPT - 1)


def named(folder: Path, name: str) -> Path:
    """The copy of that name. Raises :class:`Problem` for a name that is none, or one that is not there."""
    if not NAME.fullmatch(name) or not (folder / name).is_file():
        raise Problem("There is no copy of that name any more.")
    return folder / name


@contextmanager
def reading(file: Path) -> Iterator[Path]:
    """While a copy is read it is not cleared away."""
    _being_read.append(file.resolve())
    try:
        yield file
    finally:
        _being_read.remove(file.resolve())


def make_copy(folder: Path, reason: Reason = Reason.HAND, file: Path | None = None) -> Path:
    """Copy the workshop into a file, by default one of this moment beside it. Raises :class:`Problem` where there is no
    room, or where the copy is not whole."""
    copy = file or fresh_name(folder, reason)
    live = folder / DATABASE_FILE
    if copy.resolve() == live.resolve():
        raise Problem("That is the workshop itself: choose another file.")
    part = copy.with_name(f"{MAKING}{copy.name}")
    try:
        copy_into(live, part)
        access.take_out(part)
        require_whole(part)
        part.replace(copy)
    except (sqlite3.Error, OSError, Problem) as refusal:
        remove(part)
        raise Problem(f"No copy could be made ({refusal}): make room on the disk, and try again.") from None
    return copy


def copy_before_a_change(folder: Path) -> Path | None:
    """A copy before much is changed at once; None where the workshop is no file. Raises :class:`Problem`."""
    live = folder / DATABASE_FILE
    return make_copy(folder, Reason.BEFORE) if live.exists() and live.stat().st_size else None


def copy_into(source: Path, target: Path) -> None:
    """One database into a file that is not there yet, or in the place of another, all of it or nothing. What is read
    must exist, and is not written to. Raises :class:`sqlite3.Error`."""
    with (
        opened(source) as read,
        closing(sqlite3.connect(target, timeout=20)) as written,
    ):
        read.backup(written)


def remove(file: Path) -> None:
    """A file of a database, with what may lie beside it."""
    for beside in ("", "-wal", "-shm", "-journal"):
        with suppress(OSError):
            file.with_name(file.name + beside).unlink(missing_ok=True)


def delete_copy(folder: Path, name: str) -> None:
    """A copy that its maker does not want any more. Raises :class:`Problem` where it is not there, or is being read."""
    file = named(folder, name)
    if file.resolve() in _being_read:
        raise Problem("That copy is being read just now: wait a moment.")
    remove(file)


def make_daily_copy(folder: Path, today: date) -> Path | None:
    """A copy of today, where there is none yet and something was written since the last one; then what need not be kept
    any more is cleared away. Raises :class:`Problem`."""
    live = folder / DATABASE_FILE
    if not live.exists() or any(folder.glob(f"day-{today}-*.sqlite3")):
        return None
    copy = make_copy(folder, Reason.DAY)
    clear_away(folder, today)
    return copy


def clear_away(folder: Path, today: date) -> list[Path]:
    """Remove the copies that are kept no longer, and what kills left behind; returns the copies. By hand: until their
    maker deletes them; of days: one a day for fourteen days, one a month for a year; before a change: ninety days. What
    is being read stays."""
    for copy in list_copies(folder):
        if copy.is_by_hand and not copy.name.startswith(Reason.HAND):
            copy.file.rename(copy.file.with_name(copy.name.replace(Reason.DAY, Reason.HAND, 1)))
    gone = [copy.file for copy in list_copies(folder) if copy.kept_until and copy.kept_until < today]
    gone = [file for file in gone if file.resolve() not in _being_read]
    for file in gone:
        remove(file)
    for left in folder.glob(f"{MAKING}*"):
        with suppress(OSError):
            if time.time() - left.stat().st_mtime > LEFT_BEHIND_S:
                shutil.rmtree(left) if left.is_dir() else left.unlink()
    for left in folder.glob("*.sqlite3-*"):
        if NAME.fullmatch(left.name.rpartition(".sqlite3")[0] + ".sqlite3"):
            with suppress(OSError):
                left.unlink()
    return gone


def clean_old_copies(folder: Path) -> None:
    """Copies as earlier versions made them held who gets in: take that out of them."""
    for copy in list_copies(folder):
        with suppress(sqlite3.Error, OSError):
            if access.holds_any(copy.file):
                access.take_out(copy.file)


def require_whole(file: Path) -> None:
    """Raises :class:`Problem` for a file that is not there, is no database, or is damaged."""
    if not file.is_file():
        raise Problem(f"There is no file {file}.")
    try:
        with opened(file) as database:
            found = database.execute("PRAGMA integrity_check(1)").fetchone()
    except sqlite3.Error as refusal:
        raise Problem(f"{file.name} is no workshop that can be read ({refusal}).") from None
    if found != ("ok",):
        raise Problem(f"{file.name} is damaged: choose another copy.")


def preview(file: Path, known: set[tuple[str, str]]) -> Preview:
    """What a copy holds. ``known`` are the steps (app, name) by which this Calm Tin made its tables. Raises
    :class:`Problem` for a file that is no workshop, a damaged one, and one of a newer Calm Tin."""
    require_whole(file)
    with opened(file) as database:
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
    with suppress(ValueError):
        return Preview(counts, date.fromisoformat(until[:10]) if until else None, frozenset(steps))
    return Preview(counts, None, frozenset(steps))


def room_kb(copies: Sequence[Copy]) -> int:
    """How much room they take."""
    return sum(copy.size_kb for copy in copies)
