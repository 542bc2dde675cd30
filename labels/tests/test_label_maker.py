"""The label maker: what it says, what it holds back, and the sheet it prints."""

from datetime import timedelta
from urllib.parse import urlencode

import pypdfium2
from django.http import HttpResponse
from django.utils import timezone

from formulas.models import Formula, Version
from labels.models import LabelText, Maker, Sheet
from pantry.models import Lot
from pours.models import Pour, PouredPiece
from tests.support.morning import MorningCase
from tests.support.net_loft import YEAR, load
from tests.support.pages import form_data
from workshop.models import Preferences


class LabelTests(MorningCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load(YEAR)

    def setUp(self) -> None:
        self.pour = Pour.objects.filter(batch__version__formula__name="Undertow", notes="Nobody itches.").get()
        self.path = f"/labels/{self.pour.pk}/"

    def page(self, **asked: str) -> HttpResponse:
        return self.client.get(self.path, asked)

    def pdf(self, **asked: str) -> pypdfium2.PdfDocument:
        answer = self.client.get(f"{self.path}sheet.pdf?{urlencode(asked)}")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        return pypdfium2.PdfDocument(answer.content)

    def test_a_label_from_what_was_poured(self) -> None:
        """A lid of 56 mm for the tin of 60; ingredients falling, peppermint's allergens; the lightest piece, rounded
        down; the pour's page leads to it."""
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/"), self.path)
        page = self.page(maker="The net loft", address="Ferry Quay 2")
        self.assertContains(page, "56 × 56 mm")
        text = page.context["content"].declaration.text
        self.assertTrue(
            text.startswith("Helianthus Annuus (Sunflower) Seed Oil, Butyrospermum Parkii (Shea) Butter, Cera Alba")
        )
        self.assertContains(page, "limonene at most 0.5 %")
        self.assertContains(page, "where your rules ask for it")
        self.assertContains(page, "No piece was weighed: the net weight is what was planned.")
        unknown = "Scent allergens whose content is not known are all named"
        self.assertContains(page, unknown)
        plain = Pour.objects.filter(batch__version__formula__name="Low Water", finish=None).earliest("pk")
        self.assertNotContains(self.client.get(f"/labels/{plain.pk}/"), unknown)
        shown = " ".join(line.text for line in page.context["layout"].texts)
        for said in (
            "Undertow",
            "49 g / 1.72 oz",
            "The net loft, Ferry Quay 2",
            f"Batch {self.pour.batch_id}",
            "bee products",
            "In pregnancy or while nursing ask first.",
            "For outward use.",
        ):
            self.assertIn(said, shown)
        self.assertNotIn("our most", shown)
        PouredPiece.objects.create(pour=self.pour, name="Screw tin 60 mL", mass_g="47.96")
        PouredPiece.objects.create(pour=self.pour, name="Screw tin 60 mL", mass_g="49.2")
        page = self.page()
        self.assertContains(page, "47 g / 1.65 oz")
        self.assertNotContains(page, "No piece was weighed")
        self.assertContains(page, "A label names who makes it, and where.")
        page = self.page(names="common")
        self.assertTrue(
            page.context["content"].declaration.text.startswith("Sunflower oil, high oleic, Shea butter, refined")
        )

    def test_what_it_was_not_meant_to_be_is_said_beside_it(self) -> None:
        """Meant vegan and for a cold bathroom: the wax is told, and the heat in the maker's unit; the label itself says
        neither."""
        Version.objects.filter(pk=self.pour.batch.version_id).update(vegan=True, season="winter")
        Preferences.objects.update_or_create(pk=1, defaults={"temp_unit": "F"})
        page = self.page()
        self.assertContains(page, "Not as it is meant: beeswax, yellow: not vegan.")
        doubts = page.context["content"].doubts
        self.assertFalse(any("°C" in doubt for doubt in doubts))
        self.assertNotIn("vegan", page.context["content"].declaration.text)

    def test_a_claim_holds_the_print_until_it_is_answered(self) -> None:
        """Marked with why and a neutral wording; changed, or said why the rules allow it, it prints."""
        page = self.page(use="Heals cracked heels")
        self.assertContains(page, "“Heals” promises to treat. Instead: for dry, rough skin.")
        self.assertContains(page, "until then nothing is printed")
        refused = self.client.get(f"{self.path}sheet.pdf?use=Heals+cracked+heels", follow=True)
        self.assertContains(refused, "say why your rules allow them")
        self.assertEqual(len(self.pdf(use="Rub into dry heels")), 1)
        self.pdf(use="Heals cracked heels", claims_why="Registered with the harbour office.")

    def test_cautions_without_room_are_a_spoken_yes(self) -> None:
        """On 25 mm they have none: nothing is printed until it is said where they go; a back label has room."""
        small = {"size": "", "shape": "round", "width": "25", "height": "25"}
        self.assertContains(self.page(**small), "The cautions have no room on this label.")
        refused = self.client.get(f"{self.path}sheet.pdf?{urlencode(small)}", follow=True)
        self.assertContains(refused, "say below where they go instead")
        self.assertContains(refused, "Where the cautions go instead")
        self.pdf(**small, beside="On a slip under the lid.")
        self.assertIn("nursing", self.pdf(size="Back label", side="back")[0].get_textpage().get_text_range())

    def test_a_part_used_sheet_and_its_outlines(self) -> None:
        """Four back labels from the 17th of 18: two sheets; the outlines fill one, whatever the count."""
        asked = {"size": "Back label", "side": "back", "count": "4", "start": "17"}
        pdf = self.pdf(**asked)
        self.assertEqual([page.get_textpage().get_text_range().count("Undertow") for page in pdf], [2, 2])
        outlines = self.pdf(**asked, outlines="1")
        self.assertEqual((len(outlines), outlines[0].get_textpage().get_text_range().strip()), (1, ""))

    def test_words_and_sheets_are_kept(self) -> None:
        """For the formula and the workshop; another pour of it begins with them; a kept sheet is taken up again."""
        form = form_data(self.page(maker="The net loft", use="Rub in.", columns="2", rows="4", left="11,5"), "label-form",
                         sheet_name="  Stall   sheet ")  # fmt: skip
        answer = self.client.post(f"{self.path}keep", form, follow=True)
        self.assertContains(answer, "The sheet “Stall sheet” is kept.")
        self.assertEqual(Maker.objects.get().name, "The net loft")
        self.assertEqual(LabelText.objects.get().formula, Formula.objects.get(name="Undertow"))
        sheet = Sheet.objects.get()
        self.assertEqual((sheet.columns, sheet.rows, sheet.left_mm), (2, 4, 11.5))
        other = Pour.objects.filter(batch__version__formula__name="Undertow").exclude(pk=self.pour.pk).first()
        page = self.client.get(f"/labels/{other.pk}/?sheet={sheet.pk}")
        kept = form_data(page, "label-form")
        self.assertEqual((kept["maker"], kept["use"], kept["left"]), (["The net loft"], ["Rub in."], ["11.5"]))

    def test_what_cannot_be_is_said_and_nothing_is_lost(self) -> None:
        """Too small, no number, wider than the page, a start beyond the sheet, too many labels."""
        small = {"shape": "rectangle", "width": "3", "height": "3"}
        for asked, said in (
            (small, "A label is 8 to 400 mm wide and high."),
            ({**small, "width": "9", "height": "9"}, "Not even the name"),
            ({"width": "wide"}, "“wide” is not a number"),
            ({"columns": "9"}, "and the page has 210 × 297: take fewer"),
            ({"count": "9000"}, "Write a whole number from 1 to 2000."),
            ({"columns": "many"}, "Write a whole number from 1 to 50."),
        ):
            with self.subTest(said):
                page = self.page(**asked, use="Rub in.")
                self.assertContains(page, said)
                self.assertEqual(form_data(page, "label-form")["use"], ["Rub in."])
        refused = self.client.get(f"{self.path}sheet.pdf?start=400", follow=True)
        self.assertContains(refused, "The sheet has labels 1 to")
        self.assertEqual(self.client.get("/labels/99999/").status_code, 404)

    def test_each_finish_its_own(self) -> None:
        """The lavender half names lavender, the plain half does not; each as many as its own pieces; Letter paper."""
        Preferences.objects.update_or_create(pk=1, defaults={"paper": "letter"})
        Preferences.objects.update_or_create(pk=1, defaults={"mass_unit": "oz"})
        plain, scented = Pour.objects.filter(finish__isnull=False).order_by("finish__pk")
        for pour, named in ((plain, False), (scented, True)):
            page = self.client.get(f"/labels/{pour.pk}/")
            self.assertEqual("Lavandula" in page.context["content"].declaration.text, named)
            self.assertEqual(form_data(page, "label-form")["count"], ["2"])
            self.assertEqual(page.context["layout"].texts[1].text, pour.finish.name)
        pdf = pypdfium2.PdfDocument(self.client.get(f"/labels/{plain.pk}/sheet.pdf").content)
        self.assertAlmostEqual(pdf[0].get_width(), 612, delta=0.1)

    def test_dates_and_a_code_by_choice(self) -> None:
        """Undertow keeps 21 months from July 2025, 15 of them in an open tin; the code holds the batch and its day,
        is read back from the printed sheet, and gives way where words would have to go."""
        self.assertIn("best before 1 May 2027", self.shown())
        self.assertNotIn("opening", self.shown())
        both = self.shown(dates="both", has_code="True")
        self.assertIn("best before 1 May 2027, use within 15 months of opening", both)
        self.assertNotIn("best before", self.shown(dates="open"))
        placed = self.page(has_code="True").context["layout"].code
        self.assertEqual(placed.code.text, f"BATCH {self.pour.batch_id} 2025-07-27")
        self.assertEqual((len(placed.code.rows), round(placed.code.side_mm, 1)), (21, 10.0))
        far = max((x + 10 - 28) ** 2 + (y + 10 - 28) ** 2 for x, y in ((placed.x_mm, placed.y_mm),))
        self.assertLess(far, 28**2)
        dots = self.pdf(has_code="True", count="1", left="0", top="0")[0].render(scale=12, grayscale=True).to_pil()
        for left, top, long in placed.bars:
            x, y = ((left + long / 2) * 72 / 25.4 * 12, (top + 0.2) * 72 / 25.4 * 12)
            self.assertLess(dots.getpixel((round(x), round(y))), 100)
        small = self.page(has_code="True", width="34", height="34")
        self.assertContains(small, "No room for the code")
        self.client.post(f"{self.path}keep", {**form_data(self.page(dates="open", has_code="True"), "label-form")})
        self.assertEqual(LabelText.objects.values_list("dates", "has_code").get(), ("open", True))

    def test_hardly_any_life_left_once_it_is_open(self) -> None:
        """Of thirty days an open tin keeps twenty-two: no month is named, and it is said; how it is used stands there."""
        self.assertIn("Rub into tired feet.", self.shown(use="Rub into tired feet."))
        Lot.objects.update(best_before=self.pour.poured_on + timedelta(days=30))
        self.assertContains(self.page(dates="open"), "Less than a month is left of it once it is open")
        self.assertNotIn("opening", self.shown(dates="both"))
        self.assertNotContains(self.page(dates="best"), "Less than a month is left")
        past = "What it is made of is past its day"
        Lot.objects.update(best_before=timezone.localdate())
        self.assertNotContains(self.page(), past)
        Lot.objects.update(best_before=timezone.localdate() - timedelta(days=1))
        self.assertContains(self.page(), past)
        Lot.objects.update(best_before=self.pour.poured_on + timedelta(days=41))
        self.assertIn("use within 1 month of opening", self.shown(dates="both"))

    def test_a_net_weight_that_is_declared(self) -> None:
        """In the maker's units; never more than the lightest piece holds: that is said, and nothing is printed."""
        self.assertIn("45 g / 1.58 oz", self.shown(net="45"))
        self.assertIn("49 g / 1.72 oz", self.shown(net="1.75 oz"))
        asked = {"net": "60 g", "count": "1"}
        self.assertContains(self.page(**asked), "a label never declares more than there is.")
        back = self.client.get(f"{self.path}sheet.pdf?{urlencode(asked)}", follow=True)
        self.assertContains(back, "The lightest piece holds 49")
        self.assertContains(self.page(net="heavy"), "“heavy” is not an amount")

    def test_every_finish_of_a_batch_in_one_go(self) -> None:
        """Two finishes, two tins each: four labels on a sheet, each with its own name and ingredients."""
        plain, scented = Pour.objects.filter(finish__isnull=False, batch__version__formula__name="Low Water").order_by(
            "pk"
        )
        self.path = f"/labels/{plain.pk}/"
        self.assertContains(self.page(), "Print all 2 finishes")
        text = (
            self.pdf(whole="1", width="60", height="40", shape="rectangle", columns="3", left="5")[0]
            .get_textpage()
            .get_text_range()
        )
        self.assertEqual(text.count("Low Water"), 4)
        names = [str(plain.finish), str(scented.finish)]
        self.assertEqual([text.count(f"\n{name}\r") for name in names], [2, 2])
        self.assertEqual(text.count("Lavandula"), 2)
        self.path = f"/labels/{self.pour.pk}/"
        self.assertNotContains(self.page(), "finishes</button>")

    def test_a_sheet_as_it_will_be(self) -> None:
        """The first three are gone, seven are printed, the rest stays; what runs over takes a second sheet."""
        sheet = self.page(start="4", count="7").context["sheet"]
        self.assertEqual([place.state for place in sheet.places], ["used"] * 3 + ["printed"] * 7 + ["free"] * 2)
        self.assertEqual((sheet.sheets, sheet.page), (1, (210.0, 297.0)))
        self.assertEqual(self.page(start="4", count="10").context["sheet"].sheets, 2)
        self.assertEqual(self.page(start="4", count="9").context["sheet"].sheets, 1)
        over = self.page(start="13")
        self.assertContains(over, "The sheet has labels 1 to 12.")
        self.assertIsNone(over.context["sheet"])

    def shown(self, **asked: str) -> str:
        return " ".join(line.text for line in self.page(**asked).context["layout"].texts)

    def test_what_lies_beside_the_tins(self) -> None:
        """Every pour stands in the list with what is left of it; a sheet for the stall names each product once, with
        its batches, and another composition of the same name apart."""
        page = self.client.get("/labels/")
        self.assertContains(page, "Labels and pieces")
        rows = [row for row, _ in page.context["rows"]]
        row = next(row for row in rows if row.pour.finish and row.pour.finish.name == "lavender")
        self.assertEqual((row.made, row.left), (2, 2))
        with self.assertNumQueries(9):
            self.client.get("/labels/")
        sheet = self.client.get("/labels/stall")
        names = [
            (str(p.first.pour.batch.version.formula), str(p.first.pour.finish or "")) for p in sheet.context["products"]
        ]
        self.assertEqual(names, sorted(names))
        self.assertIn(("Low Water", "lavender"), names)
        self.assertContains(sheet, "Holds bee products, shea nut, soy (usual source). Keep cool, dark and dry")
        one = self.client.get(f"/labels/stall?pour={self.pour.pk}&pour=nonsense&pour={'9' * 30}")
        self.assertEqual([str(p.first.pour.batch.version.formula) for p in one.context["products"]], ["Undertow"])
        self.assertContains(one, f"Batch {self.pour.batch_id}, best before 1 May 2027")
