"""The count sheet: all lots on one page, booked at once, and what they are worth."""

from datetime import date
from decimal import Decimal as D

from django.http import HttpResponse
from django.test import TestCase

from pantry.models import Entry, Lot
from pantry.services import Purchase, receive
from tests.support.pages import form_data
from workshop.models import Preferences


class CountTests(TestCase):
    def setUp(self) -> None:
        self.wax = receive(Purchase("beeswax_yellow", D(500), price=D(10), supplier="Ropewalk"))
        self.oil = receive(Purchase("jojoba_oil", D(1000), price=D(40)))
        self.gift = receive(Purchase("olive_oil", D(250)))
        self.tins = receive(Purchase("tin_screw_60", D(40), is_container=True, price=D(20)))

    def post(self, status: int = 302, **typed: str) -> HttpResponse:
        page = self.client.get("/pantry/count")
        answer = self.client.post("/pantry/count", form_data(page, "count", **typed))
        self.assertEqual(answer.status_code, status)
        return answer

    def test_what_was_counted_is_booked_at_once_with_one_reason(self) -> None:
        """In grams, ounces and pieces; what agrees and what is empty makes no entry, and what is worth so much is said."""
        page = self.client.get("/pantry/count")
        self.assertContains(page, "1 lot without a price")
        self.assertContains(page, '<td class="num">70.00 €</td>', html=True)
        typed = {f"count-{self.wax.pk}": "1 lb", f"count-{self.oil.pk}": "1000", f"count-{self.tins.pk}": "37"}
        self.post(reason="End of November", **typed)
        left = dict(Lot.objects.values_list("pk", "left"))
        self.assertEqual((round(left[self.wax.pk], 3), left[self.tins.pk], left[self.gift.pk]), (D("453.592"), 37, 250))
        made = Entry.objects.filter(kind=Entry.Kind.CORRECTED)
        self.assertEqual([entry.note for entry in made], ["End of November"] * 2)
        for lot in Lot.objects.all():
            self.assertEqual(sum(entry.amount for entry in lot.entries.all()), lot.left)

    def test_one_count_that_cannot_be_read_books_nothing_and_loses_nothing(self) -> None:
        """A sentence beside each, in the maker's measures; half a tin is no count; a used-up lot is gone from the page."""
        Preferences.objects.update_or_create(pk=1, defaults={"mass_unit": "oz"})
        typed = {f"count-{self.wax.pk}": "16", f"count-{self.oil.pk}": "plenty", f"count-{self.tins.pk}": "3.5"}
        page = self.post(400, reason="Spring", **typed)
        self.assertContains(page, "Nothing is booked yet: 2 of the counts cannot be read.", status_code=400)
        self.assertContains(page, "“3.5” is not a number of pieces.", status_code=400)
        data = form_data(page, "count")
        self.assertEqual((data[f"count-{self.wax.pk}"], data["reason"]), (["16"], ["Spring"]))
        self.assertEqual(Entry.objects.filter(kind=Entry.Kind.CORRECTED).count(), 0)
        self.post(**{f"count-{self.wax.pk}": "16", f"count-{self.gift.pk}": "0"})
        self.assertNotContains(self.client.get("/pantry/count"), "Olive oil")
        narrowed = self.client.get("/pantry/count", {"q": "ropewalk"})
        self.assertContains(narrowed, "Beeswax, yellow")
        self.assertNotContains(narrowed, "Jojoba")


class PapersTests(TestCase):
    def test_a_lots_papers_are_put_right_and_its_account_keeps_what_stood_there(self) -> None:
        """Price, supplier and best before; days that cannot be are refused in a sentence, and suppliers are proposed."""
        lot = receive(Purchase("jojoba_oil", D(1000), price=D(40), supplier="Ropewalk", bought=date(2026, 10, 1)))
        path = f"/pantry/lots/{lot.pk}/"
        page = self.client.get(path)
        self.assertContains(page, '<option value="Ropewalk">')
        changed = {"supplier": "Harbour stores", "price": "36,50", "best_before": "2027-05-31", "papers": "1"}
        self.client.post(path, form_data(page, "papers", **changed))
        lot.refresh_from_db()
        self.assertEqual((lot.supplier, lot.price, lot.best_before), ("Harbour stores", D("36.50"), date(2027, 5, 31)))
        note = lot.entries.latest("pk").note
        self.assertEqual(note, "supplier was Ropewalk; price was 40.00; best before was not written down")
        page = self.client.post(path, form_data(self.client.get(path), "papers", best_before="2020-01-01", papers="1"))
        self.assertEqual(page.status_code, 400)
        self.client.post(path, form_data(self.client.get(path), "papers", papers="1"))
        self.assertEqual(lot.entries.count(), 2)
        self.assertContains(self.client.get("/pantry/"), '<option value="Harbour stores">')
