"""What pours teach: every number of the house by the maker's own tests, rates, reactions, ladders, what to try."""

from datetime import date, timedelta
from decimal import Decimal as D

from django.db.models import F
from django.test import SimpleTestCase, TestCase
from django.utils import timezone

from balmcore.composition import Composition, normalise
from balmcore.making.method import method_for
from balmcore.physics.firmness import predict
from balmcore.physics.grain import HELD
from balmcore.tables import Tables, shipped
from balmcore.trials.experience import Experience, HandlingRates
from balmcore.trials.rates import Rate
from batches.batch_plan import setup_of
from batches.models import Batch
from bench.models import BenchRun, Event
from formulas.hooks import judged_pours
from formulas.models import Formula, Version
from learning.experience import experience_of
from learning.lessons import forget_lessons
from learning.models import LadderTest
from learning.reactions import reactions
from learning.trying import to_try
from pieces.models import Handout
from pours.models import Check, Pour, WearTest
from tests.support.makings import begin
from tests.support.net_loft import YEAR, load
from tests.support.pages import form_data
from workshop.services import bump_records_revision, preferences


def taught_tables() -> Tables:
    """The tables as the tests correct them."""
    found = experience_of(shipped(), preferences()).tables
    assert found is not None
    return found


def best_cooling(rates: dict[str, Rate], usual: str) -> str:
    """What rates of grain, by way of cooling, speak for in a formula led by shea."""
    keys = [key.split(" ") for key in rates]
    rows = tuple(
        HandlingRates("shea_butter", cooling, melting[0] if melting else HELD, {"grain": rate})
        for (*melting, cooling), rate in zip(keys, rates.values(), strict=True)
    )
    return Experience(handling=rows).best_cooling(Composition.of({"shea_butter": 1}), usual)


class YearTestCase(TestCase):
    """The net loft's year: beeswax runs firmer there, candelilla softer."""

    @classmethod
    def setUpTestData(cls) -> None:
        load(YEAR)

    def formula(self, name: str) -> Formula:
        return Formula.objects.get(name=name)


class CoolingChoiceTests(SimpleTestCase):
    def test_the_way_that_ones_own_pours_speak_for(self) -> None:
        """Only where its rate lies clearly below the usual one's; of several the rarest grain; nothing known, or
        another melting, chooses nothing."""
        usual = Rate(18, 20)
        self.assertEqual(
            best_cooling({"rest_then_cold": usual, "cold": Rate(4, 20), "freezer": Rate(1, 20)}, "rest_then_cold"),
            "freezer",
        )
        self.assertEqual(
            best_cooling({"rest_then_cold": usual, "cold": Rate(9, 40), "freezer": Rate(5, 20)}, "rest_then_cold"),
            "cold",
        )
        self.assertEqual(best_cooling({"rest_then_cold": usual, "cold": Rate(15, 20)}, "rest_then_cold"), "")
        self.assertEqual(best_cooling({"rest_then_cold": Rate(1, 2), "cold": Rate(0, 2)}, "rest_then_cold"), "")
        self.assertEqual(best_cooling({"cold": Rate(0, 40)}, "rest_then_cold"), "")
        self.assertEqual(best_cooling({"rest_then_cold": usual, "clear cold": Rate(0, 40)}, "rest_then_cold"), "")


