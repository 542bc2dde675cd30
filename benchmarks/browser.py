"""From a key to its answer, as a maker sees it: a real server, a real browser."""

import os
import statistics
import subprocess
import sys
import tempfile

from django.conf import settings
from playwright.sync_api import sync_playwright

from benchmarks.live import Reports
from tests.support.browser import ARGUMENTS, CHROMIUM

EDITS, FIRST = 40, 10  # so many, of which the first warm up
WATCH = """() => {
  window.taken = [];
  let typed = 0;
  document.addEventListener("input", () => { typed = performance.now(); }, true);
  document.body.addEventListener("htmx:afterSettle", () =>
    requestAnimationFrame(() => setTimeout(() => taken.push(performance.now() - typed))));
}"""


def browser(report: Reports) -> None:
    """A percentage typed in the studio of the demo, until the page with its answer is painted; the sixty
    milliseconds in which it waits for a next key are part of it."""
    with tempfile.TemporaryDirectory() as folder:
        here = {**os.environ, "CALM_TIN_DATA": folder}
        manage = [sys.executable, str(settings.BASE_DIR / "manage.py")]
        subprocess.run([*manage, "load_demo"], env=here, check=True, stdout=subprocess.DEVNULL)
        command = [*manage, "serve", "--port", "8790"]
        with subprocess.Popen(command, env=here, stdout=subprocess.PIPE, text=True) as server:
            try:
                assert server.stdout is not None
                address = server.stdout.readline().split(" at ")[1].split(" ")[0]
                taken = _typed(address)
            finally:
                server.terminate()
    report.line("(r) from a key to its answer, in a browser", statistics.median(taken), 100, "ms", "60 of them waiting")


def _typed(address: str) -> list[float]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}formulas/")
        page.get_by_role("link", name="Neap Tide").first.click()
        field = page.locator("#percent-beeswax_yellow")
        field.wait_for()
        page.evaluate(WATCH)
        for n in range(EDITS):
            field.fill(f"{15 + n % 10 / 10:.1f}")
            page.wait_for_function("done => taken.length > done", arg=n)
        taken: list[float] = page.evaluate("taken")
        chromium.close()
    return taken[FIRST:]
