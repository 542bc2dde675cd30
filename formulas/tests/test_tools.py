"""The studio's tools as a form: offers, words, refusals, and nothing taken before it is accepted."""

from decimal import Decimal as D

from django.http import HttpResponse
from django.test import TestCase

from balmcore.composition import Composition
from balmcore.making.cost import Price
from balmcore.tables import shipped
from formulas.models import Version
from formulas.queries import firmness_of
from formulas.studio.offers import cost_text
from pantry.services import Purchase, receive
from pantry.tables import workshop_tables
from tests.support.makings import begin
from tests.support.pages import Data, form_data
from workshop.models import Preferences


class ToolTests(TestCase):
    def setUp(self) -> None:
        self.formula = begin("Topsail", "hand_balm")
        self.path = f"/formulas/{self.formula.pk}/"
        self.page: HttpResponse = self.client.get(self.path)

    def act(self, **changes: str) -> Data:
        self.page = self.client.post(self.path + "try", form_data(self.page, "studio", **changes))
        self.assertEqual(self.page.status_code, 200)
        return form_data(self.page, "studio")

    def offers(self) -> list:
        return list(self.page.context["answer"].tool.offers)

    def test_a_stick_is_asked_for_and_accepted(self) -> None:
        """The kind brings its window; the offer stands beside the formula until it is taken."""
        data = self.act(open="reach")
        self.assertEqual((data["reach_low"], data["reach_high"], data["reach_at"]), (["48"], ["64"], ["38 °C"]))
        data = self.act(reach_kind="lip_balm_tube")
        self.assertEqual((data["reach_low"], data["reach_hold"]), (["62"], ["40"]))
        self.assertContains(self.page, "Reached: 72 at 21 °C, 57 at 38 °C.")
        self.assertEqual(data["percent-beeswax_yellow"], ["17.00"])
        self.assertNotContains(self.page, "changed, not saved")
        self.assertEqual(
            [offer.name for offer in self.offers()], ["More wax", "More wax and more butter", "Every line a little"]
        )
        offer = self.offers()[0]
        self.assertEqual([change.before for change in offer.changes], ["17.0", "54.5"])
        data = self.act(accept=offer.packed)
        self.assertAlmostEqual(float(data["percent-beeswax_yellow"][0]), 32.7, delta=0.3)
        self.assertContains(self.page, "changed, not saved")
        self.assertContains(self.page, "100.00 %")
        self.assertNotContains(self.page, "Reached:")

    def test_wishes_and_what_they_cannot_have(self) -> None:
        """Vegan brings a plant wax and says what it no longer holds; locked beeswax is named."""
        self.act(open="reach")
        self.act(vegan="1", wish="tree nuts, bees")
        self.assertContains(self.page, "Candelilla wax")
        self.assertContains(self.page, "No longer holds bee products, shea nut.")
        data = self.act(wish="zzz")
        self.assertContains(self.page, "“zzz” is no allergen, ingredient or family here.")
        self.assertEqual((data["without"], data["wish"]), (["tree nuts", "bees"], ["zzz"]))
        self.assertEqual(self.act(wish="", unwish="bees")["without"], ["tree nuts"])
        self.act(stock_only="1")
        self.assertContains(self.page, "stand in the way")
        self.act(stock_only="", unwish="tree nuts", vegan="1")
        self.act(**{"locked-beeswax_yellow": "1"})
        self.assertContains(self.page, "Beeswax, yellow is locked, and the wishes bar it: unlock it first.")

    def test_cheaper_needs_prices_and_then_costs_less(self) -> None:
        """Shea at four times the oil's price gives way; without a price the wish cannot be had."""
        self.act(open="reach")
        self.act(reach_cheaper="1")
        self.assertContains(self.page, "No price is known of any of these")
        prices = {"beeswax_yellow": "0.02", "shea_butter_refined": "0.04", "coconut_oil_refined": "0.01",
                  "sunflower_oil_ho": "0.01", "vitamin_e_oil": "0.10"}  # fmt: skip
        for key, price in prices.items():
            receive(Purchase(key, D(100), price=D(price) * 100))
        self.act(reach_cheaper="1")
        self.assertContains(self.page, "100 g cost 1.")
        self.assertContains(self.page, "€ instead of 1.82 €.")
        before, after = self.formula.versions.get().to_composition(shipped()), self.offers()[0].composition
        cost = [sum(line.share * D(prices[line.key]) for line in formula.lines) for formula in (before, after)]
        self.assertLess(cost[1], cost[0] * D("0.995"))
        self.act(accept=self.offers()[0].packed)
        data = form_data(self.page, "studio", note="For less.")
        self.client.post(self.path + "save", data)
        self.assertContains(self.client.get(self.path + "versions"), "100 g cost 1.82 € → 1.")
        self.assertContains(self.client.get(self.path + "compare"), "1.82 €")

    def test_what_100_g_cost_while_the_total_is_not_100(self) -> None:
        """Half a formula and a double one cost what the whole does."""
        known = {"beeswax_yellow": Price(D("0.03"), ""), "olive_oil": Price(D("0.0075"), "")}
        whole = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.8")})
        for factor in ("1", "0.5", "2"):
            part = Composition(tuple(line._replace(share=line.share * D(factor)) for line in whole.lines))
            self.assertEqual(cost_text(part, known, Preferences()), "1.20 €")

    def test_nonsense_in_a_tool_is_told_and_kept(self) -> None:
        """Words for numbers, a window upside down, half a hold: a sentence, no offer, text kept."""
        self.act(open="reach")
        for changes, said in (
            ({"reach_low": "soft"}, "“soft” is not a number"),
            ({"reach_low": ""}, "From which firmness to which?"),
            ({"reach_low": "90", "reach_high": "80"}, "The window should run from a lower to a higher firmness."),
            ({"reach_hold": "45", "reach_at": ""}, "A hold needs both"),
            ({"reach_at": "summer"}, "“summer” is not a temperature"),
        ):
            with self.subTest(said):
                self.act(reach_kind="hand_balm", reach_was="")
                data = self.act(**changes)
                self.assertContains(self.page, said)
                self.assertEqual(self.offers(), [])
                self.assertEqual(data[next(iter(changes))], [next(iter(changes.values()))])

    def test_a_swap_shows_both_ways_in_words_and_either_can_be_taken(self) -> None:
        """Candelilla for beeswax: harder one for one; matched takes less and gives to the oil."""
        self.act(open="swap")
        self.act(swap_out="beeswax_yellow", swap_in="candelilla_wax")
        self.assertContains(self.page, "One for one lands 10 points harder; 74 % of the weight comes nearest")
        one, matched = self.offers()
        self.assertEqual([round(offer.firmness) for offer in (one, matched)], [63, 55])
        self.assertEqual(matched.comes_with, ("No longer holds bee products.",))
        data = self.act(accept=matched.packed)
        self.assertEqual(data["percent-candelilla_wax"], ["12.59"])
        self.assertNotIn("beeswax_yellow", data["key"])

    def test_tools_on_an_empty_formula_and_forged_offers(self) -> None:
        """Nothing to swap in nothing; an offer of an unknown ingredient is refused."""
        for key in ("beeswax_yellow", "shea_butter_refined", "coconut_oil_refined", "sunflower_oil_ho"):
            self.act(remove=key)
        self.act(open="swap")
        self.assertContains(self.page, "There is no wax, butter or oil to swap.")
        self.act(open="reach")
        self.assertContains(self.page, "There is no wax in it: add one, and ask again.")
        self.act(accept="unobtainium:1")
        self.assertContains(self.page, "There is no ingredient “unobtainium”")
        self.act(remove="vitamin_e_oil")
        self.act(open="swap")
        self.assertContains(self.page, "Nothing to weigh yet")


