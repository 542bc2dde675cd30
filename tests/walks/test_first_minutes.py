"""An empty workshop: examples to play with, words explained, nothing stored unasked."""

from django.test import TestCase
from playwright.sync_api import expect

from batches.models import Batch
from formulas.models import Formula
from pantry.models import Entry
from tests.support.browser import BrowserTestCase
from tests.support.pages import form_data
from workshop.glossary import glossary, words_on
from workshop.models import Preferences


class ExampleTests(TestCase):
    def nothing_stored(self) -> None:
        self.assertEqual([model.objects.count() for model in (Formula, Batch, Entry)], [0, 0, 0])

    def test_a_salve_from_nothing_until_it_is_kept(self) -> None:
        """The first page offers three; the salve answers as the studio does, and nothing is stored until it is kept;
        what cannot be kept says why, with what was typed."""
        home = self.client.get("/")
        for address in ("/formulas/example", "/bench/example", "/formulas/read?example=1"):
            self.assertContains(home, f'href="{address}"')
            self.assertEqual(self.client.get(address).status_code, 200)
        page = self.client.get("/formulas/example")
        self.assertContains(page, "Nothing here is stored until you keep it")
        typed = form_data(page, "studio", **{"percent-beeswax_yellow": "17", "edited": "beeswax_yellow"})
        answer = self.client.post("/formulas/example/try", typed)
        self.assertEqual(round(answer.context["answer"].verdict.firmness), 47)
        self.assertContains(answer, "83.00")
        self.nothing_stored()
        lost = self.client.post("/formulas/example/keep", {**typed, "percent-beeswax_yellow": "lots"})
        self.assertContains(lost, "Not kept yet", status_code=400)
        self.assertContains(lost, 'value="lots"', status_code=400)
        self.nothing_stored()
        kept = self.client.post("/formulas/example/keep", form_data(answer, "studio"))
        formula = Formula.objects.get()
        self.assertRedirects(kept, formula.get_absolute_url())
        self.assertEqual([str(line.share) for line in formula.versions.get().lines.all()], ["0.170000", "0.830000"])

    def test_a_melt_rescued_in_the_makers_units(self) -> None:
        """More wax for a softer drop; oil cannot help, and says so; nonsense has its sentence."""
        page = self.client.get("/bench/example")
        self.assertContains(page, "35.1 g beeswax, yellow")
        self.assertContains(page, "Adding sunflower oil, high oleic only softens it: choose something else.")
        softer = self.client.get("/bench/example?thumb=gel&pot=240+g")
        more, less = (float(each.context["example"].offers[0].add_g) for each in (softer, page))
        self.assertGreater(more, less)
        bad = self.client.get("/bench/example?want=200&pot=a+lot")
        self.assertContains(bad, "Ask for a firmness between 5 and 110.")
        self.assertContains(bad, "“a lot” is not an amount")
        Preferences.objects.update_or_create(pk=1, defaults={"mass_unit": "oz", "temp_unit": "F"})
        self.assertContains(self.client.get("/bench/example"), "The model says 40 at 70 °F")
        self.nothing_stored()

    def test_a_recipe_read(self) -> None:
        """Cups and drops are grams at once; what has no amount says so."""
        page = self.client.get("/formulas/read?example=1")
        self.assertContains(page, "a little lanolin")
        self.assertEqual(len(page.context["page"].reading.lines), 6)

    def test_the_words_of_a_page(self) -> None:
        """Each screen explains its own; temperatures in the maker's unit; every word stands somewhere."""
        studio = {word.word for word in words_on("formulas:studio")}
        self.assertLessEqual({"bars", "hold", "window", "lock"}, studio)
        self.assertNotIn("recall", studio)
        self.assertIn("overrun", {word.word for word in words_on("bench:bench")})
        Preferences.objects.update_or_create(pk=1, defaults={"temp_unit": "F"})
        self.assertContains(self.client.get("/formulas/example"), "goes between the two at 70 °F")
        self.assertEqual([word.word for word in glossary() if not word.where or not word.meaning.endswith(".")], [])


class FirstMinutesTests(BrowserTestCase):
    def test_from_the_first_page_to_a_formula_of_ones_own(self) -> None:
        """Open the salve, make it firmer by hand, read its words, ask for a firmness, keep it, go to a batch."""
        page = self.page
        self.go("/")
        page.get_by_role("link", name="A salve from nothing").first.click()
        self.says("#firmness", "27")
        page.locator("#percent-beeswax_yellow").fill("17")
        self.says("#firmness", "47")
        page.locator("h1").click()
        page.keyboard.press("?")
        expect(page.locator("#keys")).to_contain_text("goes between the two at 21 °C")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Keep it as mine").click()
        expect(page.locator(".done")).to_contain_text("Flood Tide is yours now")
        page.locator("#to-batch").click()
        expect(page.locator("h1")).to_contain_text("Batch of Flood Tide")
