"""A batch of two finishes made at the bench, with the stand-in's scale and thermometer and a real server
that dies on the way; and a phone that follows from the second door."""

import re
import sqlite3
from typing import Any

from playwright.sync_api import Locator, Page, expect

from demo.served import PATIENCE_MS
from instruments import simulator
from instruments.readings import latest
from tests.support.served import ServedTestCase

BATCH = 13  # the loft's planned batch of three finishes
SPEED, SETTLING_S = 480, 0.4  # a quick pot, and a pan that takes two seconds to come to rest
DRIFT = 1.5  # steps a minute: a scale beside a warm stove
SHARES = {"candelilla_wax": 11.5, "shea_butter_refined": 15, "olive_oil": 73.5}
POT_G, GLASS_G, JUG_G = 316.3, 41.7, 85.2


class BenchWalkTests(ServedTestCase):
    environment = {"CALM_TIN_SHARE": "127.0.0.2"}
    options = ("--simulator",)
    taps = 0
    reopened: tuple[str, ...] = ()

    def start(self) -> None:
        """Start the server, and its stand-in anew."""
        (self.folder / simulator.FILE).unlink(missing_ok=True)
        super().start()
        self.wait_for(lambda: simulator.order(self.folder, speed=SPEED, settling=SETTLING_S, drift=DRIFT))

    def rows(self, query: str) -> list[tuple[Any, ...]]:
        with sqlite3.connect(self.folder / "workshop.sqlite3") as database:
            return list(database.execute(query))

    def assert_weighed(self, put: dict[str, float]) -> None:
        """What was put in stands in the record, to the scale's step for each time; nothing else does."""
        weighed = dict(
            self.rows(
                f"select ingredient_key, actual_g / 1e6 from batches_batchline where batch_id={BATCH} and actual_g is not null"
            )
        )
        self.assertEqual(weighed.keys(), put.keys())
        for key, grams in put.items():
            times = 2 if key in self.reopened else 1
            self.assertAlmostEqual(weighed[key], grams, delta=0.101 * times, msg=key)

    def stand(self, page: Page, grams: float) -> None:
        """Put an empty vessel of its own weight on the scale, and say that it is one."""
        expect(page.locator("#scale-number")).not_to_have_text("–")
        simulator.order(self.folder, load=grams)
        self.wait_for(lambda: self.is_shown(grams))
        self.tap(page.locator("#begin-here"))
        expect(page.locator("#scale-ask")).to_be_hidden()
        expect(page.locator("#scale-number")).to_have_text(re.compile(r"^-?0\.[01]$"))

    def is_shown(self, grams: float) -> bool:
        """True once the scale shows a load, at rest."""
        scale = latest(self.folder)["scale"]
        return scale.is_steady and abs((scale.value or 0.0) + scale.zero_g - grams) < 1

    def be_there(self, page: Page) -> None:
        """Bring the pot to what the step is about, and see it shown."""
        aim = page.locator(".at-aim")
        if aim.count():
            temp_c = int(re.findall(r"-?\d+", aim.inner_text())[0])
            simulator.order(self.folder, pot={"shares": SHARES, "grams": 100, "room_c": temp_c}, move="counter")
            expect(page.locator("#probe-number")).to_contain_text(re.compile(rf"^({temp_c}|{temp_c - 1})\."))

    def tap(self, target: Locator) -> None:
        """A tap, counted."""
        target.click()
        self.taps += 1

    def pour(self, page: Page, factor: float = 1.0) -> float:
        """Put so much of what is wanted into the vessel; returns how much that was."""
        expect(page.locator("#scale-waits")).to_be_hidden()
        title = page.locator(".at-title").inner_text()
        expect(page.locator("#scale-number")).to_have_text(re.compile(r"^-?0\.[01]$"))
        target = float(page.locator("#target").inner_text().split()[0])
        simulator.order(self.folder, put=target * factor)
        if not page.locator("#when-steady").is_checked():
            page.locator("body").press(" ")  # at once, while it moves: it waits, and takes all of it
            self.taps += 1
        if factor == 1:
            try:
                expect(page.locator(".at-title")).not_to_have_text(title)
            except AssertionError as problem:
                stands = page.locator(".at-scale, .at-ask, .said, #scale-waits").all_inner_texts()
                raise AssertionError(f"{title}, {target} wanted: {stands}, {latest(self.folder)['scale']}") from problem
        return target * factor

    def test_three_finishes_from_the_first_weight_to_the_log(self) -> None:
        """By a scale that drifts, is slow to settle and was not tared: every weight is what was put in, and it takes
        seventeen steps and at most thirty taps."""
        page = self.browser.new_page(viewport={"width": 1024, "height": 768})
        page.set_default_timeout(PATIENCE_MS)
        page.goto(f"{self.served.address}/bench/{BATCH}/")
        expect(page.locator(".at-head")).to_contain_text("step 1 of 17")
        simulator.order(self.folder, load=POT_G)
        self.tap(page.locator("#accept"))
        expect(page.locator(".at-title")).to_have_text("Candelilla wax")
        expect(page.locator("#scale-asked")).to_contain_text("stand on it already: is that the pot?")
        self.stand(page, POT_G)
        put = {"candelilla_wax": self.pour(page)}
        self.tap(page.locator("#when-steady"))
        put["shea_butter_refined"] = self.pour(page)  # a steady reading is accepted by itself
        expect(page.locator(".at-title")).to_have_text("Olive oil")

        # The server dies between two accepted weights, and nothing is lost.
        self.served.kill()
        self.start()
        page.goto(f"{self.served.address}/bench/{BATCH}/")
        expect(page.locator(".at-title")).to_have_text("Olive oil")
        self.assert_weighed(put)

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
        expect(page.locator("#when-steady")).to_be_checked()  # as this device remembers
        # The pot is where it was, and nothing has to be said of it again.
        simulator.order(self.folder, load=POT_G + sum(put.values()))
        self.wait_for(lambda: self.is_shown(POT_G + sum(put.values())))
        put["olive_oil"] = self.pour(page, 1.2)
        page.locator("body").press(" ")
        expect(page.locator(".at-over")).to_contain_text("more than planned")
        page.get_by_role("button", name="Grow the rest with it").click()
        expect(page.locator(".at-title")).to_have_text("Candelilla wax")
        expect(phone.locator(".at-title")).to_have_text("Candelilla wax")
        self.reopened = ("candelilla_wax", "shea_butter_refined")
        for key in self.reopened:
            put[key] += self.pour(page)
        for key in ("vitamin_e_oil", "lavender", "peppermint"):
            self.stand(page, GLASS_G + len(key))
            put[key] = self.pour(page)
        self.assert_weighed(put)

        # Put right where it stands, in three taps.
        before = self.taps
        self.tap(page.locator(".at-list a", has_text="Olive oil"))
        self.tap(page.locator("#grams"))
        page.keyboard.type(f"{put['olive_oil']:.1f}")
        page.locator("#grams").fill(f"{put['olive_oil'] + 0.3:.1f}")
        self.tap(page.get_by_role("button", name="Put right"))
        expect(page.locator("#last")).to_contain_text("was")
        put["olive_oil"] += 0.3
        self.assertEqual(self.taps - before, 3)

        # On the bath: the thermometer says how long, and when it is there.
        expect(page.locator(".at-title")).to_have_text("Melt")
        simulator.order(self.folder, pot={"shares": SHARES, "grams": 100, "room_c": 20}, move="bath")
        expect(page.locator("#probe-words")).to_contain_text("in about")
        page.locator("#accept").click()
        expect(page.locator(".at-over")).to_contain_text("is wanted. Is it in the melt?")
        for title in ("Clear test", "Test a drop"):
            self.be_there(page)
            self.tap(page.locator("#accept"))
            expect(page.locator(".at-title")).to_have_text(title)

        # Too soft, and too soft again: what is offered goes in, and is in the record, in three taps each.
        for word in ("gel", "soft scoop"):
            before = self.taps
            self.tap(page.get_by_label("too soft"))
            self.tap(page.get_by_label(word, exact=True))
            offer = page.locator(".offer").filter(has_text="candelilla wax")
            expect(offer).to_contain_text("make it 43")
            last = page.locator("#last").inner_text()
            self.tap(offer.get_by_role("button", name="In it goes"))
            expect(page.locator("#last")).not_to_have_text(last)
            expect(page.locator(".at-model")).to_contain_text("By your drop: 43")
            self.assertEqual(self.taps - before, 3)
        while page.locator("#target").count() == 0:
            step = page.locator("#at-bench").get_attribute("data-step") or ""
            self.be_there(page)
            self.tap(page.locator("#accept"))
            expect(page.locator("#at-bench")).not_to_have_attribute("data-step", step)

        # Divided and filled, and into the log: two pours with all that was weighed.
        for name in ("plain", "lavender", "mint"):
            expect(page.locator(".at-title")).to_have_text(f"Base for “{name}”")
            self.stand(page, JUG_G + 3 * len(name))
            self.pour(page)
            page.locator("[name^=weights]").fill("13 13 12")
            self.tap(page.get_by_role("button", name="Filled", exact=True))
        self.tap(page.get_by_role("button", name="Everything is filled: into the log"))
        expect(page.get_by_role("link", name="It is in the log")).to_be_visible()
        self.assertLessEqual(self.taps - 3 - 2 * 3, 30)  # but for a weight put right, and two rescues
        pours = self.rows(
            "select f.name, p.predicted > 0, (select count(*) from pours_pouredpiece where pour_id = p.id)"
            f" from pours_pour p join batches_batchfinish f on f.id = p.finish_id where p.batch_id = {BATCH}"
        )
        self.assertEqual(sorted(pours), [("lavender", 1, 3), ("mint", 1, 3), ("plain", 1, 3)])
        candelilla = self.rows(
            "select l.actual_g - sum(d.grams) from batches_batchline l join batches_draw d on d.line_id = l.id"
            f" where l.batch_id = {BATCH} and l.ingredient_key = 'candelilla_wax'"
        )
        self.assertEqual(candelilla, [(0,)])
