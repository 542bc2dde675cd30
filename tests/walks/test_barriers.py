"""Every screen for other eyes, and on other screens."""

import json
from decimal import Decimal as D
from typing import Literal

from playwright.sync_api import Page, expect

from formulas.models import Version
from learning.models import LadderTest
from tests.support.browser import BrowserTestCase
from tests.support.makings import begin
from tests.support.net_loft import load

# Everything in light, and in the dark the contrasts.
SCHEMES: tuple[tuple[Literal["dark", "light"], list[str]], ...] = (
    ("dark", ["color-contrast"]),
    ("light", ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa", "best-practice"]),
)


class BarrierTests(BrowserTestCase):
    reset_sequences = True

    def setUp(self) -> None:
        super().setUp()
        load()

    def barriers(self, page: Page) -> list[str]:
        """What is serious of the page in light, and of its contrasts in the dark."""
        if not page.evaluate("'axe' in window"):
            page.add_script_tag(url=f"{self.live_server_url}/static/axe-core/axe.min.js")
        said = []
        for scheme, rules in SCHEMES:
            page.emulate_media(color_scheme=scheme)
            page.wait_for_function("scheme => document.documentElement.dataset.bsTheme === scheme", arg=scheme)
            asked = {"resultTypes": ["violations"], "runOnly": rules}
            found = page.evaluate("asked => axe.run(asked).then(found => found.violations)", asked)
            said += [
                f"{scheme}, {one['id']}: {json.dumps([node['html'][:120] for node in one['nodes'][:2]])}"
                for one in found
                if one["impact"] in ("serious", "critical")
            ]
        return said

    def test_no_screen_has_a_serious_barrier_in_light_or_dark(self) -> None:
        """Every screen of the demo, with a caution at stop and a bad field, by axe-core; in the dark its contrasts.
        All scroll one way only, on a phone too."""
        formula = begin("Skerry", "lip_balm_tube")
        cups = {"ingredient_key": "beeswax_yellow", "low": D("0.1"), "high": D("0.2"), "count": 5, "cup_g": 20}
        ladder = LadderTest.objects.create(version=Version.objects.current().get(formula__name="Neap Tide"), **cups)
        paths = ["/", "/formulas/", "/formulas/new", "/formulas/2/", "/formulas/2/versions", f"/formulas/{formula.pk}/",
                 "/batches/", "/batches/plan?version=5", "/batches/5/", "/bench/5/weigh", "/pours/", "/pours/4/",
                 "/pours/of/5", "/formulas/read", "/formulas/2/compare?v=5&v=4&v=2", "/batches/ladder?version=5", "/pantry/", "/settings/", "/nowhere",
                 "/batches/5/method", "/batches/shopping?batch=5", "/pantry/lots/1/", "/pantry/ingredients",
                 "/pantry/containers", "/pantry/preparations", "/pantry/preparations/1/finish",
                 "/pantry/ingredients/shea_butter_refined", "/pours/from-lot/1",
                 "/bench/13/", "/bench/13/?step=test", "/bench/13/?step=fill:0", "/pours/learned", "/settings/phones",
                 "/settings/instruments/", "/door", "/pours/4/check", "/pours/4/wear", "/pours/4/card", "/pours/reactions",
                 "/pours/compare?pour=1&pour=3&pour=5", "/pours/1/", f"/pours/ladder/{ladder.pk}", "/labels/4/", "/labels/4/pieces",
                 "/labels/people", "/labels/recall/lot/1", "/settings/backups/", "/formulas/read-file",
                 "/formulas/2/v1/card", "/formulas/from-pantry", "/labels/", "/labels/stall", "/formulas/example",
                 "/bench/example", "/labels/people/1/", "/due", "/find?q=7", "/pantry/count", "/pantry/receive",
                 "/pours/notebook", "/batches/day",
                 "/pantry/orders", "/labels/market", "/labels/several?pour=1&pour=3", "/pours/year/2", "/pours/1/shown"]  # fmt: skip
        page = self.new_page(axe=True, reduced_motion="reduce")  # colours change at once
        for path in paths:
            with self.subTest(path=path):
                self.go(path, page)
                if path == "/formulas/2/":
                    page.locator("#percent-lavender").fill("lots")
                    expect(page.locator("#said-lavender")).to_be_visible()
                if path == "/formulas/read":
                    page.locator("#text").fill("8 oz olive oil\n1 cup beeswax\n2 g moonlight")
                    expect(page.locator(".doubt-asks").first).to_be_visible()
                self.assertEqual((self.barriers(page), self.too_wide(page)), ([], []))
                if path == f"/formulas/{formula.pk}/":
                    for tool in ("Ask for a firmness", "Swap an ingredient"):
                        page.get_by_role("button", name=tool).click()
                        expect(page.locator(f".tool[aria-label='{tool}'] .offer").first).to_be_visible()
                        self.assertEqual(self.barriers(page), [], tool)
                page.evaluate("document.querySelectorAll('form').forEach(f => f.dataset.changed = 'no')")
        page.context.close()
        self.complaints = [said for said in self.complaints if "404" not in said]
