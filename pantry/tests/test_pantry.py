"""Stock: lots and their accounts, own ingredients and containers, preparations, and what is refused."""

import threading
from datetime import date, timedelta
from decimal import Decimal as D

from django.db import IntegrityError, connection, transaction
from django.db.models import Sum
from django.http import HttpResponse
from django.test import Client, TestCase, TransactionTestCase, tag
from django.utils import timezone

from balmcore.advice.safety import Wearer, cautions, scent_share
from balmcore.composition import Composition
from balmcore.tables import shipped
from pantry import services
from pantry.models import Entry, Lot, OwnContainer, OwnIngredient, Preparation
from pantry.queries import Stock, lots_of, stock
from pantry.services import Purchase, receive
from pantry.tables import workshop_tables
from tests.support.makings import begin
from tests.support.morning import MorningCase
from tests.support.pages import Data, form_data


class StockTests(MorningCase):
    def receive(self, status: int = 302, **changes: str) -> HttpResponse:
        typed = {"item": "olive_oil", "amount": "500 g", **changes}
        data = form_data(self.client.get("/pantry/"), "receive", **typed)
        response = self.client.post("/pantry/", data)
        self.assertEqual(response.status_code, status)
        return response

    def do(self, lot: Lot, status: int = 302, **typed: str) -> HttpResponse:
        data: Data = form_data(self.client.get(f"/pantry/lots/{lot.pk}/"), "lot", **typed)
        response = self.client.post(f"/pantry/lots/{lot.pk}/", data)
        self.assertEqual(response.status_code, status)
        lot.refresh_from_db()
        return response

    def test_a_lot_comes_in_by_weight_by_volume_or_by_the_piece(self) -> None:
        """17.6 oz, 1 L by the oil's density, 24 tins; worth and soonest date stand in the stock."""
        self.receive(amount="17,6 oz", price="4,80 €", supplier="Slipway", best_before="2027-05-01")
        self.receive(amount="1 L")
        self.receive(item="tin_screw_60", amount="24", price="15.60")
        self.assertEqual(
            [(lot.left, lot.price) for lot in Lot.objects.all()],
            [(D("498.951607"), D("4.80")), (D(914), None), (D(24), D("15.60"))],
        )
        page = self.client.get("/pantry/")
        self.assertContains(page, '1413.0 <span class="unit">g</span>')
        self.assertContains(page, '24 <span class="unit">pieces</span>')
        self.assertContains(page, "1 May 2027")
        self.assertContains(self.client.get("/pantry/?q=slipway"), '499.0 <span class="unit">g</span>')
        self.assertContains(self.client.get("/pantry/?q=granite"), "Nothing in stock has “granite”")

    def test_what_cannot_be_received_says_why_and_keeps_what_was_typed(self) -> None:
        """Below nothing, a pack of 0 g, best before before bought, half a tin, a price below nothing."""
        for typed, said in (
            ({"amount": "-3 oz"}, "“-3 oz” is below nothing."),
            ({"amount": "0 g"}, "A lot holds more than nothing and less than a ton"),
            ({"amount": "a sack"}, "“a sack” is not an amount"),
            ({"bought": "2026-02-02", "best_before": "2026-02-01"}, "It was best before a day on which it was not yet"),
            ({"bought": "2026-02-02", "opened": "2026-02-01"}, "It cannot have been opened before it was bought."),
            ({"item": "tin_screw_60", "amount": "2.5"}, "is not a whole number of pieces"),
            ({"item": "", "amount": "5 g"}, "Something has to stand here."),
            ({"price": "-1"}, "A price is not below nothing."),
            ({"bought": "soon"}, "“soon” is no day: write it like 31/05/2026 or 31 May 2026."),
            ({"bought": "2098-01-01"}, "That day is still to come."),
            ({"bought": "31/12/1999"}, "A day lies between 2000 and 2099."),
            ({"best_before": "1.1.2100"}, "A day lies between 2000 and 2099."),
        ):
            with self.subTest(typed):
                response = self.receive(400, **typed)
                self.assertContains(response, said, status_code=400)
                kept = form_data(response, "receive")
                self.assertEqual({name: kept[name] for name in typed if name != "item"},
                                 {name: [text] for name, text in typed.items() if name != "item"})  # fmt: skip
        self.assertEqual(Lot.objects.count(), 0)

    def test_corrections_and_waste_are_entries_and_never_below_nothing(self) -> None:
        """500 g, 20 wasted, 450 counted: three entries that add to what is left."""
        lot = receive(Purchase("olive_oil", D(500), bought=date(2026, 2, 1)))
        self.do(lot, do="waste", amount="20", note="spilt")
        self.do(lot, do="correct", amount="450 g")
        self.assertEqual([entry.amount for entry in lot.entries.all()], [D(500), D(-20), D(-30)])
        self.assertEqual(lot.left, D(450))
        # In the order of their days: it came in on the first of May, whenever that was written down.
        days = [timezone.localdate(entry.at) for entry in lot.entries.order_by("at")]
        self.assertEqual(days, [date(2026, 2, 1), timezone.localdate(), timezone.localdate()])
        for typed, said in (
            ({"do": "waste", "amount": "451"}, "only 450 g are left: 451 g cannot leave it."),
            ({"do": "correct", "amount": "-1"}, "“-1” is below nothing."),
            ({"do": "waste"}, "How much? Write it here."),
            ({"do": "open", "day": "2026-01-01"}, "It cannot have been opened before it was bought."),
            ({"do": "burn"}, "Choose what is to be done with it."),
        ):
            self.assertContains(self.do(lot, 400, **typed), said, status_code=400)
        self.assertEqual(lot.left, lot.entries.aggregate(Sum("amount"))["amount__sum"])
        self.do(lot, do="rancid", note="Smells of crayons.")
        self.assertContains(self.client.get("/pantry/"), "Rancid")
        self.assertEqual(services.draw(lots_of(["olive_oil"])["olive_oil"], D(1), Entry.Kind.WASTED, "").missing, D(1))

    def test_the_database_refuses_what_the_forms_do(self) -> None:
        """Below nothing, bought after best before, a melting range upside down."""
        lot = receive(Purchase("olive_oil", D(500), bought=date(2026, 2, 1)))
        own = OwnIngredient.objects.create(name="M", role="wax", melt_low_c=50, melt_high_c=60)
        for rows, change in (
            (Lot.objects.filter(pk=lot.pk), {"left": D(-1)}),
            (Lot.objects.filter(pk=lot.pk), {"best_before": date(2026, 1, 1)}),
            (OwnIngredient.objects.filter(pk=own.pk), {"melt_low_c": 70.0}),
        ):
            with self.assertRaises(IntegrityError), transaction.atomic():
                rows.update(**change)


