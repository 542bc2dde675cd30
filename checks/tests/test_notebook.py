"""A notebook brought: read with its doubts, seen before anything is made, and learned from as from pours."""

from datetime import date
from decimal import Decimal as D
from io import BytesIO

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.test import TestCase
from openpyxl import Workbook

from balmcore.composition import Composition
from balmcore.physics.firmness import predict
from balmcore.recipes.notebook import read_notebook
from balmcore.tables import shipped
from balmcore.trials.press import THUMB_WORDS
from batches.models import Batch
from formulas.models import Formula, Version
from pours.models import Check, Pour
from tests.support.makings import begin
from tests.support.pages import form_data

TABLE = """Name;Made on;Ingredients;Firmness;Tested at;Cooled;Verdict;Notes
Slack Water;14/03/2025;"beeswax 18 g, olive oil 82 g";soft scoop;20;fridge;keep;For the allotments.
Slack Water;02/05/2025;"beeswax 36 g; olive oil 114 g";gel;22 °C;windowsill;dunno;
North Wind;;"20 % beeswax; 80 % sunflower oil";bar;;;;Never made.
Odd;01/06/2025;"20 g unobtanium; 80 g olive oil";;;;;
Soon;01/06/2099;"20 g beeswax; 80 g olive oil";squishy;21;;;"""


