"""What is looked after beside the server: a copy on each day of use, and the rest of a large database."""

import logging
import threading
from collections.abc import Callable
from pathlib import Path

from django.utils import timezone

from balmcore.errors import Problem
from exchange.copies import make_daily_copy
from exchange.data_folder import DATABASE_FILE, SOON_CHECKED_BYTES, opened


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


def look_at_the_rest(folder: Path, say: Callable[[str], object]) -> threading.Thread | None:
    """A database that was too large to be looked at whole before it was opened is looked at now, beside the pages."""
    live = folder / DATABASE_FILE
    if live.stat().st_size < SOON_CHECKED_BYTES:
        return None

    def look() -> None:
        with opened(live) as database:
            if database.execute("PRAGMA integrity_check(1)").fetchone() != ("ok",):
                say(f"{live} is damaged: stop here, and let doctor say which copy is whole.")

    looking = threading.Thread(target=look, name="integrity", daemon=True)
    looking.start()
    return looking
