"""Handing a formula on: the file from one workshop into another, and what cannot be read."""

import json
from decimal import Decimal as D

import pypdfium2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.test import TestCase

from balmcore.composition import Composition
from formulas.models import Formula
from pantry.models import OwnIngredient
from pantry.tables import workshop_tables
from tests.support.makings import begin
from workshop.models import Preferences


class HandingTests(TestCase):
    def setUp(self) -> None:
        self.own = OwnIngredient.objects.create(
            name="Wreck wax", role="wax", melt_low_c=58, melt_high_c=62, note="From the beach."
        )
        shares = {self.own.key: D("0.2"), "olive_oil": D("0.7965"), "lavender": D("0.0035")}
        tables = workshop_tables()
        self.formula = begin("Flotsam", "hand_balm", Composition.of(shares, tables), tables)
        Formula.objects.filter(pk=self.formula.pk).update(audience="child_6_15y", area="hands_feet")

    def file(self) -> dict[str, object]:
        answer = self.client.get(f"/formulas/{self.formula.pk}/v1.json")
        self.assertIn("attachment", answer["Content-Disposition"])
        return json.loads(answer.content)

    def read(self, content: object, status: int = 200, **more: str) -> HttpResponse:
        text = content if isinstance(content, str) else json.dumps(content)
        answer = self.client.post("/formulas/read-file", {"text": text, **more})
        self.assertEqual(answer.status_code, status)
        return answer

    def test_from_one_workshop_into_another(self) -> None:
        """With its own wax: new there, made there; read once more it differs in nothing and stands beside."""
        told = self.file()
        self.assertEqual([line["percent"] for line in told["lines"]], ["20.00", "79.65", "0.35"])
        Formula.objects.all().delete()
        OwnIngredient.objects.all().delete()
        page = self.read(told)
        self.assertContains(page, "new here, with its description")
        self.assertFalse(Formula.objects.exists())
        self.read(told, 302, make="1")
        formula = Formula.objects.get()
        own = OwnIngredient.objects.get()
        self.assertEqual((own.name, own.melt_low_c, own.note), ("Wreck wax", 58, "From the beach."))
        self.assertEqual(
            (formula.name, formula.kind_key, formula.audience, formula.area),
            ("Flotsam", "hand_balm", "child_6_15y", "hands_feet"),
        )
        shares = {line.ingredient_key: line.share for line in formula.versions.get().lines.all()}
        self.assertEqual(shares, {own.key: D("0.2"), "olive_oil": D("0.7965"), "lavender": D("0.0035")})
        again = self.client.get(f"/formulas/{formula.pk}/v1.json")
        self.assertEqual(json.loads(again.content)["lines"], told["lines"])
        sent = SimpleUploadedFile("f.json", again.content)
        page = self.client.post("/formulas/read-file", {"file": sent})
        self.assertContains(page, "There is a Flotsam here already: this one stands beside it.")
        OwnIngredient.objects.update(melt_low_c=50)
        self.assertContains(self.read(told), "Wreck wax is described otherwise here (melt low c): yours is kept.")

    def test_files_that_cannot_be_read(self) -> None:
        """Each with its sentence; nothing made, and what was pasted is still there."""
        told = self.file()
        line = told["lines"][1]
        for content, said in (
            ("not JSON", "no file of a formula"),
            ("[" * 100_000, "no file of a formula"),
            ([], "no file of a formula of Calm Tin"),
            ({**told, "schema": 99}, "schema 99, and this Calm Tin reads 1"),
            ({**told, "lines": []}, "no lines that can be read"),
            ({**told, "lines": [line] * 90}, "1 to 60 of them"),
            ({**told, "lines": [{**line, "percent": "NaN"}]}, "no percentage that can be read"),
            ({**told, "lines": [{**line, "percent": "-4"}]}, "no percentage that can be read"),
            (
                {**told, "own_ingredients": [{"name": "Other"}], "lines": [{**line, "ingredient": "Other"}]},
                "described in a way",
            ),
            ("x" * 300_000, "larger than any formula"),
        ):
            with self.subTest(said):
                self.assertContains(self.read(content, 400, make="1"), said, status_code=400)
        unknown = self.read({**told, "lines": [{**line, "ingredient": "moon_wax", "name": "Moon wax"}]})
        self.assertContains(unknown, "not known here")
        refused = self.read({**told, "lines": [{**line, "ingredient": "moon_wax", "name": "Moon wax"}]}, 400, make="1")
        self.assertContains(refused, "Not known here: Moon wax.", status_code=400)
        self.assertEqual(Formula.objects.count(), 1)
        self.assertContains(self.read({**told, "kind_key": "sail"}), "it becomes a pot salve")

    def test_an_own_ingredient_of_another_workshop(self) -> None:
        """Its melting range lies between the cold of a freezer and the heat of an oven, its name has letters; all of it
        comes along, and is what it was there."""
        told = self.file()
        own = dict(told["own_ingredients"][0])
        OwnIngredient.objects.all().delete()
        for changed, is_read in (
            ({"melt_low_c": -60, "melt_high_c": 200}, True),
            ({"melt_low_c": -61}, False),
            ({"melt_high_c": 201}, False),
            ({"melt_low_c": "hot"}, False),
            ({"role": "stone"}, False),
            ({"scent": "loud"}, False),
            ({"name": "Wreck wax", "note": "n" * 900}, True),
        ):
            with self.subTest(changed):
                page = self.read({**told, "own_ingredients": [{**own, **changed}]}, 200 if is_read else 400)
                if not is_read:
                    self.assertContains(page, "Wreck wax is described in a way that cannot be read.", status_code=400)
        self.read({**told, "own_ingredients": [{**own, "note": "n" * 900}]}, 302, make="1")
        self.assertEqual(len(OwnIngredient.objects.get().note), 300)

    def test_a_spreadsheet_there_and_back(self) -> None:
        """CSV and XLSX, with points or commas, hold the lines exactly; an own wax is known by its name, in another
        workshop not at all; rows that are none are refused."""
        for mark, kind in ((".", "csv"), (",", "csv"), (",", "xlsx")):
            with self.subTest(mark + kind):
                Preferences.objects.update_or_create(pk=1, defaults={"decimal_mark": mark})
                content = self.client.get(f"/formulas/{self.formula.pk}/v1.{kind}").getvalue()
                sent = SimpleUploadedFile(f"f.{kind}", content)
                seen = self.client.post("/formulas/read-file", {"file": sent}).context["seen"]
                self.assertEqual((seen.name, seen.kind_key, seen.unknown), ("Flotsam", "hand_balm", ()))
                self.assertEqual([line.share for line in seen.lines], [D("0.2"), D("0.7965"), D("0.0035")])
        self.assertEqual(self.file()["lines"][1]["percent"], "79.65")  # a file is the same for everybody
        by_hand = b"Percent\tIngredient\n12,5 %\tBeeswax\n87.5\tHelianthus Annuus (Sunflower) Seed Oil\n\n"
        seen = self.client.post("/formulas/read-file", {"file": SimpleUploadedFile("f.csv", by_hand)}).context["seen"]
        self.assertEqual([line.share for line in seen.lines], [D("0.125"), D("0.875")])
        self.assertEqual(seen.unknown, ())
        OwnIngredient.objects.all().delete()
        seen = self.client.post("/formulas/read-file", {"file": SimpleUploadedFile("f.csv", content)}).context["seen"]
        self.assertEqual(seen.unknown, ("Wreck wax",))
        rows = ["Ingredient,Percent", *["Beeswax,1"] * 61]
        many = SimpleUploadedFile("f.csv", "\n".join(rows).encode())
        self.assertContains(
            self.client.post("/formulas/read-file", {"file": many}), "That is no file of a formula", status_code=400
        )
        sixty = SimpleUploadedFile("f.csv", "\n".join(rows[:-1]).encode())
        self.assertEqual(len(self.client.post("/formulas/read-file", {"file": sixty}).context["seen"].lines), 60)
        for content in (b"PK\x03\x04 nothing", b"Wax;Part\nBeeswax;3", b"Ingredient,Percent\n", bytes(3000)):
            with self.subTest(content[:20]):
                refused = self.client.post("/formulas/read-file", {"file": SimpleUploadedFile("f.csv", content)})
                self.assertContains(refused, "That is no file of a formula", status_code=400)

    def test_the_card_on_paper(self) -> None:
        """The PDF has the maker's paper, the grams asked for, the steps in order and the cautions; nonsense leads back
        to the card with its sentence."""
        Preferences.objects.update_or_create(pk=1, defaults={"paper": "letter", "decimal_mark": ","})
        path = f"/formulas/{self.formula.pk}/v1/card.pdf"
        printed = pypdfium2.PdfDocument(self.client.get(path, {"grams": "250,5 g"}).content)
        self.assertEqual([round(side / 72 * 25.4, 1) for side in printed[0].get_size()], [215.9, 279.4])
        text = " ".join(page.get_textpage().get_text_range() for page in printed).replace("\r\n", " ")
        steps = [text.index(word) for word in ("Make ready", "Weigh", "Melt", "Pour", "Cap and label", "Hot wax burns")]
        self.assertEqual(steps, sorted(steps))
        self.assertIn("Flotsam, version 1", text)
        self.assertIn("79,65 199,5", text)
        self.assertIn("Total 100 250,5", text)
        self.assertIn("none of this is medical advice", text)
        back = self.client.get(path, {"grams": "a lot"}, follow=True)
        self.assertContains(back, "“a lot” is not an amount")

    def test_a_card_for_a_friend(self) -> None:
        """Percent and the grams of so much, in ounces too; nonsense falls back and is said."""
        path = f"/formulas/{self.formula.pk}/v1/card"
        self.assertContains(self.client.get(path, {"grams": "250"}), "199.1")
        self.assertContains(self.client.get(path, {"grams": "8 oz"}), "226.8")
        page = self.client.get(path, {"grams": "a lot"})
        self.assertContains(page, "“a lot”")
        self.assertContains(page, "79.7")
        self.assertContains(page, "none of this is medical advice")
