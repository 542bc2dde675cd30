"""From a formula to a batch on the clock: fills, stock, lots, leftovers, times, calendar, shopping."""

import re
from datetime import UTC, datetime, timedelta
from decimal import Decimal as D

from django.http import HttpResponse
from django.test import TestCase
from django.utils import timezone

from balmcore.composition import Composition
from balmcore.display import day_words
from balmcore.tables import shipped
from batches.batch_plan import BatchPlan
from batches.models import DEFAULT_PITCHER, Batch
from formulas.models import Version
from formulas.recipes.page import page_of
from formulas.recipes.services import begin_of
from pantry import services
from pantry.models import Lot, OwnContainer, Preparation
from pantry.services import Purchase, receive
from pantry.tables import workshop_tables
from tests.support.makings import begin
from tests.support.pages import form_data
from workshop.models import Preferences
from workshop.services import preferences

SALVE = {"beeswax_yellow": "0.2", "olive_oil": "0.79", "lavender": "0.01"}
NOW = datetime(2026, 10, 20, 8, 0, tzinfo=UTC)


def salve(name: str = "Topsail") -> Version:
    """A version of three lines."""
    composition = Composition.of({key: D(share) for key, share in SALVE.items()})
    return begin(name, "pot_salve", composition).versions.get()


class PlanCase(TestCase):
    def setUp(self) -> None:
        self.version = salve()
        self.page = self.client.get("/batches/plan", {"version": self.version.pk})

    def post(self, status: int = 200, **changes: str | list[str]) -> HttpResponse:
        changes = {"container": "tin_screw_60", "count": "6", **changes}
        response = self.client.post("/batches/plan", form_data(self.page, "plan", **changes))
        self.assertEqual(response.status_code, status)
        return response

    def planned(self, **changes: str | list[str]) -> Batch:
        self.post(302, save="1", **changes)
        return Batch.objects.latest("pk")

    def weigh(self, batch: Batch, status: int = 200, **fields: str) -> HttpResponse:
        path = f"/bench/{batch.pk}/weigh"
        typed = {name.replace("_of_", "-"): v for name, v in fields.items()}
        sure = {name.replace("actual-", "sure-"): v for name, v in typed.items() if name.startswith("actual-")}
        data = form_data(self.client.get(path), "weigh", **typed, **sure)
        response = self.client.post(path, data)
        self.assertEqual(response.status_code, status)
        return response


