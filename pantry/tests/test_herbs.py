"""A herb that was infused here keeps what it asks for; an ingredient of one's own is nobody else."""

import json
from datetime import timedelta
from decimal import Decimal as D

from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TransactionTestCase
from django.utils import timezone

from balmcore.advice.safety import Wearer, cautions
from balmcore.advice.wearers import AREAS, AUDIENCES
from balmcore.composition import Composition
from balmcore.errors import Problem
from balmcore.labels.declaration import declare
from balmcore.recipes.words.plants import herbs_named
from balmcore.tables import custom, shipped
from balmcore.tables.herbs import herbs, infused
from balmcore.tests import CoreTestCase
from batches.models import Batch
from formulas.models import Version
from formulas.services import begin_formula
from formulas.sharing.files import make_of_file, read_file, to_file
from pantry.models import OwnIngredient, Preparation
from pantry.services import Purchase, receive
from pantry.tables import workshop_tables
from tests.support.morning import MorningCase
from tests.support.pages import form_data


class HerbTests(CoreTestCase):
    def test_every_herb_for_every_wearer(self) -> None:
        """What is said of it bought is said of it infused here, by every wearer and place, in any oil; and it melts as
        its oil does."""
        olive = shipped().ingredient("olive_oil")
        self.assertEqual(len(herbs()), 14)
        for key, herb in herbs().items():
            here = infused(olive, "own-ingredient-1", herb.name, (key,))
            tables = shipped().and_own([here])
            self.assertEqual((here.fractions, here.density_g_ml), (olive.fractions, olive.density_g_ml))
            self.assertIn(herb.inci.rpartition(", ")[2], here.inci)
            for audience in AUDIENCES:
                for area in AREAS:
                    bought, steeped = (
                        {
                            (caution.level, caution.line)
                            for caution in cautions(
                                Composition.of({each: D("0.02"), "beeswax_white": D("0.98")}, tables),
                                Wearer(audience, area),
                            )
                            if not caution.is_open
                        }
                        for each in (key, here.key)
                    )
                    missed = {each for each in bought - steeped if herb.name in each[1] or "Holds" in each[1]}
                    self.assertEqual(missed, set(), (key, audience, area))

    def test_names_on_jars(self) -> None:
        """Common and botanical names, several in one jar, none inside another word."""
        for text, keys in (
            ("Comfrey & marigold", ("comfrey_oil", "calendula_oil")),
            ("St. John’s wort, 2nd jar", ("st_johns_wort_oil",)),
            ("HYPERICUM", ("st_johns_wort_oil",)),
            ("Arnicated yarrow", ("yarrow_infused_oil",)),
        ):
            self.assertEqual(set(herbs_named(text)), set(keys), text)

    def test_a_stranger_takes_nothing_over(self) -> None:
        """An own butter that melts as cocoa does is neither named nor warned of as cocoa; papers answer what is open,
        and beside a herb the stricter counts."""
        own = custom.by_melting("own-ingredient-1", "Loft butter", "butter", 30, 36)
        self.assertEqual((own.inci, own.aroma, own.allergens, len(own.unknown)), ("", "", (), 3))
        papers = custom.Papers("Loft Seed Butter", (), "yes", lip_ok="yes", pregnancy="yes", avoid_under_years=0)
        known = custom.by_papers(own, papers)
        self.assertEqual((known.inci, known.unknown, known.vegan), ("Loft Seed Butter", (), "yes"))
        arnica = infused(shipped().ingredient("olive_oil"), "own-ingredient-2", "Arnica", ("arnica_oil",))
        self.assertEqual(custom.by_papers(arnica, papers, is_infused=True).lip_ok, "no")

    def test_a_perfumes_papers_end_its_doubt(self) -> None:
        """Open on formula and label until they are entered; then declared by their names."""
        own = OwnIngredient(pk=1, name="Loft rose", role="extra", scent="scent")
        self.assertEqual(own.to_ingredient().unknown, ("its allergens",))
        own.allergens = "linalool, geraniol"
        known = own.to_ingredient()
        self.assertEqual((known.unknown, known.allergens), ((), ()))
        balm = Composition.of({"olive_oil": D("0.99"), known.key: D("0.01")}, shipped().and_own([known]))
        declared = declare(balm)
        self.assertEqual(([each.name for each in declared.allergens], declared.doubts), (["geraniol", "linalool"], ()))


