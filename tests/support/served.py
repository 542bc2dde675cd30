"""A workshop of its own on a real server, which may die and come back, with a browser before it."""

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from django.test import SimpleTestCase, tag

from demo.served import Served, chromium


@tag("browser")
class ServedTestCase(SimpleTestCase):
    """The net loft in a folder, ``served`` by a process; ``browser`` is a Chromium."""

    environment: dict[str, str] = {}
    options: tuple[str, ...] = ()

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.served = Served(self.folder, *self.options, **self.environment)
        self.served.load_demo()
        self.addCleanup(self.served.kill)
        self.start()
        self.browser = self.enterContext(chromium())

    def start(self) -> None:
        """Start the server, for the first time or again."""
        self.served.start()

    def wait_for(self, happens: Callable[[], object]) -> None:
        """Until something is so, a minute at most."""
        end = time.monotonic() + 60
        while not happens():
            self.assertLess(time.monotonic(), end, "it did not come")
            time.sleep(0.1)