class FillTests(PlanCase):
    def test_to_the_brim_to_a_volume_or_to_a_net_weight(self) -> None:
        """62 mL tins: brimful 100 %, 31 mL is half of it, 50 g and 1.75 oz are what the scale says."""
        brimful = self.post(fill="brimful").context["planning"].scaled.pieces[0].net_g
        for fill, share in (("31 mL", 0.5), ("2 fl oz", 59.147 / 62), ("90", 0.9)):
            net = self.post(fill=fill).context["planning"].scaled.pieces[0].net_g
            self.assertAlmostEqual(net, brimful * share, places=3)
        for fill, grams in (("50 g", 50), ("1,75 oz", 49.612)):
            page = self.post(fill=fill)
            self.assertAlmostEqual(page.context["planning"].scaled.pieces[0].net_g, grams, places=2)
        told = set()
        for fill in ("50 g", "90 %", "31 mL"):  # however it is filled, its room holds one and the same
            told |= set(
                re.findall(
                    r"Brimful, its 2.1 fl oz of room hold\s+([\d.]+) oz of this", self.post(fill=fill).content.decode()
                )
            )
        self.assertEqual(told, {f"{brimful / 28.3495:.2f}"})
        for fill, said in (
            ("140 %", "“140 %” is more than the whole"),
            ("80 mL", "“80 mL” does not go into 62 mL."),
            ("0 g", "A net weight is more than nothing."),
            ("70 g", "70 g does not go in: brimful of this it holds"),
        ):
            self.assertContains(self.post(400, save="1", fill=fill), said, status_code=400)

    def test_the_pitcher_decides_what_stays_in_it(self) -> None:
        """A wide bowl keeps more than the half-litre jug; one too small is filled twice."""
        loss = []
        for jug in ("jug_pouring_500", "bowl_mixing_2000"):
            page = self.post(pitcher=jug, chosen_pitcher="1")
            loss.append(D(form_data(page, "plan")["loss"][0].removesuffix(" g")))
        self.assertLess(loss[0], loss[1])
        self.assertContains(self.post(pitcher="jug_pouring_250", chosen_pitcher="1"), "In 2 pitchers")

    def test_as_many_as_the_stock_allows_is_never_refused(self) -> None:
        """Grams, kilograms, more than any kitchen melts at once: whatever is in stock and whichever pitcher was chosen."""
        for key in SALVE:
            receive(Purchase(key, D(90)))
        for more in (0, 900, 30_000, 900_000):
            for key in SALVE if more else ():
                receive(Purchase(key, D(more)))
            for pitcher in ("", "jug_pouring_250"):
                with self.subTest(more=more, pitcher=pitcher):
                    for sort in ("tin_screw_60", "jar_glass_100"):
                        fitted = self.post(fit="stock", container=sort, pitcher=pitcher).context["planning"]
                        self.assertEqual((fitted.problems, fitted.can_be_planned), ({}, True))
                        self.assertLessEqual(fitted.scaled.total_g, min(50_000, fitted.supply.most.total_g))

    def test_a_pitcher_of_ones_own_is_offered_used_and_kept(self) -> None:
        """It stays with the batch, and the usual jug stands in once it is taken away."""
        own = OwnContainer.objects.create(name="The old jug", kind="vessel", capacity_ml=700, diameter_mm=95)
        self.page = self.client.get("/batches/plan", {"version": self.version.pk})
        self.assertContains(self.page, "The old jug")
        batch = self.planned(pitcher=own.key, fill="50 g")
        self.assertEqual(BatchPlan.of(batch).pitcher.name, "The old jug")
        own.delete()
        self.assertEqual(BatchPlan.of(batch).pitcher.key, DEFAULT_PITCHER)

    def test_a_line_too_small_for_the_scale_offers_drops_a_larger_batch_or_a_dilution(self) -> None:
        """0.08 g of lavender in three sample pots: 2 drops, from 100 g on, or one part in fifty of oil."""
        page = self.post(container="pot_sample_3", count="3", fill="90", loss="0")
        self.assertContains(page, "2 drops (25 to the mL). From a batch of 100.0 g the scale will do.")
        self.assertContains(page, "take 4.0 g of that mix, and 3.9 g less olive oil into the pot.")


class RecipeSizeTests(TestCase):
    def begun(self, text: str) -> Version:
        """A version read from a recipe, its questions as they are."""
        page = page_of(text, "metric", {}, shipped())
        return begin_of(page, "Neap", shipped().kind("pot_salve"), (), False).versions.get()

    def test_what_was_read_as_so_much_is_planned_as_so_much(self) -> None:
        """154.8 g and others on the scale's grid, in a few containers; parts have no size, and a changed version none."""
        for text, total in (
            ("30.8 g beeswax\n124 g jojoba", "154.8 g"),
            ("300 g beeswax\n1.2 kg jojoba", "1500.0 g"),
            ("4 g beeswax\n11 g jojoba", "15.0 g"),
            ("20 g beeswax\n60 g jojoba\n20 g arnica tincture", "100.0 g"),
        ):
            with self.subTest(text):
                page = self.client.get("/batches/plan", {"version": self.begun(text).pk})
                self.assertContains(page, f'<span class="big" id="batch-total">{total}</span>', html=True)
                self.assertLessEqual(int(page.context["planning"].rows[0].text("count")), 12)
        parts = self.begun("1 part beeswax\n5 parts jojoba")
        usual = self.client.get("/batches/plan", {"version": parts.pk})
        self.assertEqual(usual.context["planning"].rows[0].text("count"), "4")
        self.assertNotContains(usual, "as much as")

    def test_a_question_about_amounts_is_asked_before_a_plan(self) -> None:
        """A range: said on the plan, refused once, planned when its maker says so, and said on the sheet."""
        version = self.begun("20 to 30 g beeswax\n100 g jojoba")
        page = self.client.get("/batches/plan", {"version": version.pk})
        self.assertContains(page, "1 question of its recipe")
        refused = self.client.post("/batches/plan", form_data(page, "plan", save="1"))
        self.assertContains(refused, "Answer what the recipe left open, or say that it is right", status_code=400)
        self.assertEqual(Batch.objects.count(), 0)
        planned = self.client.post("/batches/plan", form_data(refused, "plan", save="1", known_doubts="1"))
        self.assertContains(self.client.get(planned.url), "1 question of its recipe")
        only_a_name = self.begun("20 g shea\n100 g jojoba")
        page = self.client.get("/batches/plan", {"version": only_a_name.pk})
        self.assertContains(page, "1 question of its recipe")
        self.assertEqual(self.client.post("/batches/plan", form_data(page, "plan", save="1")).status_code, 302)


