"""What is on order: counted on the shopping list, said beside what is short, asked for on its day, received as a lot."""

from datetime import timedelta
from decimal import Decimal as D

from django.http import HttpResponse
from django.test import TestCase
from django.utils import timezone

from balmcore.composition import Composition
from pantry.models import Lot, Order
from pantry.services import Purchase, receive
from tests.support.makings import begin
from tests.support.pages import form_data

TODAY = timezone.localdate()


class OrderTests(TestCase):
    def order(self, status: int = 302, **typed: str) -> HttpResponse:
        page = self.client.get("/pantry/orders")
        typed = {"item": "olive_oil", "amount": "1 L", "supplier": "Breakwater", "price": "12", **typed}
        answer = self.client.post("/pantry/orders", form_data(page, "order", **typed))
        self.assertEqual(answer.status_code, status)
        return answer

    def test_what_is_on_order_counts_where_it_is_missing(self) -> None:
        """Of 500 g missing 300 are ordered: 200 are to be bought; with all of it ordered nothing is, and the plan, the list
        and the page say when it comes, and that this is too late."""
        salve = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.8")})
        version = begin("Slack Water", "pot_salve", salve).versions.get()
        receive(Purchase("beeswax_yellow", D(1000)))
        receive(Purchase("olive_oil", D(1)))
        plan = self.client.get("/batches/plan", {"version": version.pk})
        typed = {"container": "tin_screw_60", "count": "10"}
        self.client.post("/batches/plan", form_data(plan, "plan", save="1", **typed))
        lines = version.batches.get().lines
        missing = lines.get(ingredient_key="olive_oil").target_g - 1
        path = f"/batches/shopping?batch={version.batches.get().pk}"
        self.order(amount="300 g", comes_on=str(TODAY + timedelta(days=3)))
        (wanted,) = [item for item in self.client.get(path).context["list"].wanted if item.key == "olive_oil"]
        self.assertEqual((wanted.missing, wanted.ordered, wanted.packs.amount), (missing, 300, missing - 300))
        self.assertContains(self.client.get(path), "300.0 g on order, comes")
        self.assertContains(self.client.get(path), "after it is needed")
        short = self.client.post("/batches/plan", form_data(plan, "plan", **typed))
        self.assertContains(short, "300.0 g on order, comes")
        self.order(amount="1 kg", comes_on=str(TODAY))
        found = self.client.get(path).context["list"]
        self.assertEqual([item.key for item in found.coming], ["olive_oil"])
        self.assertNotIn("olive_oil", [item.key for item in found.wanted])

    def test_it_comes_and_is_a_lot_or_is_called_off(self) -> None:
        """Asked for on its day with all that is known of it; once it came it is on order no more; called off only once."""
        self.order(comes_on=str(TODAY))
        order = Order.objects.get()
        self.assertEqual(order.amount, D("914"))  # a litre of olive oil
        self.assertContains(self.client.get("/due"), "Has it come?")
        page = self.client.get("/pantry/orders")
        address = next(receive for *_, receive in page.context["rows"])
        data = form_data(self.client.get(address.partition("#")[0]), "receive")
        self.assertEqual((data["supplier"], data["amount"], data["price"]), (["Breakwater"], ["914 g"], ["12.00"]))
        part = self.client.post("/pantry/", {**data, "amount": "400 g"}, follow=True)
        self.assertContains(part, "514.0 g of the order are still to come.")
        self.assertEqual((Order.objects.get().amount, Order.objects.open().count()), (514, 1))
        data = form_data(self.client.get(address.partition("#")[0].replace("914", "514")), "receive")
        self.client.post("/pantry/", data)
        self.assertEqual(Order.objects.get().lot, Lot.objects.latest("pk"))
        self.assertNotContains(self.client.get("/due"), "Has it come?")
        again = self.client.post(f"/pantry/orders/{order.pk}/call-off", follow=True)
        self.assertContains(again, "It has come, or was called off already.", status_code=again.status_code)
        self.order(comes_on=str(TODAY - timedelta(days=1)), ordered_on=str(TODAY - timedelta(days=9)))
        self.assertContains(self.client.get("/pantry/orders"), "late")
        self.client.post(f"/pantry/orders/{Order.objects.latest('pk').pk}/call-off")
        self.assertEqual(Order.objects.open().count(), 0)

    def test_what_cannot_be_ordered_says_so(self) -> None:
        """Nothing, half a tin, a day before it was ordered; what was typed stays."""
        early = {"comes_on": str(TODAY - timedelta(days=1))}
        self.assertContains(self.order(400, **early), "It cannot come before it was ordered.", status_code=400)
        self.assertContains(self.order(400, amount="0 g"), "A lot holds more than nothing", status_code=400)
        kept = self.order(400, item="tin_screw_60", amount="2.5")
        self.assertEqual(form_data(kept, "order")["supplier"], ["Breakwater"])
        self.assertEqual(Order.objects.count(), 0)