class CalibrationTests(YearTestCase):
    def test_a_tin_on_the_triangle_holds_what_was_stirred_into_its_finish(self) -> None:
        """Of Low Water's pours the lavender half alone has half a percent more of extras."""
        version = self.formula("Low Water").versions.get()
        pots = [composition for composition, _ in judged_pours.ask(version, shipped(), preferences())[0]]
        extras = [round(float(pot.role_shares()["extra"]) * 100, 1) for pot in pots]
        self.assertEqual(extras, [0.5, 0.5, 1.1, 0.5])

    def test_every_number_follows_the_tests_and_the_switch(self) -> None:
        """Studio, plan and list of versions by the tests; the plain model beside, and alone after the switch."""
        formula = self.formula("Sou'wester")
        current = formula.versions.get(is_current=True)
        plain = predict(current.to_composition(shipped())).firmness_at(21)
        own = predict(current.to_composition(taught_tables())).firmness_at(21)
        self.assertTrue(4 < plain - own < 9, plain - own)
        studio = self.client.get(f"/formulas/{formula.pk}/")
        self.assertContains(studio, f'id="firmness">{own:.0f}<')
        self.assertContains(studio, f"the model alone says {plain:.0f}")
        self.assertContains(studio, "at 21 °C, ± 3")
        page = self.client.get("/pours/learned")
        self.assertContains(page, "Your candelilla wax runs 8 points softer than the table, from 5 pours.")
        self.assertContains(page, "Your beeswax runs 7 points firmer than the table")
        found = page.context["lessons"]
        self.assertTrue(found.fitting[1] < 0.8 * found.fitting[0], found.fitting)
        self.assertGreater(found.errors[1], found.fitting[1])
        self.client.post("/pours/by-tests", {"by_tests": ""})
        studio = self.client.get(f"/formulas/{formula.pk}/")
        self.assertContains(studio, f'id="firmness">{plain:.0f}<')
        self.assertNotContains(studio, "the model alone says")
        self.client.post("/pours/by-tests", {"by_tests": "yes"})
        self.assertContains(self.client.get(f"/formulas/{formula.pk}/"), f'id="firmness">{own:.0f}<')

    def test_a_change_of_material_is_said_and_answered(self) -> None:
        """All since April come out 18 points softer: since when, of what and by how much stands on the page; its maker
        names the day, or refuses it; a day in the future is none."""
        self.assertNotContains(self.client.get("/pours/learned"), "A change of material")
        Check.objects.filter(pour__poured_on__gte=date(2026, 4, 1)).update(measured=F("measured") - 18)
        bump_records_revision()
        forget_lessons()
        self.addCleanup(forget_lessons)
        page = self.client.get("/pours/learned")
        told = page.context["lessons"].supply
        self.assertContains(page, "A change of material")
        self.assertRegex(told.sentence, r"^Since \d+ April 2026 what you make.* runs 1\d points softer")
        before = page.context["lessons"].errors[1]
        answer = self.client.post(
            "/pours/supply", {"say": "then", "day": "2999-01-01", "group": told.group}, follow=True
        )
        self.assertContains(answer, "not one in the future")
        answer = self.client.post(
            "/pours/supply", {"say": "then", "day": "2 April 2026", "group": told.group}, follow=True
        )
        self.assertContains(answer, "You named this day.")
        self.assertContains(answer, "Since 2 April 2026")
        self.client.post("/pours/supply", {"say": "again"})
        answer = self.client.post(
            "/pours/supply", {"say": "none", "day": str(told.day), "group": told.group}, follow=True
        )
        self.assertNotContains(answer, "A change of material")
        self.assertGreater(answer.context["lessons"].errors[1], before + 2)

    def test_a_wild_test_is_shown_and_set_aside(self) -> None:
        """The odd press of Squall does not fit; set aside it teaches nothing, and its own prediction stays."""
        page = self.client.get("/pours/learned")
        wild = [lesson.check for lesson in page.context["lessons"].rows if not lesson.fits]
        self.assertEqual([str(check.pour.batch.version) for check in wild], ["Squall v2"])
        before = taught_tables()
        self.client.post(f"/pours/checks/{wild[0].pk}/aside", {"exclusion": "untaught", "exclusion_reason": "Still warm.",
                                                               "revision": 1, "back": "learned"})  # fmt: skip
        page = self.client.get("/pours/learned")
        self.assertContains(page, "set aside: Still warm.")
        self.assertEqual(page.context["lessons"].untaught, 1)
        self.assertIsNot(taught_tables(), before)
        self.assertEqual(Check.objects.get(pk=wild[0].pk).predicted, wild[0].predicted)

    def test_an_old_verdict_keeps_the_prediction_it_was_made_by(self) -> None:
        """A new check is predicted by the tests; the old ones say what was said then."""
        pour = Pour.objects.filter(batch__version__formula__name="Sou'wester").first()
        old = pour.checks.exclude(measured=None).first()
        path = f"/pours/{pour.pk}/check"
        typed = form_data(
            self.client.get(path), "look-form", method="thumb", thumb="pot salve", test_c=f"{old.test_c:g}"
        )
        self.client.post(path, typed)
        new = pour.checks.last()
        self.assertGreater(old.predicted - new.predicted, 5)
        self.assertLess(new.predicted_sigma, 5)
        self.assertEqual(pour.checks.get(pk=old.pk).predicted, old.predicted)

    def test_nothing_teaches_nothing(self) -> None:
        Handout.objects.all().delete()
        Pour.objects.all().delete()
        self.assertContains(self.client.get("/pours/learned"), "No pour was tested yet")