class WaysTests(TestCase):
    def test_a_way_of_heating_is_chosen_in_plan_and_settings_and_a_flame_is_refused(self) -> None:
        """The cooker set in the settings stands in the next plan, in the batch and in its method; a microwave with wax
        and a pot on the plate say why not, and are not planned."""
        prefs = preferences()
        prefs.heating = "thermostat"
        prefs.save()
        version = begin("Ebb", "pot_salve").versions.get()
        page = self.client.get("/batches/plan", {"version": version.pk})
        self.assertContains(page, '<option value="thermostat" selected>Slow cooker or wax melter</option>')
        self.assertContains(page, "A thermostat can fail and cook on")
        for key, said in (("direct", "burns like oil"), ("microwave", "Beeswax, yellow takes up little")):
            refused = self.client.post("/batches/plan", form_data(page, "plan", heating=key, save="1"))
            self.assertContains(refused, said, status_code=400)
            self.assertFalse(Batch.objects.exists())
        self.client.post("/batches/plan", form_data(page, "plan", save="1"))
        batch = Batch.objects.get()
        self.assertEqual(batch.heating, "thermostat")
        self.assertContains(self.client.get(f"/batches/{batch.pk}/method"), "Cooker or melter on low")

    def test_another_whipper_gains_its_own_air(self) -> None:
        """A stick blender gains four tenths of the usual 60 %."""
        version = begin("Foam", "whipped_butter").versions.get()
        page = self.client.get("/batches/plan", {"version": version.pk})
        usual = page.context["planning"].plan.overrun
        page = self.client.post("/batches/plan", form_data(page, "plan", whipper="stick", chosen_whipper="1"))
        self.assertAlmostEqual(page.context["planning"].plan.overrun, usual * 0.4, delta=0.006)
        self.client.post("/batches/plan", form_data(page, "plan", save="1"))
        self.assertEqual(Batch.objects.get().whipper, "stick")


