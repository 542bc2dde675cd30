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

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
PORT = 8971
DESK, BENCH, PHONE = (1280, 800), (1024, 768), (390, 844)
ARGUMENTS = ["--no-sandbox", "--disable-background-networking", "--disable-component-update", "--disable-sync"]
VIEWS: tuple[tuple[str, str, tuple[int, int], str], ...] = (
    ("first-page", "/", DESK, "light"),
    ("formulas", "/formulas/", DESK, "light"),
    ("studio", "/formulas/2/", DESK, "light"),
    ("studio-dark", "/formulas/1/", DESK, "dark"),
    ("studio-swap", "/formulas/7/?version=1", DESK, "light"),
    ("recipe", "/formulas/read", DESK, "light"),
    ("compare", "/formulas/2/compare?v=5&v=4&v=3", DESK, "light"),
    ("versions", "/formulas/2/versions", DESK, "light"),
    ("batch", "/batches/plan?version=5", DESK, "light"),
    ("method", "/batches/5/method", DESK, "light"),
    ("batches", "/batches/", DESK, "light"),
    ("batch-sheet", "/batches/5/", DESK, "light"),
    ("shopping", "/batches/shopping?batch=5&batch=11", DESK, "light"),
    ("weigh", "/batches/11/weigh", BENCH, "light"),
    ("weigh-phone", "/batches/11/weigh", PHONE, "light"),
    ("pour", "/pours/3/", DESK, "light"),
    ("pours", "/pours/", DESK, "light"),
    ("stock", "/pantry/", DESK, "light"),
    ("ingredient", "/pantry/ingredients/shea_butter_refined", DESK, "light"),
)
RECIPE = """1 cup beeswax
½ cup coconut oil, melted
8 oz olive oil
2 vitamin E capsules
20 drops lavender essential oil
a squeeze of lanolin"""
PREPARED: dict[str, Callable[[Page], None]] = {
    "studio-swap": lambda page: page.keyboard.press("s"),
    "recipe": lambda page: page.locator("#text").fill(RECIPE),
}


def main() -> None:
    """Serve a fresh demo, photograph every view, stop."""
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        here = {**os.environ, "CALM_TIN_DATA": folder, "DJANGO_SETTINGS_MODULE": "calmtin.settings"}
        for command in (["migrate", "--verbosity", "0"], ["load_demo"]):
            subprocess.run([sys.executable, "manage.py", *command], env=here, check=True)
        server = subprocess.Popen([sys.executable, "manage.py", "serve", "--port", str(PORT)], env=here)
        try:
            _wait()
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
                for view in VIEWS:
                    _shoot(browser, *view)
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


def _shoot(browser: Browser, name: str, path: str, size: tuple[int, int], scheme: str) -> None:
    page = browser.new_page(
        viewport={"width": size[0], "height": size[1]}, color_scheme="dark" if scheme == "dark" else "light"
    )
    page.goto(f"http://127.0.0.1:{PORT}{path}", wait_until="networkidle")
    if prepare := PREPARED.get(name):
        prepare(page)
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(600)
    page.screenshot(path=OUT / f"{name}.png")
    page.close()


if __name__ == "__main__":
    main()
