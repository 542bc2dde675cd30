"""Labels of several pours on one sheet, in one print."""

from urllib.parse import urlencode

import pypdfium2
from django.http import HttpResponse
from django.test import TestCase

from labels.models import LabelText
from pantry.models import Lot
from pours.models import Pour
from tests.support.net_loft import load


class SeveralTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    def setUp(self) -> None:
        newest = {pour.batch.version.formula_id: pour for pour in Pour.objects.filter(finish=None).order_by("pk")}
        self.pours = list(newest.values())[:3]

    def asked(self, **changes: object) -> list[tuple[str, object]]:
        counts = {f"count-{pour.pk}": n + 2 for n, pour in enumerate(self.pours)}
        size = {"shape": "rectangle", "width": "70", "height": "60", "columns": "2", "rows": "4", "start": "3"}
        fields = {**counts, **size, "left": "10", "top": "10", "gap_x": "2", "gap_y": "2", **changes}
        return [("pour", pour.pk) for pour in self.pours] + list(fields.items())

    def get(self, where: str, **changes: object) -> HttpResponse:
        return self.client.get(f"/labels/{where}?{urlencode(self.asked(**changes))}", follow=True)

    def test_each_as_many_as_wanted_in_one_print(self) -> None:
        """Two, three and four from the third place on: nine labels on two sheets of eight, each with its own batch."""
        page = self.get("several")
        self.assertContains(page, "Print 9")
        self.assertContains(page, "2 sheets; dark are printed now")
        printed = pypdfium2.PdfDocument(self.get("several.pdf").content)
        self.assertEqual(len(printed), 2)
        text = "".join(sheet.get_textpage().get_text_range() for sheet in printed)
        found = [text.count(f"Batch {pour.batch_id}") for pour in self.pours]
        self.assertEqual(found, [2, 3, 4])

    def test_the_list_leads_there_and_left_pieces_are_the_count(self) -> None:
        """Ticked on the list of labels; none ticked says so; as many labels as pieces are left."""
        self.assertContains(self.client.get("/labels/"), "Labels of those ticked")
        self.assertContains(self.client.get("/labels/several", follow=True), "Tick the pours whose labels")
        page = self.client.get("/labels/several", {"pour": self.pours[0].pk})
        self.assertEqual(page.context["rows"][0].count, str(self.pours[0].pieces_made))

    def test_what_is_in_the_way_is_said_and_nothing_is_printed(self) -> None:
        """No number, a size without room for the cautions, words that promise too much, a recalled lot: beside its pour,
        and again where it was to be printed; of none wanted nothing is asked."""
        first = self.pours[0]
        LabelText.objects.create(formula=first.batch.version.formula, use="Heals eczema")
        small = {"width": "30", "height": "30"}
        for changes, said in (
            ({f"count-{first.pk}": "a few"}, "“a few”"),
            (small, "The cautions have no room"),
            ({}, "Its words promise too much"),
        ):
            with self.subTest(said):
                self.assertContains(self.get("several", **changes), said)
                self.assertContains(self.get("several.pdf", **changes), said)
        self.assertNotContains(self.get("several", **{f"count-{first.pk}": "0"}), "promise too much")
        lot = Lot.objects.filter(draws__line__batch=self.pours[1].batch).first()
        Lot.objects.filter(pk=lot.pk).update(state="recalled")
        told = self.get("several.pdf", **{f"count-{first.pk}": "0"})
        self.assertContains(told, "do not use it or hand it on")
