"""Stock that is promised once: what planned batches hold, what they cost lot by lot, moulds, and lots past their date."""

import random
from datetime import timedelta
from decimal import Decimal as D

from django.http import HttpResponse
from django.test import TestCase
from django.utils import timezone

from balmcore.composition import Composition
from balmcore.tables import shipped
from batches.models import Batch, Draw
from batches.services import mark_poured
from batches.showing.sheet import sheet_rows
from batches.supply.costs import cost_of
from batches.supply.reserving import free_lots, holds
from formulas.models import Version
from pantry.models import Entry, Lot
from pantry.queries import lots_of
from pantry.services import Purchase, receive
from tests.support.makings import begin, weigh_to_target
from tests.support.pages import form_data
from workshop.services import preferences

TODAY = timezone.localdate()
KEYS = ("beeswax_yellow", "jojoba_oil")


def lot(key: str, amount: str, price: str | None = None, days: int | None = None) -> Lot:
    """A lot bought today."""
    ends = None if days is None else TODAY + timedelta(days=days)
    bought = TODAY - timedelta(days=400)
    return receive(Purchase(key, D(amount), bought=bought, best_before=ends, price=None if price is None else D(price)))


class StockCase(TestCase):
    def setUp(self) -> None:
        shares = {"beeswax_yellow": D("0.2"), "jojoba_oil": D("0.8")}
        self.version = begin("Undertow", "pot_salve", Composition.of(shares)).versions.get()

    def planned(self, version: Version | None = None, **changes: str) -> Batch:
        """A batch planned through the page: four of a container, as it opens."""
        page = self.client.get("/batches/plan", {"version": (version or self.version).pk})
        answer = self.client.post("/batches/plan", form_data(page, "plan", save="1", **changes))
        self.assertEqual(answer.status_code, 302)
        return Batch.objects.for_page().latest("pk")

    def of(self, total: str, **changes: str) -> Batch:
        """A batch of so many grams: one 500 mL jug's worth in a mould or tin, by its net weight."""
        return self.planned(container="jar_glass_250", count="1", fill=f"{total} g", loss="0 g", **changes)

    def page(self, batch: Batch) -> HttpResponse:
        return self.client.get(f"/batches/{batch.pk}/method")


class CostTests(StockCase):
    def test_cost_is_what_was_paid_lot_by_lot(self) -> None:
        """160 g of oil, 37 from a dear lot and the rest from a cheap one; poured, it is never priced anew."""
        lot("beeswax_yellow", "500", "10")
        lot("jojoba_oil", "37", "7.40", days=30)
        lot("jojoba_oil", "1000", "20", days=300)
        batch = self.of("200")
        want = D(40) * 10 / 500 + D(37) * D("7.40") / 37 + D(123) * 20 / 1000
        self.assertAlmostEqual(self.cost(batch), want, places=4)
        self.assertContains(self.page(batch), "An estimate: by the lots that would serve now.")
        batch = weigh_to_target(batch)
        mark_poured(batch)
        lot("jojoba_oil", "100", "90", days=5)
        poured = Batch.objects.for_page().get(pk=batch.pk)
        self.assertAlmostEqual(self.cost(poured), want, places=4)
        self.assertContains(self.page(poured), "What was paid for what it drew.")

    def test_what_is_still_to_be_bought_is_an_estimate_and_says_so(self) -> None:
        """Short of 60 g: at the last price; where nothing was ever paid, at least."""
        lot("beeswax_yellow", "500", "10")
        lot("jojoba_oil", "50", "5", days=90)
        lot("jojoba_oil", "50", "2.50", days=100)
        batch = self.of("200")
        want = D(40) * 10 / 500 + 5 + D("2.5") + D(60) * D("0.05")
        self.assertAlmostEqual(self.cost(batch), want, places=4)
        self.assertContains(self.page(batch), "An estimate: what is still to be bought at what it cost last.")
        Lot.objects.filter(item_key="beeswax_yellow").update(price=None)
        self.assertContains(self.page(batch), "No price known of beeswax, yellow")

    def cost(self, batch: Batch) -> D:
        found = cost_of(batch, (), shipped(), preferences())
        return found.bill.melt


