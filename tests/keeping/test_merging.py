"""An export beside what is here already: nothing written over, everything that names another thing following it."""

import io
import threading
from datetime import timedelta
from decimal import Decimal as D

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import connection
from django.test import Client, TransactionTestCase, tag

from balmcore.composition import Composition
from balmcore.errors import Problem
from balmcore.tables import shipped
from batches.models import Batch
from bench.models import BenchRun
from exchange.package import read_export
from exchange.package.merging import MergePlan
from formulas.models import Formula, Meaning, Recipe, Version
from formulas.recipes.page import page_of
from formulas.recipes.services import begin_of
from formulas.services import restore_version
from labels.models import Sheet
from pantry.models import Entry, Leftover, LeftoverLine, Lot, OwnIngredient
from pantry.services import Purchase, receive
from pantry.tables import workshop_tables
from pieces.accounts import recall_of_batch
from pieces.models import Handout, Person
from pours.models import Pour, SavedFilter
from tests.keeping.test_exchange import exported, parts
from tests.support.makings import begin, own_folder
from tests.support.net_loft import YEAR, load
from tests.support.pages import walk


@tag("slow")
class OtherWorkshopTests(TransactionTestCase):
    reset_sequences = True

    def theirs(self) -> bytes:
        """The net loft, with a wax of its own in a formula and a look kept, as they export it."""
        own_folder(self)
        load()
        own = OwnIngredient.objects.create(name="Wreck wax", role="wax", melt_low_c=58, melt_high_c=62)
        tables = workshop_tables()
        begin("Flotsam", "hand_balm", Composition.of({own.key: D("0.2"), "olive_oil": D("0.8")}, tables), tables)
        SavedFilter.objects.create(name="Wax", query=f"with={own.key}&formula={Formula.objects.get(name='Flotsam').pk}")
        Sheet.objects.create(name="Lids", columns=3, rows=4, left_mm=10, top_mm=10)
        return exported()

    def clear(self) -> None:
        call_command("flush", interactive=False, verbosity=0)

    def ours(self) -> None:
        """Another small workshop whose numbers and names are taken by other things."""
        OwnIngredient.objects.create(name="Wreck wax", role="wax", melt_low_c=70, melt_high_c=75)
        OwnIngredient.objects.create(name="Loft wax", role="wax", melt_low_c=60, melt_high_c=64)
        rest = Leftover.objects.create(name="Rest of Ebb")
        LeftoverLine.objects.create(leftover=rest, ingredient_key="olive_oil", share=1)
        formula = begin("Ebb", "soft_salve")
        batch = Batch.objects.create(version=formula.versions.get(), resolution_g=D("0.1"), pour_c=60)
        batch.lines.create(ingredient_key="olive_oil", target_g=100, position=0)
        receive(Purchase("olive_oil", D(500)))
        Person.objects.create(name="Morwen", contact="the bakery")
        Sheet.objects.create(name="Lids", columns=2, rows=2, left_mm=5, top_mm=5)

    def test_the_net_loft_beside_a_workshop_of_ones_own(self) -> None:
        """All of theirs comes in and all of ours stays; keys, looks, rests, numbers follow; every page opens."""
        package = self.theirs()
        counted = {model: model.objects.count() for model in (Formula, Version, Batch, Pour, Lot, Entry, Handout)}
        poured = Pour.objects.get(batch=1)
        told = recall_of_batch(1, "")
        people, version = told.by_person, str(poured.batch.version)
        self.clear()
        self.ours()
        before = {model: model.objects.count() for model in counted}
        ours = list(Lot.objects.values_list("pk", "item_key", "left"))
        found = read_export(io.BytesIO(package))
        for model, count in counted.items():
            self.assertEqual(model.objects.count(), count + before[model], model)
            self.assertEqual(found.counts[model._meta.label_lower], count, model)
        self.assertEqual([row for row in Lot.objects.values_list("pk", "item_key", "left") if row in ours], ours)
        brought = OwnIngredient.objects.get(name="Wreck wax (brought)")
        flotsam = Version.objects.get(formula__name="Flotsam")
        self.assertIn(brought.key, [line.ingredient_key for line in flotsam.lines.all()])
        self.assertEqual(SavedFilter.objects.get().query, f"with={brought.key}&formula={flotsam.formula_id}")
        self.assertEqual(set(Sheet.objects.values_list("name", "columns")), {("Lids", 2), ("Lids (brought)", 3)})
        rest = Lot.objects.get(item_key__startswith="leftover-")
        self.assertNotEqual(rest.item_key, "leftover-1")
        self.assertIn(rest.item_key, workshop_tables().ingredients)
        self.assertIn("There is another own ingredient Wreck wax here: it comes as Wreck wax (brought).", found.said)
        moved = Pour.objects.get(created=poured.created)
        self.assertEqual(str(moved.batch.version), version)
        self.assertNotEqual(moved.batch_id, 1)
        self.assertIn("Batch 1 in the workshop it came from.", moved.notes)
        self.assertIn(f"Batch 1 there is batch {moved.batch_id} here; its pours say so in their notes.", found.said)
        self.assertEqual(
            [row[:3] for row in recall_of_batch(moved.batch_id, "").by_person], [row[:3] for row in people]
        )
        self.assertGreater(len(walk(self.client)), 60)
        again = read_export(io.BytesIO(package))
        self.assertEqual((sum(again.counts.values()), again.said), (0, ()))

    def test_recipes_come_with_their_questions_and_what_is_always_meant_stays_ours(self) -> None:
        """A recipe read there is here with its text and what it asks; of two meanings of one word ours stands, and is said."""
        page = page_of("20 g shea\n2 to 3 oz jojoba", "us", {}, workshop_tables())
        there = begin_of(page, "Theirs", workshop_tables().kind("pot_salve"), (), False)
        Meaning.objects.create(key="name:shea", value="shea_butter_refined", said="“shea”: Shea butter, refined")
        package = exported()
        self.clear()
        begin("Ours", "pot_salve")
        Meaning.objects.create(key="name:shea", value="shea_butter", said="“shea”: Shea butter, unrefined")
        found = read_export(io.BytesIO(package))
        recipe = Recipe.objects.get()
        self.assertEqual((recipe.text, str(recipe.formula), recipe.questions.count()), (page.text, there.name, 3))
        self.assertEqual(recipe.version, recipe.formula.versions.get())
        self.assertEqual([meaning.value for meaning in Meaning.objects.all()], ["shea_butter"])
        self.assertIn("yours stays", " ".join(found.said))
        again = read_export(io.BytesIO(package))
        self.assertEqual((sum(again.counts.values()), Recipe.objects.count()), (0, 1))

    def test_what_went_on_in_both(self) -> None:
        """A pour noted otherwise here stays as it is here, and it is said; a new check and its entry come; a person of
        the same name who is reached otherwise comes beside; what one of both used up is taken off the lot."""
        own_folder(self)
        load(YEAR)
        pour = Pour.objects.filter(notes__gt="").earliest("pk")
        lot = receive(Purchase("olive_oil", D(500)))
        home = exported()
        person = Person.objects.earliest("pk")
        person.contact, pour.notes, mine = "by the quay", "Written here.", pour.notes
        person.save()
        pour.save()
        Entry.objects.create(lot=lot, kind="wasted", amount=D(-100))
        Lot.objects.filter(pk=lot.pk).update(left=D(400))
        formula = Formula.objects.get(name="Low Water")
        restore_version(formula, 1, shipped())
        away = exported()
        self.clear()
        read_export(io.BytesIO(home))
        restore_version(formula, 1, shipped())
        found = read_export(io.BytesIO(away))
        self.assertEqual(Pour.objects.get(pk=pour.pk).notes, mine)
        self.assertTrue([said for said in found.said if "differs here in notes: yours stays." in said], found.said)
        self.assertEqual(Person.objects.get(contact="by the quay").name, f"{person.name} (brought)")
        self.assertEqual(Lot.objects.get(pk=lot.pk).left, D(400))
        self.assertIn("Version 2 of Low Water there is version 3 here.", found.said)
        self.assertEqual(
            [(v.number, v.is_current) for v in formula.versions.all()], [(3, False), (2, True), (1, False)]
        )

    def test_what_cannot_stand_beside_is_refused_whole(self) -> None:
        """A batch that was weighed on one side, a lot that both used up: nothing is brought, and it is said why."""
        own_folder(self)
        load(YEAR)
        version = Version.objects.earliest("pk")
        batch = Batch.objects.create(version=version, resolution_g=D("0.1"), pour_c=60)
        batch.lines.create(ingredient_key="olive_oil", target_g=100, position=0)
        run = BenchRun.objects.create(batch=batch)
        lot = receive(Purchase("olive_oil", D(500)))
        home = exported()
        BenchRun.objects.filter(pk=run.pk).update(revision=1)
        weighed = exported()
        BenchRun.objects.filter(pk=run.pk).update(revision=0)
        Entry.objects.create(lot=lot, kind="wasted", amount=D(-400))
        Lot.objects.filter(pk=lot.pk).update(left=D(100))
        used = exported()
        self.clear()
        read_export(io.BytesIO(home))
        entry = Entry.objects.create(lot_id=lot.pk, kind="wasted", amount=D(-300))
        Entry.objects.filter(pk=entry.pk).update(at=entry.at + timedelta(hours=1))
        Lot.objects.filter(pk=lot.pk).update(left=D(200))
        before = exported()
        for package, said in (
            (weighed, f"Batch {batch.pk} went on here and there"),
            (used, "was used up here and there: together more went out of it than came in"),
        ):
            with self.subTest(said), self.assertRaisesRegex(Problem, said):
                read_export(io.BytesIO(package))
        self.assertEqual(parts(exported()), parts(before))

    def test_what_is_said_stays_short(self) -> None:
        """Forty things are told one by one; of more the rest is counted."""
        for count, told in ((40, "thing 39"), (41, "And 1 more of the kind."), (95, "And 55 more of the kind.")):
            merge = MergePlan()
            merge.said = [f"thing {n}" for n in range(count)]
            merge.finish()
            self.assertEqual((len(merge.said), merge.said[-1]), (min(count, 41), told))

    def test_two_imports_at_once(self) -> None:
        """One fills the empty workshop, the other finds everything there: each row stands once."""
        package = self.theirs()
        counted = {model: model.objects.count() for model in (Formula, Batch, Pour, Entry)}
        self.clear()
        answers: list[int] = []

        def bring() -> None:
            sent = SimpleUploadedFile("loft.zip", package)
            answers.append(Client().post("/settings/everything", {"file": sent}).status_code)
            connection.close()

        both = [threading.Thread(target=bring) for _ in range(2)]
        for each in both:
            each.start()
        for each in both:
            each.join()
        self.assertEqual(answers, [200, 200])
        self.assertEqual({model: model.objects.count() for model in counted}, counted)
