"""From a batch to its labels, to people, to a recall; a formula into another workshop: in a real browser."""

import csv
import json
import re
import urllib.request

import pypdfium2
from django.utils import timezone
from playwright.sync_api import expect

from formulas.models import Formula
from pieces.models import Handout
from pours.models import Pour
from tests.support.browser import BrowserTestCase
from tests.support.net_loft import load
from workshop.models import Preferences


class HandingOutTests(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        load()
        # The whole walk in another writing: decimal commas, the day first, Letter paper.
        writing = {"paper": "letter", "decimal_mark": ",", "date_order": "day", "week_begins": 6}
        Preferences.objects.update_or_create(pk=1, defaults=writing)

    def test_from_a_pour_to_a_label_to_people_to_a_recall(self) -> None:
        """Neap Tide: a claim is answered, the sheet printed, tins given away, and called back by name."""
        page = self.page
        pour = Pour.objects.get(batch__version__formula__name="Neap Tide", verdict="keep")
        self.go(f"/pours/{pour.pk}/")
        page.locator("#main").get_by_role("link", name="Labels").click()
        self.says(".label-picture", "Neap Tide")
        page.get_by_label("Who makes it").fill("The net loft")
        page.get_by_label("How to use it").fill("Cures chapped hands")
        page.get_by_label("How to use it").press("Tab")
        self.says(".label-columns", "“Cures” promises to treat. Instead: for dry, rough skin.")
        page.get_by_label("How to use it").fill("Rub a little into chapped hands")
        page.get_by_label("How to use it").press("Tab")
        expect(page.get_by_text("promises to cure")).to_have_count(0)
        self.says(".label-picture", "The net loft")
        page.get_by_label("Width, mm").fill("50,5")
        page.get_by_label("Height, mm").fill("50,5")
        page.get_by_label("Height, mm").press("Tab")
        self.says(".label-ruler", "50,5 × 50,5 mm")
        with page.context.expect_page() as opened:
            page.get_by_role("button", name="Print 6").click()
        address = opened.value.url
        pdf = pypdfium2.PdfDocument(urllib.request.urlopen(address).read())
        self.assertAlmostEqual(pdf[0].get_height(), 792, delta=0.1)  # Letter
        printed = pdf[0].get_textpage().get_text_range()
        self.assertEqual(printed.count("Tide"), 6)
        self.assertIn(f"made {pour.poured_on.day} {pour.poured_on:%b %Y}", printed)
        self.assertRegex(printed, r"\d g / 0,\d\d oz|\d g / 1,\d\d oz")
        opened.value.close()
        self.complaints.clear()  # a browser without a viewer says that it has none

        self.go(f"/labels/{pour.pk}/pieces")
        page.get_by_label("How many").fill("2")
        page.get_by_label("To whom").fill("Allotment 4")
        page.get_by_label("How to reach them").fill("the bench by the gate")
        page.locator(".day-open").click()
        expect(page.locator("#month th").first).to_have_text("Su")
        page.locator("#month [aria-current=date]").click()
        expect(page.locator("#on")).to_have_value(f"{timezone.localdate():%d/%m/%Y}")
        expect(page.locator("#on")).to_be_focused()
        page.get_by_role("button", name="Write it down").click()
        self.says(".pieces-left", "4 left of 6")
        page.get_by_label("How many").fill("9")
        page.get_by_role("button", name="Write it down").click()
        self.says("#hand-out", "Only 4 are left of 6.")
        self.refused()
        page.get_by_role("link", name="Recall this batch").click()
        self.says("main", "6 pieces in 1 pour: 4 still here.")
        self.says("main", "the bench by the gate")
        self.assertEqual(str(Handout.objects.get().person), "Allotment 4")

    def test_the_curve_as_a_list_in_ones_own_writing(self) -> None:
        """Columns parted by semicolons, decimals with commas, as many in each row."""
        self.go(f"/formulas/{Formula.objects.get(name='Neap Tide').pk}/")
        with self.page.expect_download() as taken:
            self.page.get_by_role("button", name="CSV").click()
        rows = list(csv.reader(taken.value.path().read_text().splitlines(), delimiter=";"))
        self.assertGreater(len(rows), 10)
        self.assertEqual(len({len(row) for row in rows}), 1)
        self.assertTrue(all(re.fullmatch(r"\d+,\d", row[-1]) for row in rows[1:]), rows[:3])

    def test_a_formula_goes_to_another_workshop(self) -> None:
        """Its file, as the versions' page hands it on, is looked at and taken into a workshop that has it no more."""
        page = self.page
        formula = Formula.objects.get(name="Land Breeze")
        self.go(f"/formulas/{formula.pk}/versions")
        with page.expect_download() as taken:
            page.get_by_role("link", name="Hand on").first.click()
        path = taken.value.path()
        self.assertEqual(json.loads(path.read_text())["name"], "Land Breeze")
        Formula.objects.filter(pk=formula.pk).update(name="Sea Breeze")
        self.go("/formulas/read-file")
        page.get_by_label("The file").set_input_files(path)
        page.get_by_role("button", name="Look at it").click()
        self.says("[aria-label='What it brings']", "Land Breeze")
        page.get_by_role("button", name="Take it into your formulas").click()
        self.says("main", "Land Breeze")
        made = Formula.objects.get(name="Land Breeze").versions.get()
        self.assertEqual(
            {line.ingredient_key: line.share for line in made.lines.all()},
            {line.ingredient_key: line.share for line in formula.versions.get(is_current=True).lines.all()},
        )