class NotebookTests(TestCase):
    def look(self, table: str = TABLE, status: int = 200, **more: str) -> HttpResponse:
        page = self.client.post("/pours/notebook", {"pasted": table, **more})
        self.assertEqual(page.status_code, status)
        return page

    def bring(self, page: HttpResponse, **more: str) -> HttpResponse:
        return self.client.post("/pours/notebook", form_data(page, "notebook", bring="1", **more), follow=True)

    def test_it_is_seen_before_anything_is_made_and_all_that_is_lost_is_said(self) -> None:
        page = self.look()
        self.assertEqual(Formula.objects.count(), 0)
        entries = page.context["found"].entries
        self.assertEqual([bool(entry.problem) for entry in entries], [False, False, False, True, False])
        self.assertContains(page, "Not understood: 20 g unobtanium")
        self.assertContains(page, "“windowsill” is not understood as how it cooled. It goes into the notes.")
        self.assertContains(page, "“squishy” is no word for firmness here")
        self.assertContains(page, "“01/06/2099” is still to come.")
        self.assertEqual(entries[1].notes, "How it cooled: windowsill. Verdict: dunno.")
        self.assertEqual(entries[2].notes, "Never made. Firmness: bar.")
        self.assertEqual((entries[0].grams, entries[1].grams), (D("100.000000"), D("150.000000")))

    def test_an_amount_has_its_own_unit_else_its_column_s_else_none(self) -> None:
        """Ounces of a column are ounces; a figure without a unit is a share, or beside weights in the maker's unit, and
        that is said; shares and weights in one row are refused, and what could not be taken goes into the notes."""
        ounces, hundred = D("28.349523"), D("100.000000")
        for titles, cells, grams, wax, said in (
            ("Beeswax (oz);Olive oil (g)", "1;100", ounces + 100, "0.2209", ""),
            ("Beeswax (oz);Olive oil (g)", "28.349523125 g;100", ounces + 100, "0.2209", ""),
            ("Beeswax oz;Olive oil", "1;3", ounces * 4, "0.2500", "“3” of Olive oil has no unit: taken as oz."),
            ("Beeswax (tbsp);Olive oil (mL)", "2;100", D("108.2"), "0.1553", ""),
            ("Beeswax;Olive oil", "1;3", None, "0.2500", ""),
            ("Beeswax (parts);Olive oil (parts)", "1;3", None, "0.2500", ""),
            ("Total (g);Beeswax;Olive oil", "250;1;3", D("250.0"), "0.2500", ""),
            ("Total;Beeswax (%);Olive oil (%)", "100 %;25;75", None, "0.2500", ""),
            ("Batch size;Beeswax (oz);Olive oil (oz)", "8;1;3", ounces * 4, "0.2500", "It says 226.8 g; what stands beside"),
            ("Batch size;Beeswax;Olive oil", "one pot;1;3", None, "0.2500", "It goes into the notes."),
            ("Beeswax (%);Olive oil", "10 g;90 g", hundred, "0.1000", ""),
            ("Beeswax (%);Olive oil (g)", "10;90", None, None, "Some of it is in percent, and some in grams"),
            ("Beeswax;Ingredients", "10;4 parts olive oil", None, None, "Some of it is in parts, and some in columns"),
            ("Beeswax;Ingredients", "–;1 part beeswax, 4 parts olive oil", None, "0.2000", ""),
            ("Beeswax (g);Scoops;Olive oil (g)", "10;3;90", None, None, "“Scoops” holds 3: say above what that column"),
            ("Beeswax (g);Olive oil (g)", "10;much", None, None, "“much” is not an amount"),
            ("Beeswax (g);Mood;Olive oil (g)", "10;gay;90", hundred, "0.1000", "What “Mood” is, is not known: gay goes"),
        ):  # fmt: skip
            with self.subTest(titles, cells=cells):
                rows = [f"Name;{titles}".split(";"), f"Fog;{cells}".split(";")]
                entry = read_notebook(rows, shipped(), mass_unit="oz").entries[0]
                shares = {line.key: str(line.share) for line in entry.composition.lines} if entry.composition else {}
                self.assertEqual((entry.grams and round(entry.grams, 1), shares.get("beeswax_yellow")),
                                 (grams and round(grams, 1), wax))  # fmt: skip
                self.assertIn(said, " ".join([entry.problem, *entry.said]))
        row = ["Fog", "1", "4", "02/05/2025"]
        poured = read_notebook([["Name", "Beeswax", "Olive oil", "Day"], row], shipped()).entries[0]
        self.assertEqual(poured.notes, "How much it was is not said: taken as 100 g.")

    def test_a_column_is_named_as_a_line_is_and_typed_where_it_is_not(self) -> None:
        """What a title could be is taken and said, another is typed beside it; what holds figures and is not known keeps
        its rows out until it is chosen."""
        table = "Name;How firm;Coconut oil (g);Scoops;Moon\nFog;gel;10;20;full"
        page = self.look(table)
        columns = page.context["found"].columns
        self.assertEqual([column.role for column in columns], ["name", "firmness", "of", "?", "?"])
        self.assertEqual(columns[2].said, "It does not say which: Coconut oil, virgin is taken.")
        self.assertContains(page, "“Scoops” holds 20: say above what that column is, or that it is not taken.")
        page = self.client.post("/pours/notebook", form_data(page, "notebook", look="1", **{"item-2": "coconut oil, refined",
                                "item-3": "Beeswax, white"}))  # fmt: skip
        entry = page.context["found"].entries[0]
        self.assertEqual({line.key: str(line.share) for line in entry.composition.lines},
                         {"coconut_oil_refined": "0.3333", "beeswax_white": "0.6667"})  # fmt: skip
        page = self.client.post("/pours/notebook", form_data(page, "notebook", look="1", **{"item-2": "unobtanium"}))
        self.assertContains(page, "“unobtanium” is not in the pantry")
        self.assertContains(page, "“Coconut oil (g)” holds 10: say above what that column is")
        vague = self.look("Name;Scoops;Beeswax (g)\nFog;some;10")
        page = self.client.post("/pours/notebook", form_data(vague, "notebook", look="1", column=["name", "of", "of"]))
        self.assertContains(page, "What “Scoops” is, is not known: some goes into the notes.")

    def test_the_days_of_a_column_stand_in_one_order(self) -> None:
        """14 March shows that 4/2 is no fourth of February; where nothing shows it, or both do, that is said."""
        for days, wanted, said in (
            (("3/14/2025", "4/2/2025"), (date(2025, 3, 14), date(2025, 4, 2)), "“3/14/2025” shows that the month"),
            (("14/3/2025", "4/2/2025"), (date(2025, 3, 14), date(2025, 2, 4)), ""),
            (("3/4/2025", "4/2/2025"), (date(2025, 4, 3), date(2025, 2, 4)), "Days are read with the day first."),
            (("13/4/2025", "4/13/2025", "1/2/2025"), (date(2025, 4, 13), date(2025, 4, 13), date(2025, 2, 1)),
             "Days are read with the day first. Some show the other order: look at each."),
            (("2025-03-04", "4 Mar 2025"), (date(2025, 3, 4), date(2025, 3, 4)), ""),
        ):  # fmt: skip
            with self.subTest(days):
                rows = [["Name", "Day", "Beeswax", "Olive oil"], *(["Fog", day, "1", "4"] for day in days)]
                found = read_notebook(rows, shipped())
                self.assertEqual(tuple(entry.day for entry in found.entries), wanted)
                self.assertTrue(found.columns[1].said.startswith(said) and bool(said) == bool(found.columns[1].said))

    def test_it_becomes_formulas_versions_pours_and_tests(self) -> None:
        """One name is one formula, another composition its next version; a melt has the grams that were written; what
        was not taken is not made."""
        done = self.bring(self.look())
        self.assertContains(done, "Brought: 3 formulas, 4 versions, 2 pours, 2 tests.")
        slack = Formula.objects.get(name="Slack Water")
        self.assertEqual(slack.versions.count(), 2)
        first, second = Pour.objects.order_by("poured_on")
        self.assertEqual((first.poured_on, first.cooling, first.verdict), (date(2025, 3, 14), "refrigerator", "keep"))
        self.assertEqual(sum(line.mass_g for line in second.batch.lines.all()), D(150))
        self.assertIn("windowsill", second.notes)
        check = Check.objects.get(pour=first)
        expected = predict(Composition.of({"beeswax_yellow": 18, "olive_oil": 82}, shipped())).firmness_at(20)
        self.assertAlmostEqual(check.predicted, expected)
        self.assertEqual((check.thumb, check.test_c), ("soft scoop", 20))
        self.assertFalse(Formula.objects.filter(name="Odd").exists())
        for path in (f"/batches/{first.batch_id}/", f"/pours/{first.pk}/", "/labels/", f"/labels/of/{first.pk}",
                     f"/batches/plan?version={first.batch.version_id}", "/batches/", f"/pours/year/{slack.pk}"):  # fmt: skip
            with self.subTest(path):
                self.assertIn(self.client.get(path).status_code, (200, 404) if "labels/of" in path else (200,))

    def test_a_cell_is_put_right_on_the_page(self) -> None:
        page = self.look()
        data = form_data(page, "notebook", look="1", **{"cell-4-2": "20 g beeswax; 80 g olive oil"})
        page = self.client.post("/pours/notebook", data)
        self.assertEqual([bool(entry.problem) for entry in page.context["found"].entries], [False] * 5)
        data = form_data(page, "notebook", bring="1", take="4")
        self.client.post("/pours/notebook", data)
        self.assertEqual(list(Formula.objects.values_list("name", flat=True)), ["Odd"])
        again = self.bring(self.look())
        self.assertContains(again, "Brought: 3 formulas")
        self.assertEqual(Formula.objects.filter(name__startswith="Odd").count(), 1)

    def test_ingredients_may_have_columns_of_their_own(self) -> None:
        """In grams, ounces or percent by their titles; a column that is no ingredient is left out once that is said."""
        book = Workbook()
        for row in (["Balm", "Beeswax (g)", "Ricinus Communis (Castor) Seed Oil", "Zorbium"], ["Ebb", 20, "80 g", 3],
                    ["Flow", "1 oz", "3 oz", None]):  # fmt: skip
            book.active.append(row)
        kept = BytesIO()
        book.save(kept)
        file = SimpleUploadedFile("book.xlsx", kept.getvalue())
        page = self.client.post("/pours/notebook", {"file": file})
        self.assertEqual(len(page.context["found"].columns), 4)
        ebb, flow = page.context["found"].entries
        self.assertIn("“Zorbium” holds 3: say above what that column is", ebb.problem)
        chosen = [column.role for column in page.context["found"].columns[:-1]]
        page = self.client.post("/pours/notebook", form_data(page, "notebook", look="1", column=[*chosen, ""]))
        ebb, flow = page.context["found"].entries
        self.assertEqual(ebb.problem, "")
        self.assertEqual([(line.key, line.share) for line in ebb.composition.lines],
                         [("beeswax_yellow", D("0.2")), ("castor_oil", D("0.8"))])  # fmt: skip
        self.assertEqual((flow.composition.lines[0].share, flow.grams), (D("0.25"), D("113.398092")))

    def test_a_table_that_is_too_large_is_refused_and_nothing_cut(self) -> None:
        for table in (f"Name{';x' * 40}\nFog{';1' * 40}", "Name;Day\n" + "Fog;\n" * 1200):
            page = self.look(table, status=400)
            self.assertContains(page, "more than 1200 rows or 40 columns: bring it in parts", status_code=400)

    def test_what_it_tells_moves_the_predictions_as_pours_do(self) -> None:
        """Sixty rows, each softer than the model says: afterwards the model says less."""
        rows = ["Name;Day;Ingredients;Firmness;Tested at"]
        for n in range(60):
            rows.append(
                f"Balm {n % 5};{n % 28 + 1}/0{n % 9 + 1}/2025;{18 + n % 5} g beeswax, {82 - n % 5} g olive oil;gel;21"
            )
        path = f"/formulas/{self.begin_beside()}/"
        before = self.client.get(path).context["answer"].verdict.firmness
        self.bring(self.look("\n".join(rows)))
        self.assertEqual((Pour.objects.count(), Check.objects.count()), (60, 60))
        after = self.client.get(path).context["answer"].verdict.firmness
        self.assertLess(after, before - 2)

    def begin_beside(self) -> int:
        composition = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.8")})
        return int(begin("Reach", "pot_salve", composition).pk)

    def test_the_example_comes_in_as_it_is(self) -> None:
        for kind in ("csv", "xlsx"):
            with self.subTest(kind):
                content = self.client.get(f"/pours/notebook/example.{kind}").getvalue()
                page = self.client.post("/pours/notebook", {"file": SimpleUploadedFile(f"n.{kind}", content)})
                self.assertEqual([entry.problem for entry in page.context["found"].entries], ["", "", ""])
                self.assertEqual(len([e for e in page.context["found"].entries if e.thumb]), 2)

    def test_nonsense_is_told(self) -> None:
        for table in ("", "x", "a;b\n", "\x00\n\x00", "Name;Name\n;"):
            with self.subTest(table):
                page = self.client.post("/pours/notebook", {"pasted": table})
                self.assertIn(page.status_code, (200, 400))
        page = self.look("Name;Ingredients\nEbb;20 g beeswax\n")
        bare = self.client.post("/pours/notebook", {**form_data(page, "notebook", bring="1"), "take": []})
        self.assertContains(bare, "Nothing is taken", status_code=400)
        self.assertEqual((Version.objects.count(), Batch.objects.count()), (0, 0))
        many = [["Name", "Ingredients"], *([["Ebb", "20 g beeswax"]] * 500)]
        self.assertEqual(read_notebook(many, shipped(), firmness_words=THUMB_WORDS).cut, 100)
