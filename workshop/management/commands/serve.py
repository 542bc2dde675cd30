"""Serve Calm Tin to this computer: migrate, gather styles, answer on 127.0.0.1."""

import errno
import socket
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.core.wsgi import get_wsgi_application
from waitress.server import create_server

HOST = "127.0.0.1"
PORTS_TRIED = 20


class Command(BaseCommand):
    """``serve`` prints the address and runs until Ctrl+C."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """The port to begin at."""
        parser.add_argument("--port", type=int, default=8040, help="First port to try (8040).")

    def handle(self, *arguments: Any, port: int, **options: Any) -> None:
        """Bring the data folder up to date, then serve."""
        call_command("migrate", verbosity=0)
        call_command("collectstatic", interactive=False, verbosity=0)
        # Only now, as the styles are listed once, when the application is built.
        application = get_wsgi_application()
        free = next((number for number in range(port, port + PORTS_TRIED) if _is_free(number)), port)
        server = create_server(application, host=HOST, port=free, threads=6, ident=None)
        self.stdout.write(f"Calm Tin is open at http://{HOST}:{free}/ (Ctrl+C closes it)")
        self.stdout.flush()
        try:
            server.run()
        finally:
            server.close()


def _is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as refusal:
            return refusal.errno != errno.EADDRINUSE
    return True
