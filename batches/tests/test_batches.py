"""Planning and weighing as forms: grams, flags, refusals, and two tabs at one scale."""

from decimal import Decimal as D

from django.db import IntegrityError, transaction
from django.http import HttpResponse
from django.test import TestCase

from balmcore.composition import Composition
from balmcore.tables import shipped
from batches.models import Batch, BatchLine
from bench.weights.recording import run_of
from formulas.models import Formula, Version
from pantry.models import OwnContainer
from tests.support.makings import begin
from tests.support.pages import Data, form_data


class PlanTests(TestCase):
    def setUp(self) -> None:
        self.version = begin("Topsail", "pot_salve").versions.get()
        self.path = "/batches/plan"
        self.page: HttpResponse = self.client.get(self.path, {"version": self.version.pk})

    def post(self, status: int = 200, **changes: str | list[str]) -> HttpResponse:
        response = self.client.post(self.path, form_data(self.page, "plan", **changes))
        self.assertEqual(response.status_code, status)
        return response

    def test_two_kinds_of_container_and_a_plan(self) -> None:
        """A row more, its own usual fill when another is chosen, then grams fixed to the scale."""
        self.page = self.post(add_row="1")
        self.page = self.post(container=["lip_tube_4_5g", "tin_screw_30"], count=["4", "2"], chosen="0")
        data = form_data(self.page, "plan")
        self.assertEqual(data["fill"], ["92 %", "90 %"])
        self.assertContains(self.page, "Lip balm tube, 4½ g class: 4 with 4.3 g each.")
        self.post(302, save="1")
        batch = Batch.objects.get()
        self.assertEqual(
            [str(row) for row in batch.containers.all()], ["4 × Lip balm tube, 4½ g class", "2 × Screw tin 30 mL"]
        )
        self.assertEqual(sum(line.target_g for line in batch.lines.all()), D("69.7"))
        self.assertEqual(Version.objects.get().stage, Version.Stage.PLANNED)

    def test_every_bad_field_has_its_sentence_and_keeps_its_text(self) -> None:
        """0 and 10,000 pieces, an overfull tin, a scale without a step, a pour that has set."""
        for field, text, said in (
            ("count", "0", "At least one is needed: to leave it out, remove the row."),
            ("count", "10000", "“10000” is more than 5000 pieces: split it into several batches."),
            ("count", "many", "“many” is not a number"),
            ("count", "5000", "kg in one melt: split it into batches of 50 kg or less."),
            ("fill", "140", "“140” is more than the whole"),
            ("fill", "0", "Filled to nothing holds nothing"),
            ("container", "barrel", "That container is no longer in the pantry: choose another."),
            ("resolution", "0", "This should be between 0.0005 g and 50 g."),
            ("loss", "-1", "“-1” is below nothing."),
            ("loss", "1 cup", "“1 cup” is a volume: a weight is needed here."),
            ("pour", "hot", "“hot” is not a temperature"),
        ):
            with self.subTest(field=field, text=text):
                response = self.post(400, save="1", **{field: text})
                self.assertContains(response, said, status_code=400)
                if field != "container":
                    self.assertEqual(form_data(response, "plan")[field], [text])
        self.assertContains(self.post(400, save="1", drop_row="0"), "Choose at least one container.", status_code=400)
        self.assertContains(self.post(pour="40 °C"), "At 40 °C it has set already; a skin forms at 51 °C.")
        self.assertEqual(Batch.objects.count(), 0)

    def test_whipped_butter_takes_twice_the_room(self) -> None:
        """The default overrun of 100 % halves the grams; the field can be changed."""
        version = begin("Foam", "whipped_butter").versions.get()
        self.page = self.client.get(self.path, {"version": version.pk})
        one = self.page.context["planning"].scaled.product_g
        flat = self.post(whip="0", pour="25").context["planning"].scaled.product_g
        self.assertAlmostEqual(flat / one, 2, places=6)

    def test_a_ladder_of_cups_and_one_of_them_planned(self) -> None:
        """Wax 12 to 22 in five cups; the fourth becomes a batch of a trial beside the version."""
        page = self.client.get("/batches/ladder", {"version": self.version.pk})
        self.assertEqual(form_data(page, "plan")["low"], ["12.0"])
        self.assertEqual([str(rung.share) for rung, _ in page.context["form"].rows][1:3], ["0.145000", "0.170000"])
        for field, text, said in (
            ("count", "12", "“12” is more than 9 pieces"),
            ("low", "30", "from a lower to a higher percentage"),
            ("high", "x", "“x” is not a number"),
            ("cup", "0.2 g", "too small for this scale"),
        ):
            answer = self.client.post("/batches/ladder", form_data(page, "plan", **{field: text}))
            self.assertContains(answer, said)
            self.assertEqual(form_data(answer, "plan")[field], [text])
        self.client.post("/batches/ladder", form_data(page, "plan", rung="4"))
        batch = Batch.objects.get()
        self.assertEqual(sum(line.target_g for line in batch.lines.all()), D(20))
        self.assertEqual(batch.lines.get(ingredient_key="beeswax_yellow").target_g, D("3.9"))
        self.assertFalse(batch.version.is_current)
        self.assertIn(
            "rung 4 of 5: beeswax, yellow 19.5 %, 5 g of the low melt and 15 g of the high", batch.version.note
        )
        self.assertEqual(self.version.formula.versions.get(is_current=True), self.version)

    def test_an_own_container_by_fluid_ounces(self) -> None:
        """2 fl oz brimful at 90 % is 53.2 mL; it can be planned with, and its plan outlives it."""
        for typed, said in (
            ({"name": "", "capacity": "2 oz", "fill": "140"}, "Give it a name you will know it by."),
            ({"name": "x", "capacity": "2 oz", "fill": "90"}, "“2 oz” is a weight: a volume is needed"),
            ({"name": "x", "capacity": "0", "fill": "90"}, "A container holds between 0.1 mL and 100 litres."),
            ({"name": "x", "capacity": "50", "fill": "140"}, "“140” is more than the whole"),
        ):
            self.assertContains(self.client.post("/pantry/containers", typed), said, status_code=400)
        self.client.post("/pantry/containers", {"name": "Chandler's tin", "capacity": "2 fl oz", "fill": "90"})
        own = OwnContainer.objects.get()
        self.assertAlmostEqual(own.capacity_ml, 59.147, places=3)
        self.post(302, save="1", container=own.key, fill="90", count="3")
        self.client.post(f"/pantry/containers/{own.pk}/remove")
        self.assertContains(self.client.get(f"/batches/{Batch.objects.get().pk}/"), "3 × Chandler&#x27;s tin")

    def test_a_planned_batch_can_be_called_off_and_a_missing_one_is_not_there(self) -> None:
        """The batch goes; its address answers 404 in words."""
        self.post(302, save="1")
        batch = Batch.objects.get()
        self.client.post(f"/bench/{batch.pk}/call-off", {"fate": "back"})
        self.assertEqual(Batch.objects.count(), 0)
        self.assertContains(
            self.client.get(f"/batches/{batch.pk}/"), "There is nothing at this address.", status_code=404
        )


