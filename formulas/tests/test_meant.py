"""What a formula is meant for stays with its versions, and is said wherever it is made."""

import json
from decimal import Decimal as D

from django.http import HttpResponse
from django.test import TestCase

from balmcore.composition import Composition
from formulas.models import Version
from tests.support.makings import begin
from tests.support.pages import Data, form_data

SHARES = {"beeswax_yellow": D("0.2"), "sweet_almond_oil": D("0.5"), "coconut_oil": D("0.29"), "lavender": D("0.01")}
NUTS = "Sweet almond oil: not without nuts"


class MeantTests(TestCase):
    def setUp(self) -> None:
        self.formula = begin("Topsail", "hand_balm", Composition.of(SHARES))
        self.path = f"/formulas/{self.formula.pk}/"
        self.page: HttpResponse = self.client.get(self.path)

    def save(self, **changes: str) -> Version:
        data = form_data(self.page, "studio", **changes)
        self.assertRedirects(self.client.post(f"{self.path}save", data), self.path)
        self.page = self.client.get(self.path)
        return self.formula.versions.get(is_current=True)

    def fields(self) -> Data:
        return form_data(self.page, "studio")

    def test_it_is_judged_at_every_edit_and_kept(self) -> None:
        """A wish typed is judged at once; saved, it stands in the studio, on plan, card and label, and in what is handed
        on; a branch and an earlier version have their own."""
        tried = self.client.post(f"{self.path}try", form_data(self.page, "studio", wish="nuts", skin="clogs"))
        self.assertContains(tried, NUTS)
        self.assertContains(tried, "On lists of what clogs: coconut oil, virgin")
        self.assertContains(tried, "changed, not saved")
        version = self.save(wish="nuts", skin="clogs", season="summer")
        self.assertEqual(version.meant.words, "without nuts, for skin that clogs easily, for a bag in July")
        self.assertEqual((self.fields()["without"], self.fields()["skin"]), (["nuts"], ["clogs"]))
        plan = self.client.get("/batches/plan", {"version": version.pk})
        card = self.client.get(f"{self.path}v{version.number}/card")
        for page in (self.page, plan, card):
            self.assertContains(page, NUTS)
            self.assertContains(page, "without nuts, for skin that clogs easily, for a bag in July")
        handed = json.loads(self.client.get(f"{self.path}v{version.number}.json").content)
        self.assertEqual(handed["meant"]["without"], ["nuts"])
        self.assertEqual(self.formula.versions.get(number=1).meant.words, "")
        self.assertContains(self.client.get(f"{self.path}versions"), "Meant to be without nuts")

    def test_percent_of_the_base_stays_so(self) -> None:
        """Opened again, the fields are of the base, and a locked line says what was typed."""
        data = form_data(self.page, "studio", of="base")
        self.page = self.client.post(f"{self.path}try", data)
        data = form_data(self.page, "studio", **{"percent-lavender": "1.5", "edited": "lavender"})
        self.page = self.client.post(f"{self.path}try", data)
        version = self.save(**{"locked-lavender": "1"})
        self.assertEqual(version.percent_of, "base")
        self.assertEqual((self.fields()["of"], self.fields()["percent-lavender"]), (["base"], ["1.50"]))
        self.assertNotContains(self.page, "changed, not saved")

    def test_why_can_be_written_after_saving(self) -> None:
        """With nothing else changed a note makes no version; any version's can be written anew."""
        self.save(note="for July")
        self.assertEqual(list(self.formula.versions.values_list("number", "note")), [(1, "for July")])
        page = self.client.post(f"{self.path}versions", {"why_of": "1", "why": "for the ferry"}, follow=True)
        self.assertContains(page, "for the ferry")
        self.assertContains(page, "Noted with version 1.")

    def test_any_ingredient_is_swapped_in_and_the_likely_come_first(self) -> None:
        data = form_data(self.page, "studio", open="swap", swap_out="beeswax_yellow")
        page = self.client.post(f"{self.path}try", data)
        likely = [item.key for item in page.context["answer"].tool.stand_ins]
        self.assertIn("beeswax_white", likely)
        self.assertNotIn("castor_oil", likely)
        data = form_data(page, "studio", swap_out="beeswax_yellow", swap_in="Ricinus Communis (Castor) Seed Oil")
        page = self.client.post(f"{self.path}try", data)
        self.assertEqual(page.context["answer"].tool.into, "Castor oil")
        self.assertEqual(len(page.context["answer"].tool.offers), 2)
        for text, said in (("xyzzy", "is not in the pantry"), ("beeswax, yellow", "is what is taken out")):
            page = self.client.post(f"{self.path}try", {**data, "swap_in": [text]})
            self.assertContains(page, said)
