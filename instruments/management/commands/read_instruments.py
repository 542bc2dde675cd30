"""Read scale and thermometer, and hand on what they said last; the server starts this by itself."""

import contextlib
import os
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import DatabaseError, close_old_connections

from instruments.reader import Reader, Source
from instruments.services import sources


class Command(BaseCommand):
    """``read_instruments`` runs until the process that started it is gone."""

    help = __doc__
    requires_system_checks: list[str] = []  # it knows no pages, and the server that starts it has checked all

    def add_arguments(self, parser: CommandParser) -> None:
        """Whose child it is."""
        parser.add_argument("--parent", type=int, default=os.getppid(), help="End when this process is gone.")

    def handle(self, *arguments: Any, parent: int, **options: Any) -> None:
        """Read, until the end."""
        known: list[Source] = []

        def refresh() -> list[Source]:
            nonlocal known
            close_old_connections()
            with contextlib.suppress(DatabaseError):  # while the file is busy, those known go on
                known = sources(settings.DATA_DIR)
            return known

        Reader(settings.DATA_DIR).run(refresh, parent)
