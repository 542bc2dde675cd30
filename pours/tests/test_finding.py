"""Finding pours again: filters, looks, lists for a spreadsheet; pours side by side."""

import csv
from datetime import timedelta
from io import BytesIO, StringIO

from django.test import TestCase
from openpyxl import load_workbook

from formulas.models import Formula
from pours.models import Pour, SavedFilter
from tests.support.makings import begin
from tests.support.net_loft import load
from workshop.models import Preferences


class FindingTestCase(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    def names(self, query: str) -> list[str]:
        return [str(card.version) for card in self.client.get(f"/pours/?{query}").context["log"].cards]


class FilterTests(FindingTestCase):
    def test_by_what_a_maker_remembers(self) -> None:
        """Words of checks and wearers, ingredient with its share, firmness, days; nonsense is said and narrows nothing."""
        for query, names in (
            ("q=beads+noon", ["Westerly v1"]),
            ("q=wheelhouse", ["Westerly v2"]),
            ("ingredient=candelilla_wax", ["Nor'easter v1"]),
            ("ingredient=beeswax_yellow&share_low=16&share_high=30", ["Spring Tide v2", "Neap Tide v2"]),
            ("firm_low=80", ["Spring Tide v2", "Spring Tide v1"]),
            ("firm_high=33", ["Slack Water v1"]),
            ("finish=lavender", []),
            (f"since={Pour.objects.first().poured_on}", ["Slack Water v2"]),
        ):
            with self.subTest(query):
                self.assertEqual(self.names(query), names)
        page = self.client.get("/pours/?share_low=many&since=spring&firm_low=soft")
        self.assertContains(page, "“spring” is no day: write it like 31/05/2026 or 31 May 2026. It narrows nothing.")
        self.assertContains(page, "“many”")
        self.assertEqual(len(page.context["log"].cards), 10)

    def test_a_look_is_kept_by_its_name(self) -> None:
        """Kept, opened, moved, taken away; without a name or a filter it is refused."""
        for name, query, said in (
            ("", "q=sand", "Give the look a name."),
            ("All", "page=2&x=1", "Narrow the log first"),
        ):
            self.assertContains(self.client.post("/pours/filters", {"name": name, "query": query}, follow=True), said)
        page = self.client.post("/pours/filters", {"name": "Firm bars", "query": "firm_low=80&page=3"}, follow=True)
        self.assertContains(page, "?firm_low=80")
        self.assertEqual(len(page.context["log"].cards), 2)
        self.client.post("/pours/filters", {"name": "Firm bars", "query": "firm_low=85"})
        look = SavedFilter.objects.get()
        self.assertEqual(look.query, "firm_low=85")
        self.client.post(f"/pours/filters/{look.pk}/forget")
        self.assertFalse(SavedFilter.objects.exists())


class ListTests(FindingTestCase):
    def test_lists_for_a_spreadsheet(self) -> None:
        """The rows of the log as it is narrowed, in the maker's units; what begins like a formula is text."""
        pour = Pour.objects.get(batch__version__formula__name="Neap Tide", verdict="keep")
        Pour.objects.filter(pk=pour.pk).update(notes='=HYPERLINK("x")')
        answer = self.client.get("/pours/list.csv?q=HYPERLINK")
        rows = list(csv.DictReader(StringIO(answer.getvalue().decode("utf-8-sig"))))
        row = rows[0]
        self.assertEqual(len(rows), 1)
        self.assertEqual((row["Formula"], row["Version"], row["Measured"], row["Grain"], row["Sinkholes"], row["Verdict"]),
                         ("Neap Tide", "2", "54.4", "no", "no", "Keep"))  # fmt: skip
        self.assertEqual(row["Notes"], '\'=HYPERLINK("x")')
        sheet = load_workbook(BytesIO(self.client.get("/pours/list.xlsx").content)).active
        self.assertEqual((sheet.max_row, sheet["A1"].value), (11, "Formula"))
        notes = {cell.value: cell.data_type for cell in sheet["T"]}
        self.assertEqual(notes['=HYPERLINK("x")'], "s")
        self.assertEqual(self.client.get("/pours/list.pdf").status_code, 404)

    def test_every_list_comes_as_a_file(self) -> None:
        """Formulas as narrowed, lots in ounces where the maker weighs so, batches with what is in the pot."""
        Preferences.objects.update_or_create(pk=1, defaults={"mass_unit": "oz", "temp_unit": "F"})

        def read(path: str) -> list[dict[str, str]]:
            answer = self.client.get(path)
            return list(csv.DictReader(StringIO(answer.getvalue().decode("utf-8-sig"))))

        formula, *others = read("/formulas/list.csv?q=nor")
        self.assertEqual((formula["Formula"], formula["Version"], others), ("Nor'easter", "2", []))
        self.assertIn("Firmness at 70 °F", formula)
        self.assertIn("Candelilla wax 11.5; Shea butter, refined 15.0", formula["Ingredients, %"])
        lot = next(row for row in read("/pantry/list.csv") if row["Code"] == "RW 2311")
        self.assertEqual(
            (lot["Item"], lot["Supplier"], lot["State"]), ("Shea butter, refined", "Ropewalk Supplies", "Good")
        )
        self.assertAlmostEqual(float(lot["Left, oz or pieces"]), 17.637, places=3)
        batches = read("/batches/list.csv")
        ebb = next(row for row in batches if row["Formula"] == "Ebb")
        self.assertEqual((ebb["State"], ebb["Filled into"]), ("Weighing", "10 × Gloss tube with wand 5 mL"))
        for path in ("/formulas", "/pantry", "/batches"):
            self.assertEqual(self.client.get(f"{path}/list.xlsx").content[:2], b"PK")


class CompareTests(FindingTestCase):
    def compare(self, *pours: Pour) -> object:
        return self.client.get("/pours/compare", {"pour": [pour.pk for pour in pours]}, follow=True)

    def test_side_by_side(self) -> None:
        """Neap Tide's two: the wax differs and stands out, the vitamin does not; curves with the tests on them."""
        first, second = Pour.objects.filter(batch__version__formula__name="Neap Tide").order_by("pk")
        page = self.compare(first, second)
        rows = {row.ingredient.key: row for row in page.context["comparison"].shares}
        self.assertTrue(rows["beeswax_yellow"].differs)
        self.assertFalse(rows["vitamin_e_oil"].differs)
        self.assertAlmostEqual(rows["beeswax_yellow"].shares[1], 0.17, delta=0.001)
        self.assertContains(page, "These differ in more than one thing")
        self.assertEqual(len(page.context["comparison"].picture.lines), 2)
        self.assertEqual(len(page.context["comparison"].picture.dots), 2)
        outcome = {row.name: row for row in page.context["comparison"].outcomes}
        self.assertEqual(outcome["Sweating"].told, ("some after 16 days", "not looked"))
        self.assertEqual((outcome["Verdict"].told, outcome["Verdict"].differs), (("Change", "Keep"), True))
        for days, seen in ((20, "much"), (25, "much"), (30, "some")):
            self.client.post(f"/pours/{second.pk}/check", {"checked_on": str(second.poured_on + timedelta(days=days)),
                                                           "sweating": seen})  # fmt: skip
        outcome = {row.name: row for row in self.compare(first, second).context["comparison"].outcomes}
        self.assertEqual(outcome["Sweating"].told, ("some after 16 days", "much after 20 days"))

    def test_six_of_six_kinds_and_what_does_not_fit(self) -> None:
        """Six kinds at once; one alone, seven, and pours that are not there are refused with a sentence."""
        by_kind = {pour.batch.version.formula.kind_key: pour for pour in Pour.objects.all()}
        six = list(by_kind.values())[:6]
        self.assertEqual(len(self.compare(*six).context["comparison"].columns), 6)
        self.assertContains(self.compare(six[0]), "Choose two pours at least")
        self.assertContains(self.compare(*Pour.objects.all()[:7]), "Six pours fit side by side: 7 were chosen.")
        page = self.client.get("/pours/compare?pour=99999&pour=x&pour=1", follow=True)
        self.assertContains(page, "Choose two pours at least")
        begin("Alone", "soft_salve")
        self.assertTrue(Formula.objects.filter(name="Alone").exists())
