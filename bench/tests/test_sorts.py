"""Batches of every sort at the bench: whipped, wet, divided, and rehearsed."""

from decimal import Decimal as D

from django.http import HttpResponse

from balmcore.composition import Composition, normalise
from balmcore.physics.basis import firmness_lost
from balmcore.physics.firmness import predict
from balmcore.tables import shipped
from batches.models import Batch
from bench.models import Event
from bench.tests.test_bench import BenchTestCase
from formulas.models import Version
from pantry.models import Lot
from pantry.services import Purchase, receive
from pours.models import Pour
from tests.support.makings import begin
from tests.support.pages import form_data


class WhippingTests(BenchTestCase):
    def setUp(self) -> None:
        begin("Foam", "whipped_butter")
        super().setUp()

    def plan(self, page: HttpResponse) -> dict[str, list[str]]:
        foam = Version.objects.get(formula__name="Foam")
        return form_data(self.client.get("/batches/plan", {"version": foam.pk}), "plan", save="1")

    def test_a_drop_of_a_whipped_butter_is_judged_as_it_is_then(self) -> None:
        """Unwhipped at the test, with what it will be beside it; whipped once it is."""
        self.weigh_all()
        while self.step != "test":
            self.do("done")
        bench = self.page.context["bench"]
        truth = predict(self.batch.to_composition(shipped()))
        self.assertAlmostEqual(bench.verdict.firmness, truth.firmness_at(21))
        self.assertAlmostEqual(bench.verdict.firmness - bench.whipped, firmness_lost(self.batch.overrun))
        self.assertContains(self.page, f"Whipped it will be {bench.whipped:.0f}")
        offer = (
            self.client.get(f"{self.path}rescue", {"step": "test", "trouble": "soft", "thumb": "gel"})
            .context["rescuing"]
            .offers[0]
        )
        self.assertRegex(offer.comes_to, r"^make it \d+, [a-z ]+; whipped \d+$")
        while self.step != "overrun":
            self.do("done")
        after = self.page.context["bench"]
        self.assertAlmostEqual(after.verdict.firmness, bench.whipped)

    def test_the_air_that_was_beaten_in_counts(self) -> None:
        """Chilled, whipped, a full cup weighed: 30 mL of 15 g is so much more room, softer and lighter jars."""
        self.weigh_all()
        while self.step != "overrun":
            self.do("done")
        keys = [view.step.key for view in self.page.context["bench"].steps]
        self.assertEqual(keys[keys.index("chill") :][:3], ["chill", "whip", "overrun"])
        before = self.page.context["bench"].verdict.firmness
        density = predict(self.batch.to_composition(shipped())).density_g_ml
        self.do("measure", 400, grams="40", cup="30 mL")
        self.assertContains(self.page, "in 30 mL cannot be", status_code=400)
        self.do("measure", grams="12", cup="30 mL")
        made = Batch.objects.get(pk=self.batch.pk)
        self.assertAlmostEqual(made.overrun, density * 30 / 12 - 1)
        self.assertLess(self.page.context["bench"].verdict.firmness, before)
        while self.page.context["step"].task != "fill":
            self.do("done")
        row = self.page.context["rows"][0]
        self.assertAlmostEqual(row.net_g, row.container.capacity_ml * row.container.fill * 12 / 30)
        self.page = self.client.get(f"{self.path}?step=overrun")
        self.do("undo")
        while Batch.objects.get(pk=self.batch.pk).overrun == made.overrun:
            self.do("undo")
        self.assertEqual(Batch.objects.get(pk=self.batch.pk).overrun, self.batch.overrun)


class WetTests(BenchTestCase):
    def setUp(self) -> None:
        begin_wet = Composition.of({"beeswax_yellow": D(15), "olive_oil": D(77), "tincture": D(8)})
        self.version = begin("Spindrift", "pot_salve", normalise(begin_wet)).versions.get()
        page = self.client.get("/batches/plan", {"version": self.version.pk})
        self.client.post("/batches/plan", self.plan(page) | {"override_reason": ["It is driven off first."]})
        self.batch = Batch.objects.get()
        self.path = f"/bench/{self.batch.pk}/"
        self.page = self.client.get(self.path)

    def test_the_pot_is_weighed_again_until_its_water_is_gone(self) -> None:
        """8 % tincture should make it some 8 g lighter: not weighed, or half of it gone, is said; that its weight no
        longer falls is believed, and both stand in the record."""
        while self.step != "water_off":
            grams = self.page.context["view"].left_g
            self.do("weigh", grams=f"{grams} g") if grams else self.do("done")
        leaves = self.page.context["step"].target_g
        self.assertAlmostEqual(float(leaves), 0.97 * 0.08 * float(self.batch.lines.get(
            ingredient_key="tincture").actual_g) / 0.08, delta=0.05)  # fmt: skip
        self.do("dry", 400)
        self.assertContains(self.page, "Weigh the pot again", status_code=400)
        self.do("dry", 400, lighter="4 g")
        self.assertContains(self.page, f"Only 4.0 g of {leaves:.1f} g are gone: it still holds water.", status_code=400)
        self.assertContains(self.page, 'value="4 g"', status_code=400)
        self.do("dry", lighter="4 g", settled="1")
        self.assertContains(self.page, "4.0 g lighter")
        # The record goes by the pot that was weighed, and not by what the table says should leave.
        into, batch = self.page.context["bench"].pot_g, Batch.objects.get()
        self.assertEqual(into, sum(line.actual_g for line in batch.lines.all() if line.actual_g)
                         * batch.to_fill_g(shipped()) / batch.weighed_in(shipped()).total)  # fmt: skip
        self.assertEqual(batch.weighed_in(shipped()).total - batch.to_fill_g(shipped()), 4)
        self.do("undo")
        self.assertIsNone(Batch.objects.get().driven_off_g)
        self.do("dry", lighter=f"{leaves * D('0.95'):.1f}")
        self.assertEqual(self.step[:6], "weigh:")


