"""The whole path of a balm in a browser: by mouse, and once by keyboard alone."""

from datetime import timedelta
from decimal import Decimal

from django.utils import timezone
from playwright.sync_api import expect

from batches.models import Batch
from formulas.models import Version
from pantry.models import Lot
from pantry.services import Purchase, receive
from pours.models import Pour
from tests.support.browser import BrowserTestCase
from tests.support.makings import begin


class WalkTests(BrowserTestCase):
    def test_a_first_balm_from_an_empty_workshop_to_a_judged_pour(self) -> None:
        """Kind, wax, version, four tubes and two tins, scale, pour, press test: the numbers agree."""
        page = self.page
        self.go("/")
        self.says("h1", "Make a first balm")
        page.locator("a[href$=pot_salve]").click()
        page.get_by_label("Name").fill("Halyard")
        page.get_by_role("button", name="Begin").click()
        self.says("#firmness", "51")
        self.says("#headline", "Right for a pot salve")

        # Wax down: softer, and the others follow to a hundred.
        wax = page.locator("#percent-beeswax_yellow")
        wax.fill("12,5")
        self.says("#firmness", "43")
        self.says("#headline", "1 point too soft for a pot salve")
        self.says("#total", "100.00 %")
        expect(page.locator("#percent-olive_oil")).to_have_value("71.16")
        expect(wax).to_have_value("12,5")
        expect(wax).to_be_focused()
        # Typed further, digit by digit, as if it had been typed at once.
        for _ in range(3):
            wax.press("Backspace")
        wax.press_sequentially("7")
        self.says("#firmness", "51")
        expect(page.locator("#percent-olive_oil")).to_have_value("67.50")

        page.get_by_placeholder("Add an ingredient").fill("lavandula ang")
        page.get_by_role("button", name="Lavender").click()
        expect(page.locator("#percent-lavender")).to_be_focused()
        page.locator("#percent-lavender").fill("1,2")
        self.says(".cautions", "Scent 1.2 % in all, 1.0 % is our most")
        page.locator("#percent-lavender").fill("½")
        expect(page.get_by_text("Scent 1.2 % is over")).to_have_count(0)
        page.get_by_placeholder("Why this version").fill("A little lavender.")
        page.get_by_role("button", name="Save version").click()
        self.says(".done", "Saved as version 2.")

        page.get_by_role("link", name="Batch", exact=True).click()
        page.get_by_label("Container 1").select_option("lip_tube_4_5g")
        page.get_by_role("button", name="Add a container").click()
        page.get_by_label("Container 2").select_option("tin_screw_30")
        page.locator("#count-1").fill("2")
        # 4 x 5.3 mL x 92 % and 2 x 31 mL x 90 % at 0.885 g/mL when poured at 58 degrees, and 3 g for the jug.
        self.says("#batch-total", "69.7 g")
        self.says("#grams-beeswax_yellow", "11.8")
        self.says(".weights", "The scale's step puts it 15 % off. Use a finer scale, drops or a larger batch.")
        page.get_by_role("button", name="Plan this batch").click()
        self.says(".sheet-total", "69.7 g")
        self.says(".sheet", "4 × Lip balm tube, 4½ g class, 2 × Screw tin 30 mL")
        batch = Batch.objects.get()
        self.assertEqual(sum(line.target_g for line in batch.lines.all()), Decimal("69.7"))

        page.get_by_role("link", name="Weigh").click()
        names = page.locator(".bench-name").all_text_contents()
        self.assertEqual(
            names, ["Beeswax, yellow", "Shea butter, refined", "Olive oil", "Vitamin E (tocopherol)", "Lavender"]
        )
        for key, grams in {
            "beeswax_yellow": "14",
            "shea_butter_refined": "10,4",
            "olive_oil": "1.66 oz",
            "vitamin_e_oil": ".3",
        }.items():
            page.locator(f"#actual-{key}").fill(grams)
            page.locator(f"#actual-{key}").press("Tab")
        self.says("#row-olive_oil", "“1.66 oz” is 47.1 g. Your unit is g: is that right?")
        page.get_by_role("button", name="Save “1.66 oz” as typed").click()
        page.locator("#actual-lavender").fill("0.4")
        page.locator("#actual-lavender").press("Tab")
        self.says("#weighed", "72.2 g")
        self.says("#row-beeswax_yellow .bench-gap", "+2.2")
        self.says("#true-firmness", "54")
        self.says("#moved", "3 firmer than planned")  # 54 and 51, as the studio said

        page.locator("#actual-lavender").fill("0.5")
        # Straight from the field: what was typed last is written down too.
        page.get_by_role("button", name="Poured").click()
        self.says(".page-head", "72.3 g weighed of 69.7 g")
        page.get_by_label("Room").fill("68 F")
        page.get_by_label("Notes").fill("Set in half an hour, smooth.")
        page.get_by_role("button", name="Write it down").click()
        page.get_by_role("link", name="Look at it now").click()
        page.locator("main").get_by_text("Press test").click()
        page.get_by_label("Piece at the test").fill("21")
        page.get_by_text("6 mm", exact=True).click()
        page.get_by_label("Peak readings").fill("230")
        page.get_by_text("Keep", exact=True).click()
        page.get_by_role("button", name="Write it down").click()
        # 230 g on a 6 mm rod is 13.2 kPa.
        self.says("#compared", "The test agrees with the prediction.")
        self.says(".ruler", "predicted 54")
        self.says(".ruler", "measured 53")
        pour = Pour.objects.get()
        self.assertAlmostEqual(pour.checks.get().measured or 0.0, 53.0, delta=0.1)
        self.assertEqual(pour.room_c, 20.0)
        self.assertEqual(Version.objects.get(number=2).stage, Version.Stage.JUDGED)
        self.go("/pours/?q=smooth&verdict=keep")
        self.says(".jar", "measured 53, predicted 54")

    def test_six_tins_and_ten_tubes_by_saturday_noon_with_an_oil_that_is_short(self) -> None:
        """Planned, shopped for, received, put on the clock, printed, weighed: stock and cost agree."""
        page = self.page
        version = begin("Topsail", "hand_balm").versions.get()
        for key, grams, price in (("beeswax_yellow", 500, "9.50"), ("shea_butter_refined", 500, "9.00"),
                                  ("coconut_oil_refined", 400, "3.60"), ("sunflower_oil_ho", 100, "0.80"),
                                  ("vitamin_e_oil", 50, "6.00")):  # fmt: skip
            receive(Purchase(key, Decimal(grams), price=Decimal(price), supplier="Slipway"))
        receive(Purchase("tin_screw_60", Decimal(24), is_container=True, price=Decimal("15.60")))
        receive(Purchase("lip_tube_4_5g", Decimal(50), is_container=True, price=Decimal("17.50")))
        today = timezone.localdate()
        saturday = today + timedelta(days=(5 - today.weekday()) % 7 + 7)

        self.go(f"/batches/plan?version={version.pk}")
        page.get_by_label("Container 1").select_option("tin_screw_60")
        page.locator("#count-0").fill("6")
        page.get_by_role("button", name="Add a container").click()
        page.get_by_label("Container 2").select_option("lip_tube_4_5g")
        page.locator("#count-1").fill("10")
        page.get_by_label("Cooling").select_option("cold")
        page.get_by_label("When").select_option("ready")
        page.get_by_label("Day and time").fill(f"{saturday:%Y-%m-%d}T12:00")
        # 6 x 62 mL x 90 % and 10 x 5.3 mL x 92 % of a melt of 0.885 g/mL, and 3 g for the jug.
        self.says("#batch-total", "342.4 g")
        self.says("#clock", f"Start Saturday {saturday.day} {saturday:%B}, ")
        self.says(".weights", "86.6 g short in stock")
        page.get_by_role("button", name="Plan this batch").click()
        self.says(".sheet", "6 × Screw tin 60 mL, 10 × Lip balm tube, 4½ g class")
        batch = Batch.objects.get()
        target = {line.ingredient_key: line.target_g for line in batch.lines.all()}
        self.assertEqual(target["sunflower_oil_ho"], Decimal("186.6"))
        ready = timezone.localtime(batch.ready_at)
        self.assertEqual(ready.date(), saturday)
        self.assertTrue(11 * 60 + 50 < ready.hour * 60 + ready.minute <= 12 * 60, ready)

        page.get_by_role("link", name="Batches").click()
        page.get_by_role("button", name="Shopping list").click()
        self.says(".shopping", "Sunflower oil, high oleic")
        self.says(".shopping", "1 × 100.0 g")
        page.get_by_role("link", name="Receive").click()
        expect(page.get_by_label("What")).to_have_value("Sunflower oil, high oleic")
        expect(page.get_by_label("How much")).to_have_value("100 g")
        page.get_by_label("Paid for it").fill("0,80")
        page.get_by_role("button", name="Put it in stock").click()
        self.says(".done", "Sunflower oil, high oleic is in stock as lot")
        self.go(f"/batches/shopping?batch={batch.pk}")
        self.says(".empty", "Everything these batches need is in stock.")

        self.go(f"/batches/{batch.pk}/method")
        self.says("#step-cool_refrigerator_0", "level and uncovered. Leave it alone until a skin forms")
        self.says("#step-top_up", "break the skin where it dips")
        self.says("#step-cool_refrigerator_1", "level and uncovered, until firm")
        self.says("#step-pour", "16 pieces take about 3 minutes; the pitcher stays pourable for")
        expect(page.locator(".graph .line")).not_to_have_count(0)
        with page.expect_download() as download:
            page.get_by_role("link", name="Calendar file").click()
        calendar = download.value.path().read_text()
        self.assertIn(f"DTSTART:{batch.starts_at:%Y%m%dT%H%M%SZ}", calendar)
        self.assertEqual(calendar.count("BEGIN:VEVENT"), 5)
        # Melt by weight, a tin at 0.65, a tube at 0.35.
        melt = sum(grams * price for grams, price in zip(
            (target[key] for key in ("beeswax_yellow", "shea_butter_refined", "coconut_oil_refined",
                                     "sunflower_oil_ho", "vitamin_e_oil")),
            (Decimal("0.019"), Decimal("0.018"), Decimal("0.009"), Decimal("0.008"), Decimal("0.12")), strict=True,
        ))  # fmt: skip
        product = 6 * 62 * 0.9 + 10 * 5.3 * 0.92
        tin = float(melt) * 62 * 0.9 / product + 0.65
        self.says("section[aria-label=Cost]", f"{tin:.2f}")

        self.go(f"/batches/{batch.pk}/")
        sheet = page.pdf(format="A4")
        self.assertEqual(sheet.count(b"/Type /Page\n") + sheet.count(b"/Type /Page "), 1)
        page.get_by_role("link", name="Weigh").click()
        for key, amount in {**target, "sunflower_oil_ho": Decimal("189.7")}.items():
            page.locator(f"#actual-{key}").fill(f"{amount.normalize():f}")
            page.locator(f"#actual-{key}").press("Tab")
        self.says("#weighed", "345.5 g")
        self.says("#row-sunflower_oil_ho .bench-lot", "89.7 g")
        left = {lot.pk: lot.left for lot in Lot.objects.filter(item_key="sunflower_oil_ho")}
        self.assertEqual(sorted(left.values()), [Decimal("0"), Decimal("10.3")])
        self.assertEqual(Lot.objects.get(item_key="beeswax_yellow").left, 500 - target["beeswax_yellow"])
