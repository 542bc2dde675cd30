"""A scale and a thermometer that are not there: to rehearse with, and to try settings on."""

import os
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser

from instruments.simulator import Server


class Command(BaseCommand):
    """``simulator`` speaks on local sockets, and with ``--terminal`` on pseudo-terminals too."""

    help = __doc__
    requires_system_checks: list[str] = []  # it knows no pages, and the server that starts it has checked all

    def add_arguments(self, parser: CommandParser) -> None:
        """Terminals, and whose child it is."""
        parser.add_argument("--terminal", action="store_true", help="Speak on pseudo-terminals as well.")
        parser.add_argument("--parent", type=int, default=None, help="End when this process is gone.")

    def handle(self, *arguments: Any, terminal: bool, parent: int | None, **options: Any) -> None:
        """Say where, then speak."""
        settings.DATA_DIR.mkdir(parents=True, exist_ok=True)
        server = Server(settings.DATA_DIR)
        for part, port in server.ports.items():
            self.stdout.write(f"{part}: socket://127.0.0.1:{port}")
        if terminal and hasattr(os, "openpty"):
            for kind in ("scale", "thermometer"):
                self.stdout.write(f"{kind}: {server.open_terminal(kind)}")
        self.stdout.flush()
        try:
            server.run(parent)
        finally:
            server.close()
