"""One search for the house: by number, by words, and with nothing found."""

from decimal import Decimal as D

from django.test import TestCase

from balmcore.tables import shipped
from batches.models import Batch
from calmtin.finding import find
from formulas.models import Formula
from pantry.services import Purchase, receive
from pieces.models import Handout, Person
from pours.models import Pour
from tests.support.makings import begin
from tests.support.pages import form_data


class FindingTests(TestCase):
    def setUp(self) -> None:
        self.version = begin("Spring Tide", "pot_salve").versions.get()
        page = self.client.get("/batches/plan", {"version": self.version.pk})
        self.client.post("/batches/plan", form_data(page, "plan", save="1"))
        self.batch = Batch.objects.get()
        self.lot = receive(Purchase("jojoba_oil", D(500), supplier="Harbour stores", code="HX-9"))
        self.pour = Pour.objects.create(
            batch=self.batch, predicted=50, predicted_sigma=9, notes="Cracked like thin ice in the cold room."
        )
        self.person = Person.objects.create(name="The cook of the ferry", contact="galley")
        Handout.objects.create(pour=self.pour, how="given", count=1, person=self.person)

    def found(self, words: str) -> dict[str, list[str]]:
        return {group.name: [hit.address for hit in group.hits] for group in find(words, shipped())}

    def test_a_number_is_a_batch_with_its_pours_labels_and_people(self) -> None:
        """312, batch 312 and #312 find the same; a lot of that number stands beside the bare number alone."""
        at = self.batch.get_absolute_url()
        for words in (str(self.batch.pk), f"batch {self.batch.pk}", f"Batch no. {self.batch.pk}", f"#{self.batch.pk}"):
            found = self.found(words)
            self.assertEqual((found["Batches"], found["Pours"]), ([at], [self.pour.get_absolute_url()]), words)
            self.assertEqual(found["Labels"], [f"/labels/{self.pour.pk}/"])
            self.assertEqual(found["People who have pieces of it"], [f"/labels/people/{self.person.pk}/"])
        self.assertIn(f"/pantry/lots/{self.lot.pk}/", self.found(f"lot {self.lot.pk}")["Lot of that number"])
        self.assertEqual(self.found("batch 4711"), {})

    def test_words_find_formulas_lots_people_ingredients_and_notes(self) -> None:
        """Every word, in any order; by supplier, code, INCI; a note says where the word stands."""
        for words, group, address in (
            ("tide spring", "Formulas", self.version.formula.get_absolute_url()),
            ("hx-9", "Lots", f"/pantry/lots/{self.lot.pk}/"),
            ("jojoba", "Lots", f"/pantry/lots/{self.lot.pk}/"),
            ("ferry cook", "People", f"/labels/people/{self.person.pk}/"),
            ("simmondsia", "Ingredients", "/pantry/ingredients/jojoba_oil"),
            ("thin ice", "Notes", self.pour.get_absolute_url()),
        ):
            self.assertIn(address, self.found(words)[group], words)
        page = self.client.get("/find", {"q": "thin ice"})
        self.assertContains(page, "Cracked like thin ice in the cold room.")
        self.assertContains(self.client.get("/find", {"q": "zzz <b>"}), "Nothing in the house is called so")
        self.assertContains(self.client.get("/find"), "A batch's number, a formula")

    def test_a_name_without_an_end_and_many_hits_keep_the_page(self) -> None:
        """Nothing is asked of the house row by row, and what is not listed is counted."""
        for n in range(12):
            Formula.objects.create(name=f"Neap {n} " + "x" * 100, kind_key="pot_salve")
        (group,) = [group for group in find("neap", shipped()) if group.name == "Formulas"]
        self.assertEqual((len(group.hits), group.more), (8, 4))
        with self.assertNumQueries(6):
            find("neap", shipped())

    def test_lists_that_grow_are_narrowed_by_words(self) -> None:
        """Batches by name or number, labels by name, finish or batch, people by name or contact."""
        other = begin("Doldrums", "pot_salve").versions.get()
        page = self.client.get("/batches/plan", {"version": other.pk})
        self.client.post("/batches/plan", form_data(page, "plan", save="1"))
        Person.objects.create(name="The pilot", contact="harbour office")
        for path, words, there, gone in (
            ("/batches/", "doldr", "Doldrums", "Spring Tide"),
            ("/batches/", str(self.batch.pk), "Spring Tide", "Doldrums"),
            ("/labels/", "tide spring", "Spring Tide", "Doldrums"),
            ("/labels/people", "galley", "The cook of the ferry", "The pilot"),
        ):
            found = self.client.get(path, {"q": words})
            self.assertContains(found, there, msg_prefix=path)
            self.assertNotContains(found, gone, msg_prefix=path)
        self.assertNotContains(self.client.get("/labels/", {"q": "doldrums"}), "Spring Tide")