class RateTests(YearTestCase):
    def test_own_rates_stand_where_the_choice_is_made(self) -> None:
        """Shea on the counter grained in three of seven, refrigerated in none of nine: plan, method and studio."""
        version = self.formula("Doldrums").versions.get()
        told = "Slowly on the counter: 3 of 7 (16 to 75 %) of yours with shea butter, refined grained."
        plan = self.client.get(f"/batches/plan?version={version.pk}")
        self.assertContains(plan, told)
        self.assertContains(plan, "Rest until a skin forms, then refrigerate: 0 of 9 (0 to 30 %) of yours")
        self.assertContains(self.client.get(f"/formulas/{version.formula_id}/"), told)
        batch = Batch.objects.filter(version=version).first()
        self.assertContains(self.client.get(f"/batches/{batch.pk}/method"), told)
        self.assertContains(self.client.get("/pours/learned"), "3 of 7 (16 to 75 %)")
        Pour.objects.filter(batch__version=version, cooling="counter").update(cooling="other")
        bump_records_revision()
        self.assertContains(self.client.get("/pours/learned"), "in another way")
        # What stays in the jug here is what the plan begins with.
        self.assertEqual(form_data(plan, "plan")["loss"], ["5.0 g"])
        self.assertContains(plan, "Mostly 4.0 g to 5.2 g stayed in it, by 8 pours of yours.")

    def test_the_way_with_evidence_becomes_the_default(self) -> None:
        """Where the usual way grained and another did not, the plan begins with the other."""
        version = self.formula("Doldrums").versions.get()
        cold = Pour.objects.filter(batch__version=version, cooling="refrigerator")
        Check.objects.filter(pour__in=cold).exclude(grain="").update(grain="much")
        Check.objects.filter(pour__cooling="counter").exclude(grain="").update(grain="none")
        self.client.post(f"/pours/{cold.first().pk}/check", form_data(
            self.client.get(f"/pours/{cold.first().pk}/check"), "look-form", grain="much"))  # fmt: skip
        plan = self.client.get(f"/batches/plan?version={version.pk}")
        self.assertEqual(form_data(plan, "plan")["cooling"], ["counter"])

    def test_butters_melted_in_part_are_a_way_of_their_own(self) -> None:
        """Chosen in the plan with its sentence, made so, and counted apart from those melted clear."""
        version = self.formula("Doldrums").versions.get()
        page = self.client.get(f"/batches/plan?version={version.pk}")
        hot = self.client.post("/batches/plan", form_data(page, "plan", melting="seeded"))
        self.assertContains(hot, "and poured hotter it has no seeds: pour it at")
        typed = form_data(page, "plan", melting="seeded", pour="33", loss="4", cooling="counter", save="1")
        made = self.client.post("/batches/plan", typed, follow=True)
        batch = Batch.objects.get(melting="seeded")
        self.assertContains(self.client.get(f"/batches/{batch.pk}/method"), "Off the heat with lumps left")
        self.assertEqual(made.status_code, 200)
        poured = Pour.objects.filter(batch__version=version, cooling="counter").first()
        Batch.objects.filter(pk=poured.batch_id).update(melting="seeded", cooling="counter")
        bump_records_revision()
        page = self.client.get(f"/batches/plan?version={version.pk}")
        self.assertContains(page, "In part: off the heat with lumps left, then slowly on the counter: 1 of 1")
        self.assertContains(page, "Slowly on the counter: 2 of 6")