class WorthTests(TestCase):
    def test_what_a_stock_is_worth(self) -> None:
        """What is left of each good lot at what it cost; one price missing and it is not known; what is rancid or
        used up counts for nothing."""
        first = receive(Purchase("olive_oil", D(500), price=D("5.00")))
        receive(Purchase("olive_oil", D(200), price=D("3.00")))
        Lot.objects.filter(pk=first.pk).update(left=D(250))

        def oil(empty: bool = False) -> Stock:
            (found,) = stock(shipped(), "olive", empty).items
            return found

        self.assertEqual((oil().left, oil().worth, len(oil().lots)), (D(450), D("5.50"), 2))
        bad = receive(Purchase("olive_oil", D(100), price=D("2.00")))
        Lot.objects.filter(pk=bad.pk).update(state=Lot.State.RANCID)
        self.assertEqual((oil().left, oil().worth, len(oil().lots)), (D(450), D("5.50"), 3))
        plain = receive(Purchase("olive_oil", D(10)))
        self.assertEqual((oil().left, oil().worth), (D(460), None))
        Lot.objects.filter(pk=plain.pk).update(left=0)
        self.assertEqual((oil().worth, oil(empty=True).worth, oil(empty=True).more), (D("5.50"), D("5.50"), 1))
        self.assertContains(self.client.get("/pantry/"), "5.50")
        Lot.objects.filter(pk=first.pk).update(price=None)
        self.assertEqual((oil().worth, oil().left), (None, D(450)))


