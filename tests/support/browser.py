"""A real browser on the real server, for tests that walk as a maker would."""

import time
from typing import Any

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import tag
from playwright.sync_api import Browser, Page, Route, expect

from demo.served import PATIENCE_MS, chromium

# A desk's screen, a tablet's, a desk's at twice the size, and a phone's.
DESK, *OTHERS = ((1280, 800), (1024, 768), (640, 400), (390, 844))


class Questions:
    """What a page asks of an address waits here until it is answered, however slow the machine."""

    def __init__(self, page: Page, address: str) -> None:
        self.page, self.waiting = page, list[Route]()
        page.route(address, lambda route: self.waiting.append(route))

    def wait(self) -> None:
        """Until there is one."""
        end = time.monotonic() + PATIENCE_MS / 1000
        while not self.waiting:
            assert time.monotonic() < end, "nothing was asked"
            self.page.wait_for_timeout(20)

    def answer(self) -> None:
        """Let the first one that waits go on to the server."""
        self.wait()
        self.waiting.pop(0).continue_()


@tag("browser")
class BrowserTestCase(StaticLiveServerTestCase):
    """One Chromium per class, one fresh page per test; any script or policy complaint fails."""

    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.browser = cls.enterClassContext(chromium())

    def setUp(self) -> None:
        super().setUp()
        self.complaints: list[str] = []
        self.page = self.new_page()

    def tearDown(self) -> None:
        self.page.context.close()
        self.assertEqual(self.complaints, [], "the browser complained")
        super().tearDown()

    def new_page(self, **options: Any) -> Page:
        """A page of its own context, watched for complaints."""
        options.setdefault("viewport", {"width": 1280, "height": 800})
        # axe is put into pages by the test, which the pages' own policy would rightly refuse.
        context = self.browser.new_context(bypass_csp="axe" in options and bool(options.pop("axe")), **options)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("console", lambda said: self.complaints.append(said.text) if said.type == "error" else None)
        return page

    def go(self, path: str, page: Page | None = None) -> None:
        """Open a path of the server under test."""
        (page or self.page).goto(self.live_server_url + path)

    def tab_to(self, selector: str, most: int = 80) -> None:
        """Press Tab until the element has the focus."""
        for _ in range(most):
            if self.page.evaluate("s => document.activeElement.matches(s)", selector):
                return
            self.page.keyboard.press("Tab")
        self.fail(f"Tab does not reach {selector}")

    def refused(self) -> None:
        """The page before was a refusal (400), which the browser notes as a complaint: one is taken back."""
        self.complaints.remove(next(said for said in self.complaints if "status of 400" in said))

    def box(self, selector: str) -> dict[str, float]:
        """Where an element lies; it has to be there."""
        found = self.page.locator(selector).bounding_box()
        assert found is not None, f"no {selector}"
        return {name: float(found[name]) for name in ("x", "y", "width", "height")}

    def says(self, selector: str, text: str, page: Page | None = None) -> None:
        """Wait until an element holds a text."""
        expect((page or self.page).locator(selector)).to_contain_text(text)

    def too_wide(self, page: Page) -> list[int]:
        """The widths of screens on which the page would have to be scrolled sideways."""
        found = []
        for width, height in (*OTHERS, DESK):
            page.set_viewport_size({"width": width, "height": height})
            if page.evaluate("document.documentElement.scrollWidth") > width:
                found.append(width)
        return found