class WindowTests(TestCase):
    def test_a_window_moved_is_followed_by_gate_target_and_verdict(self) -> None:
        """A hand balm of 56 is right; from 60 to 70 it is too soft; its own formula keeps 50 to 58; as shipped
        again it is right again."""
        formula = begin("Topsail", "hand_balm")
        path = f"/formulas/{formula.pk}/"
        self.assertContains(self.client.get(path), "Right for a hand balm.")
        page = self.client.get("/settings/kinds/hand_balm")
        typed = form_data(page, "kind", firm_low="60", firm_high="70,5", hold_temp_c="100 °F")
        self.client.post("/settings/kinds/hand_balm", typed)
        page = self.client.get(path)
        self.assertContains(page, "Right for a hand balm: between the bars at 21 °C, 60 to 70")
        self.assertNotContains(page, "Right for a hand balm.")
        self.assertContains(self.client.get("/settings/kinds"), "moved by you")
        tool = self.client.post(path + "try", form_data(page, "studio", open="reach"))
        self.assertEqual(form_data(tool, "studio")["reach_low"], ["60"])
        own = form_data(tool, "studio", reach_low="50", reach_high="58", own="1")
        self.assertContains(self.client.post(path + "window", own), "its own window 50 to 58")
        self.assertContains(self.client.get(path), "Right for a hand balm.")
        bad = self.client.post(path + "window", {**own, "reach_low": ["80"]})
        self.assertContains(bad, "A window runs from a lower to a higher firmness")
        self.client.post("/settings/kinds/hand_balm/back")
        self.client.post(path + "window", {**own, "own": [""]})
        self.assertContains(self.client.get(path), "bars at 21 °C, 48 to 64")

    def test_a_kind_of_ones_own_is_made_used_and_kept_while_used(self) -> None:
        """Ferry stick, like a tube lip balm, 70 to 85; taken away only once no formula is of it."""
        page = self.client.get("/settings/kinds")
        typed = {"name": "Ferry stick", "like": "lip_balm_tube", "firm_low": "70", "firm_high": "85"}
        refused = self.client.post("/settings/kinds", form_data(page, "own-kind", **{**typed, "firm_high": "60"}))
        self.assertContains(refused, "A window runs from a lower to a higher firmness", status_code=400)
        half = self.client.post("/settings/kinds", form_data(page, "own-kind", **typed, hold_firmness="40"))
        self.assertContains(half, "A hold needs both", status_code=400)
        self.client.post("/settings/kinds", form_data(page, "own-kind", **typed))
        self.assertContains(self.client.get("/formulas/new"), "Ferry stick")
        kind = next(key for key in workshop_tables().kinds if key.startswith("own-kind-"))
        self.client.post("/formulas/new", {"name": "Gangway", "kind": kind})
        formula = Version.objects.get(formula__name="Gangway").formula
        self.assertContains(
            self.client.get(f"/formulas/{formula.pk}/"), "Right for a ferry stick: between the bars at 21 °C, 70"
        )
        kept = self.client.post(f"/settings/kinds/{kind}/back")
        self.assertContains(kept, "Formulas are of this kind: ferry stick stays", status_code=400)
        formula.delete()
        self.client.post(f"/settings/kinds/{kind}/back")
        self.assertContains(self.client.get("/settings/kinds"), "Ferry stick is taken away.")
        self.assertNotContains(self.client.get("/settings/kinds"), "Ferry stick")

    def test_what_the_pantry_makes_is_taken_to_the_studio(self) -> None:
        """Wax and oil alone make salves, the largest batch named with what limits it; an empty pantry says so."""
        self.assertContains(self.client.get("/formulas/from-pantry"), "Nothing is in stock yet.")
        for key, grams in (("beeswax_yellow", 200), ("olive_oil", 500)):
            receive(Purchase(key, D(grams)))
        page = self.client.get("/formulas/from-pantry")
        self.assertContains(page, "Olive oil, 500.0 g in stock, runs out first".lower())
        made = next(each for each in page.context["found"].can if each.kind.key == "soft_salve")
        self.client.post("/formulas/from-pantry", {"kind": "soft_salve", "lines": made.packed})
        version = Version.objects.get()
        self.assertEqual({line.ingredient_key for line in version.lines.all()}, {"beeswax_yellow", "olive_oil"})
        self.assertTrue(28 <= firmness_of(version, shipped()) <= 46)

    def test_a_lot_is_used_up_by_what_is_asked_for(self) -> None:
        """40 g of kokum in a batch of 400 are a tenth of every way offered."""
        lot = receive(Purchase("kokum_butter", D(40)))
        formula = begin("Topsail", "hand_balm")
        path = f"/formulas/{formula.pk}/try"
        page = self.client.post(path, form_data(self.client.get(path[:-3]), "studio", open="reach"))
        page = self.client.post(path, form_data(page, "studio", use_up=str(lot.pk), use_batch="400"))
        offers = page.context["answer"].tool.offers
        self.assertEqual({offer.composition.share_of("kokum_butter") for offer in offers}, {D("0.1")})
        small = self.client.post(path, form_data(page, "studio", use_batch="1 oz"))
        self.assertContains(small, "the batch has to be larger than the lot")
