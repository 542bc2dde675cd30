"""A recipe read and versions compared, in a real browser."""

from decimal import Decimal as D

from playwright.sync_api import expect

from balmcore.composition import Composition
from balmcore.tables import shipped
from formulas.models import Formula
from formulas.services import save_version
from tests.support.browser import BrowserTestCase
from tests.support.makings import begin

RECIPE = "8 oz olive oil\n1 cup beeswax\n20 drops lavender\n5 g moonlight"


class PaperTests(BrowserTestCase):
    def test_a_recipe_with_doubts_is_settled_and_begun(self) -> None:
        """Fluid ounces, melted wax, and what moonlight may be: each asked, each answered, then the studio."""
        page = self.page
        self.go("/formulas/read")
        page.locator("#text").fill(RECIPE)
        self.says("main", "Ounces of a liquid: taken as weight, 226.8 g; fluid ounces would be 216.2 g.")
        self.says("main", "A volume of something solid: taken as pellets, 140 g; melted it would be 240 g.")
        page.locator("select[name='answer-0-ounces']").select_option("fluid")
        expect(page.get_by_text("Ounces of a liquid")).to_have_count(0)
        page.locator("select[name='answer-1-form']").select_option("melted")
        expect(page.get_by_text("A volume of something solid")).to_have_count(0)
        self.says(".understood", "216.2")
        page.get_by_label("Name").fill("From paper")
        page.get_by_role("button", name="To the studio").click()
        self.says("h1", "From paper")
        formula = Formula.objects.get()
        shares = {line.key: float(line.share) for line in formula.versions.get().to_composition(shipped()).lines}
        # 8 fl oz x 29.5735 mL x 0.914 g/mL, 250 mL x 0.96, and 20 drops of 25 to the mL x 0.885.
        oil, wax, scent = 8 * 29.5735 * 0.914, 250 * 0.96, 20 / 25 * 0.885
        for key, grams in (("olive_oil", oil), ("beeswax_yellow", wax), ("lavender", scent)):
            self.assertAlmostEqual(shares[key], grams / (oil + wax + scent), places=3)
        self.assertIn("moonlight", formula.versions.get().note)

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
