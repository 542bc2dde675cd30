"""The first hour of somebody who makes balms: an empty workshop, at the desk and on a phone."""

import re
from collections.abc import Callable
from decimal import Decimal as D

from playwright.sync_api import Locator, expect

from balmcore.composition import Composition
from batches.models import Batch
from formulas.models import Formula
from pantry.models import Lot
from pours.models import Pour
from tests.support.browser import BrowserTestCase
from tests.support.makings import begin

RECIPE = """Slack Water hand balm
40 g beeswax, yellow
50 g shea butter, refined
110 g sunflower oil
10 drops lavender"""


class FirstHourTests(BrowserTestCase):
    reset_sequences = True

    def setUp(self) -> None:
        super().setUp()
        self.actions = 0

    def do(self, action: Callable[..., object], *words: str) -> None:
        """An action of a maker: a click, or a field filled in."""
        self.actions += 1
        action(*words)

    def click(self, name: str, role: str = "button") -> None:
        self.do(self.page.locator("#main").get_by_role(role, name=name, exact=True).first.click)  # type: ignore[arg-type]

    def test_from_the_text_of_a_recipe_to_a_labelled_tin(self) -> None:
        """Read, made a formula, planned, weighed, poured and labelled, in fewer than sixty actions."""
        self.go("/")
        self.click("Read a recipe you have", "link")
        self.do(self.page.locator("#text").fill, RECIPE)
        expect(self.page.locator("#id_name")).to_be_visible()
        self.do(self.page.locator("#id_name").fill, "Slack Water")
        self.click("To the studio")
        self.says("h1", "Slack Water")
        self.click("Batch", "link")
        self.says("h1", "Batch of Slack Water")
        self.click("Plan this batch")
        self.says("h1", "Batch 1")
        self.click("Weigh", "link")
        targets = {line.ingredient_key: line.target_g for line in Batch.objects.get().lines.all()}
        for key, grams in targets.items():
            self.do(self.page.locator(f"#actual-{key}").fill, f"{grams:.1f}")
        self.click("Poured")
        self.click("Write it down")
        self.says("h1", "Slack Water")
        pour = Pour.objects.get()
        self.click("Labels", "link")
        self.do(self.page.get_by_label("Who makes it").fill, "The net loft")
        self.do(self.page.locator("#id_address").fill, "Harbour 1")
        self.says("#main", "Slack Water")
        self.assertEqual(pour.batch.version.formula.name, "Slack Water")
        self.assertLessEqual(self.actions, 60)

    def test_a_sentence_opens_on_pointing_and_on_focus_and_decides_without_scrolling(self) -> None:
        """Marks and scales are read by pointer and by key; on a phone verdict, caution and first line come in this
        order, and the triangle before the curve."""
        shares = {"beeswax_yellow": D("0.2"), "olive_oil": D("0.77"), "lavender": D("0.03")}
        formula = begin("Reach", "pot_salve", Composition.of(shares))
        page = self.page
        self.go(f"/formulas/{formula.pk}/")
        for key in ("hold", "set", "clear", "pour", "skin", "rich", "sink", "shine", "cling"):
            with self.subTest(key):
                said = page.locator(f"[data-said='{key}']")
                expect(said).to_be_hidden()
                page.locator(f"[data-say='{key}']").focus()
                expect(said).to_be_visible()
        page.locator("[data-say='clear'] .named-name").hover()
        expect(page.locator("[data-said='clear']")).to_be_visible()
        for size in ({"width": 1280, "height": 800}, {"width": 390, "height": 844}):
            page.set_viewport_size(size)  # type: ignore[arg-type]
            box = {
                name: self.top(page.locator(name).first) for name in (".verdict", ".lines", ".map-box", ".curve-box")
            }
            caution = self.top(page.locator(".cautions-line" if size["width"] < 700 else ".cautions"))
            self.assertLess(max(box[".verdict"], caution), size["height"])
            if size["width"] < 700:
                order = [box[".verdict"], caution, box[".lines"], box[".map-box"], box[".curve-box"]]
                self.assertEqual(order, sorted(order))
            else:
                marks = page.locator(".named").last.bounding_box()
                assert marks
                self.assertLess(marks["y"] + marks["height"], size["height"])

    def top(self, locator: Locator) -> float:
        box = locator.bounding_box()
        assert box
        return box["y"]

    def test_lots_are_found_by_typing_and_received_by_keyboard(self) -> None:
        """A few letters of what is wanted and Enter; an INCI name; a choice is read where it was not finished."""
        page = self.page
        self.go("/pantry/receive")
        for row, (letters, name) in enumerate((("sunflower o", "Sunflower oil"), ("cera alba", "Beeswax, yellow"))):
            field = page.locator("[name=item]").nth(row)
            field.press_sequentially(letters)
            expect(page.locator(".pick").first).to_contain_text(name)
            field.press("Enter")
            expect(field).to_have_value(re.compile(name))
            page.locator("[name=amount]").nth(row).fill("500 g")
        page.locator("[name=supplier]").fill("Slipway")
        page.get_by_role("button", name="Put", exact=False).first.click()
        self.says(".done", "2 lots in stock.")
        self.assertEqual(set(Lot.objects.values_list("item_key", flat=True)), {"sunflower_oil", "beeswax_yellow"})

    def test_an_open_wish_stays_open_and_is_judged(self) -> None:
        formula = begin("Reach", "pot_salve")
        page = self.page
        self.go(f"/formulas/{formula.pk}/")
        page.locator("#meant").click()
        page.locator("[name=skin]").select_option("reactive")
        page.locator("[name=vegan]").check()
        self.says(".cautions", "Beeswax, yellow: not vegan")
        expect(page.locator("[name=season]")).to_be_visible()
        self.says("#why-no-batch", "save it first")
        page.get_by_role("button", name="Save version").click()
        self.says("#meant", "vegan, for reactive skin")
        self.assertEqual(Formula.objects.get().versions.count(), 2)
