"""``make shots``: one current picture of each main view, from the demo workshop."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Browser, Page

from demo.served import Served, chromium, demo_served
from instruments.simulator import order

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
DESK, BENCH, PHONE = (1280, 800), (1024, 768), (390, 844)
LABEL = "maker=The+net+loft&address=Ferry+Quay+2&use=Rub+into+tired+feet.&has_code=True&start=4"
VIEWS: tuple[tuple[str, str, tuple[int, int], str], ...] = (
    ("first-page", "/", DESK, "light"),
    ("formulas", "/formulas/", DESK, "light"),
    ("studio", "/formulas/2/", DESK, "light"),
    ("studio-dark", "/formulas/1/", DESK, "dark"),
    ("recipe", "/formulas/read", DESK, "light"),
    ("market", "/labels/market", DESK, "light"),
    ("batch", "/batches/plan?version=5", DESK, "light"),
    ("method", "/batches/5/method", DESK, "light"),
    ("bench", "/bench/13/", BENCH, "light"),
    ("bench-phone", "/bench/13/", PHONE, "light"),
    ("bench-rescue", "/bench/13/", BENCH, "light"),
    ("pour", "/pours/27/", DESK, "light"),
    ("side-by-side", "/pours/compare?pour=11&pour=12&pour=15&pour=16", DESK, "light"),
    ("learned", "/pours/learned", DESK, "light"),
    ("year", "/pours/year/8?pour=15&pour=18", DESK, "light"),
    ("check-phone", "/pours/8/check", PHONE, "light"),
    ("notebook", "/pours/notebook", DESK, "light"),
    ("label", f"/labels/27/?{LABEL}", DESK, "light"),
    ("day", "/batches/day", DESK, "light"),
)
NOTEBOOK = """Name;Made on;Ingredients;Firmness;Tested at;Cooled;Verdict;Notes
Slack Water;14/03/2026;"beeswax 18 g, olive oil 82 g";soft scoop;20;fridge;keep;For the allotments.
Slack Water;02/05/2026;"beeswax 24 g; olive oil 76 g";pot salve;22;windowsill;change;
North Wind;;"20 % beeswax; 80 % sunflower oil";;;;;Never made.
Lee Shore;01/06/2026;"20 g gannet grease; 80 g olive oil";;;;;"""
RECIPE = """Net loft hand balm (vegan)
½ cup coconut oil, melted
8 oz sunflower oil
2 to 3 oz candelilla wax
30 g cocoa butter or 25 g mango butter
20 drops lavender per 100 g
a squeeze of vitamin E
If it is too soft add 5 g more wax."""


def _read_recipe(page: Page, _: Path) -> None:
    """A recipe with a few doubts, and the words of one line lit."""
    page.locator("#text").fill(RECIPE)
    page.get_by_label("Amount of “2 to 3 oz candelilla wax”").focus()


def _make_until(page: Page, title: str) -> None:
    """At the bench: everything to its target, as far as a step."""
    while (shown := page.locator(".at-title").inner_text()) != title:
        if page.locator("#target").count():
            page.locator("#grams").fill(page.locator("#target").inner_text())
        page.locator("#accept").click()
        page.wait_for_timeout(600)
        # The stand-in's pot is where the shot before left it.
        if (sure := page.locator("[name=sure]")).count():
            sure.click()
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


def _lay_out(page: Page, _: Path) -> None:
    """Two more batches planned, and all four laid out on one day."""
    address = page.url
    for version in (3, 12, 16):
        page.goto(f"{address.removesuffix('day')}plan?version={version}")
        page.get_by_role("button", name="Plan this batch").click()
        page.wait_for_url("**/batches/*/")
    page.goto(address)
    for box in page.locator("input[name=batch]:enabled").all():
        box.check()
    page.get_by_role("button", name="Lay them out").click()
    page.wait_for_selector("text=As it would be")


def _at_market(page: Page, _: Path) -> None:
    """What came back of some of it."""
    for number, field in enumerate(page.locator("[name^=back-]").all()[:9]):
        field.fill(f"{number % 3}")
    for field in page.locator("[name^=each-]").all()[:9]:
        field.fill("6.50")
    page.evaluate("document.activeElement.blur()")


def _bring_a_notebook(page: Page, _: Path) -> None:
    """A table with a doubt and a row that cannot be."""
    page.locator("#pasted").fill(NOTEBOOK)
    page.get_by_role("button", name="Look at it").click()
    page.wait_for_selector("text=What each column is")


PREPARED: dict[str, Callable[[Page, Path], None]] = {
    "bench": _at_the_scale,
    "bench-phone": _at_the_stove,
    "bench-rescue": _too_soft,
    "recipe": _read_recipe,
    "day": _lay_out,
    "market": _at_market,
    "notebook": _bring_a_notebook,
}


def main() -> None:
    """Serve a fresh demo, photograph every view, stop."""
    OUT.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as folder,
        demo_served(Path(folder), "--simulator") as served,
        chromium() as browser,
    ):
        for view in VIEWS:
            _shoot(browser, served, *view)


def _shoot(browser: Browser, served: Served, name: str, path: str, size: tuple[int, int], scheme: str) -> None:
    page = browser.new_page(
        viewport={"width": size[0], "height": size[1]}, color_scheme="dark" if scheme == "dark" else "light"
    )
    page.goto(f"{served.address}{path}", wait_until="load")
    if prepare := PREPARED.get(name):
        prepare(page, served.folder)
    page.wait_for_timeout(700)
    page.screenshot(path=OUT / f"{name}.png")
    page.close()


if __name__ == "__main__":
    main()
