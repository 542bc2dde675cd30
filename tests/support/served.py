"""A workshop of its own on a real server, which may die and come back, with a browser before it."""

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase, tag
from playwright.sync_api import sync_playwright

from tests.support.browser import ARGUMENTS, CHROMIUM


@tag("browser")
class ServedTestCase(SimpleTestCase):
    """The net loft in a folder, served by a process: ``address`` is where; ``browser`` a Chromium."""

    settings_of_server: dict[str, str] = {}
    options: tuple[str, ...] = ()

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        own = {"CALM_TIN_DATA": folder.name, "DJANGO_SETTINGS_MODULE": "calmtin.settings"}
        self.here = {**os.environ, **own, **self.settings_of_server}
        self.run_command("load_demo")
        self.server: subprocess.Popen[str] | None = None
        self.addCleanup(self.stop)
        self.serve()
        self.playwright = sync_playwright().start()
        self.addCleanup(self.playwright.stop)
        self.browser = self.playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        self.addCleanup(self.browser.close)

    def run_command(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        """One of our commands, whatever it says."""
        command = [sys.executable, "manage.py", *arguments]
        return subprocess.run(
            command, cwd=settings.BASE_DIR, env=self.here, capture_output=True, text=True, check=False
        )

    def serve(self) -> None:
        """Start the server; it takes the next free port."""
        command = [sys.executable, "manage.py", "serve", "--port", "8710", *self.options]
        self.server = subprocess.Popen(command, cwd=settings.BASE_DIR, env=self.here, stdout=subprocess.PIPE, text=True)
        assert self.server.stdout
        said = self.server.stdout.readline()
        while said and "open at" not in said:
            said = self.server.stdout.readline()
        self.assertIn("open at", said)
        self.address = said.split(" at ")[1].split(" ")[0].rstrip("/")

    def stop(self) -> None:
        """Kill it, as a cut of the power would."""
        if self.server is not None:
            self.server.kill()
            self.server.communicate(timeout=20)

    def wait_for(self, happens: Callable[[], object]) -> None:
        """Until something is so, twenty seconds at most."""
        end = time.monotonic() + 20
        while not happens():
            self.assertLess(time.monotonic(), end, "it did not come")
            time.sleep(0.1)
