"""Every page in the writing of another maker: decimal commas, months first, weeks from Sunday, Letter paper."""

import csv
import io
import re

from django.test import TestCase, tag
from openpyxl import load_workbook

from formulas.models import Formula
from learning.models import LadderTest
from pantry.models import Lot
from pantry.tables import workshop_tables
from pours.models import Pour
from tests.support.net_loft import YEAR, load
from tests.support.pages import form_data, walk
from workshop.models import Preferences

TEXTS = re.compile(r"<(script|style|textarea|code)\b.*?</\1>|<[^>]*>", re.DOTALL)
FIELDS = re.compile(r"<input(?![^>]*type=.(?:hidden|checkbox|radio))[^>]*\bvalue=\"([^\"]*)\"")
TOLD = re.compile(r"\b(?:title|aria-label|placeholder)=\"([^\"]*)\"")
POINT = re.compile(r"(?<![\w.])\d+\.\d+(?![\w.])")
DAY_FIRST = re.compile(r"\b\d{1,2} (?:[JFMASOND][a-z]{2,8}) 20\d\d\b|\b\d{1,2}/\d{2}/20\d\d\b")


class WaysOfWritingTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load(YEAR)
        Preferences.objects.update_or_create(
            pk=1, defaults={"decimal_mark": ",", "date_order": "month", "week_begins": 6, "paper": "letter"}
        )

    @tag("slow")
    def test_no_page_forgets_the_mark_or_the_order(self) -> None:
        """As far as links lead from the first page: no number with a point, no day before its month."""
        pages = walk(self.client)
        self.assertGreater(len(pages), 45)
        for address, page in pages.items():
            page = page.replace("Point: 12.5", "").replace("Day: 31 May 2026", "")  # the choices in Settings
            told = [TEXTS.sub(" ", page), *FIELDS.findall(page), *TOLD.findall(page)]
            with self.subTest(address):
                self.assertEqual(POINT.findall(" ".join(told)), [])
                self.assertEqual([day for day in DAY_FIRST.findall(" ".join(told)) if not _month_first(day)], [])

    def test_lists_for_a_spreadsheet(self) -> None:
        """A list parts its columns with semicolons, writes commas and months first; a workbook keeps numbers and days
        as such, and shows the days in that order."""
        pour = Pour.objects.latest("poured_on", "pk")
        text = self.client.get("/pours/list.csv").getvalue().decode("utf-8-sig")
        rows = list(csv.reader(io.StringIO(text), delimiter=";"))
        self.assertEqual(len({len(row) for row in rows}), 1)
        self.assertIn(f"{pour.poured_on:%m/%d/%Y}", rows[1])
        self.assertEqual(POINT.findall(" ".join(";".join(row) for row in rows[1:] if "Undertow" in row)), [])
        book = load_workbook(io.BytesIO(self.client.get("/pours/list.xlsx").content)).active
        days = [cell for row in book.iter_rows(min_row=2) for cell in row if cell.is_date]
        self.assertEqual({cell.number_format for cell in days}, {"mm/dd/yyyy"})

    def test_what_is_typed_is_read_in_that_writing(self) -> None:
        """12,345 is twelve and a bit; 12.345 might be twelve thousand and is refused; 5/6 is the sixth of May."""
        lot = {"item": "olive_oil", "amount": "12.345 g", "bought": "5/6/2026", "price": "2,50", "vessel": ""}
        self.assertContains(self.client.post("/pantry/", lot), "can be read in two ways", status_code=400)
        self.client.post("/pantry/", {**lot, "amount": "12,345 g"})
        made = Lot.objects.latest("pk")
        self.assertEqual((float(made.received), str(made.bought), str(made.price)), (12.345, "2026-05-06", "2.50"))

    def test_what_is_shown_can_be_sent_back_as_it_is(self) -> None:
        """Settings, a studio, a plan and a pour, sent just as they were shown: nothing has moved, nothing is refused."""
        Preferences.objects.update(mass_unit="oz", temp_unit="F", resolution_g="1.417476", label_price="0.25")
        before = Preferences.objects.values().get()
        self.assertRedirects(
            self.client.post("/settings/", form_data(self.client.get("/settings/"), "settings-form")), "/settings/"
        )
        self.assertEqual(Preferences.objects.values().get(), before)
        formula = Formula.objects.get(name="Undertow")
        path = formula.get_absolute_url()
        answer = self.client.post(f"{path}try", form_data(self.client.get(path), "studio")).context["answer"]
        self.assertEqual((answer.changed, answer.waiting, answer.total), (False, "", "100,00"))
        version = formula.versions.get(is_current=True)
        shown = self.client.get(f"/batches/plan?version={version.pk}")
        self.assertEqual(shown.context["planning"].problems, {})
        again = self.client.post("/batches/plan", form_data(shown, "plan")).context["planning"]
        self.assertEqual(again.problems, {})
        self.assertEqual(again.scaled.total_g, shown.context["planning"].scaled.total_g)
        pour = Pour.objects.filter(batch__version__formula=formula).latest("pk")
        stored = (
            Pour.objects.filter(pk=pour.pk).values("poured_on", "room_c", "leftover_g", "notes", "best_before").get()
        )
        page = self.client.get(f"/pours/{pour.pk}/")
        self.assertEqual(self.client.post(f"/pours/{pour.pk}/", form_data(page, "pour-form")).status_code, 302)
        kept = Pour.objects.filter(pk=pour.pk).values(*stored).get()
        self.assertEqual(kept, stored)
        kind = workshop_tables().kind("lip_balm_tube")
        page = self.client.get(f"/settings/kinds/{kind.key}")
        self.assertContains(page, "100,4 °F")
        self.client.post(f"/settings/kinds/{kind.key}", form_data(page, "kind"))
        self.assertEqual(workshop_tables().kind(kind.key), kind)
        test = LadderTest.objects.get()
        cups = list(test.cups.order_by("number").values_list("readings", "rod_mm", "test_c"))
        self.assertNotEqual(cups, [])
        page = self.client.get(f"/pours/ladder/{test.pk}")
        self.assertEqual(self.client.post(f"/pours/ladder/{test.pk}", form_data(page, "cups")).status_code, 302)
        self.assertEqual(list(test.cups.order_by("number").values_list("readings", "rod_mm", "test_c")), cups)

    def test_a_month_to_choose_from(self) -> None:
        """Weeks begin on Sunday; the day typed is chosen, whatever hour stands behind it; nonsense shows this month."""
        page = self.client.get("/settings/month?name=moment&moment=5/6/2026+09:30")
        self.assertContains(page, "May 2026")
        self.assertEqual([day.day for day in page.context["month"].weekdays], [26, 27, 28, 29, 30, 1, 2])
        self.assertContains(page, 'data-day="05/06/2026" aria-label="May 6, 2026"')
        self.assertContains(page, 'aria-pressed="true"', count=1)
        for month, before, after in (("2026-01", "2025-12", "2026-02"), ("2026-12", "2026-11", "2027-01")):
            turned = self.client.get(f"/settings/month?name=on&month={month}&on=5/6/2026")
            self.assertContains(turned, f"month={before}&amp;on=5/6/2026")
            self.assertContains(turned, f"month={after}&amp;on=5/6/2026")
        for asked in ("month=2026-13", "month=9999-12", "name=x&x=soon", ""):
            with self.subTest(asked):
                self.assertContains(self.client.get(f"/settings/month?{asked}"), "data-day=")


def _month_first(day: str) -> bool:
    return "/" in day and int(day.split("/")[0]) <= 12