class PaceTests(YearTestCase):
    def test_the_bench_itself_teaches_how_long_things_take(self) -> None:
        """Four batches made step by step: 20 seconds a tin, melting 1.5 times as long as reckoned; plans go by it."""
        version = self.formula("Undertow").versions.get(is_current=True)
        batches = list(Batch.objects.filter(version__formula=version.formula).order_by("pk")[:4])
        reckoned = [next(s.length for s in method_for(setup_of(batch, shipped())).steps if s.key == "melt")
                    for batch in batches]  # fmt: skip
        now = timezone.now()
        for batch, minutes, seconds in zip(batches, reckoned, (19, 20, 20, 21), strict=True):
            run = BenchRun.objects.get(batch=batch)
            names = [row.name for row in batch.containers.all() for _ in range(row.count)]
            for kind, step, at, data in (
                ("weighed", "weigh:olive_oil", 0, {}),
                ("done", "melt", minutes * 90, {}),
                ("measured", "whip", minutes * 90 + 600, {"overrun": 0.4}),
                # Ten minutes went into the whip, and none of them into filling.
                ("filled", "pour", minutes * 90 + 600 + seconds * len(names), {"pieces": [(n, None) for n in names]}),
            ):
                Event.objects.create(run=run, kind=kind, step=step, data=data, at=now + timedelta(seconds=at))
        before = method_for(setup_of(batches[0], shipped()))
        bump_records_revision()
        page = self.client.get("/pours/learned")
        self.assertContains(page, "A tin takes 20 seconds to fill, mostly 20 to 20, from 4 fillings.")
        self.assertContains(page, "Water bath: melting takes 1.50 times as long as")
        self.assertContains(page, "Hand mixer: whipping gains 40 % of the")
        after = method_for(setup_of(batches[0], shipped(), pace=experience_of(shipped(), preferences()).pace))
        for key, times in (("melt", 1.5), ("pour", 20 / 8)):
            old, new = (next(s.length for s in made.steps if s.key == key) for made in (before, after))
            self.assertAlmostEqual(new / old, times, delta=0.01)
        planned = batches[0]
        Batch.objects.filter(pk=planned.pk).update(state=Batch.State.WEIGHING)
        typed = {
            "when": "start",
            "moment": f"{timezone.localdate() + timedelta(days=1)}T10:00",
            "cooling": planned.cooling,
        }
        self.assertEqual(self.client.post(f"/batches/{planned.pk}/method", typed).status_code, 302)
        planned.refresh_from_db()
        clock = self.client.get(f"/batches/{planned.pk}/method").context["clock"]
        self.assertAlmostEqual(planned.length_min, clock.method.length, delta=0.01)
        BenchRun.objects.update(is_rehearsal=True)
        bump_records_revision()
        self.assertEqual(experience_of(shipped(), preferences()).pace.heating, {})


