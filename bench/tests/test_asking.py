"""By which weight, from which lot: what is asked before it is written, and what is corrected afterwards."""

from datetime import timedelta
from decimal import Decimal as D

from django.utils import timezone

from batches.models import Batch, BatchLine
from batches.supply.costs import drawn_from_lots
from bench.models import Event
from bench.tests.test_bench import BenchTestCase
from pantry.models import Lot
from pantry.services import Purchase, mark, receive
from pours.models import Pour
from tests.support.pages import form_data


class AskingTests(BenchTestCase):
    """Every way of typing a weight asks before anything is written; nothing unfit is taken without a choice."""

    def setUp(self) -> None:
        super().setUp()
        today = timezone.localdate()
        self.soon = receive(Purchase("beeswax_yellow", D(500), code="A", best_before=today + timedelta(days=90)))
        self.late = receive(Purchase("beeswax_yellow", D(500), code="B", best_before=today + timedelta(days=900)))
        self.old = receive(
            Purchase("beeswax_yellow", D(500), bought=today - timedelta(days=99), best_before=today - timedelta(days=1))
        )
        self.do("done")

    def line(self) -> BatchLine:
        return self.batch.lines.get(ingredient_key="beeswax_yellow")

    def left(self, lot: Lot) -> D:
        return Lot.objects.get(pk=lot.pk).left

    def test_a_slip_is_asked_at_the_step_and_on_the_sheet(self) -> None:
        """34.1 oz for grams, ten times as much, a tenth: nothing is written, the likely weight is one press away."""
        target = self.line().target_g
        for typed in (f"{target} oz", f"{target * 10}", f"{target / 10}"):
            page = self.do("weigh", 400, grams=typed, sure="")
            self.assertContains(page, f"Did you mean {target:.1f} g?", status_code=400)
            address = f"{self.path}weigh"
            sheet = self.client.post(
                address, form_data(self.client.get(address), "weigh", **{"actual-beeswax_yellow": typed})
            )
            self.assertContains(sheet, f"Did you mean {target:.1f} g?")
            self.assertContains(sheet, f'name="use-beeswax_yellow" value="{target:.1f} g"')
        self.assertEqual((self.line().actual_g, Event.objects.filter(kind="weighed").count()), (None, 0))
        self.assertEqual([self.left(lot) for lot in (self.soon, self.late, self.old)], [500, 500, 500])
        self.do("weigh", grams=f"{target} g", sure="")
        self.assertEqual(self.line().actual_g, target)

    def test_more_than_the_lots_hold_is_asked(self) -> None:
        """What only a lot past its date could give is asked about, and not taken from it."""
        for lot in (self.soon, self.late):
            mark(lot, Lot.State.RECALLED)
        target = self.line().target_g
        page = self.do("weigh", 400, grams=str(target), sure="")
        self.assertContains(page, "is more than the lots for this batch hold: 0.0 g.", status_code=400)
        self.do("weigh", grams=str(target))
        self.assertEqual((self.left(self.old), self.line().outside_g), (500, target))

    def test_the_step_names_its_lot_and_lets_it_be_changed(self) -> None:
        """The same lot on sheet, weigh sheet and step; another is chosen, and the grams leave that."""
        for path in (self.path, f"{self.path}weigh", f"/batches/{self.batch.pk}/"):
            self.assertContains(self.client.get(path), f"ot {self.soon.pk} (A)")
        self.assertContains(self.client.get(self.path), f"lot {self.old.pk}: 500.0 g free, past its date".capitalize())
        target = str(self.line().target_g)
        self.do("weigh", grams=target, lot=str(self.late.pk))
        self.assertEqual((self.left(self.soon), self.left(self.late)), (500, 500 - D(target)))
        self.assertContains(self.client.get(f"/batches/{self.batch.pk}/"), f"lot {self.late.pk} (B)")


class CorrectingTests(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.lots = [receive(Purchase("olive_oil", D(500), price=D(price))) for price in (5, 50)]
        self.weigh_all()
        page = self.client.get(f"/pours/of/{self.batch.pk}")
        self.client.post(page.wsgi_request.get_full_path(), form_data(page, "pour-form"))
        self.pour = Pour.objects.get()
        self.sheet = f"/batches/{self.batch.pk}/"

    def correct(self, status: int = 302, **fields: str) -> None:
        answer = self.client.post(f"{self.path}correct", {"line": "olive_oil", **fields})
        self.assertEqual(answer.status_code, status, answer.content[-200:])

    def paid(self) -> D:
        """What the oil in it cost, by the lots that gave it."""
        paid = drawn_from_lots(Batch.objects.for_page().get(pk=self.batch.pk))["olive_oil"]
        return sum((each.each * each.amount for each in paid if each.each is not None), D(0))

    def left(self) -> list[D]:
        return [Lot.objects.get(pk=lot.pk).left for lot in self.lots]

    def test_a_weight_and_a_lot_are_corrected_after_the_results(self) -> None:
        """The reason is kept; stock, cost, prediction and recall follow; the answer can be taken back."""
        before, target = Pour.objects.get().predicted, self.batch.lines.get(ingredient_key="olive_oil").actual_g
        assert target is not None
        self.assertContains(self.client.get(self.sheet), "Correct olive oil")
        self.correct(400, grams=str(target + 20))  # no reason
        self.correct(400, grams=f"{target} oz", reason="Misread.")  # a slip
        self.assertEqual(self.left(), [500 - target, 500])
        self.correct(grams=str(target + 20), reason="Misread the scale.")
        self.assertEqual(self.left(), [480 - target, 500])
        self.assertLess(Pour.objects.get().predicted, before - 1)
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/"), "Misread the scale.")
        cheap = self.paid()
        self.correct(lot=str(self.lots[1].pk), reason="It was the new bottle.")
        self.assertEqual(self.left(), [500, 480 - target])
        path = self.pour.get_absolute_url()
        self.assertContains(self.client.get(f"/pours/from-lot/{self.lots[1].pk}"), path)
        self.assertNotContains(self.client.get(f"/pours/from-lot/{self.lots[0].pk}"), path)
        self.assertEqual(self.paid(), 10 * cheap)
        self.correct(lot="none", reason="Nobody knows.")
        self.assertEqual(self.left(), [500, 500])
        self.assertContains(self.client.get(self.sheet), "of olive oil came from no lot")

    def test_which_lot_was_it_offers_a_fit_one_first(self) -> None:
        mark(self.lots[0], Lot.State.RANCID)
        self.correct(lot="none", reason="Nobody knows.")
        page = self.client.get(self.sheet).content.decode()
        first, second = (page.index(f'<option value="{lot.pk}">') for lot in (self.lots[1], self.lots[0]))
        self.assertLess(first, second)
        self.correct(400, lot=str(self.lots[0].pk))
