"""A recipe read and versions compared, in a real browser."""

from decimal import Decimal as D

from playwright.sync_api import expect

from balmcore.composition import Composition
from balmcore.tables import shipped
from formulas.models import Formula
from formulas.services import save_version
from tests.support.browser import BrowserTestCase
from tests.support.makings import begin

RECIPE = """Winter hand balm
8 oz olive oil
1 cup beeswax
2 to 3 tbsp castor oil
20 drops lavender per 100 g
5 g moonlight"""


class PaperTests(BrowserTestCase):
    def test_a_messy_recipe_is_answered_taken_to_the_studio_and_planned_at_its_size(self) -> None:
        """Three doubts by taps and one left, an amount in its row; the ring in the studio, the question before a plan."""
        page = self.page
        self.go("/formulas/read")
        page.locator("#text").fill(RECIPE)
        self.says("main", "Ounces of a liquid: taken as weight.")
        for tap in ("fluid, 216.2 g", "melted, 240 g", "2 tbsp"):
            page.get_by_role("button", name=tap).click()
            expect(page.get_by_role("button", name=tap)).to_have_count(0)
        amount = page.get_by_label("Amount of “8 oz olive oil”")
        amount.fill("10 oz")
        amount.press("Tab")
        self.says("#row-0", "270.3")
        page.locator("#row-2 input[name^='row:amount']").focus()
        expect(page.locator("mark.is-lit")).to_have_text("2 to 3 tbsp castor oil")
        page.get_by_role("button", name="To the studio").click()
        self.says("h1", "Winter hand balm")
        self.says("#not-in-it", "“5 g moonlight”")
        formula = Formula.objects.get()
        shares = {line.key: float(line.share) for line in formula.versions.get().to_composition(shipped()).lines}
        # 10 fl oz x 29.5735 mL x 0.914 g/mL, 250 mL x 0.96, 2 x 15 mL x 0.96, and 20 drops of 25 to the mL x 0.885 per 100 g.
        oil, wax, castor = 10 * 29.5735 * 0.914, 250 * 0.96, 2 * 15 * 0.96
        scent = 20 / 25 * 0.885 * (oil + wax + castor) / 100
        for key, grams in (("olive_oil", oil), ("beeswax_yellow", wax), ("castor_oil", castor), ("lavender", scent)):
            self.assertAlmostEqual(shares[key], grams / (oil + wax + castor + scent), places=4)
        page.get_by_role("link", name="“5 g moonlight”").click()
        row = page.get_by_label("Ingredient of “5 g moonlight”")
        row.fill("squalane")
        row.press("Tab")
        expect(page.locator("#row-4 .doubt-ring")).to_have_count(0)
        size = float(page.locator("#makes").inner_text())
        page.get_by_role("button", name="Keep this").click()
        self.says("main", "It is version 2 now.")
        page.get_by_role("link", name="Batch", exact=True).click()
        self.says("#batch-total", f"{size:.1f} g")

    def test_two_versions_side_by_side_and_the_curve_read_by_keys(self) -> None:
        """Three points more wax: both curves, the line that differs, and the figures at one temperature."""
        page = self.page
        formula = begin("Topsail", "pot_salve")
        first = formula.versions.get()
        waxier = {line.key: line.share for line in first.to_composition(shipped()).lines}
        waxier |= {"beeswax_yellow": D("0.20"), "olive_oil": D("0.645")}
        save_version(formula, Composition.of(waxier), seen=first.pk, made_from=1, note="More wax.")
        self.go(f"/formulas/{formula.pk}/versions")
        self.says(".history", "From version 1: Beeswax, yellow 17.0 → 20.0 %; Olive oil 67.5 → 64.5 %.")
        self.says(".history", "Firmness 51 → 55.")
        page.get_by_role("link", name="Compare").click()
        page.get_by_label("Version 1").select_option(label="Topsail v2")
        page.get_by_label("Version 2").select_option(label="Topsail v1")
        page.get_by_role("button", name="Show").click()
        self.says(".side-by-side .differs >> nth=0", "Beeswax, yellow")
        expect(page.locator(".differs")).to_have_count(2)
        expect(page.locator(".curve .other")).to_have_count(1)
        page.locator("#curve").focus()
        page.keyboard.press("ArrowRight")
        told = page.locator("#readout").text_content() or ""
        self.assertRegex(told, r"\d+(\.\d)? °C")
        page.keyboard.press("ArrowRight")
        expect(page.locator("#readout")).not_to_have_text(told)
        with page.expect_download() as download:
            page.get_by_role("button", name="CSV").click()
        rows = download.value.path().read_text().splitlines()
        self.assertIn("Topsail v2", rows[0])
        self.assertIn("Topsail v1", rows[0])