class StockTests(PlanCase):
    def setUp(self) -> None:
        super().setUp()
        self.old = receive(Purchase("olive_oil", D(150), best_before=timezone.localdate(), price=D("1.50")))
        self.new = receive(Purchase("olive_oil", D(300), best_before=timezone.localdate() + timedelta(300)))
        self.wax = receive(Purchase("beeswax_yellow", D(40), price=D("0.80"), supplier="Slipway"))
        self.tins = receive(Purchase("tin_screw_60", D(4), is_container=True, price=D("2.00")))

    def left(self, lot: Lot) -> D:
        lot.refresh_from_db()
        return lot.left

    def test_how_long_it_would_keep(self) -> None:
        """The old lot of oil ends today, and it serves first; a lot without a day says what is usual."""
        plain = receive(Purchase("lavender", D(10)))
        told = f"Best before {day_words(timezone.localdate())}: the lot of olive oil ends then."
        self.assertContains(self.post(), f"Made today: {told}")
        page = self.client.get(f"/pantry/lots/{plain.pk}/")
        self.assertContains(page, "No best before was written down. It usually keeps")

    def test_the_largest_batch_and_using_up_a_lot(self) -> None:
        """40 g of wax allow 200 g: three tins of 50 g; 150 g of old oil fill just as many."""
        page = self.post(fill="50 g")
        self.assertContains(page, f"The stock allows 200.0 g; beeswax, yellow, lot {self.wax.pk}, runs out first.")
        self.assertContains(page, "20.6 g short in stock")  # of wax, for 303 g
        self.assertContains(page, "2 short in stock")  # tins
        page = self.post(fill="50 g", fit="stock")
        self.assertEqual(form_data(page, "plan")["count"], ["3"])
        page = self.post(fill="50 g", use_up=str(self.old.pk), chosen_lot="1")
        self.assertEqual((form_data(page, "plan")["count"], form_data(page, "plan")["loss"]), (["3"], ["39.8 g"]))
        self.assertEqual(page.context["planning"].scaled.lines["olive_oil"], D("150.0"))
        # The list still shows the lot; another count typed afterwards stands.
        page = self.post(fill="50 g", use_up=str(self.old.pk), count="5")
        self.assertEqual(form_data(page, "plan")["count"], ["5"])
        self.assertContains(self.post(fill="50 g", use_up="999", chosen_lot="1"), "That lot is not one of this formula")
        self.assertContains(self.post(fill="50 g", loss="300", fit="stock"), "That is not enough for a single piece.")
        services.correct(self.wax, D(0), "Used up.")
        self.assertContains(self.post(fill="50 g"), "The stock allows none: there is no beeswax, yellow to use.")

    def test_grams_leave_the_first_to_expire_and_go_back_when_a_weight_is_put_right(self) -> None:
        """239.4 g of oil: 150 old and 89.4 new; 100 instead gives 139.4 back; called off, all is back."""
        batch = self.planned(fill="50 g")
        self.weigh(batch, actual_of_olive_oil="239.4")
        self.assertEqual((self.left(self.old), self.left(self.new)), (0, D("210.6")))
        page = self.weigh(batch, actual_of_olive_oil="100")
        self.assertEqual((self.left(self.old), self.left(self.new)), (D(50), D(300)))
        self.assertContains(page, f"Lot {self.old.pk}")
        self.weigh(batch, lot_of_olive_oil=str(self.new.pk))
        self.assertEqual((self.left(self.old), self.left(self.new)), (D(150), D(200)))
        self.assertContains(self.client.get(f"/batches/{batch.pk}/"), f"lot {self.new.pk}")
        self.client.post(f"/bench/{batch.pk}/call-off", {"fate": "back"})
        self.assertEqual((self.left(self.old), self.left(self.new)), (D(150), D(300)))
        for lot in (self.old, self.new):
            self.assertEqual(sum(entry.amount for entry in lot.entries.all()), lot.left)

    def test_what_no_lot_has_is_weighed_all_the_same_and_told(self) -> None:
        """60.6 g of wax with 40 in stock; a lot of something else cannot be chosen."""
        batch = self.planned(fill="50 g")
        page = self.weigh(batch, actual_of_beeswax_yellow="60.6")
        self.assertContains(page, "20.6 g came from no lot: receive one, then say on")
        self.assertEqual(self.left(self.wax), 0)
        self.assertEqual(batch.lines.get(ingredient_key="beeswax_yellow").actual_g, D("60.6"))
        refused = self.weigh(batch, 400, lot_of_olive_oil=str(self.wax.pk))
        self.assertContains(refused, "That lot is not one of this ingredient: choose another.", status_code=400)

    def test_cost_names_what_it_knows_and_what_it_does_not(self) -> None:
        """Old oil at a cent, wax at two, tins at 50; of the newer oil no price is known: at least 0.01 x 150 + 0.02 x 60.6."""
        self.post(302, save="1", fill="50 g")
        page = self.client.get(f"/batches/{Batch.objects.get().pk}/method")
        bill = page.context["cost"].bill
        self.assertEqual(bill.melt, D(150) * D("0.01") + D("60.6") * D("0.02"))
        self.assertEqual(bill.pieces[0].total, bill.melt / 6 + D("0.5"))
        self.assertContains(page, "No price known of olive oil and lavender")
        self.assertContains(page, "lot 3, Slipway")

    def test_a_shopping_list_in_packs_bought_before(self) -> None:
        """Wax in packs of 40 g, tins in fours; what is weighed is not asked for again."""
        batch = self.planned(fill="50 g")
        page = self.client.get("/batches/shopping", {"batch": batch.pk})
        told = {item.key: (item.missing, item.packs.count, item.packs.size) for item in page.context["list"].wanted}
        self.assertEqual(
            told,
            {
                "beeswax_yellow": (D("20.6"), 1, D(40)),
                "lavender": (D("3.0"), 1, None),
                "tin_screw_60": (D(2), 1, D(4)),
            },
        )
        self.assertContains(page, "/pantry/?item=beeswax_yellow&amp;amount=40+g")
        self.weigh(batch, actual_of_beeswax_yellow="40")
        page = self.client.get("/batches/shopping", {"batch": batch.pk})
        self.assertEqual([item.key for item in page.context["list"].wanted], ["lavender", "tin_screw_60"])

    def test_the_rest_of_a_melt_becomes_a_lot_and_a_recall_finds_all_of_it(self) -> None:
        """21 g stay, go into another batch; recalling the wax names both pours and every piece."""
        batch = self.planned(fill="50 g", count="3")
        self.weigh(batch, actual_of_beeswax_yellow="31", actual_of_olive_oil="121", actual_of_lavender="1.5")
        record = f"/pours/of/{batch.pk}"
        too_much = form_data(self.client.get(record), "pour", leftover_g="500")
        self.assertContains(self.client.post(record, too_much), "Only 153.5 g were in the pot.", status_code=400)
        self.client.post(record, form_data(self.client.get(record), "pour", leftover_g="21", leftover_kept="on"))
        rest = Lot.objects.latest("pk")
        self.assertEqual((rest.left, self.left(self.tins)), (D(21), D(1)))
        page = self.client.get(f"/pantry/ingredients/{rest.item_key}")
        self.assertContains(page, "Olive oil 78.8 %, Beeswax, yellow 20.2 %, Lavender 1.0 %")
        today = timezone.localdate()
        self.assertContains(page, f"Melted {day_words(today)}.")
        Preferences.objects.update_or_create(pk=1, defaults={"date_order": "month"})
        turned = self.client.get(f"/pantry/ingredients/{rest.item_key}")
        self.assertContains(turned, f"Melted {today:%B} {today.day}, {today.year}.")
        Preferences.objects.update(date_order="day")

        composition = {rest.item_key: D("0.5"), "olive_oil": D("0.5")}
        tables = workshop_tables()
        second = begin("Second", "soft_salve", Composition.of(composition, tables), tables).versions.get()
        self.page = self.client.get("/batches/plan", {"version": second.pk})
        other = self.planned(container="tin_screw_15", fill="10 g", count="2", loss="0")
        self.weigh(other, **{f"actual_of_{rest.item_key}": "10", "actual_of_olive_oil": "10"})
        self.client.post(f"/pours/of/{other.pk}", form_data(self.client.get(f"/pours/of/{other.pk}"), "pour"))
        self.client.post(f"/pantry/lots/{self.wax.pk}/", {"do": "recalled", "note": "Their letter."})
        found = self.client.get(f"/pours/from-lot/{self.wax.pk}")
        self.assertContains(found, "5 pieces in 2 pours")
        self.assertContains(found, f"through the rest of batch {batch.pk}")
        self.assertContains(self.client.get(f"/pours/from-lot/{self.tins.pk}"), "3 pieces in 1 pour")
        # The old oil in it is best before today, and so is the rest.
        self.assertEqual(rest.best_before, self.old.best_before)
        for address in (f"/batches/{other.pk}/", f"/batches/{other.pk}/method", f"/pours/{other.pours.get().pk}/", "/batches/",
                        "/pours/"):  # fmt: skip
            page = self.client.get(address)
            self.assertContains(page, f"Beeswax, yellow, lot {self.wax.pk}, is recalled, by the rest of batch")
        self.assertContains(page, f"Beeswax, yellow, lot {self.wax.pk}, is recalled", 2)
        self.client.post(f"/pantry/lots/{self.wax.pk}/", {"do": "good"})
        self.client.post(f"/pantry/lots/{self.tins.pk}/", {"do": "recalled"})
        self.assertContains(
            self.client.get(f"/batches/{batch.pk}/"), f"Screw tin 60 mL, lot {self.tins.pk}, is recalled."
        )
        self.assertNotContains(self.client.get(f"/batches/{other.pk}/"), "is recalled")

    def test_a_batch_weighed_before_its_lot_came_is_found_once_that_is_said(self) -> None:
        """3 g of lavender from no lot; a lot is named only when its maker says so, with or without its grams."""
        batch = self.planned(fill="50 g")
        self.weigh(batch, actual_of_lavender="3")
        sheet = f"/batches/{batch.pk}/"
        scent = receive(Purchase("lavender", D(10), code="LV 7"))
        page = self.client.get(sheet)
        self.assertContains(page, "3.0 g of lavender came from no lot")
        self.assertNotContains(page, '<td class="fine">\n              lot')
        said = {"line": "lavender", "lot": scent.pk}
        self.client.post(f"/bench/{batch.pk}/correct", {**said, "was_missing": "1"})
        self.assertEqual(self.left(scent), 10)
        self.assertEqual([entry.amount for entry in scent.entries.all()], [10, 3, -3])
        self.assertContains(self.client.get(f"/pours/from-lot/{scent.pk}"), sheet)
        self.assertNotContains(self.client.get(sheet), "came from no lot")
        self.weigh(batch, actual_of_lavender="3.5")
        self.assertEqual(self.left(scent), D("9.5"))
        # The answer taken back: the lot holds what it was received with, and 3.5 g are of no lot again.
        self.client.post(f"/bench/{batch.pk}/correct", {"line": "lavender", "lot": "none", "reason": "Wrong bottle."})
        self.assertEqual(self.left(scent), 10)
        self.assertContains(self.client.get(sheet), "3.5 g of lavender came from no lot")

    def test_a_plan_that_needs_more_than_a_lot_holds_names_the_next(self) -> None:
        """239.4 g of oil: 150 of the old lot, then 89.4 of the new; of the wax 20.6 g are short."""
        batch = self.planned(fill="50 g")
        told = f"lot {self.old.pk} 150.0 g, then lot {self.new.pk} 89.4 g"
        self.assertContains(self.client.get(f"/batches/{batch.pk}/"), told)
        bench = self.client.get(f"/bench/{batch.pk}/weigh")
        self.assertContains(bench, told[1:])
        self.assertContains(bench, "20.6 g short in")

    def test_half_a_gram_of_scent_is_recalled_until_it_is_put_back(self) -> None:
        """The least that can be weighed marks the batch as made from its lot; nothing marks it no more."""
        scent = receive(Purchase("lavender", D(10)))
        batch = self.planned(fill="50 g")
        self.weigh(batch, actual_of_lavender="0.5")
        scent.refresh_from_db()
        self.assertEqual(scent.left, D("9.5"))
        self.assertContains(self.client.get(f"/pours/from-lot/{scent.pk}"), f"/batches/{batch.pk}/")
        self.weigh(batch, actual_of_lavender="")
        scent.refresh_from_db()
        self.assertEqual(scent.left, D(10))
        self.assertNotContains(self.client.get(f"/pours/from-lot/{scent.pk}"), f"/batches/{batch.pk}/")

    def test_a_recall_follows_an_infusion_and_leaves_out_what_went_back(self) -> None:
        """Oil steeped with petals is found in the salve; oil weighed and put back made nothing."""
        begun = services.begin_preparation(
            Preparation(kind="infusion", name="Calendula", base_key="olive_oil", raw_g=D(20), base_g=D(120),
                        started_on=timezone.localdate(), ready_on=timezone.localdate())
        )  # fmt: skip
        infused = services.finish_preparation(begun, D(100), timezone.localdate(), shipped())
        self.assertEqual(infused.best_before, self.old.best_before)
        parts, tables = {infused.item_key: D("0.8"), "beeswax_yellow": D("0.2")}, workshop_tables()
        version = begin("Petals", "pot_salve", Composition.of(parts, tables), tables).versions.get()
        self.page = self.client.get("/batches/plan", {"version": version.pk})
        batch = self.planned(container="tin_screw_15", fill="10 g", count="2", loss="0")
        self.weigh(batch, **{f"actual_of_{infused.item_key}": "16", "actual_of_beeswax_yellow": "4"})
        self.assertContains(self.client.get(f"/pours/from-lot/{self.old.pk}"), "1 batch weighed but not poured")
        self.client.post(f"/pours/of/{batch.pk}", form_data(self.client.get(f"/pours/of/{batch.pk}"), "pour"))
        found = self.client.get(f"/pours/from-lot/{self.old.pk}")
        self.assertContains(found, "2 pieces in 1 pour")
        self.assertContains(found, "through calendula")
        self.page = self.client.get("/batches/plan", {"version": self.version.pk})
        back = self.planned(fill="10 g", count="2")
        self.weigh(back, actual_of_olive_oil="10")
        self.weigh(back, actual_of_olive_oil="")
        self.assertContains(self.client.get(f"/pours/from-lot/{self.new.pk}"), "Nothing was made from it yet.")


