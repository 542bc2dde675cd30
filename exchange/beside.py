"""What is looked after beside the server: a copy on each day of use, and the rest of a large database."""

import logging
import threading
from collections.abc import Callable
from pathlib import Path

from django.utils import timezone

from balmcore.errors import Problem
from exchange.copies import make_daily_copy
from exchange.data_folder import DATABASE_FILE, SOON_CHECKED_BYTES, is_whole, opened


class CopyOfTheDay:
    """A copy on each day of use, while the server runs through midnight too: once something was written on it."""

    def __init__(self, folder: Path) -> None:
        self._folder, self._made_on, self._written = folder, timezone.localdate(), self._last_written(folder)

    def keep(self) -> None:
        """Make it, where a day has begun and something was written since the last look."""
        today, written = timezone.localdate(), self._last_written(self._folder)
        if today == self._made_on or written == self._written:
            if today == self._made_on:
                self._written = written
            return
        self._made_on, self._written = today, written
        try:
            make_daily_copy(self._folder, today)
        except Problem as problem:
            logging.getLogger(__name__).warning(problem.sentence)

    def stop(self) -> None:
        """Nothing is left to end."""

    @staticmethod
    def _last_written(folder: Path) -> list[float]:
        live = folder / DATABASE_FILE
        return [file.stat().st_mtime for file in (live, live.with_name(f"{live.name}-wal")) if file.exists()]


trouble: list[str] = []  # what was found of the workshop that is open; the first page says it


def look_at_the_rest(folder: Path, say: Callable[[str], object]) -> threading.Thread:
    """What is not looked at before it is opened, beside the pages: whether every row points at one that is there, and a
    large database as a whole. What is found is said, on the first page too."""
    live = folder / DATABASE_FILE

    def look() -> None:
        with opened(live) as database:
            if live.stat().st_size >= SOON_CHECKED_BYTES and not is_whole(live):
                trouble.append(f"{live} is damaged: stop here, and let doctor say which copy is whole.")
            elif lost := database.execute("PRAGMA foreign_key_check").fetchall():
                trouble.append(f"{len(lost)} rows of the workshop point at ones that are not there: let doctor look.")
        for sentence in trouble:
            say(sentence)

    looking = threading.Thread(target=look, name="integrity", daemon=True)
    looking.start()
    return looking
