"""SQLite with connections that are kept, for as long as the file they opened is the workshop.

Opening one reads the whole schema, and closing the last one folds the journal back: more than most
pages take. A damaged workshop is moved aside, though, and then a kept connection would go on in it.
"""

import os
from typing import Any

from django.db.backends.sqlite3 import base


class DatabaseWrapper(base.DatabaseWrapper):
    """Django's connection, which a request opens anew where another file lies at its address."""

    _opened: tuple[int, int] | None = None

    def get_new_connection(self, conn_params: dict[str, Any]) -> Any:
        """Open the file, and remember which one it is."""
        opened = super().get_new_connection(conn_params)
        self._opened = self._lies_there()
        return opened

    def close_if_unusable_or_obsolete(self) -> None:
        """Called as each request begins and ends; closed where the file has been put in another's place."""
        if self.connection is not None and not self.in_atomic_block and self._lies_there() != self._opened:
            self.close()
        super().close_if_unusable_or_obsolete()

    def _lies_there(self) -> tuple[int, int] | None:
        try:
            found = os.stat(self.settings_dict["NAME"])
        except OSError:
            return None
        return found.st_dev, found.st_ino