class AgainTests(PlanCase):
    def test_a_plan_opens_as_it_was_planned_last(self) -> None:
        """Containers, fills, ways and pitcher; from the sheet of any batch, one's own or the last; another size is kept."""
        self.assertEqual(form_data(self.page, "plan")["count"], ["4"])
        first = self.planned(fill="45 g", count="7", cooling="freezer", room="23 °C", loss="5 g")
        second = self.planned(fill="80 %", count="3")
        opened = self.client.get("/batches/plan", {"version": self.version.pk})
        self.assertContains(opened, f"batch {second.pk}")
        data = form_data(opened, "plan")
        self.assertEqual((data["container"], data["count"], data["fill"]), (["tin_screw_60"], ["3"], ["80 %"]))
        sheet = self.client.get(f"/batches/{first.pk}/")
        self.assertContains(sheet, f"?version={self.version.pk}&amp;like={first.pk}")
        data = form_data(self.client.get("/batches/plan", {"version": self.version.pk, "like": first.pk}), "plan")
        told = {name: data[name][0] for name in ("pitcher", "count", "fill", "cooling", "room", "loss")}
        self.assertEqual(
            told,
            {"pitcher": "", "count": "7", "fill": "45.0 g", "cooling": "freezer", "room": "23 °C", "loss": "5.0 g"},
        )
        other = salve("Topgallant")
        page = self.client.get("/batches/plan", {"version": other.pk, "like": first.pk})
        self.assertEqual(page.status_code, 404)

    def test_finishes_come_again_with_what_is_added_to_them(self) -> None:
        finishes = {
            "finish_name": ["plain", "minty"], "add_to": ["1"], "add_item": ["kaolin"], "add_amount": ["2 %"],
            "container": ["tin_screw_60", "tin_screw_60"], "count": ["2", "3"], "fill": ["45 g", "45 g"], "finish": ["0", "1"],
        }  # fmt: skip
        self.planned(**finishes)
        data = form_data(self.client.get("/batches/plan", {"version": self.version.pk}), "plan")
        self.assertEqual(
            (data["finish_name"], data["count"], data["add_item"]), (["plain", "minty"], ["2", "3"], ["Kaolin clay"])
        )
        self.assertEqual(data["add_amount"], ["2 %"])
