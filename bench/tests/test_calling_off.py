"""A batch called off: before anything, weighed, in the heat, and with pieces filled."""

from decimal import Decimal as D

from balmcore.composition import Composition
from balmcore.tables import shipped
from batches.models import Batch, Rest
from bench.models import Event
from bench.tests.test_bench import BenchTestCase
from pantry.models import Lot
from pantry.services import Purchase, mark, receive
from pantry.tables import workshop_tables


class CallingOffTests(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.wax = receive(Purchase("beeswax_yellow", D(100)))

    def off(self, status: int = 302, **said: str) -> None:
        self.page = self.client.post(f"{self.path}call-off", said)
        self.assertEqual(self.page.status_code, status)

    def left(self) -> D:
        return Lot.objects.get(pk=self.wax.pk).left

    def test_what_was_not_begun_is_gone_without_a_question(self) -> None:
        self.off(fate="burnt")
        self.assertFalse(Batch.objects.exists())

    def test_what_was_only_weighed_can_go_back(self) -> None:
        """Asked what becomes of it, with all three answers; back it goes."""
        self.weigh_all()
        self.off(200)
        for said in ("All of it goes back", "Keep it", "It is thrown away"):
            self.assertContains(self.page, said)
        self.assertEqual(self.left(), D("82.7"))
        self.off(fate="back")
        self.assertEqual((self.left(), Batch.objects.count()), (100, 0))

    def test_what_was_in_the_heat_is_thrown_away_or_kept(self) -> None:
        """Thrown away the lots stay drawn, and nothing more can be done with it; its record stands."""
        self.weigh_all()
        self.do("done")
        self.off(200)
        self.assertNotContains(self.page, "All of it goes back")
        self.off(400, fate="back")
        self.assertContains(self.page, "It was warm already", status_code=400)
        self.off(fate="thrown")
        batch = Batch.objects.get()
        self.assertEqual((batch.state, batch.off_why, self.left()), ("off", "Thrown away.", D("82.7")))
        self.assertContains(self.client.get(f"/batches/{batch.pk}/"), "Called off after it was begun. Thrown away.")
        self.assertContains(self.client.get("/batches/"), "Called off")
        self.page = self.client.get(self.path)
        self.assertContains(self.page, "This batch was called off: thrown away.")
        events = Event.objects.count()
        self.do("add", 400, item="olive_oil", grams="2 g")
        self.assertContains(self.page, "This batch was called off: its record stays as it is.", status_code=400)
        self.off(400, fate="kept")
        self.assertContains(self.page, "was called off already", status_code=400)
        self.assertEqual(Event.objects.count(), events)

    def test_what_is_kept_has_its_composition_and_a_recall_follows_it(self) -> None:
        """96 of 102 g: a rest of wax, butter and oil as weighed, that the next formula can take; more than was in it is
        refused. Its wax recalled, it is not to be used."""
        self.weigh_all()
        self.do("done")
        self.off(400, fate="kept", grams="150 g")
        self.assertContains(self.page, "were weighed into it: 150 g cannot be kept", status_code=400)
        self.assertContains(self.page, 'value="150 g"', status_code=400)
        made = self.batch.to_composition(shipped())
        self.off(fate="kept", grams="96 g")
        rest = Rest.objects.get().lot
        self.assertEqual((rest.left, rest.item_key in workshop_tables().ingredients), (96, True))
        item = workshop_tables().ingredient(rest.item_key)
        kept = Composition.of({item.key: D(1)}, workshop_tables()).expanded
        for line in made.lines:
            self.assertAlmostEqual(float(kept.share_of(line.key)), float(line.share / made.total), places=5)
        mark(self.wax, "recalled")
        self.assertContains(self.client.get(f"/pantry/lots/{rest.pk}/"), "is recalled")

    def test_with_pieces_filled_it_is_logged_first(self) -> None:
        self.weigh_all()
        while self.page.context["step"].task != "fill":
            self.do("done")
        self.do("fill", **{f"count-{self.page.context['rows'][0].container.pk}": "4"})
        self.off(400, fate="thrown")
        self.assertContains(self.page, "Pieces of it are filled: write them into the log", status_code=400)
