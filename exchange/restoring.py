"""Putting a copy in the place of the workshop: looked at and brought up to date on the side, then put there."""

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from balmcore.errors import Problem
from exchange import access
from exchange.apart import run_apart
from exchange.copies import Reason, copy_into, make_copy, preview, reading, remove, require_whole
from exchange.data_folder import DATABASE_FILE, MAKING, fresh_name, is_whole, opened
from exchange.gate import gate

Steps = set[tuple[str, str]]


@dataclass(frozen=True)
class Restored:
    """``before`` is what was there before: a copy, or the damaged file itself; None where there was nothing.
    ``kept_door`` is False where phones and passphrase could not be read any more."""

    before: Path | None
    kept_door: bool

    @property
    def words(self) -> str:
        """What is to be known of it."""
        told = f"What was there before is {self.before.name}. " if self.before else ""
        if self.kept_door:
            return f"{told}Phones and the door are as they were; every phone has to come in once more."
        return f"{told}No phone is let in: the door starts anew."


def restore(folder: Path, file: Path, known: Steps) -> Restored:
    """Put a copy in the place of the workshop. The new one is made and looked at before the old one is touched, and no
    writing is taken between the copy of the old one and the change; it comes in one step. Sessions end; devices and the
    door stay as they are now. Raises :class:`Problem` as :func:`exchange.copies.preview` does."""
    with reading(file), _made(folder, file, known) as fresh, gate.shut():
        live = folder / DATABASE_FILE
        before, kept_door = None, False
        if live.exists() and live.stat().st_size:
            if not is_whole(live):
                before = _exchanged(folder, live, fresh)
                return Restored(before, kept_door)
            before = make_copy(folder, Reason.BEFORE)
            with suppress(sqlite3.Error):
                access.carry_over(live, fresh)
                kept_door = True
            require_sound(fresh)
        try:
            copy_into(fresh, live)
            require_sound(live)
        except sqlite3.Error as refusal:
            raise Problem(
                f"It could not be put back ({refusal}): close what else uses the workshop, and try again."
            ) from None
        return Restored(before, kept_door)


@contextmanager
def _made(folder: Path, file: Path, known: Steps) -> Iterator[Path]:
    """A copy as it will stand there: nobody let in, its tables brought up to date, looked at."""
    found = preview(file, known)
    aside = folder / f"{MAKING}putting-back-{os.getpid()}"
    fresh = aside / DATABASE_FILE
    try:
        shutil.rmtree(aside, ignore_errors=True)
        aside.mkdir(mode=0o700)
        copy_into(file, fresh)
        access.take_out(fresh)
        if found.steps != known:
            _bring_up_to_date(aside)
        require_sound(fresh)
        yield fresh
    except (sqlite3.Error, OSError) as refusal:
        raise Problem(f"It could not be put back ({refusal}): make room on the disk, and try again.") from None
    finally:
        shutil.rmtree(aside, ignore_errors=True)


def _bring_up_to_date(folder: Path) -> None:
    if told := run_apart(folder, "migrate", "--verbosity", "0"):
        raise Problem(f"That copy is of an earlier version, and could not be brought up to date ({told}).")


def require_sound(file: Path) -> None:
    """Whole, and every row points at one that is there. Raises :class:`Problem`."""
    require_whole(file)
    with opened(file) as database:
        if (found := database.execute("PRAGMA foreign_key_check").fetchone()) is not None:
            raise Problem(f"{file.name} has a row of {found[0]} that points at one of {found[2]} that is not there.")


def _exchanged(folder: Path, live: Path, fresh: Path) -> Path:
    """The new one in the place of one that is damaged, which lies beside as it is: it is no copy for anybody to put
    back. Where the new one does not answer there, the old one comes back."""
    aside = fresh_name(folder, "damaged")
    live.rename(aside)
    remove(live)  # its journals are of no other file
    try:
        fresh.replace(live)
        require_sound(live)
    except (OSError, Problem):
        remove(live)
        aside.rename(live)
        raise
    return aside