class DividingTests(BenchTestCase):
    def plan(self, page: HttpResponse) -> dict[str, list[str]]:
        page = self.client.post("/batches/plan", form_data(page, "plan", add_finish="1"))
        kept = {"count": ["3", "3"], "container": ["tin_screw_30"] * 2, "add_item": "tea_tree", "add_amount": "0.8 %"}
        return form_data(page, "plan", save="1", **kept)

    def test_two_finishes_become_two_pours(self) -> None:
        """The base for each is taken off the pot; what is stirred in leaves its lot; a portion of more than
        there is is refused; each finish is a pour of its own."""
        receive(Purchase("tea_tree", D(10)))
        self.weigh_all()
        while not self.step.startswith("take:"):
            self.do("done")
        self.do("take", 400, at="weigh:olive_oil", grams="20 g")
        self.page = self.client.get(self.path)
        self.do("take", 400, grams="400 g")
        self.assertContains(self.page, "g are in the pot: 400 g cannot leave it", status_code=400)
        # Half a gram more than is reckoned is the scale's, more is not.
        there = self.page.context["bench"].pot_g
        self.do("take", 400, grams=f"{there + D('0.6')} g")
        self.do("take", grams=f"{there + D('0.5')} g")
        self.do("undo")
        self.do("take", grams="70 g")
        # What a finish took cannot have been more than went in: not by its own weight, nor by that of a line.
        self.do("correct", 400, at="weigh:olive_oil", grams="2 g")
        self.assertContains(self.page, "and 70 g were taken from it", status_code=400)
        taking = next(view.step.key for view in self.page.context["bench"].steps if view.step.task == "take")
        self.do("correct", 400, at=taking, grams="400 g")
        self.do("correct", at=taking, grams="69 g")
        self.assertContains(self.page, "69.0 g taken, was 70.0 g")
        self.do("undo")
        self.do("undo")
        taken = []
        while not self.page.context["bench"].is_filled:
            view = self.page.context["view"]
            if view.step.task == "fill":
                pk = self.page.context["rows"][0].container.pk
                self.do("fill", **{f"count-{pk}": "3", f"weights-{pk}": "25 25 25", "stayed": "2"})
            else:
                taken.append(view.left_g)
                self.do(view.step.task, grams=f"{view.left_g} g")
        scent = self.batch.lines.get(ingredient_key="tea_tree").actual_g
        self.assertEqual(Lot.objects.get().left, 10 - scent)
        into = sum(line.actual_g for line in self.batch.lines.all())
        self.assertContains(self.page, f"{into:.1f} g went in and 154.0 g are accounted for: {154 - into:.1f} g more")
        self.assertContains(self.page, "150.0 g in pieces and 4.0 g in the jug.")
        # Three grams of oil more than was planned go into neither: they are left in the pot.
        self.do("correct", at="weigh:olive_oil", grams=f"{self.grams('olive_oil') + 3} g")
        self.assertContains(self.page, "4.0 g in the jug and 3.0 g left in the pot.")
        self.do("undo")
        self.do("log")
        plain, scented = Pour.objects.order_by("pk")
        self.assertEqual((str(plain.finish), str(scented.finish)), ("plain", "scented"))
        made = scented.to_composition(shipped())
        self.assertAlmostEqual(float(made.share_of("tea_tree")), float(scent))
        self.assertAlmostEqual(float(made.total), float(taken[1] + scent))


class RehearsalTests(BenchTestCase):
    def test_a_rehearsal_leaves_no_trace(self) -> None:
        """Weighed, over-poured and rescued in a rehearsal: lots, batch and log are as before."""
        receive(Purchase("beeswax_yellow", D(50)))
        self.client.post(f"/bench/{self.batch.pk}/rehearse", {"speed": "20"})
        self.path = f"/bench/rehearsal/{self.batch.pk}/"
        self.page = self.client.get(self.path)
        self.assertContains(self.page, "nothing of it is written into stock or log")
        self.do("done")
        self.do("weigh", grams="20 g")
        self.do("rescale", at="weigh:beeswax_yellow")
        self.weigh_all()
        self.do("add", item="candelilla_wax", grams="2 g")
        self.assertEqual(self.page.context["bench"].batch.to_composition(shipped()).share_of("candelilla_wax"), 2)
        self.assertGreater(self.page.context["bench"].moved, 1)
        self.assertEqual(Lot.objects.get().left, 50)
        self.assertFalse(self.batch.lines.filter(actual_g__isnull=False).exists())
        self.client.post(f"/bench/rehearsal/{self.batch.pk}/end")
        self.assertFalse(Event.objects.exists())
        self.assertEqual(self.client.get(self.path).status_code, 404)
        stamps = set()
        for _ in range(2):  # begun anew it is another one, for the pages that poll as well
            self.client.post(f"/bench/{self.batch.pk}/rehearse", {"speed": "20"})
            stamps.add(self.client.get(self.path).context["bench"].stamp)
        self.assertEqual(len(stamps), 2)
