"""Serve Calm Tin to this computer: migrate, gather styles, answer on 127.0.0.1."""

import errno
import socket
import threading
from _thread import interrupt_main
from contextlib import suppress
from importlib import import_module
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.core.wsgi import get_wsgi_application
from django.db import DatabaseError, connection
from django.utils import timezone
from waitress.server import create_server

from balmcore.errors import Problem
from calmtin.browser import is_by_hand, open_browser
from calmtin.closing import served_by
from devices.lan_server import LanServer
from exchange.beside import CopyOfTheDay, look_at_the_rest
from exchange.copies import clean_old_copies, clear_away, make_daily_copy
from exchange.data_folder import Unusable, address_of, only_server
from exchange.startup import bring_up_to_date
from instruments.models import Instrument
from instruments.supervisor import Beside, supervise
from learning.experience import experience_of
from pantry.tables import workshop_tables
from workshop.services import preferences

HOST = "127.0.0.1"
PORTS_TRIED, LAST_PORT = 20, 65535
LIMITS = {
    "threads": 8,
    "connection_limit": 1000,  # a hundred idle connections must not starve the rest
    "channel_timeout": 20,  # seconds without a word
    "cleanup_interval": 5,
    "max_request_body_size": 160 * 1024**2,  # a dozen photographs of 12 MB, and what goes with them
    "max_request_header_size": 64 * 1024,
    "asyncore_use_poll": True,
    "ident": None,
}


class Command(BaseCommand):
    """``serve`` prints the address and runs until Ctrl+C."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """The port to begin at, and whether to rehearse."""
        parser.add_argument("--port", type=int, default=8040, help="First port to try (8040).")
        parser.add_argument("--anew", action="store_true", help="Begin an empty workshop beside the copies of another.")
        parser.add_argument("--no-browser", action="store_true", help="Do not open the browser.")
        parser.add_argument("--simulator", action="store_true", help="With a stand-in scale and thermometer.")

    def handle(self, *arguments: Any, port: int, simulator: bool, anew: bool, **options: Any) -> None:
        """Bring the data folder up to date, then serve; started by hand it opens the browser, and where the workshop is
        open already it opens that one."""
        self.opens = is_by_hand() and not options["no_browser"]
        if not 1 <= port <= LAST_PORT:
            raise CommandError(f"A port is a number from 1 to {LAST_PORT}, and {port} is none: leave it out for 8040.")
        try:
            with only_server(settings.DATA_DIR) as address:
                self._serve(port, simulator, anew, address)
        except Unusable as problem:
            if self.opens and (running := address_of(settings.DATA_DIR)) and open_browser(running):
                self.stdout.write(f"This workshop is open already, at {running}: your browser shows it.")
                return
            raise CommandError(str(problem)) from None
        except OSError as refusal:
            told = refusal.strerror or str(refusal)
            raise CommandError(
                f"Calm Tin cannot start ({told.lower()}): make room on the disk, and start again."
            ) from None

    def _serve(self, port: int, simulator: bool, anew: bool, said: Path) -> None:
        copy = bring_up_to_date(settings.DATA_DIR, anew)
        self._copy_of_today()
        if copy:
            self.stdout.write(f"A copy from before this update lies in {copy}.")
        call_command("collectstatic", interactive=False, verbosity=0)
        # Only now, as the styles are listed once, when the application is built.
        application = get_wsgi_application()
        last = min(port + PORTS_TRIED, LAST_PORT + 1)
        free = next((number for number in range(port, last) if _is_free(number)), None)
        if free is None:
            raise CommandError(f"The ports from {port} to {last - 1} are all taken or forbidden: choose another one.")
        ended = supervise(
            [
                Beside("read_instruments", wanted=Instrument.objects.exists),
                *([Beside("simulator")] if simulator else []),
                LanServer(application, free, LIMITS),
                CopyOfTheDay(settings.DATA_DIR),
            ]
        )
        server = create_server(application, host=HOST, port=free, **LIMITS)
        said.write_text(address := f"http://{HOST}:{free}/")
        self.stdout.write(f"Calm Tin is open at {address} (Ctrl+C closes it)")
        self.stdout.flush()
        threading.Thread(target=_warm_up, daemon=True).start()
        if self.opens:
            open_browser(address)
        look_at_the_rest(settings.DATA_DIR, self.stdout.write)
        served_by(interrupt_main)
        try:
            server.run()
        finally:
            served_by(None)
            ended.set()
            server.close()
            with suppress(DatabaseError), connection.cursor() as cursor:
                cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")  # what lies there is one whole file again

    def _copy_of_today(self) -> None:
        """A copy for this day of use; where none can be made it is said, and the workshop opens all the same."""
        try:
            make_daily_copy(settings.DATA_DIR, timezone.localdate())
            clean_old_copies(settings.DATA_DIR)
            clear_away(settings.DATA_DIR, timezone.localdate())
        except Problem as problem:
            self.stdout.write(f"{problem.sentence} The workshop is open; today has no copy.")


def _warm_up() -> None:
    """What all tests teach takes a second or two to work out the first time, and the optimisers half a second to
    read: before anybody asks."""
    import_module("scipy.optimize")
    try:
        experience_of(workshop_tables(), preferences())
    finally:
        connection.close()


def _is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as refusal:
            return refusal.errno not in (errno.EADDRINUSE, errno.EACCES)
    return True
