"""A batch of two finishes made at the bench, with the stand-in's scale and thermometer and a real server
that dies on the way; and a phone that follows from the second door."""

import re
import sqlite3
from typing import Any

from playwright.sync_api import Page, expect

from demo.served import PATIENCE_MS
from instruments import simulator
from tests.support.served import ServedTestCase

BATCH = 13  # the loft's planned batch of two finishes
SPEED, SETTLING_S = 480, 0.1  # a quick pot, and a quick pan


class BenchWalkTests(ServedTestCase):
    environment = {"CALM_TIN_SHARE": "127.0.0.2"}
    options = ("--simulator",)

    def start(self) -> None:
        """Start the server, and its stand-in anew."""
        (self.folder / simulator.FILE).unlink(missing_ok=True)
        super().start()
        self.wait_for(lambda: simulator.order(self.folder, speed=SPEED, settling=SETTLING_S))

    def rows(self, query: str) -> list[tuple[Any, ...]]:
        with sqlite3.connect(self.folder / "workshop.sqlite3") as database:
            return list(database.execute(query))

    def pour(self, page: Page, factor: float = 1.0) -> None:
        """Put so much of what is wanted on the pan, and accept it by space once it is steady."""
        expect(page.locator("#scale-number")).not_to_have_text("–")
        simulator.order(self.folder, tare=True)
        expect(page.locator("#scale-number")).to_have_text(re.compile(r"^-?0\.[01]$"))
        title = page.locator(".at-title").inner_text()
        target = float(page.locator("#target").inner_text().split()[0])
        simulator.order(self.folder, put=target * factor)
        if not page.locator("#when-steady").is_checked():
            over = f"{target * (factor - 1):.1f} g over"
            expect(page.locator("#scale-words")).to_have_text("there" if factor == 1 else over)
            expect(page.locator("#scale")).not_to_have_class("at-scale is-moving")
            page.locator("body").press(" ")
        if factor == 1:
            expect(page.locator(".at-title")).not_to_have_text(title)

    def test_two_finishes_from_the_first_weight_to_the_log(self) -> None:
        page = self.browser.new_page(viewport={"width": 1024, "height": 768})
        page.set_default_timeout(PATIENCE_MS)
        page.goto(f"{self.served.address}/bench/{BATCH}/")
        page.locator("#accept").click()
        expect(page.locator(".at-title")).to_have_text("Candelilla wax")
        self.pour(page)
        page.locator("#when-steady").check()
        self.pour(page)  # a steady reading is accepted by itself
        page.locator("#when-steady").uncheck()
        expect(page.locator(".at-title")).to_have_text("Olive oil")

        # The server dies between two accepted weights, and nothing is lost.
        self.served.kill()
        self.start()
        page.goto(f"{self.served.address}/bench/{BATCH}/")
        expect(page.locator(".at-title")).to_have_text("Olive oil")
        weighed = [grams for (grams,) in self.rows(f"select actual_g from batches_batchline where batch_id={BATCH}")]
        self.assertEqual(sum(grams is not None for grams in weighed), 2)

        # A phone at the second door: refused, then paired; it follows what is accepted at the bench.
        phone = self.browser.new_context(viewport={"width": 390, "height": 844}).new_page()
        second = self.served.address.replace("127.0.0.1", "127.0.0.2")
        phone.goto(f"{second}/bench/{BATCH}/")
        expect(phone.locator("main")).to_contain_text("This device is not let in.")
        desk = self.browser.new_page()
        desk.goto(f"{self.served.address}/settings/phones")
        desk.locator("#name").fill("By the stove")
        desk.get_by_role("button", name="Show a link").click()
        phone.goto(desk.locator("#pair-link").inner_text())
        phone.goto(f"{second}/bench/{BATCH}/")
        expect(phone.locator(".at-title")).to_have_text("Olive oil")

        # Too much oil: the rest grows with it, and what is in the pot is opened again for more.
        self.pour(page, 1.2)
        expect(page.locator(".at-over")).to_contain_text("more than planned")
        page.get_by_role("button", name="Grow the rest with it").click()
        expect(page.locator(".at-title")).to_have_text("Candelilla wax")
        expect(phone.locator(".at-title")).to_have_text("Candelilla wax")
        for _ in range(3):
            self.pour(page)

        # On the bath: the thermometer says how long, and when it is there.
        expect(page.locator(".at-title")).to_have_text("Melt")
        shares = {"candelilla_wax": 11.5, "shea_butter_refined": 15, "olive_oil": 73.5}
        simulator.order(self.folder, pot={"shares": shares, "grams": 100, "room_c": 20}, move="bath")
        expect(page.locator("#probe-words")).to_contain_text("in about")
        expect(page.locator("#probe-words")).to_contain_text("is reached", timeout=2 * PATIENCE_MS)
        for title in ("Clear test", "Test a drop"):
            page.locator("#accept").click()
            expect(page.locator(".at-title")).to_have_text(title)

        # Too soft: what is offered goes in, and is in the record.
        page.get_by_label("too soft").check()
        offer = page.locator(".offer").first
        expect(offer).to_contain_text("candelilla wax")
        before = page.locator("#true-firmness").inner_text()
        offer.get_by_role("button", name="In it goes").click()
        expect(page.locator("#true-firmness")).not_to_have_text(before)
        while page.locator("#target").count() == 0:
            title = page.locator(".at-title").inner_text()
            page.locator("#accept").click()
            expect(page.locator(".at-title")).not_to_have_text(title)

        # Divided and filled, and into the log: two pours with all that was weighed.
        for name in ("plain", "lavender"):
            expect(page.locator(".at-title")).to_have_text(f"Base for “{name}”")
            self.pour(page)
            if name == "lavender":
                self.pour(page)
            page.locator("[name^=weights]").fill("13 13 12")
            page.get_by_role("button", name="Filled", exact=True).click()
        page.get_by_role("button", name="Everything is filled: into the log").click()
        expect(page.get_by_role("link", name="It is in the log")).to_be_visible()
        pours = self.rows(
            "select f.name, p.predicted > 0, (select count(*) from pours_pouredpiece where pour_id = p.id)"
            f" from pours_pour p join batches_batchfinish f on f.id = p.finish_id where p.batch_id = {BATCH}"
        )
        self.assertEqual(sorted(pours), [("lavender", 1, 3), ("plain", 1, 3)])
        candelilla = self.rows(
            "select l.actual_g - sum(d.grams) from batches_batchline l join batches_draw d on d.line_id = l.id"
            f" where l.batch_id = {BATCH} and l.ingredient_key = 'candelilla_wax'"
        )
        self.assertEqual(candelilla, [(0,)])