class SearchTests(TestCase):
    def test_ingredients_by_every_word_and_the_stock_by_its_names(self) -> None:
        """Name and INCI name; both words must be there; what is not, is not shown."""
        for words in ("castor", "ricinus oil", "CASTOR seed"):
            page = self.client.get("/pantry/ingredients", {"q": words})
            self.assertContains(page, "/pantry/ingredients/castor_oil")
            self.assertNotContains(page, "/pantry/ingredients/olive_oil")
        self.assertNotContains(
            self.client.get("/pantry/ingredients", {"q": "castor shea"}), "/pantry/ingredients/castor_oil"
        )
        self.assertContains(self.client.get("/pantry/ingredients"), "/pantry/ingredients/olive_oil")
        for key in ("castor_oil", "olive_oil"):
            receive(Purchase(key, D(100), supplier="Slipway"))
        found = self.client.get("/pantry/", {"q": "castor"})
        self.assertContains(found, 'stock-name">Castor oil')
        self.assertNotContains(found, 'stock-name">Olive oil')


class OwnTests(TestCase):
    def add(self, status: int = 302, **changes: str) -> HttpResponse:
        data = form_data(self.client.get("/pantry/ingredients"), "own-ingredient", **changes)
        response = self.client.post("/pantry/ingredients", data)
        self.assertEqual(response.status_code, status)
        return response

    def test_an_own_wax_is_predicted_and_shown_with_its_uncertainty(self) -> None:
        """52 to 56 °C: a page of its own with its curve; in the studio its margin is 12 points."""
        self.add(name="Loft wax", role="wax", melt_low_c="52 °C", melt_high_c="132.8 F")
        own = OwnIngredient.objects.get()
        self.assertAlmostEqual(own.melt_high_c, 56)
        page = self.client.get(f"/pantry/ingredients/{own.key}")
        self.assertContains(page, "little known")
        self.assertContains(page, "Solid fat content of Loft wax:")
        formula = begin("Skerry", "pot_salve")
        studio = self.client.get(f"/formulas/{formula.pk}/")
        answer = self.client.post(f"/formulas/{formula.pk}/try", form_data(studio, "studio", add=own.key))
        data = form_data(answer, "studio", edited=own.key, **{f"percent-{own.key}": "10"})
        self.assertEqual(self.client.post(f"/formulas/{formula.pk}/try", data).context["answer"].sigma, 12)
        self.client.post(f"/formulas/{formula.pk}/save", data | {"note": ["mine"]})
        self.assertContains(self.client.get(f"/pantry/ingredients/{own.key}"), "Skerry")
        refused = self.client.post(f"/pantry/ingredients/{own.key}/delete")
        self.assertContains(refused, "Loft wax is in a formula or in stock: it stays", status_code=400)

    def test_what_it_is_like_or_where_it_melts_must_be_said_and_make_sense(self) -> None:
        """Upside down, out of reach, half a range, nothing at all, a name that is taken, another role."""
        for typed, said in (
            (
                {"melt_low_c": "60", "melt_high_c": "50"},
                "It cannot begin to melt at 60 °C and be molten at 50 °C already",
            ),
            ({"melt_low_c": "60", "melt_high_c": "140"}, "Melting lies between -30 °C and 110 °C."),
            ({"melt_low_c": "60"}, "Say what it is like, or between which temperatures it melts."),
            ({}, "Say what it is like, or between which temperatures it melts."),
            ({"name": "olive oil", "like_key": "olive_oil"}, "olive oil is in the pantry already"),
            ({"like_key": "olive_oil"}, "Olive oil is of the role oil, not wax."),
        ):
            with self.subTest(typed):
                response = self.add(400, **{"name": "Loft wax", "role": "wax", **typed})
                self.assertContains(response, said, status_code=400)
        self.assertEqual(OwnIngredient.objects.count(), 0)

    def test_an_own_scent_is_asked_for_and_counts_as_one(self) -> None:
        """An extra has to say whether it is a scent; one that is draws the stops of a scent of unknown papers."""
        page = self.client.get("/pantry/ingredients")
        typed = {"name": "Melissa oil", "role": "extra", "melt_low_c": "-20", "melt_high_c": "-10"}
        asked = self.client.post("/pantry/ingredients", form_data(page, "own-ingredient", **typed))
        self.assertContains(asked, "Is it a scent? Scents are counted against the limits", status_code=400)
        wax = form_data(page, "own-ingredient", **{**typed, "role": "wax", "scent": "scent"})
        self.assertContains(self.client.post("/pantry/ingredients", wax), "A scent is an extra.", status_code=400)
        self.client.post("/pantry/ingredients", form_data(page, "own-ingredient", **typed, scent="scent"))
        tables = workshop_tables()
        melissa = next(item for item in tables.ingredients.values() if item.name == "Melissa oil")
        balm = Composition.of({"beeswax_yellow": 20, "olive_oil": 70, melissa.key: 10}, tables)
        stops = [each.line for each in cautions(balm, Wearer("baby_3_24m", "lips", "cautious")) if each.level == "stop"]
        self.assertTrue(any("Melissa oil: not for lips" in line for line in stops), stops)
        self.assertEqual(scent_share(balm, Wearer()), D("0.1"))

    def test_a_container_measured_with_water_has_its_tare(self) -> None:
        """16.2 g empty and 78.1 g brimful of water are 62.0 mL."""
        page = self.client.get("/pantry/containers")
        data = form_data(page, "own-container", name="Quay tin", empty="16.2", water="78,1", diameter_mm="60")
        self.client.post("/pantry/containers", data)
        own = OwnContainer.objects.get()
        self.assertAlmostEqual(own.capacity_ml, 62.02, places=2)
        self.assertEqual((own.empty_g, own.diameter_mm), (16.2, 60))
        for changes, said in (
            ({"name": "B", "empty": "80", "water": "78"}, "Full of water it weighs more than empty: check both."),
            ({"name": "B"}, "How much goes in? Write it, or weigh it empty and brimful of water."),
            ({"name": "B", "capacity": "0"}, "A container holds between 0.1 mL and 100 litres."),
            ({"name": "B", "capacity": "5", "diameter_mm": "0.1"}, "A size lies between 1 and 2000 mm."),
        ):
            response = self.client.post("/pantry/containers", form_data(page, "own-container", **changes))
            self.assertContains(response, said, status_code=400)