class WeighTests(TestCase):
    def setUp(self) -> None:
        version = begin("Topsail", "pot_salve").versions.get()
        page = self.client.get("/batches/plan", {"version": version.pk})
        self.client.post("/batches/plan", form_data(page, "plan", count="4", container="tin_screw_30", save="1"))
        self.batch = Batch.objects.get()
        self.path = f"/bench/{self.batch.pk}/weigh"
        self.page = self.client.get(self.path)

    def weigh(self, page: HttpResponse | None = None, **actual: str) -> Data:
        changes = {f"{name}-{key}": text for key, text in actual.items() for name in ("actual", "sure")}
        self.page = self.client.post(self.path, form_data(page or self.page, "weigh", **changes))
        return form_data(self.page, "weigh")

    def grams(self, key: str) -> D | None:
        return self.batch.lines.get(ingredient_key=key).actual_g

    def test_weights_are_written_down_in_any_measure(self) -> None:
        """Grams with a comma, ounces, spoons of pellets by their bulk, fluid ounces of oil."""
        self.weigh(beeswax_yellow="2 tbsp", shea_butter_refined="15,6", olive_oil="2.4 fl oz")
        self.assertEqual(self.grams("beeswax_yellow"), D("16.8"))
        self.assertEqual(self.grams("shea_butter_refined"), D("15.6"))
        self.assertEqual(self.grams("olive_oil"), D("64.872494"))
        self.assertContains(self.page, "1 still to weigh")
        # A weight shown rounded and not touched is stored as it was, and is no news to another tab.
        before = run_of(self.batch).revision
        self.weigh()
        self.assertEqual(self.grams("olive_oil"), D("64.872494"))
        self.assertEqual(run_of(self.batch).revision, before)
        self.weigh(olive_oil="")
        self.assertIsNone(self.grams("olive_oil"))

    def test_nonsense_is_kept_beside_its_sentence_and_the_rest_is_written(self) -> None:
        """One bad figure does not lose the good one typed with it."""
        data = self.weigh(beeswax_yellow="17,5", shea_butter_refined="a handful")
        self.assertEqual(self.grams("beeswax_yellow"), D("17.5"))
        self.assertEqual(data["actual-shea_butter_refined"], ["a handful"])
        self.assertContains(self.page, "“a handful” is not an amount: write it like 12.5 g.")
        for text, said in {"-3": "below nothing", "1e400": "is not", "999999": "more than this bench holds"}.items():
            self.weigh(shea_butter_refined=text)
            self.assertContains(self.page, said)

    def test_what_was_really_weighed_decides_the_firmness(self) -> None:
        """Half as much wax again is told as points firmer, and its row asks for a check."""
        target = self.batch.lines.get(ingredient_key="beeswax_yellow").target_g
        self.weigh(beeswax_yellow=str(target * D("1.5")))
        self.assertContains(self.page, "9 firmer than planned")
        self.assertContains(self.page, "check")
        self.assertEqual(self.batch.to_composition(shipped()).lines[0].share, target * D("1.5"))

    def test_nothing_weighed_and_a_poured_batch(self) -> None:
        """All zeros still answer, by the targets; after the pour the weights stay as they were."""
        self.weigh(beeswax_yellow="0", shea_butter_refined="0", olive_oil="0", vitamin_e_oil="0")
        self.assertContains(self.page, "as planned")
        page = self.page
        self.client.post(f"/pours/of/{self.batch.pk}", form_data(self.client.get(f"/pours/of/{self.batch.pk}"), "pour"))
        data = form_data(page, "weigh", **{"actual-olive_oil": "5"})
        refused = self.client.post(self.path, data, headers={"hx-request": "true"})
        self.assertContains(refused, "This batch was poured: its weights stay as they were.", status_code=400)
        self.assertEqual(refused.headers["HX-Retarget"], "#refused")
        self.assertNotContains(refused, "<html", status_code=400)
        self.assertEqual(self.grams("olive_oil"), 0)

    def test_a_second_tab_cannot_overwrite_and_is_shown_both_figures(self) -> None:
        """Nothing is written at first; the typed figure stays, the other stands beside; then it may."""
        old = self.page
        self.weigh(beeswax_yellow="17,5")
        data = self.weigh(old, beeswax_yellow="16")
        self.assertEqual(self.grams("beeswax_yellow"), D("17.5"))
        self.assertEqual(data["actual-beeswax_yellow"], ["16"])
        self.assertContains(self.page, "The other tab has 17.5 g.")
        self.weigh()
        self.assertEqual(self.grams("beeswax_yellow"), D(16))

    def test_the_database_refuses_masses_below_nothing(self) -> None:
        """Targets and actual weights both."""
        for column in ("target_g", "actual_g"):
            with self.assertRaises(IntegrityError), transaction.atomic():
                BatchLine.objects.filter(batch=self.batch).update(**{column: D(-1)})
        with self.assertRaises(IntegrityError), transaction.atomic():
            Formula.objects.all().delete()


