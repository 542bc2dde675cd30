"""The keyboard alone, and fast hands."""

import re
from datetime import timedelta
from decimal import Decimal as D
from unittest.mock import patch

from django.utils import timezone
from playwright.sync_api import expect

from balmcore.composition import Composition
from balmcore.making.scaling import Filling
from balmcore.tables import shipped
from batches.batch_plan import BatchPlan
from batches.models import Batch
from batches.services import plan_batch
from formulas.models import Formula
from pieces.models import Handout
from pours.models import Pour
from tests.support.browser import BrowserTestCase, Questions
from tests.support.makings import begin
from tests.support.net_loft import load


class KeyboardTests(BrowserTestCase):
    def test_the_path_of_a_balm_without_a_mouse(self) -> None:
        """Begin, nudge, add by INCI, save, plan, weigh, pour, thumb grade: keys only."""
        page, keys = self.page, self.page.keyboard
        self.go("/")
        self.tab_to("a[href$=soft_salve]")
        keys.press("Enter")
        expect(page.get_by_label("Name")).to_be_focused()
        keys.type("Cable")
        keys.press("Enter")
        self.says("#firmness", "39")
        self.tab_to("#percent-beeswax_yellow")
        for key in ("ArrowUp", "ArrowUp", "Shift+ArrowUp", "PageUp", "PageDown"):
            keys.press(key)
        expect(page.locator("#percent-beeswax_yellow")).to_have_value("13.70")
        self.says("#total", "100.00 %")
        self.says("#firmness", "40")
        # Held down: thirty steps of a tenth, none lost.
        for _ in range(30):
            keys.press("ArrowDown")
        expect(page.locator("#percent-beeswax_yellow")).to_have_value("10.70")
        keys.press("Enter")
        expect(page.locator("#percent-olive_oil")).to_be_focused()
        self.tab_to("#pick")
        keys.type("simmondsia")
        expect(page.locator(".pick:only-child")).to_contain_text("Jojoba oil")
        keys.press("Enter")
        expect(page.locator("#percent-jojoba_oil")).to_be_focused()
        keys.type("20")
        expect(page.locator(".group-input[name=group-oil]")).to_have_value("91.03")
        page.locator("#percent-jojoba_oil").evaluate("element => element.blur()")
        keys.press("?")
        self.says("#keys", "0.5 % more or less")
        keys.press("Escape")
        page.locator("#note").focus()
        keys.type("softer")
        keys.press("Enter")
        self.says(".done", "Saved as version 2.")
        self.tab_to("#to-batch")
        keys.press("Enter")
        page.wait_for_url("**/batches/plan*")
        self.tab_to("[name=save]")
        keys.press("Enter")
        page.wait_for_url("**/batches/*/")
        self.tab_to("a[href$=weigh]")
        keys.press("Enter")
        page.wait_for_url("**/weigh")
        for line in Batch.objects.get().lines.all():
            self.tab_to(f"#actual-{line.ingredient_key}")
            keys.type(str(line.target_g.normalize()))
        self.tab_to("#to-pour")
        self.says("#moved", "as planned")
        self.says(".bench-side", "All weighed")
        keys.press("Enter")
        page.wait_for_url("**/pours/of/*")
        self.tab_to("#id_notes")
        self.tab_to("[form=pour-form]")
        keys.press("Enter")
        page.wait_for_url(re.compile(r"/pours/\d+/$"))
        self.tab_to("a[href$=check]")
        keys.press("Enter")
        page.wait_for_url("**/check")
        self.tab_to("[name=method]")
        keys.press("ArrowRight")
        keys.press("ArrowRight")
        self.tab_to("[name=thumb]")
        keys.press("ArrowRight")
        keys.press("ArrowRight")
        self.tab_to("[name=test_c]")
        keys.type("20")
        keys.press("Enter")
        self.says("#compared", "9 points firmer than predicted: within what the model can promise.")
        self.assertEqual(Pour.objects.get().checks.get().measured, 35)