class PreparationTests(MorningCase):
    def test_petals_in_oil_become_a_lot_of_an_oil_of_their_own(self) -> None:
        """300 g of oil leave stock, 262 g come back as "Calendula in olive oil", 87 %."""
        oil = receive(Purchase("olive_oil", D(500)))
        today = timezone.localdate()
        ready = today + timedelta(days=28)
        page = self.client.get("/pantry/preparations")
        typed = {"name": "Calendula", "base": "olive_oil", "raw": "40", "oil": "300", "ready": str(ready)}
        self.client.post("/pantry/preparations", form_data(page, "preparation", **typed))
        oil.refresh_from_db()
        self.assertEqual(oil.left, D(200))
        row = Preparation.objects.get()
        self.assertContains(self.client.get("/batches/"), "Calendula")
        for amount, said in (("400", "Out of 300 g cannot come 400 g."), ("0", "cannot come 0 g")):
            finish = form_data(self.client.get(f"/pantry/preparations/{row.pk}/finish"), "finish", yield_g=amount)
            refused = self.client.post(f"/pantry/preparations/{row.pk}/finish", finish)
            self.assertContains(refused, said, status_code=400)
        finish["yield_g"] = ["262"]
        self.client.post(f"/pantry/preparations/{row.pk}/finish", finish)
        own = OwnIngredient.objects.get()
        self.assertEqual((own.name, own.like_key), ("Calendula in olive oil", "olive_oil"))
        made = Lot.objects.get(item_key=own.key)
        # The oil's own lot says nothing: the shelf months of olive oil, eighteen, from today.
        self.assertEqual((made.left, (made.best_before - today).days), (D(262), 365))
        self.assertContains(self.client.get(f"/pantry/lots/{made.pk}/"), "Calendula, yield 87.3 %")
        self.assertContains(self.client.get("/pantry/preparations"), '<td class="num">87</td>')
        again = self.client.post(f"/pantry/preparations/{row.pk}/finish", finish)
        self.assertContains(again, "This was finished already", status_code=400)
        self.assertEqual(Lot.objects.count(), 2)

    def test_days_and_amounts_out_of_order_are_refused(self) -> None:
        """Ready before begun, no oil on the herb, a wax to steep in, shaken every hundred days."""
        page = self.client.get("/pantry/preparations")
        good = {"name": "Comb", "base": "olive_oil", "raw": "40", "oil": "300", "ready": "2027-01-01"}
        for changes, said in (
            ({"ready": "2020-01-01"}, "It cannot be ready before it was begun."),
            ({"oil": ""}, "How much oil goes on it?"),
            ({"base": "beeswax_yellow"}, "Choose an oil for this."),
            ({"kind": "rendering"}, "Choose a wax for this."),
            ({"raw": "0"}, "Something has to go in."),
            ({"shake": "100"}, "Write a whole number from 1 to 90."),
            ({"started": "2098-01-01"}, "That day is still to come."),
        ):
            data = form_data(page, "preparation", **{**good, **changes})
            response = self.client.post("/pantry/preparations", data)
            self.assertContains(response, said, status_code=400)
        self.assertEqual(Preparation.objects.count(), 0)
        settings = self.client.get("/settings/")
        self.client.post("/settings/", form_data(settings, "settings-form", infusion_days="42"))
        page = self.client.get("/pantry/preparations")
        for typed, wanted in (({}, 42), ({"ready": ""}, 42), ({"kind": "rendering", "base": "beeswax_yellow",
                                                               "ready": ""}, 0)):  # fmt: skip
            typed = {"name": f"Comb {wanted}", "base": "olive_oil", "raw": "40", "oil": "300", **typed}
            self.client.post("/pantry/preparations", form_data(page, "preparation", **typed))
            row = Preparation.objects.latest("pk")
            self.assertEqual((row.ready_on - row.started_on).days, wanted)
        bad = self.client.post("/settings/", form_data(settings, "settings-form", infusion_days="900"))
        self.assertContains(bad, "Write a whole number of days, from 1 to 365.", status_code=400)


@tag("slow")
class CrowdTests(TransactionTestCase):
    def test_two_hundred_draws_at_once_take_150_grams_and_not_one_more(self) -> None:
        """Of 200 requests for a gram each 150 are answered and 50 refused; every gram has its entry."""
        lot = receive(Purchase("olive_oil", D(150)))
        answers: list[int] = []

        def take(times: int) -> None:
            client = Client(enforce_csrf_checks=False)
            for _ in range(times):
                response = client.post(f"/pantry/lots/{lot.pk}/", {"do": "waste", "amount": "1"})
                answers.append(response.status_code)
            connection.close()

        crowd = [threading.Thread(target=take, args=(25,)) for _ in range(8)]
        for each in crowd:
            each.start()
        for each in crowd:
            each.join()
        self.assertEqual((answers.count(302), answers.count(400)), (150, 50))
        lot.refresh_from_db()
        self.assertEqual(lot.left, 0)
        self.assertEqual(lot.entries.filter(kind=Entry.Kind.WASTED).count(), 150)