class CautionTests(TestCase):
    def test_a_batch_over_a_limit_asks_for_a_spoken_yes_and_says_so_on_every_page(self) -> None:
        """Lavender on a small child's body, eight times the most: refused, then planned with why; and what
        was weighed is judged again."""
        tables = shipped()
        composition = Composition.of(
            {"beeswax_yellow": D("0.17"), "olive_oil": D("0.81"), "lavender": D("0.02")}, tables
        )
        formula = begin("Little Ebb", "hand_balm", composition)
        formula.audience, formula.area = "child_2_6y", "body"
        formula.save()
        version = formula.versions.get()
        page = self.client.get("/batches/plan", {"version": version.pk})
        line = "Scent 2.0 % in all, 0.25 % is our most for children of 2 to 6, on the body"
        self.assertContains(page, line)
        refused = self.client.post("/batches/plan", form_data(page, "plan", save="1", override_reason="for me"))
        self.assertContains(
            refused, "Change it in the studio, or write here that you know, and why, such as", status_code=400
        )
        self.assertContains(refused, "“for me” does not say why.", status_code=400)
        self.assertEqual(form_data(refused, "plan")["override_reason"], ["for me"])
        why = "Only to smell at, never worn."
        self.assertEqual(
            self.client.post("/batches/plan", form_data(page, "plan", save="1", override_reason=why)).status_code, 302
        )
        batch = Batch.objects.get()
        self.assertEqual(batch.override_reason, why)
        for path in (
            f"/batches/{batch.pk}/",
            f"/bench/{batch.pk}/weigh",
            f"/batches/{batch.pk}/method",
            f"/pours/of/{batch.pk}",
        ):
            page = self.client.get(path)
            self.assertContains(page, "0.25 % is our most for children of 2 to 6, on the body")
            self.assertContains(page, why)
        bench = self.client.get(f"/bench/{batch.pk}/weigh")
        weighed = form_data(bench, "weigh", **{"actual-lavender": "0"})
        self.assertNotContains(self.client.post(f"/bench/{batch.pk}/weigh", weighed), "is our most for children")

    def test_more_than_a_pitcher_holds_is_planned_in_rounds(self) -> None:
        """A hundred tins: how many pitchers and what is in each, on plan, sheet and method; a thousand are too many of
        the smallest jug, and why."""
        version = begin("Spring Tide", "hand_balm").versions.get()
        page = self.client.get("/batches/plan", {"version": version.pk})
        jug = {"chosen_pitcher": "1", "pitcher": "jug_pouring_1000", "container": "tin_screw_60"}
        planned = self.client.post("/batches/plan", form_data(page, "plan", count="100", **jug))
        self.assertRegex(planned.content.decode(), r"In 7 pitchers, one after another, 7\d\d(\.\d)? g in each")
        self.client.post("/batches/plan", form_data(planned, "plan", save="1", count="100", **jug))
        batch = Batch.objects.get()
        self.assertContains(self.client.get(f"/batches/{batch.pk}/"), "In 7 pitchers")
        self.assertContains(self.client.get(f"/batches/{batch.pk}/method"), "Melt, pitcher 7 of 7")
        small = {**jug, "pitcher": "jug_pouring_250"}
        refused = self.client.post("/batches/plan", form_data(page, "plan", save="1", count="1000", **small))
        self.assertContains(refused, "times pouring jug 250 mL: take a larger one", status_code=400)