class InfusionTests(MorningCase):
    def steep(self, name: str, **typed: str) -> OwnIngredient:
        """Begun and strained through the pages."""
        receive(Purchase("olive_oil", D(500)))
        page = self.client.get("/pantry/preparations")
        data = form_data(page, "preparation", **{"name": name, "base": "olive_oil", "raw": "40", "oil": "300", **typed})
        self.assertEqual(self.client.post("/pantry/preparations", data).status_code, 302)
        path = f"/pantry/preparations/{Preparation.objects.latest('pk').pk}/finish"
        self.client.post(path, form_data(self.client.get(path), "finish", yield_g="250"))
        return OwnIngredient.objects.latest("pk")

    def balm(self, key: str) -> str:
        """A lip balm with it; returns its studio."""
        tables = workshop_tables()
        parts = Composition.of({"beeswax_yellow": D("0.25"), key: D("0.75")}, tables)
        formula = begin_formula("Ebb", tables.kind("lip_balm_pot"), parts, "")
        formula.area = "lips"
        formula.save()
        return formula.get_absolute_url()

    def test_arnica_steeped_here_is_arnica_on_lips(self) -> None:
        """The name on the jar says it: not for lips in studio, plan and at the bench's door."""
        own = self.steep("Arnica")
        self.assertEqual((own.name, own.herb_keys), ("Arnica in olive oil", "arnica_oil"))
        studio = self.balm(own.key)
        self.assertContains(self.client.get(studio), "Arnica in olive oil: not for lips")
        version = Version.objects.get()
        plan = f"/batches/plan?version={version.pk}"
        self.assertContains(self.client.get(plan), "Arnica in olive oil: not for lips")
        for reason, status in (("", 400), ("For a shop window only.", 302)):
            data = form_data(self.client.get(plan), "plan", save="1", override_reason=reason)
            self.assertEqual(self.client.post("/batches/plan", data).status_code, status)
        bench = self.client.get(f"/bench/{Batch.objects.get().pk}/")
        self.assertContains(bench, "Arnica in olive oil: not for lips")
        page = self.client.get(f"/pantry/ingredients/{own.key}")
        self.assertContains(page, "Olea Europaea (Olive) Fruit Oil, Arnica Montana Flower Extract")

    def test_a_herb_that_is_not_known_stays_a_doubt_until_it_is_said(self) -> None:
        """Nettle is in no table: studio and page say so; what its papers say ends it, and nonsense is refused."""
        own = self.steep("Nettle")
        doubt = "Nettle in olive oil: nobody has said its INCI name, its allergens and who may not wear it"
        studio = self.balm(own.key)
        self.assertContains(self.client.get(studio), doubt)
        path = f"/pantry/ingredients/{own.key}"
        page = self.client.get(path)
        self.assertContains(page, doubt)
        said = {"inci": "Olea Europaea (Olive) Fruit Oil, Achillea Millefolium Extract", "allergens": "daisy family"}
        said |= {"lip_ok": "no", "pregnancy": "no", "years": "½"}
        bad = self.client.post(path, form_data(page, "papers-form", **{**said, "years": "ninety"}))
        self.assertContains(bad, "daisy family", status_code=400)
        self.assertEqual(self.client.post(path, form_data(page, "papers-form", **said)).status_code, 302)
        now = self.client.get(studio)
        self.assertNotContains(now, "nobody has said")
        self.assertContains(now, "Nettle in olive oil: not for lips")

    def test_a_second_herb_in_the_same_oil_keeps_the_first(self) -> None:
        """Calendula steeped in what was arnica oil is both; a poisonous one is not begun at all."""
        first = self.steep("Arnica")
        second = self.steep("Calendula", base=first.key, oil="250")
        self.assertEqual(second.herbs, ("arnica_oil", "calendula_oil"))
        self.assertEqual(workshop_tables().ingredient(second.key).lip_ok, "no")
        page = self.client.get("/pantry/preparations")
        data = form_data(page, "preparation", name="Tansy", base="olive_oil", raw="40", oil="30")
        answer = self.client.post("/pantry/preparations", data)
        self.assertContains(answer, "Tansy is not for anything worn.", status_code=400)

    def test_handed_on_in_a_file_it_is_still_arnica(self) -> None:
        """Read where nobody knows it; papers of the wrong sort are refused."""
        self.balm(self.steep("Arnica").key)
        told = to_file(Version.objects.get(), workshop_tables())
        OwnIngredient.objects.update(name="Another thing")
        formula = make_of_file(read_file(json.dumps(told), workshop_tables()))
        made = formula.versions.get().to_composition(workshop_tables())
        self.assertEqual([line.ingredient.lip_ok for line in made.lines if line.ingredient.role == "oil"], ["no"])
        for wrong in ({"lip_ok": "perhaps"}, {"density_g_ml": "heavy"}, {"avoid_under_years": -3}, {"inci": "x" * 400}):
            own = [{**told["own_ingredients"][0], "name": "Ebb oil", **wrong}]
            lines = [{**line, "ingredient": "Ebb oil"} for line in told["lines"]]
            with self.assertRaises(Problem):
                read_file(json.dumps({**told, "own_ingredients": own, "lines": lines}), workshop_tables())

    def test_an_earlier_one_is_asked_about_once(self) -> None:
        """On the first page, until its maker has said so."""
        own = self.steep("Comfrey")
        self.balm(own.key)
        OwnIngredient.objects.update(is_herb_open=True)
        self.assertContains(self.client.get("/"), "Say which herb")
        path = f"/pantry/ingredients/{own.key}"
        page = self.client.get(path)
        self.assertContains(page, "nobody has said which herb is in it")
        self.client.post(path, form_data(page, "papers-form"))
        self.assertNotContains(self.client.get("/"), "Say which herb")


class EarlierTests(TransactionTestCase):
    def test_infusions_of_earlier_workshops_are_read_by_their_name(self) -> None:
        """Comfrey in olive oil was plain olive oil: it is comfrey now, and a question."""
        executor = MigrationExecutor(connection)
        before = executor.migrate([("pantry", "0005_own_scents")]).apps
        today = timezone.localdate()
        own = before.get_model("pantry", "OwnIngredient")
        made = own.objects.create(name="Comfrey in olive oil", role="oil", like_key="olive_oil")
        own.objects.create(name="Arnica flowers of ours", role="oil", like_key="olive_oil")
        lot = before.get_model("pantry", "Lot").objects.create(
            item_key=f"own-ingredient-{made.pk}", received=D(9), left=D(9)
        )
        before.get_model("pantry", "Preparation").objects.create(
            kind="infusion", name="Jar 3", base_key="olive_oil", raw_g=D(4), base_g=D(9), ready_on=today, lot=lot,
            started_on=today - timedelta(days=9),
        )  # fmt: skip
        executor = MigrationExecutor(connection)
        executor.migrate(executor.loader.graph.leaf_nodes())
        self.assertEqual(
            list(OwnIngredient.objects.order_by("pk").values_list("herb_keys", "is_herb_open")),
            [("comfrey_oil", True), ("", False)],
        )
