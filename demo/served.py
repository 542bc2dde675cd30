"""The demo workshop in a folder of its own, served by a process of its own: for tests, timings and screenshots."""

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Browser, expect, sync_playwright

HERE = Path(__file__).parent.parent
CHROMIUM = "/usr/bin/chromium"
PATIENCE_MS = 30_000  # machines are slow now and then
ARGUMENTS = [
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-gpu",
]


class Served:
    """A workshop in ``folder`` that a process serves; ``address`` is where, once it is started."""

    def __init__(self, folder: Path, *options: str, **environment: str) -> None:
        self.folder, self.options, self.address = folder, options, ""
        own = {"CALM_TIN_DATA": str(folder), "DJANGO_SETTINGS_MODULE": "calmtin.settings"}
        self.environment = {**os.environ, **own, **environment}
        self._process: subprocess.Popen[str] | None = None

    def run(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        """One of our commands on this workshop, whatever it says."""
        command = [sys.executable, "manage.py", *arguments]
        return subprocess.run(command, cwd=HERE, env=self.environment, capture_output=True, text=True, check=False)

    def load_demo(self) -> None:
        """Load the demo into the folder. Raises :class:`RuntimeError` where it cannot be."""
        loaded = self.run("load_demo")
        if loaded.returncode:
            raise RuntimeError(loaded.stderr)

    def start(self) -> None:
        """Serve it at the next free port. Raises :class:`RuntimeError` where it does not open."""
        command = [sys.executable, "manage.py", "serve", "--port", "8710", *self.options]
        self._process = subprocess.Popen(command, cwd=HERE, env=self.environment, stdout=subprocess.PIPE, text=True)
        assert self._process.stdout is not None
        for said in self._process.stdout:
            if "open at " in said:
                self.address = said.split("open at ")[1].split(" ")[0].rstrip("/")
                return
        raise RuntimeError("The server ended before it was open.")

    def kill(self) -> None:
        """As a cut of the power would; it can be started again."""
        if self._process is not None:
            self._process.kill()
            self._process.communicate(timeout=20)


@contextmanager
def demo_served(folder: Path, *options: str) -> Iterator[Served]:
    """The demo, loaded into an empty folder and served until this is left."""
    served = Served(folder, *options)
    served.load_demo()
    try:
        served.start()
        yield served
    finally:
        served.kill()


@contextmanager
def chromium() -> Iterator[Browser]:
    """A Chromium until this is left, with patience for its pages."""
    expect.set_options(timeout=PATIENCE_MS)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield browser
        browser.close()
