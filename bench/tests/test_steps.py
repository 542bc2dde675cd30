"""One step at a time: what instruments put into the page, what puts a drop right, what is taken back, what is written."""

import threading
from decimal import Decimal as D
from unittest import mock

from django.http import HttpResponse
from django.test import TestCase

from balmcore.composition import Composition, normalise
from balmcore.tables import shipped
from balmcore.trials.experience import NO_EXPERIENCE
from balmcore.trials.press import thumb
from batches.models import Batch
from bench.models import Event
from bench.rehearsal import simulator as rehearsing
from bench.state import open_bench
from bench.tests.test_bench import BenchTestCase
from instruments.simulator import Server
from pantry.services import Purchase, receive
from tests.support.makings import begin, own_folder, weigh_to_target
from tests.support.pages import form_data
from workshop.services import preferences


class RescuingTests(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.weigh_all()
        self.do("done")
        self.do("done")

    def ask(self, **asked: str) -> HttpResponse:
        return self.client.get(f"{self.path}rescue", {"step": "test", **asked})

    def test_a_press_test_of_the_drop_decides(self) -> None:
        """150 g under a rod of 6 mm are 49: to 60 it takes more wax than to 55, and the pot grows by as much."""
        grams = []
        for want in ("55", "60"):
            offer = self.ask(trouble="soft", press_g="150 g", rod_mm="6", want=want).context["rescuing"].offers[0]
            self.assertAlmostEqual(offer.firmness, float(want), delta=0.4)
            self.assertEqual(offer.over_g, offer.grams)
            self.assertEqual(offer.total_g, sum(line.actual_g for line in self.batch.lines.all()) + offer.grams)
            grams.append(offer.grams)
        self.assertGreater(grams[1], grams[0])
        self.assertAlmostEqual(
            self.ask(trouble="soft", press_g="150 g", rod_mm="6").context["rescuing"].felt, 48.4, places=1
        )

    def test_more_said_than_can_be_used_is_refused_in_words(self) -> None:
        for asked, said in (
            ({"press_g": "0.2 g", "rod_mm": "6"}, "is under 5 steps of the scale"),
            ({"press_g": "150", "rod_mm": "7"}, "The rod should be 3, 6 or 10 mm"),
            ({"want": "300"}, "Ask for a firmness between 5 and 110."),
            ({"want": "4.9"}, "Ask for a firmness between 5 and 110."),
            ({"want": "110.1"}, "Ask for a firmness between 5 and 110."),
            ({"want": "soft"}, "“soft” is not a number"),
        ):
            with self.subTest(said):
                self.assertContains(self.ask(trouble="soft", **asked), said)
        # No scent is in yet: nothing can be said of it.
        self.assertNotContains(self.ask(trouble="faint"), "faint")

    def test_what_was_felt_stays_with_the_pot_until_another_drop(self) -> None:
        """Too hard, like a stick where the model says less: softened to 40, the next look says 40, and so does the
        sheet; one more gram moves it from there. Another drop, another shift; taken back, the one before."""
        batch, bench = Batch.objects.get(), self.page.context["bench"]
        model, felt, planned = bench.verdict.firmness, thumb("stick").firmness, bench.aim
        asked = {"trouble": "hard", "thumb": "stick", "want": "40"}
        offer = self.ask(**asked).context["rescuing"].offers[0]
        self.do("add", item=offer.item.key, grams=f"{offer.grams} g", **asked)
        self.assertEqual(self.step, "test")
        bench = self.page.context["bench"]
        self.assertAlmostEqual(bench.verdict.firmness, 40, delta=0.2)
        self.assertAlmostEqual(bench.batch.drop_shift, felt - model)
        self.assertContains(self.page, "By your drop: 40")
        self.assertContains(
            self.client.get(f"/bench/{batch.pk}/weigh"), '<span class="big" id="true-firmness">40</span>'
        )
        self.assertContains(self.page, 'name="trouble" value="hard"')  # and can be said again
        self.assertEqual(bench.aim, 40)
        offers = self.ask(trouble="hard", want="36").context["rescuing"].offers
        self.assertAlmostEqual(offers[0].firmness, 36, delta=0.2)
        self.assertLess(offers[0].grams, offer.grams)
        asked = {"trouble": "soft", "thumb": "soft scoop", "want": "41"}
        offer = self.ask(**asked).context["rescuing"].offers[0]
        self.do("add", item=offer.item.key, grams=f"{offer.grams} g", **asked)
        self.assertAlmostEqual(self.page.context["bench"].verdict.firmness, 41, delta=0.3)
        self.do("undo")
        self.assertAlmostEqual(self.page.context["bench"].batch.drop_shift, felt - model)
        self.do("undo")
        self.assertEqual((Batch.objects.get().drop_shift, self.page.context["bench"].aim), (0, planned))

    def test_the_aim_is_what_was_planned_and_a_word_further_where_it_is_that_already(self) -> None:
        planned = self.page.context["bench"].aim
        for trouble, thumb_word, want in (
            ("hard", "bar", planned), ("soft", "gel", planned), ("soft", "bar", thumb("bar").firmness + 10),
        ):  # fmt: skip
            with self.subTest(thumb_word):
                said = self.ask(trouble=trouble, thumb=thumb_word).context["rescuing"]
                self.assertEqual(said.want, f"{want:.0f}")

    def test_what_is_in_stock_is_a_choice_with_what_it_brings(self) -> None:
        """Candelilla takes less than beeswax, and is there; cocoa butter is, too; of hazelnut oil one may be allergic."""
        for key in ("candelilla_wax", "cocoa_butter", "hazelnut_oil"):
            receive(Purchase(key, D(200)))
        offers = self.ask(trouble="soft", thumb="gel", want="40").context["rescuing"].offers
        self.assertEqual(offers[0].item.key, "candelilla_wax")
        self.assertEqual([offer.grams for offer in offers if offer.stock], sorted(o.grams for o in offers if o.stock))
        self.assertTrue(all(abs(offer.firmness - 40) < 1 for offer in offers))
        page = self.ask(trouble="hard", thumb="bar", want="40")
        hazel = next(offer for offer in page.context["rescuing"].offers if offer.item.key == "hazelnut_oil")
        self.assertIn(
            "Allergens: bee products, shea nut, soy (usual source), tree nuts",
            [caution.line for caution in hazel.brings],
        )

    def test_what_the_stock_lacks_of_it_is_said(self) -> None:
        receive(Purchase("beeswax_yellow", D(1)))
        page = self.ask(trouble="soft", thumb="gel", want="55")
        offer = page.context["rescuing"].offers[0]
        self.assertEqual(offer.short_g, offer.grams - 1)
        self.assertContains(page, f"{offer.short_g:.1f} g short in stock")


class FaintTests(TestCase):
    def test_a_faint_scent_is_made_stronger_within_its_limit(self) -> None:
        """By half as much again, 0.6 to 0.9 percent; up to the cautious one percent and no further, on the scale's grid."""
        for percent, grams, said in (
            ("0.6", "0.3", "make it 0.88 % of all"),
            ("0.8", "0.2", "make it 0.98 % of all"),
            ("1", "0.0", "There is as much lavender as may be, to the scale&#x27;s step."),
        ):
            shares = {"beeswax_yellow": D(20), "olive_oil": D(80) - D(percent), "lavender": D(percent)}
            version = begin(f"Foxglove {percent}", "pot_salve", normalise(Composition.of(shares))).versions.get()
            page = self.client.get("/batches/plan", {"version": version.pk})
            self.client.post("/batches/plan", form_data(page, "plan", count="4", container="tin_screw_30", save="1"))
            batch = weigh_to_target(Batch.objects.get(version=version))
            page = self.client.get(f"/bench/{batch.pk}/rescue", {"step": "add", "trouble": "faint"})
            (offer,) = page.context["rescuing"].offers
            self.assertEqual((offer.item.key, offer.grams), ("lavender", D(grams)))
            self.assertContains(page, said)


class ScentTests(BenchTestCase):
    def setUp(self) -> None:
        begin("Foxglove", "pot_salve")
        super().setUp()

    def plan(self, page: HttpResponse) -> dict[str, list[str]]:
        page = self.client.post("/batches/plan", form_data(page, "plan", add_finish="1"))
        kept = {"count": ["3", "3"], "container": ["tin_screw_30"] * 2, "add_item": "lavender", "add_amount": "1 drop"}
        return form_data(page, "plan", save="1", **kept)

    def test_a_drop_in_each_is_counted_and_taken_back(self) -> None:
        """Three drops leave the lot when they are dripped in; undone they are back, and the base taken too."""
        lot = receive(Purchase("lavender", D(10)))
        self.weigh_all()
        while not self.step.startswith("count:"):
            view = self.page.context["view"]
            if view.step.task == "fill":
                pk = self.page.context["rows"][0].container.pk
                self.do("fill", **{f"count-{pk}": "3"})
            else:
                self.do(view.step.task if view.step.task == "take" else "done", grams=f"{view.left_g} g")
        item = shipped().ingredient("lavender")
        drop = D(str(item.density_g_ml / item.drops_per_ml))
        self.assertContains(self.page, "1 drop of lavender into each of 3")
        self.do("count")
        lot.refresh_from_db()
        self.assertAlmostEqual(lot.left, 10 - 3 * drop, places=5)
        self.do("undo")
        lot.refresh_from_db()
        self.assertEqual(lot.left, 10)
        taken = Batch.objects.get().finishes.last()
        self.assertIsNotNone(taken.taken_g)
        self.do("undo")
        self.assertIsNone(Batch.objects.get().finishes.last().taken_g)
        undone = [event.step for event in Event.objects.filter(is_undone=True)]
        self.assertEqual(undone, ["take:1", f"count:lavender.{taken.pk}"])


class FillingTests(BenchTestCase):
    def test_pieces_are_counted_and_odd_ones_refused(self) -> None:
        """More weights than pieces, no piece at all, a weight that is none; fewer pieces change what was planned."""
        self.weigh_all()
        for _ in ("melt", "clear", "test", "cool", "add"):
            self.do("done")
        pk = self.page.context["rows"][0].container.pk
        for fields, said in (
            ({f"count-{pk}": "1", f"weights-{pk}": "25 25"}, "Screw tin 30 mL: 2 weights for 1 piece."),
            ({f"count-{pk}": "2", f"weights-{pk}": "24.9+0.1 60 kg"}, "60000 g is more than this bench holds"),
            ({f"count-{pk}": "0"}, "Nothing was filled"),
            ({f"count-{pk}": "2", f"weights-{pk}": "heavy"}, "“heavy” is not an amount"),
            ({f"count-{pk}": "2", "stayed": "1 cup"}, "a weight is needed here"),
        ):
            with self.subTest(said):
                self.do("fill", 400, **fields)
                self.assertContains(self.page, said, status_code=400)
        self.do("fill", **{f"count-{pk}": "3", f"weights-{pk}": "25,0; 24.9"})
        self.do("log")
        made = [(row.count, row.filled) for row in Batch.objects.get().containers.all()]
        self.assertEqual(made, [(4, 3)])
        kept = Batch.objects.get().pours.get()
        self.assertEqual([piece.mass_g for piece in kept.pieces.all()], [D("25.0"), D("24.9")])

    def test_the_record_tells_what_was_skipped_and_what_was_taken_back(self) -> None:
        """Passed over with a why, out of order, undone: each with its words at the pour."""
        self.weigh_all()
        self.do("skip", why="The thermometer broke")
        self.do("done")
        self.do("undo")
        self.page = self.client.get(f"{self.path}?step=pour")
        pk = self.page.context["rows"][0].container.pk
        self.do("fill", **{f"count-{pk}": "4"})
        self.do("log")
        made = self.client.get(f"/pours/{Batch.objects.get().pours.get().pk}/").context["made"]
        told = {entry.title: (entry.what, entry.beside) for entry in made}
        self.assertEqual(told["Melt"], ("passed over", "The thermometer broke"))
        self.assertEqual(told["Clear test"], ("done", "taken back"))
        self.assertEqual(told["Pour"][0], "4 filled")
        self.assertIn("before clear test, test a drop and", told["Pour"][1])


class SimulatorTests(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.server = Server(own_folder(self))
        self.ended = threading.Event()
        turning = threading.Thread(target=self.turn)
        turning.start()
        self.addCleanup(self.server.close)
        self.addCleanup(turning.join)
        self.addCleanup(self.ended.set)

    def turn(self) -> None:
        while not self.ended.is_set():
            self.server.turn(0.01)

    def test_a_rehearsal_drives_the_pan_and_the_pot(self) -> None:
        """A hand pours half of what is wanted; the pan is tared at the next step; the pot goes onto the bath."""
        self.client.post(f"/bench/{self.batch.pk}/rehearse", {"speed": "60"})
        self.assertEqual(self.server.simulator.speed, 60)
        self.path = f"/bench/rehearsal/{self.batch.pk}/"
        self.page = self.client.get(self.path)
        self.do("done")
        self.client.post(f"{self.path}act", {"step": self.step, "hand": "half"})
        self.assertAlmostEqual(self.server.simulator.scale.load_g, 8.65)
        self.server.simulator.scale.felt_g = 8.65  # at rest at once
        self.do("weigh", grams="17.1")
        self.assertAlmostEqual(self.server.simulator.scale.tare_g, 8.65)
        self.weigh_all()
        pot = self.server.simulator.pot
        self.assertEqual((pot.place, round(pot.body.mass_g)), ("bath", 102))
        self.do("done")
        self.do("done")
        self.do("done")
        self.assertEqual(self.server.simulator.pot.place, "counter")
        self.assertEqual(self.client.post(f"/bench/{self.batch.pk}/rehearse", {"speed": "7"}).status_code, 400)

    def test_without_a_simulator_it_says_so_and_goes_on(self) -> None:
        with mock.patch("instruments.simulator.order", return_value=False):
            page = self.client.post(f"/bench/{self.batch.pk}/rehearse", {"speed": "20"}, follow=True)
            self.assertContains(page, "No stand-in scale runs: type the numbers")
            bench = open_bench(self.batch.pk, True, shipped(), preferences(), NO_EXPERIENCE)
            self.assertFalse(rehearsing.act(bench, "all"))
