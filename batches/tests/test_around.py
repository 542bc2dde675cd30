"""What goes around a piece: chosen for a container or for a batch, counted out as it is filled, bought and paid for."""

from decimal import Decimal as D

from batches.models import Batch
from batches.supply.costs import cost_of
from batches.tests.test_plan import PlanCase
from pantry.models import Entry, GoesWith, Lot, OwnContainer
from pantry.services import Purchase, receive
from pantry.tables import workshop_tables
from tests.support.makings import weigh_to_target
from tests.support.pages import form_data
from workshop.services import preferences


class AroundTests(PlanCase):
    def setUp(self) -> None:
        super().setUp()
        page = self.client.get("/pantry/containers")
        for name in ("Paper band", "Muslin bag"):
            self.client.post("/pantry/containers", form_data(page, "own-container", name=name, kind="around"))
        self.band, self.bag = OwnContainer.objects.order_by("pk")
        self.client.post(f"/pantry/containers/{self.band.pk}/goes-with", {"with": "tin_screw_60"})
        self.bands = receive(Purchase(self.band.key, D(10), is_container=True, price=D(1)))
        self.tins = receive(Purchase("tin_screw_60", D(40), is_container=True, price=D(20)))
        receive(Purchase("beeswax_yellow", D(500), price=D(10)))
        receive(Purchase("olive_oil", D(1000), price=D(20)))
        receive(Purchase("lavender", D(100), price=D(10)))
        self.page = self.client.get("/batches/plan", {"version": self.version.pk})

    def test_it_is_nothing_that_is_filled(self) -> None:
        """It needs a name alone, stands apart from the containers, and no plan offers to fill it."""
        page = self.client.get("/pantry/containers")
        self.assertNotIn(self.band.key, [vessel.key for vessel, _ in page.context["rows"]])
        self.assertContains(page, "10 in stock")
        self.assertNotIn(self.band.key, [vessel.key for vessel in self.page.context["containers"]])
        self.client.post(f"/pantry/containers/{self.band.pk}/goes-with", {"not_with": "tin_screw_60"})
        self.assertEqual(GoesWith.objects.count(), 0)

    def test_it_comes_with_its_container_unless_a_plan_says_otherwise(self) -> None:
        """The band is ticked for the tin and not for a tube; the bag goes around all where it is ticked; what is unticked
        stays so."""
        shown = self.post()
        self.assertEqual([(each.name, each.is_ticked) for each in shown.context["planning"].around],
                         [("Muslin bag", False), ("Paper band", True)])  # fmt: skip
        without = form_data(shown, "plan", around=[self.bag.key])
        planning = self.client.post("/batches/plan", without).context["planning"]
        self.assertEqual(planning.plan.around, {"tin_screw_60": (self.bag.key,)})
        tubes = form_data(self.page, "plan", container="lip_tube_4_5g", count="6", around=[])
        self.assertEqual(self.client.post("/batches/plan", tubes).context["planning"].ticked, frozenset())
        both = {"container": ["tin_screw_60", "lip_tube_4_5g"], "count": ["4", "6"], "fill": ["90", "90"]}
        planning = self.post(**both, around=[self.band.key, self.bag.key]).context["planning"]
        self.assertEqual(planning.plan.around,
                         {"tin_screw_60": (self.band.key, self.bag.key), "lip_tube_4_5g": (self.bag.key,)})  # fmt: skip

    def test_it_is_held_bought_paid_for_and_counted_out(self) -> None:
        """Twelve bands of ten: two short on plan and shopping list, each in the price; ten pieces filled take ten, one less
        puts one back."""
        self.assertContains(self.post(count="12"), "2 short in stock")
        batch = self.planned(count="12")
        self.assertContains(self.client.get(f"/batches/{batch.pk}/"), "Around each screw tin 60 mL: Paper band")
        bought = self.client.get(f"/batches/shopping?batch={batch.pk}").context["list"].wanted
        self.assertEqual([(item.key, item.missing) for item in bought], [(self.band.key, 2)])
        self.assertContains(self.client.get(f"/pantry/lots/{self.bands.pk}/"), f"batch {batch.pk}")
        receive(Purchase(self.band.key, D(20), is_container=True, price=D(4)))
        batch = Batch.objects.for_page().get()
        weigh_to_target(batch)
        data = form_data(self.client.get(f"/pours/of/{batch.pk}"), "pour")
        self.client.post(f"/pours/of/{batch.pk}", data)
        batch = Batch.objects.for_page().get()
        self.assertEqual(
            dict(Lot.objects.filter(item_key=self.band.key).values_list("received", "left")), {10: 0, 20: 18}
        )
        own = Entry.objects.filter(lot__item_key=self.band.key, kind=Entry.Kind.USED)
        self.assertEqual(sum(entry.amount for entry in own), -12)
        cost = cost_of(batch, [], workshop_tables(), preferences())
        self.assertEqual(cost.is_paid, True)
        page = self.client.get(f"/batches/{batch.pk}/method").context["cost"]
        ((_, piece),) = page.pieces
        self.assertAlmostEqual(piece.around, (D(1) + 2 * D("0.2")) / 12)
        self.assertAlmostEqual(piece.total, piece.melt + D("0.5") + piece.around)
