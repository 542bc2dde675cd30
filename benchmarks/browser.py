"""From a key to its answer, as a maker sees it: a real server, a real browser."""

import statistics
import tempfile
from pathlib import Path

from benchmarks.live import Reports
from demo.served import chromium, demo_served

EDITS, FIRST = 40, 10  # so many, of which the first warm up
WATCH = """() => {
  window.taken = [];
  let typed = 0;
  document.addEventListener("input", () => { typed = performance.now(); }, true);
  document.body.addEventListener("htmx:afterSettle", () =>
    requestAnimationFrame(() => setTimeout(() => taken.push(performance.now() - typed))));
}"""


def browser(report: Reports) -> None:
    """A percentage typed in the studio of the demo, until the page with its answer is painted."""
    with tempfile.TemporaryDirectory() as folder, demo_served(Path(folder)) as served:
        taken = _typed(served.address)
    report.line("(r) from a key to its answer, in a browser", statistics.median(taken), 100, "ms")


def _typed(address: str) -> list[float]:
    with chromium() as own_browser:
        page = own_browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}/formulas/")
        page.get_by_role("link", name="Neap Tide").first.click()
        field = page.locator("#percent-beeswax_yellow")
        field.wait_for()
        page.evaluate(WATCH)
        for n in range(EDITS):
            field.fill(f"{15 + n % 10 / 10:.1f}")
            page.wait_for_function("done => taken.length > done", arg=n)
        taken: list[float] = page.evaluate("taken")
    return taken[FIRST:]
