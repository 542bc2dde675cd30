"""A market day in one form: what came back, the first to expire first, what it took in and had cost."""

from datetime import timedelta
from decimal import Decimal as D

from django.db import connection
from django.db.models import Sum
from django.http import HttpResponse
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from batches.batch_plan import setup_of
from batches.models import Batch
from batches.supply.costs import cost_of
from pantry.models import Lot
from pantry.tables import workshop_tables
from pieces.accounts import remaining, with_left
from pieces.market.services import on_hand
from pieces.models import Handout, Market, Price
from pours.models import Pour
from tests.support.net_loft import load
from tests.support.pages import form_data
from workshop.services import preferences

TODAY = timezone.localdate()


class MarketTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    def setUp(self) -> None:
        self.page = self.client.get("/labels/market")
        self.rows = [row.product for row in self.page.context["rows"]]

    def post(self, status: int = 302, page: HttpResponse | None = None, **typed: str) -> HttpResponse:
        answer = self.client.post("/labels/market", form_data(page or self.page, "market", **typed))
        self.assertEqual(answer.status_code, status)
        return answer

    def test_what_is_left_is_what_every_pour_says(self) -> None:
        """By product and size it adds up to what the accounts of the pours say, as the database counts them."""
        every = {row.pour.pk: row.left for row in remaining(list(Pour.objects.for_list())) if row.left > 0}
        self.assertEqual({pour.pk: pour.made - pour.gone for pour in with_left()}, every)
        past = sum(row.past for row in self.rows)
        out = {pour.pk for pour, _ in self.page.context["hand"].left_out}
        alone = Pour.objects.filter(pk__in=every.keys() - out)
        shown = sum(row.left for row in self.rows)
        hidden = sum(every[pour.pk] for pour in alone if pour.best_before and pour.best_before < TODAY)
        self.assertGreaterEqual(hidden, past)
        self.assertEqual(shown + hidden, sum(every[pour.pk] for pour in alone))
        with CaptureQueriesContext(connection) as few:
            on_hand(workshop_tables(), TODAY)
        load()
        with CaptureQueriesContext(connection) as many:
            on_hand(workshop_tables(), TODAY)
        self.assertEqual(len(few), len(many))

    def test_the_first_to_expire_go_first_and_it_says_what_it_took_in_and_had_cost(self) -> None:
        """Of nine products some come back; pieces leave the pour that expires first; taken in and cost by hand."""
        typed = {f"back-{row.slot}": str(row.left // 2) for row in self.rows}
        typed |= {f"each-{row.slot}": "4,50" for row in self.rows[1:]}
        answer = self.client.get(self.post(**typed, place="The quay").url)
        sold = {row.slot: row.left - row.left // 2 for row in self.rows}
        self.assertEqual(Handout.objects.aggregate(n=Sum("count"))["n"], sum(sold.values()))
        for row in self.rows:
            to_go = sold[row.slot]
            for pour, left in row.stock:
                gone = sum(h.count for h in Handout.objects.filter(pour=pour, size=row.size))
                self.assertEqual(gone, min(to_go, left))
                to_go -= gone
        account = answer.context["account"]
        self.assertEqual(account.taken_in, D("4.5") * sum(sold[row.slot] for row in self.rows[1:]))
        self.assertFalse(account.is_whole)
        tables, prefs, cost = workshop_tables(), preferences(), D(0)
        for handout in Handout.objects.select_related("pour"):
            batch = Batch.objects.for_page().get(pk=handout.pour.batch_id)
            pieces = dict(cost_of(batch, setup_of(batch, tables).pieces, tables, prefs).pieces)
            cost += handout.count * pieces[handout.size].total
        self.assertAlmostEqual(account.cost, cost)
        self.assertContains(answer, "no price said")
        # The price stays with its product; the pieces are gone from the form, and come back with the day.
        again = self.client.get("/labels/market")
        self.assertEqual({row.each for row in again.context["rows"]} - {"4.50"}, {""})
        self.assertEqual(Price.objects.count(), len(self.rows) - 1)
        self.assertContains(self.client.get("/labels/stall"), "<strong>4.50 €</strong>", html=True)
        self.client.post(f"/labels/market/{Market.objects.get().pk}/take-back")
        self.assertEqual([row.product.left for row in self.client.get("/labels/market").context["rows"]],
                         [row.left for row in self.rows])  # fmt: skip

    def test_what_stayed_at_home_is_nothing_and_bad_words_lose_nothing(self) -> None:
        """An empty row is no sale; more back than taken, more taken than left, half a tin, nothing sold, a day to come, a
        product that somebody else sold meanwhile: a sentence, and what was typed stays."""
        first, second = self.rows[:2]
        back = f"back-{first.slot}"
        for typed, said in (
            ({back: str(first.left + 1)}, "came back of"),
            ({back: "0", f"took-{first.slot}": str(first.left + 1)}, f"Only {first.left} are left."),
            ({back: "1½"}, "is no number of pieces"),
            ({back: str(first.left)}, "Nothing was sold by this"),
            ({back: "0", f"each-{first.slot}": "-2"}, "A price is not below nothing."),
            ({back: "0", "on": str(TODAY + timedelta(days=1))}, "That day is still to come."),
            ({back: "0", "on": "2020-01-01"}, "were not yet poured on"),
        ):
            with self.subTest(said):
                page = self.post(400, **typed, place="The quay")
                self.assertContains(page, said, status_code=400)
                self.assertEqual(form_data(page, "market")["place"], ["The quay"])
        self.assertEqual((Handout.objects.count(), Market.objects.count()), (0, 0))
        for pour, left in second.stock:
            Handout.objects.create(pour=pour, how="spoiled", count=left, size=second.size)
        gone = self.post(400, **{f"back-{second.slot}": "0"})
        self.assertContains(gone, "Something of what you wrote is no longer left", status_code=400)
        self.post(**{back: "0"})
        self.assertEqual(Handout.objects.filter(how="sold").aggregate(n=Sum("count"))["n"], first.left)

    def test_what_is_not_to_be_sold_is_left_out(self) -> None:
        """A recalled lot takes its pours from the form, and the page says why; past its date it stays at home."""
        pour, _ = self.rows[0].stock[0]
        lot = Lot.objects.filter(draws__line__batch=pour.batch).first()
        Lot.objects.filter(pk=lot.pk).update(state="recalled")
        page = self.client.get("/labels/market")
        self.assertContains(page, "not to be sold")
        self.assertNotIn(pour, [p for row in page.context["rows"] for p, _ in row.product.stock])
        Lot.objects.filter(pk=lot.pk).update(state="good")
        Pour.objects.filter(pk=pour.pk).update(best_before=TODAY - timedelta(days=1))
        page = self.client.get("/labels/market")
        self.assertNotIn(pour, [p for row in page.context["rows"] for p, _ in row.product.stock])
