"""``make shots``: one current picture of each main view, from the demo workshop."""

import os
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

from instruments.stand_in import order

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
PORT = 8971
DESK, BENCH, PHONE = (1280, 800), (1024, 768), (390, 844)
ARGUMENTS = ["--no-sandbox", "--disable-background-networking", "--disable-component-update", "--disable-sync"]
LABEL = "maker=The+net+loft&address=Ferry+Quay+2&use=Rub+into+tired+feet.&has_code=True&start=4"
VIEWS: tuple[tuple[str, str, tuple[int, int], str], ...] = (
    ("first-page", "/", DESK, "light"),
    ("formulas", "/formulas/", DESK, "light"),
    ("studio", "/formulas/2/", DESK, "light"),
    ("studio-dark", "/formulas/1/", DESK, "dark"),
    ("recipe", "/formulas/read", DESK, "light"),
    ("compare", "/formulas/2/compare?v=5&v=4&v=3", DESK, "light"),
    ("pieces", "/labels/", DESK, "light"),
    ("batch", "/batches/plan?version=5", DESK, "light"),
    ("method", "/batches/5/method", DESK, "light"),
    ("bench", "/bench/13/", BENCH, "light"),
    ("bench-phone", "/bench/13/", PHONE, "light"),
    ("bench-rescue", "/bench/13/", BENCH, "light"),
    ("pour", "/pours/27/", DESK, "light"),
    ("side-by-side", "/pours/compare?pour=11&pour=12&pour=15&pour=16", DESK, "light"),
    ("learned", "/pours/learned", DESK, "light"),
    ("ladder", "/pours/ladder/1", DESK, "light"),
    ("check-phone", "/pours/8/check", PHONE, "light"),
    ("pours", "/pours/", DESK, "light"),
    (
        "label",
        "/labels/27/?maker=The+net+loft&address=Ferry+Quay+2&use=Rub+into+tired+feet.&has_code=True&start=4",
        DESK,
        "light",
    ),
)
RECIPE = """1 cup beeswax
½ cup coconut oil, melted
8 oz olive oil
2 vitamin E capsules
20 drops lavender essential oil
a squeeze of lanolin"""


def _make_until(page: Page, title: str) -> None:
    """At the bench: everything to its target, as far as a step."""
    while (shown := page.locator(".at-title").inner_text()) != title:
        if page.locator("#target").count():
            page.locator("#grams").fill(page.locator("#target").inner_text())
        page.locator("#accept").click()
        page.wait_for_function("t => document.querySelector('.at-title').textContent !== t", arg=shown)


def _at_the_scale(page: Page, folder: Path) -> None:
    _make_until(page, "Olive oil")
    order(folder, tare=True)
    order(folder, put=36.4)
    page.wait_for_timeout(3500)


def _at_the_stove(page: Page, folder: Path) -> None:
    """Half way on the bath, with the clock of the batch moved back by as much."""
    _make_until(page, "Melt")
    shares = {"candelilla_wax": 11.5, "shea_butter_refined": 15, "olive_oil": 73.5}
    order(folder, speed=600, pot={"shares": shares, "grams": 78, "room_c": 18}, move="bath")
    page.wait_for_timeout(2600)
    order(folder, speed=1)
    page.wait_for_timeout(1500)


def _too_soft(page: Page, folder: Path) -> None:
    _make_until(page, "Test a drop")
    page.get_by_label("too soft").check()
    page.wait_for_timeout(1200)


PREPARED: dict[str, Callable[[Page, Path], None]] = {
    "bench": _at_the_scale,
    "bench-phone": _at_the_stove,
    "bench-rescue": _too_soft,
    "recipe": lambda page, folder: page.locator("#text").fill(RECIPE),
}


def main() -> None:
    """Serve a fresh demo, photograph every view, stop."""
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        here = {**os.environ, "CALM_TIN_DATA": folder, "DJANGO_SETTINGS_MODULE": "calmtin.settings"}
        for command in (["migrate", "--verbosity", "0"], ["load_demo"]):
            subprocess.run([sys.executable, "manage.py", *command], env=here, check=True)
        server = subprocess.Popen([sys.executable, "manage.py", "serve", "--port", str(PORT), "--stand-in"], env=here)
        try:
            _wait()
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
                for view in VIEWS:
                    _shoot(browser, Path(folder), *view)
        finally:
            server.terminate()
            server.wait()


def _wait() -> None:
    for _ in range(100):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{PORT}/", timeout=2)
        except (urllib.error.URLError, TimeoutError):
            time.sleep(0.2)
        else:
            return
    raise SystemExit("The demo did not start.")


def _shoot(browser: Browser, folder: Path, name: str, path: str, size: tuple[int, int], scheme: str) -> None:
    page = browser.new_page(
        viewport={"width": size[0], "height": size[1]}, color_scheme="dark" if scheme == "dark" else "light"
    )
    page.goto(f"http://127.0.0.1:{PORT}{path}", wait_until="load")
    if prepare := PREPARED.get(name):
        prepare(page, folder)
    page.wait_for_timeout(700)
    page.screenshot(path=OUT / f"{name}.png")
    page.close()


if __name__ == "__main__":
    main()