class ReactionTests(YearTestCase):
    def test_what_those_who_reacted_had_in_common(self) -> None:
        """Lemongrass and its lot, by two of two wearers, and what so few are worth; a professional judges."""
        page = self.client.get("/pours/reactions")
        self.assertContains(page, "A doctor or a pharmacist judges a reaction")
        found = page.context["found"]
        self.assertEqual((found.reacted, found.worn), (2, 5))
        self.assertEqual(found.ingredients[0].name, "Lemongrass")
        self.assertEqual(
            found.ingredients[0].suspect.sentence, "in what 2 of 2 reacted to; worn without trouble by 1 of 3"
        )
        self.assertContains(page, "Fewer than 3 wearers reacted: chance alone makes such a list")
        self.assertRegex(found.lots[0].name, r"^Lemongrass, lot \d+$")
        self.assertContains(page, "“Red between the toes by evening.”")
        Pour.objects.filter(wear_tests__reaction="skin").delete()
        self.assertContains(self.client.get("/pours/reactions"), "who wore something has reacted.")


class ScentAllergenTests(YearTestCase):
    def test_an_allergen_of_scent_counts_across_the_oils_that_bring_it(self) -> None:
        """One reacted to lavender, one to lemongrass, and two wore peppermint without trouble: linalool is in what both
        reacted to, and leads the list; citral, which lemongrass alone brings, is not in it beside lemongrass."""
        tables = shipped()
        pours = {}
        for key in ("lavender", "lemongrass", "peppermint"):
            version = begin(f"With {key}", "hand_balm", normalise(Composition.of(
                {"beeswax_yellow": D(20), "olive_oil": D("79.5"), key: D("0.5")}))).versions.get()  # fmt: skip
            batch = Batch.objects.create(version=version, resolution_g="0.1", pour_c=60, state=Batch.State.POURED)
            for n, line in enumerate(version.lines.all()):
                batch.lines.create(ingredient_key=line.ingredient_key, target_g=line.share * 100, position=n)
            pours[key] = Pour.objects.create(batch=batch, predicted=50, predicted_sigma=6)
        WearTest.objects.all().delete()
        for who, key, reaction in (("a", "lavender", "skin"), ("b", "lemongrass", "skin"), ("c", "peppermint", "none"),
                                   ("d", "peppermint", "none")):  # fmt: skip
            WearTest.objects.create(pour=pours[key], who=who, where="hands", reaction=reaction)
        names = [named.name for named in reactions(tables).ingredients]
        self.assertRegex(names[0], r"^[A-Z][a-z]+, which lavender and lemongrass bring$")
        self.assertFalse(any(name.startswith("Citral,") for name in names))


class TryingTests(YearTestCase):
    def test_the_next_version_is_made_from_what_was_said(self) -> None:
        """Sea Fret was called greasy twice: half of its richest oil for a drier one, with the reason in the note."""
        version = self.formula("Sea Fret").versions.get()
        pour = Pour.objects.filter(batch__version=version).last()
        self.assertContains(self.client.get(f"/pours/{pour.pk}/"), f"/pours/{pour.pk}/shown")
        page = self.client.get(f"/pours/{pour.pk}/shown")
        self.assertContains(page, "2 of 2 wearers called it greasy.")
        made = self.client.post(f"/pours/next/{version.pk}", {}, follow=True)
        self.assertContains(made, "is made, with its reason in the note")
        current = version.formula.versions.get(is_current=True)
        self.assertIn("2 of 2 wearers called it greasy.", current.note)
        self.assertLess(current.lines.get(ingredient_key="sunflower_oil_ho").share, D("0.2"))
        # A newer version stands in its place: nothing is suggested for the old one any more.
        self.assertIsNone(to_try(Version.objects.get(pk=version.pk), shipped(), preferences().show))
        answer = self.client.post(f"/pours/next/{version.pk}", {}, follow=True)
        self.assertContains(answer, "There is no change to make of it any more")

    def test_grain_that_ended_asks_for_nothing(self) -> None:
        """Doldrums grained on the counter and is cooled cold since."""
        version = self.formula("Doldrums").versions.get()
        self.assertIsNone(to_try(version, shipped(), preferences().show))
        Pour.objects.filter(batch__version=version, cooling="refrigerator").delete()
        found = to_try(version, shipped(), preferences().show)
        self.assertEqual((found.cooling, found.why[:21]), ("rest_then_cold", "Grain in 3 of 4 pours"))
        pour = Pour.objects.filter(batch__version=version).first()
        self.assertContains(self.client.get(f"/pours/{pour.pk}/shown"), "Plan it so")
        plan = self.client.post(f"/pours/next/{version.pk}", {}, follow=True)
        self.assertEqual(form_data(plan, "plan")["cooling"], ["rest_then_cold"])