class PiecesByKeysTests(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        load()

    def test_pieces_are_given_and_a_day_is_chosen_without_a_mouse(self) -> None:
        """From the list of what is left to the account; a day from the month beside its field: the dialog takes the
        focus, Escape gives it back, a chosen day stands in the field and the field has the focus again."""
        page, keys = self.page, self.page.keyboard

        pour = Pour.objects.get(batch__version__formula__name="Neap Tide", verdict="keep")
        self.go("/labels/")
        self.tab_to(f"a[href='/labels/{pour.pk}/pieces']")
        keys.press("Enter")
        expect(page.locator("#hand-out")).to_be_visible()
        self.tab_to("#to")
        keys.type("The ferry's mate")
        self.tab_to(".day-open")
        keys.press("Enter")
        expect(page.locator("#month")).to_be_visible()
        self.assertTrue(page.evaluate("document.getElementById('month').contains(document.activeElement)"))
        keys.press("Escape")
        expect(page.locator("#month")).to_be_hidden()
        self.assertTrue(page.evaluate("document.activeElement.matches('.day-open')"))
        keys.press("Enter")
        self.tab_to("#month button[aria-label='The month before']")
        keys.press("Enter")
        before = timezone.localdate().replace(day=1) - timedelta(days=1)
        expect(page.locator("#month-title")).to_have_text(f"{before:%B %Y}")
        self.tab_to(f"#month [data-day='{before:%d/%m/%Y}']")
        keys.press("Enter")
        expect(page.locator("#on")).to_have_value(f"{before:%d/%m/%Y}")
        expect(page.locator("#on")).to_be_focused()
        self.tab_to("#hand-out .btn-ink")
        keys.press("Enter")
        self.says(".pieces-left", "5 left of 6")
        handout = Handout.objects.get()
        self.assertEqual((handout.on, str(handout.person)), (before, "The ferry's mate"))


class HandsTests(BrowserTestCase):
    reset_sequences = True

    def setUp(self) -> None:
        super().setUp()
        load()

    def test_typing_faster_than_the_server_answers_loses_nothing(self) -> None:
        """With every answer held back half a second, three fields typed in a row, Enter to the next, all stand."""
        batch = Batch.objects.filter(pours=None, version__formula__name="Neap Tide").get()
        self.go(f"/bench/{batch.pk}/weigh")
        slow = {"offline": False, "latency": 500, "downloadThroughput": -1, "uploadThroughput": -1}
        self.page.context.new_cdp_session(self.page).send("Network.emulateNetworkConditions", slow)
        for key, grams in (
            ("beeswax_yellow", "34.5"),
            ("shea_butter_refined", "46,8"),
            ("coconut_oil_refined", "16.0 + 0.2"),
        ):
            if key == "beeswax_yellow":
                self.page.locator(f"#actual-{key}").focus()
            expect(self.page.locator(f"#actual-{key}")).to_be_focused()
            self.page.keyboard.type(grams)
            self.page.keyboard.press("Enter")
        self.says("#weighed", "97.5 g")
        self.says("#row-shea_butter_refined .bench-gap", "+0.7")
        self.assertEqual(float(sum(line.actual_g or 0 for line in batch.lines.all())), 97.5)

    def type_three_weights(self, third: str) -> Questions:
        """Type two weights and (some of) a third before the answer to the first; the question about the second waits
        for it, and comes."""
        batch = Batch.objects.filter(pours=None, version__formula__name="Neap Tide").get()
        self.go(f"/bench/{batch.pk}/weigh")
        questions = Questions(self.page, "**/weigh")
        self.page.locator("#actual-beeswax_yellow").focus()
        for grams in ("34.5", "46"):
            self.page.keyboard.type(grams)
            self.page.keyboard.press("Enter")
        expect(self.page.locator("#actual-coconut_oil_refined")).to_be_focused()
        self.page.keyboard.type(third)
        questions.answer()
        questions.wait()
        return questions

    def test_half_a_weight_is_neither_written_down_nor_overwritten(self) -> None:
        questions = self.type_three_weights("1")
        questions.answer()
        self.says("#weighed", "80.5 g")
        expect(self.page.locator("#actual-coconut_oil_refined")).to_have_value("1")
        self.page.keyboard.type("6.2")
        self.page.keyboard.press("Enter")
        questions.answer()
        self.says("#weighed", "96.7 g")

    def test_a_weight_left_before_the_answer_to_the_one_before_it_stands(self) -> None:
        questions = self.type_three_weights("16.2")
        self.page.keyboard.press("Enter")
        questions.answer()
        questions.answer()
        self.says("#weighed", "96.7 g")

    def test_an_answer_in_the_studio_leaves_what_was_typed_since_it_was_asked(self) -> None:
        """The figures of 12,5 come while 20 is being typed: 20 stands, and its figures follow."""
        self.go(f"/formulas/{Formula.objects.get(name='Neap Tide').pk}/")
        questions = Questions(self.page, "**/try")
        wax = self.page.locator("#percent-beeswax_yellow")
        wax.fill("12,5")
        questions.wait()
        wax.fill("20")
        questions.answer()
        self.says("#firmness", "47")
        expect(wax).to_have_value("20")
        questions.answer()
        self.says("#firmness", "58")
        expect(wax).to_have_value("20")

    def test_what_was_found_stays_while_an_older_answer_comes(self) -> None:
        """Peppermint is found while the figures of 12,5 are on their way: it stands there when they come, and is added."""
        self.go(f"/formulas/{Formula.objects.get(name='Neap Tide').pk}/")
        questions = Questions(self.page, "**/try")
        self.page.locator("#percent-beeswax_yellow").fill("12,5")
        questions.wait()
        self.page.locator("#pick").fill("mentha pip")
        found = self.page.get_by_role("button", name="Peppermint")
        expect(found).to_be_visible()
        questions.answer()
        self.says("#firmness", "47")
        expect(found).to_be_visible()
        found.click()
        questions.answer()
        expect(self.page.locator("#percent-peppermint")).to_be_focused()
        expect(self.page.locator("#picked")).to_be_empty()
        expect(self.page.locator("#pick")).to_have_value("")

    def test_what_is_typed_and_taken_at_once_is_what_is_added(self) -> None:
        """Enter before the list for “jojoba” is there: not the first of the list for “sh”, and not nothing."""
        self.go(f"/formulas/{Formula.objects.get(name='Neap Tide').pk}/")
        questions = Questions(self.page, "**/pick?*")
        pick = self.page.locator("#pick")
        pick.press_sequentially("sh")
        questions.answer()
        expect(self.page.locator(".pick").first).to_contain_text("Shea butter")
        pick.fill("jojoba")
        pick.press("Enter")
        questions.answer()
        expect(self.page.locator("#percent-jojoba_oil")).to_be_focused()
        expect(self.page.locator(".line-row")).to_have_count(7)

    def test_what_does_not_fit_into_a_field_is_said(self) -> None:
        """Three hundred letters, copied and put behind themselves: a hundred are left out, until one is taken back."""
        self.go(f"/formulas/{Formula.objects.get(name='Neap Tide').pk}/")
        note = self.page.locator("#note")
        note.fill("softer " * 42 + "at sea")
        for key in ("Control+A", "Control+C", "End", "Control+V"):
            note.press(key)
        self.says("#note + .said", "Only 500 letters fit in here: 100 more were left out.")
        self.assertEqual(len(note.input_value()), 500)
        note.press("Backspace")
        expect(self.page.locator(".said-cut")).to_have_count(0)

    def test_a_fault_of_ours_is_not_called_silence_and_the_form_stays(self) -> None:
        """A 500 while planning: said in its place, beside everything that was typed; mended, it goes on."""
        self.go(f"/batches/plan?version={Formula.objects.get(name='Neap Tide').versions.latest('pk').pk}")
        with (
            patch("batches.forms.computing.planned", side_effect=StopIteration),
            self.assertLogs("django.request", "ERROR"),
        ):
            self.page.locator("#count-0").fill("7")
            self.says("#refused", "Something in Calm Tin itself went wrong")
        expect(self.page.locator("#lost")).to_be_hidden()
        expect(self.page.locator("#count-0")).to_have_value("7")
        self.page.locator("#fill-0").fill("80 %")
        expect(self.page.locator("#refused")).to_be_empty()
        self.assertEqual(len(self.complaints), 1)  # the browser says that there was a 500
        self.complaints.clear()

    def test_the_dot_is_dragged_and_the_numbers_follow_the_hand(self) -> None:
        """Dragged towards wax the balm turns to a bar, in one piece, and a key moves it on by one percent."""
        self.go(f"/formulas/{Formula.objects.get(name='Neap Tide').pk}/")
        mouse, box = self.page.mouse, self.box("#map-dot")
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        mouse.move(x, y)
        mouse.down()
        for step in range(1, 21):
            mouse.move(x - 2 * step, y - 6 * step)
        at = self.box("#map-dot")
        self.assertAlmostEqual(at["x"] + at["width"] / 2, x - 40, delta=1.5)
        mouse.up()
        self.says("#word", "bar")
        self.says("#total", "100.00 %")
        expect(self.page.locator("#map-land .land")).to_have_count(8)
        # 120 pixels up the map's rise, from 17 of 99 percent wax: where the hand let go.
        rise = 349.87 * self.box("#map")["width"] / 440
        wax = 99 * (17 / 99 + 120 / rise)
        self.page.wait_for_function(
            "wax => Math.abs(document.getElementById('percent-beeswax_yellow').value - wax) < 0.4", arg=wax
        )
        expect(self.page.locator("#percent-lavender")).to_have_value("0.50")
        expect(self.page.locator("#map-pad")).to_be_focused()
        before = float(self.page.locator("#percent-beeswax_yellow").input_value())
        self.page.keyboard.press("ArrowDown")
        expect(self.page.locator("#percent-beeswax_yellow")).to_have_value(f"{before - 0.99:.2f}")
        expect(self.page.locator("#map-pad")).to_be_focused()
        # The country stood while the dot moved in it; with harder butters it is another.
        border = self.page.locator("#map-land .land-3").get_attribute("d")
        self.page.locator("#percent-shea_butter_refined").fill("9")
        expect(self.page.locator("#map-land .land-3")).not_to_have_attribute("d", border or "")

    def test_an_offer_is_left_and_another_is_taken(self) -> None:
        """The stick that was offered goes when its tool is closed; the swap that is taken stands."""
        self.go(f"/formulas/{Formula.objects.get(name='Neap Tide').pk}/")
        self.page.get_by_role("button", name="Ask for a firmness").click()
        self.page.get_by_label("As a").select_option("lip_balm_tube")
        self.says(".tool-sentence", "Reached: 72 at 21 °C")
        expect(self.page.locator(".curve .other")).to_have_count(3)
        self.page.get_by_role("button", name="Close").first.click()
        expect(self.page.locator(".tool")).to_have_count(0)
        self.says("#firmness", "54")
        self.page.keyboard.press("s")
        put_in = self.page.locator("[name=swap_in]")
        put_in.fill("candel")
        expect(self.page.locator(".tool .pick")).to_have_count(1)
        put_in.press("Enter")
        self.says(".tool-sentence", "74 % of the weight")
        self.page.get_by_role("button", name="Take this: Matched").click()
        expect(self.page.locator("#percent-candelilla_wax")).to_have_value("12.64")
        expect(self.page.locator("#line-beeswax_yellow")).to_have_count(0)
        expect(self.page.locator("#unsaved")).to_be_visible()

    def test_a_second_tab_saving_over_the_first_is_told(self) -> None:
        """The later tab keeps what it typed and saves beside the other."""
        neap = Formula.objects.get(name="Neap Tide")
        other = self.page.context.new_page()
        for page in (self.page, other):
            self.go(f"/formulas/{neap.pk}/", page)
        for page, wax in ((self.page, "18"), (other, "16")):
            page.locator("#percent-beeswax_yellow").fill(wax)
            expect(page.locator("#unsaved")).to_be_visible()
            page.locator("#save").click()
        expect(other.locator(".notice[role=alert]").last).to_contain_text("Version 4 was saved in another tab")
        expect(other.locator("#percent-beeswax_yellow")).to_have_value("16")
        other.get_by_role("button", name="Keep both").click()
        expect(other.locator(".done")).to_contain_text("Saved as version 5.")
        shares = [float(v.lines.get(ingredient_key="beeswax_yellow").share) for v in neap.versions.all()[:2]]
        self.assertEqual(shares, [0.16, 0.18])
        self.complaints = [said for said in self.complaints if "409" not in said]

    def test_the_studio_shows_twelve_lines_picture_and_verdict_without_scrolling(self) -> None:
        """At 1280 x 800 with twelve lines nothing of the studio lies below the fold."""
        formula = Formula.objects.get(name="Westerly")
        self.go(f"/formulas/{formula.pk}/")
        for number, key in enumerate(
            ("Shea butter, refined", "Jojoba oil", "Candelilla wax", "Olive oil", "Arrowroot"), 8
        ):
            self.page.locator("#pick").fill(key)
            self.page.locator(".pick").first.click()
            expect(self.page.locator(".line-row")).to_have_count(number)
        for selector in (".lines", ".verdict", ".curve-box", ".map-box", "#total", ".cautions"):
            box = self.box(selector)
            self.assertLessEqual(box["y"] + box["height"], 800, selector)
        self.assertEqual(self.too_wide(self.page), [])

    def test_the_weigh_sheet_prints_on_one_page(self) -> None:
        """Fifteen lines, three of them flagged, on A4 and on Letter: one page each."""
        keys = ["beeswax_yellow", "candelilla_wax", "rice_bran_wax", "cocoa_butter", "shea_butter", "mango_butter",
                "kokum_butter", "coconut_oil", "olive_oil", "castor_oil", "jojoba_oil", "arrowroot"]  # fmt: skip
        parts = dict.fromkeys(keys, D("0.08"))
        parts |= {"vitamin_e_oil": D("0.01"), "lavender": D("0.01"), "mandarin": D("0.02")}
        version = begin("Skerry", "hand_balm", Composition.of(parts)).versions.get()
        tin = [Filling("tin_screw_30", 31, 0.9, 2)]
        known = shipped().containers
        composition = Composition.of(parts)
        chosen = BatchPlan(tin, known, 60, D("0.1"), D(3), 0, known["jug_pouring_250"])
        batch = plan_batch(
            version, composition, chosen, chosen.scaled(composition), override_reason="To see how it prints."
        )
        self.go(f"/batches/{batch.pk}/")
        for paper in ("A4", "Letter"):
            sheet = self.page.pdf(format=paper)
            self.assertEqual(sheet.count(b"/Type /Page\n") + sheet.count(b"/Type /Page "), 1, paper)
