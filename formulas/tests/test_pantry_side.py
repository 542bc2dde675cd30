"""What formulas know of the pantry: judged pours on the triangle, measures on the new pages, own keys."""

import re
from decimal import Decimal as D

from django.test import TestCase

from formulas.models import Formula
from pantry.models import Lot, OwnContainer, OwnIngredient
from pantry.queries import in_stock
from pantry.services import Purchase, receive
from tests.support.morning import MorningCase
from tests.support.net_loft import load
from tests.support.pages import form_data
from workshop.models import Preferences


class NetLoftTests(MorningCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    def test_judged_pours_stand_on_the_triangle_where_they_came_out(self) -> None:
        """Neap Tide was judged twice: two small tins; the version that is only planned adds none."""
        neap = Formula.objects.get(name="Neap Tide")
        page = self.client.get(f"/formulas/{neap.pk}/")
        tins = page.context["answer"].map.poured
        self.assertEqual(
            [re.sub(r"^Batch \d+, (\w+).*firmness (\d+).*", r"\1 \2", tin.tin.title) for tin in tins],
            ["change 48", "keep 54"],
        )
        # 14 wax, 26 butter, 59.5 oil of 99.5 lie at 0.141, 0.261 in the triangle.
        self.assertAlmostEqual(tins[0].y + 10, 24 + 404 * 0.8660254 * (1 - 0.1407), delta=0.3)
        self.assertContains(page, "tin-20", count=2)
        history = self.client.get(f"/formulas/{neap.pk}/versions")
        for said in (
            ">Keep</a>",
            ">Change</a>",
            "5 February 2026, measured 54, predicted 54",
            "Right for a hand balm.",
        ):
            self.assertContains(history, said)
        # By tests here as in the studio: from what to what, and what it is.
        slack = Formula.objects.get(name="Slack Water").pk
        studio, versions = f"/formulas/{slack}/", f"/formulas/{slack}/versions"
        page, history = self.client.get(studio), self.client.get(versions)
        shown = f"{page.context['answer'].verdict.firmness:.0f}"
        self.assertContains(history, f"Firmness {shown} by your tests.")
        self.assertContains(history, f"→ {shown} by your tests.")
        Preferences.objects.update(by_own_tests=False)
        plain = f"{page.context['plain_firmness']:.0f}"
        self.assertNotEqual(plain, shown)
        for said in (f"Firmness {plain}. ", f"→ {plain}."):
            self.assertContains(self.client.get(versions), said)
        Preferences.objects.update(by_own_tests=True)
        beside = self.client.get(f"/formulas/{neap.pk}/compare")
        for said in (
            "Not poured yet.",
            "measured 54, predicted 54",
            "bee products",
            "the most for anything made at home",
        ):
            self.assertContains(beside, said)
        begun = self.client.get(f"/formulas/{Formula.objects.get(name='Ebb').pk}/")
        self.assertEqual(begun.context["answer"].map.poured, ())

    def test_plan_method_sheet_and_lot_obey_ounces_fahrenheit_and_the_currency(self) -> None:
        """No gram, no degree C and no euro is left on them."""
        data = form_data(self.client.get("/settings/"), "settings-form", mass_unit="oz", temp_unit="F", currency="kr",
                         resolution_g="0.01 oz", label_price="0,20 kr")  # fmt: skip
        self.assertEqual(self.client.post("/settings/", data).status_code, 302)
        for path in ("/batches/plan?version=5", "/batches/5/method", "/batches/5/", "/pantry/lots/1/", "/pantry/",
                     "/batches/shopping?batch=5", "/formulas/2/versions"):  # fmt: skip
            page = self.client.get(path).content.decode().replace("fill to 50 g", "")
            self.assertNotIn("°C", page, path)
            self.assertNotIn("€", page, path)
        method = self.client.get("/batches/5/method")
        self.assertContains(method, "alone molten at 145 °F, never above 185 °F")
        self.assertContains(method, "Pour at 138 °F.")
        self.assertEqual(method.context["cost"].bill.pieces[0].label, D("0.20"))
        self.assertContains(self.client.get("/pantry/lots/1/"), "35.27 oz")
        for text, said in (("-1", "A price is not below nothing."), ("much", "“much” is not a number")):
            response = self.client.post("/settings/", data | {"label_price": [text]})
            self.assertContains(response, said, status_code=400)

    def test_an_ingredient_page_tells_where_it_is_used_and_what_to_mind(self) -> None:
        """Shea in four formulas and two lots; peppermint's limits; a powder that does not melt."""
        shea = self.client.get("/pantry/ingredients/shea_butter_refined")
        self.assertContains(shea, "38 % at 20 °C, 14 % at 30 °C, 4 % at 35 °C.")
        self.assertEqual([use.name.partition(",")[0] for use in shea.context["details"].used],
                         ["Neap Tide", "Nor'easter", "Slack Water", "Spring Tide"])  # fmt: skip
        self.assertEqual(len(shea.context["details"].stock.lots), 2)
        mint = self.client.get("/pantry/ingredients/peppermint")
        self.assertContains(mint, "At most 5.4 % of what stays on skin.")
        self.assertContains(mint, "Not for children under 6.")
        self.assertContains(mint, "66 °C")
        self.assertContains(self.client.get("/pantry/ingredients/arrowroot"), "Does not melt.")
        self.assertContains(self.client.get("/pantry/ingredients/olive_oil"), "Liquid in any room.")


class KeyTests(TestCase):
    def test_an_own_container_and_an_own_ingredient_of_one_number_are_two_things(self) -> None:
        """Both are the first of their sort; their lots are not added up."""
        tin = OwnContainer.objects.create(name="Quay tin", capacity_ml=60)
        wax = OwnIngredient.objects.create(name="Loft wax", role="wax", melt_low_c=60, melt_high_c=64)
        self.assertEqual(tin.pk, wax.pk)
        receive(Purchase(tin.key, D(12), is_container=True))
        receive(Purchase(wax.key, D(500)))
        self.assertEqual(in_stock([tin.key, wax.key]), {tin.key: D(12), wax.key: D(500)})
        self.assertContains(self.client.get("/pantry/"), "Loft wax")
        forgot = self.client.post(f"/pantry/ingredients/{wax.key}/delete")
        self.assertContains(forgot, "Loft wax is in a formula or in stock", status_code=400)
        Lot.objects.filter(item_key=wax.key).delete()
        self.client.post(f"/pantry/ingredients/{wax.key}/delete")
        self.assertFalse(OwnIngredient.objects.exists())
