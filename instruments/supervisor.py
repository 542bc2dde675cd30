"""Keeps the reader process, and the stand-in where one is wanted, beside the server; restarted when they die."""

import os
import subprocess
import sys
import threading
from collections.abc import Callable, Sequence
from typing import Protocol

from django.conf import settings
from django.db import close_old_connections

LOOK_S = 1.0
MANAGE = str(settings.BASE_DIR / "manage.py")


class Kept(Protocol):
    """Something that is looked after beside the server."""

    def keep(self) -> None:
        """Bring it to where it should be."""

    def stop(self) -> None:
        """End it."""


class Beside:
    """A management command that runs beside the server."""

    def __init__(self, *arguments: str, wanted: Callable[[], bool] = lambda: True) -> None:
        self.arguments = arguments
        self.wanted = wanted
        self.process: subprocess.Popen[bytes] | None = None

    def keep(self) -> None:
        """Start it, or start it again; end it where it is not wanted any more."""
        if not self.wanted():
            self.stop()
        elif self.process is None or self.process.poll() is not None:
            # In a bundle the program itself takes commands: there is no Python to give them to.
            program = [sys.executable] if getattr(sys, "frozen", False) else [sys.executable, MANAGE]
            command = [*program, *self.arguments, "--parent", str(os.getpid())]
            self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL)

    def stop(self) -> None:
        """End it."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(5)


def supervise(commands: Sequence[Kept]) -> threading.Event:
    """Keep commands running on a thread of their own until the event returned is set."""
    ended = threading.Event()

    def watch() -> None:
        while not ended.is_set():
            for command in commands:
                command.keep()
            close_old_connections()
            ended.wait(LOOK_S)
        for command in commands:
            command.stop()

    threading.Thread(target=watch, name="instruments", daemon=True).start()
    return ended