class ReservedTests(StockCase):
    def test_three_sheets_never_promise_the_same_grams(self) -> None:
        """250 g for three plans of 100: the third is 50 short on its plan, on its sheet and on the list."""
        lot("beeswax_yellow", "900")
        oil = lot("jojoba_oil", "200")
        first, second = self.of("100"), self.of("100")
        page = self.client.get("/batches/plan", {"version": self.version.pk})
        plan = self.client.post(
            "/batches/plan", form_data(page, "plan", container="jar_glass_250", count="1", fill="100 g", loss="0 g")
        )
        self.assertContains(plan, "160.0 g held for other batches")
        third = self.of("100")
        told = [
            row.source.short_g
            for batch in (first, second, third)
            for row in self.rows(batch)
            if row.line.ingredient_key == "jojoba_oil"
        ]
        self.assertEqual(told, [0, 0, D(40)])
        held = self.client.get(f"/pantry/lots/{oil.pk}/")
        for batch, grams in ((first, "80.0"), (second, "80.0"), (third, "40.0")):
            self.assertContains(held, f'<td class="num">{grams}</td>', html=True)
            self.assertContains(held, f"batch {batch.pk}, Undertow v1")
        shopping = self.client.get("/batches/shopping", {"batch": [first.pk, second.pk, third.pk]})
        self.assertContains(shopping, "40.0 g")
        alone = self.client.get("/batches/shopping", {"batch": third.pk})
        self.assertContains(alone, "40.0 g")

    def rows(self, batch: Batch) -> list:
        return sheet_rows(Batch.objects.for_page().get(pk=batch.pk), shipped(), preferences())

    def test_bought_is_used_reserved_and_free_whatever_happens(self) -> None:
        """Sixty moves at random: plans, weighings, purchases; after each the sum is what was bought, and nothing is held twice."""
        chance = random.Random(4)
        for _ in range(60):
            move = chance.choice(("buy", "plan", "plan", "weigh"))
            if move == "buy":
                lot(chance.choice(KEYS), str(chance.randint(50, 600)), "5", chance.choice((None, -20, 30, 90)))
            elif move == "plan":
                self.of(str(chance.randint(40, 200)))
            elif open_ones := list(Batch.objects.unpoured()):
                batch = weigh_to_target(chance.choice(open_ones))
                mark_poured(batch)
            lots = lots_of(KEYS)
            taken = holds(lots)
            for own in lots.values():
                for each in own:
                    held = sum((hold.amount for hold in taken.get(each.pk, ())), D(0))
                    used = sum((draw.grams for draw in Draw.objects.filter(lot=each)), D(0))
                    self.assertLessEqual(held, each.left)
                    self.assertEqual(each.received, used + each.left)
            for key, own in free_lots(KEYS).items():
                for each in own:
                    self.assertEqual(each.left + each.past + each.held, Lot.objects.get(pk=each.pk).left, key)


class PastTests(StockCase):
    def test_what_is_past_its_date_is_proposed_last_until_it_is_smelled(self) -> None:
        """The fresh lot serves first though it expires later; smelled, the old one is the first again, with its day."""
        old, fresh = lot("jojoba_oil", "300", days=-3), lot("jojoba_oil", "300", days=200)
        lot("beeswax_yellow", "300")
        batch = self.of("100")
        self.assertContains(self.client.get(f"/batches/{batch.pk}/"), f"lot {fresh.pk}")
        page = self.client.get(f"/pantry/lots/{old.pk}/")
        self.assertContains(page, "Until then it is the last to be proposed")
        done = self.client.post(f"/pantry/lots/{old.pk}/", form_data(page, "lot", do="smelled"), follow=True)
        self.assertContains(done, "Smelled, and still good")
        self.assertEqual(Entry.objects.filter(lot=old).latest("pk").kind, Entry.Kind.SMELLED)
        self.assertContains(self.client.get(f"/batches/{batch.pk}/"), f"lot {old.pk}")

    def test_what_is_past_and_all_there_is_asks_to_be_smelled_on_its_sheets(self) -> None:
        """Proposed for want of another, with the question beside it on the sheet and at the scale; gone once smelled."""
        old = lot("jojoba_oil", "300", days=-3)
        lot("beeswax_yellow", "300")
        batch = self.of("100")
        for path in (f"/batches/{batch.pk}/", f"/bench/{batch.pk}/weigh"):
            self.assertContains(self.client.get(path), f"Lot {old.pk} is past its date")
        Lot.objects.filter(pk=old.pk).update(smelled=TODAY)
        for path in (f"/batches/{batch.pk}/", f"/bench/{batch.pk}/weigh"):
            self.assertNotContains(self.client.get(path), "is past its date")

    def test_what_expires_before_the_day_of_a_plan_is_not_counted(self) -> None:
        lot("beeswax_yellow", "900")
        lot("jojoba_oil", "60", days=2)
        lot("jojoba_oil", "30", days=90)
        moment = timezone.localtime() + timedelta(days=7)
        page = self.client.get("/batches/plan", {"version": self.version.pk})
        typed = {"container": "jar_glass_250", "count": "1", "fill": "100 g", "loss": "0 g", "when": "start"}
        plan = self.client.post("/batches/plan", form_data(page, "plan", **typed, moment=f"{moment:%Y-%m-%d} 09:00"))
        self.assertContains(plan, "60.0 g past its date by then")


class MouldTests(StockCase):
    def test_moulds_come_back(self) -> None:
        """No stock leaves with a bar, and a piece costs no mould."""
        lot("beeswax_yellow", "900", "9")
        lot("jojoba_oil", "900", "9")
        moulds = receive(Purchase("mould_round_40g", D(6), is_container=True, price=D(30)))
        batch = self.planned(container="mould_round_40g", count="6", fill="90 %")
        pieces = cost_of(batch, (), shipped(), preferences())
        self.assertEqual(pieces.bill.unpriced, ())
        self.assertNotContains(self.page(batch), "5.00")
        self.assertEqual(holds(lots_of([moulds.item_key])), {})
        page = self.client.get("/batches/plan", {"version": self.version.pk})
        more = self.client.post(
            "/batches/plan", form_data(page, "plan", container="mould_round_40g", count="8", fill="90 %")
        )
        self.assertContains(more, "2 more than you have")