class LadderTests(YearTestCase):
    def test_cups_a_line_and_a_version(self) -> None:
        """Five pressed cups of the year; 52 is asked for; the share becomes the next version."""
        test = LadderTest.objects.get()
        # Nothing asked: the middle of a pot salve's window, 45 to 58.
        self.assertEqual(self.client.get(f"/pours/ladder/{test.pk}").context["want"], "52")
        page = self.client.get(f"/pours/ladder/{test.pk}?want=52")
        fit = page.context["fitted"].fit
        share = fit.share_for(52)[0]
        self.assertTrue(0.15 < share < 0.18)
        self.assertContains(page, f"Candelilla wax {share * 100:.2f} % for firmness 52, give or take")
        self.assertContains(self.client.get(f"/pours/ladder/{test.pk}?want=200"), "for 200 make a ladder further up")
        made = self.client.post(f"/pours/ladder/{test.pk}/pick", {"want": "52"}, follow=True)
        self.assertContains(made, "is made. Candelilla wax")
        current = self.formula("Sou'wester").versions.get(is_current=True)
        self.assertAlmostEqual(float(current.lines.get(ingredient_key="candelilla_wax").share), share, places=4)

    def test_cups_of_a_whipped_kind_are_judged_as_they_are_pressed(self) -> None:
        """A whipped butter's 22 to 48 is 47 to 73 before 100 % more room is beaten in, and the page says so."""
        made = begin("Spindrift", "whipped_butter").versions.get()
        form = form_data(self.client.get(f"/batches/ladder?version={made.pk}"), "ladder")
        page = self.client.post(f"/pours/ladder/of/{made.pk}", form, follow=True)
        self.assertContains(page, "Cups are pressed as they are poured, not whipped.")
        self.assertContains(page, "22 to 48 then is 47 to 73 here.")
        self.assertEqual(page.context["want"], "60")
        first = page.context["rows"][0].rung
        self.assertAlmostEqual(first.firmness, predict(first.composition).firmness_at(21))

    def test_a_new_ladder_is_filled_in_cup_by_cup(self) -> None:
        """From the ladder's page; a wrong cup is marked and none of them is lost; two cups make no line."""
        version = self.formula("Undertow").versions.get(is_current=True)
        form = form_data(self.client.get(f"/batches/ladder?version={version.pk}"), "ladder")
        page = self.client.post(f"/pours/ladder/of/{version.pk}", form, follow=True)
        self.assertContains(page, "With three tested cups a line goes through them")
        path = page.redirect_chain[-1][0]
        cups = {f"readings_{n}": "" for n in range(1, 6)} | {f"rod_{n}": "6" for n in range(1, 6)}
        cups |= {f"temp_{n}": "20" for n in range(1, 6)}
        wrong = self.client.post(path, {**cups, "readings_1": "90", "readings_2": "0.2", "readings_3": "210"})
        self.assertContains(wrong, "is under 5 steps of the scale", status_code=400)
        self.assertContains(wrong, 'value="210"', status_code=400)
        self.assertContains(self.client.post(path, {**cups, "readings_1": "soft"}), "“soft”", status_code=400)
        self.client.post(path, {**cups, "readings_1": "90", "readings_2": "140"})
        self.assertContains(self.client.get(path), "With three tested cups")
        self.client.post(path, {**cups, "readings_1": "900", "readings_2": "140", "readings_4": "150 160"})
        self.assertContains(self.client.get(path), "points softer than cup 1, and should be firmer: press both again")
