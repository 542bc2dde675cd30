"""A recipe read on its page: answered by taps and in its rows, kept with its formula, opened again."""

from decimal import Decimal

from django.http import HttpResponse
from django.test import TestCase

from balmcore.recipes.reading import LONGEST_TEXT
from balmcore.tables import shipped
from formulas.models import Meaning, Question, Recipe, Version
from pantry.models import OwnIngredient
from pantry.tables import workshop_tables
from tests.support.pages import form_data
from workshop.models import Preferences


class RecipePageTests(TestCase):
    def post(
        self, status: int = 200, page: HttpResponse | None = None, path: str = "/formulas/read", **changes: str
    ) -> HttpResponse:
        page = page or self.client.get(path)
        response = self.client.post(path, form_data(page, "recipe", **changes))
        self.assertEqual(response.status_code, status)
        return response

    def begun(self, text: str, name: str = "Slack Water", **changes: str) -> Version:
        """A formula begun of a text, and its version."""
        page = self.post(text=text, **changes)
        self.post(302, page, name=name, kind="pot_salve", begin="1")
        return Version.objects.get(formula__name=name)

    def test_doubts_are_answered_by_taps_and_the_rest_comes_along(self) -> None:
        """Melted wax by a tap, fluid ounces by another; moonlight is left: it is not in the formula, and said to be."""
        page = self.post(text="1 cup beeswax\n8 oz olive oil\n2 tbsp moonlight", kitchen="us")
        self.assertContains(page, "A volume of something solid: taken as pellets.")
        page = self.post(page=page, **{"tap:form:beeswax_yellow": "melted"})
        page = self.post(page=page, **{"tap:ounces:liquid": "fluid"})
        self.assertContains(page, "227.1")
        self.assertNotContains(page, "Ounces of a liquid: taken")
        self.post(302, page, name="Slack Water", kind="pot_salve", begin="1")
        version = Version.objects.get()
        self.assertAlmostEqual(
            float(version.to_composition(shipped()).lines[0].share), 227.12 / (227.12 + 216.24), delta=1e-3
        )
        self.assertTrue(version.note.startswith("From a recipe. Not in it: 2 tbsp moonlight."))
        studio = self.client.get(version.formula.get_absolute_url())
        self.assertContains(studio, "Not in it, until its recipe is answered")
        self.assertContains(studio, "“2 tbsp moonlight”")
        self.assertEqual([question.kind for question in Question.objects.all()], ["name"])

    def test_an_oil_with_a_herb_in_it_is_both_of_them_up_to_the_label(self) -> None:
        """Almond oil with calendula keeps the nut and the daisy, whatever the table's own calendula oil is made in; the
        second recipe finds the same ingredient, and sunflower with calendula is the table's."""
        text = "20 g beeswax\n80 g almond oil infused with calendula"
        version = self.begun(text)
        own = OwnIngredient.objects.get()
        self.assertEqual((own.like_key, own.herb_keys), ("sweet_almond_oil", "calendula_oil"))
        self.assertEqual({line.ingredient_key: line.share for line in version.lines.all()},
                         {"beeswax_yellow": Decimal("0.2"), own.key: Decimal("0.8")})  # fmt: skip
        studio = self.client.get(version.formula.get_absolute_url())
        self.assertContains(studio, "Allergens: bee products, daisy family, tree nuts")
        self.assertNotContains(studio, "its recipe is answered")
        item = workshop_tables().ingredient(own.key)
        self.assertEqual(item.inci, "Prunus Amygdalus Dulcis (Sweet Almond) Oil, Calendula Officinalis Flower Extract")
        again = self.begun(text.replace("80", "70"), name="Ebb")
        self.assertIn(own.key, [line.ingredient_key for line in again.lines.all()])
        self.begun(text.replace("almond", "sunflower"), name="Flow")
        self.assertEqual(OwnIngredient.objects.count(), 1)

    def test_what_is_answered_is_remembered_until_it_is_forgotten(self) -> None:
        """Which shea, and what a cup of pellets weighs: closed in the next recipe, said, and asked again on request."""
        page = self.post(text="50 g shea\n1 cup beeswax", kitchen="us")
        page = self.post(page=page, **{"tap:name:shea": "shea_butter_refined"})
        page = self.post(page=page, **{"row:weighs:cup beeswax_yellow": "130 g"})
        self.assertEqual(Meaning.objects.count(), 0)
        self.post(302, page, name="First", kind="pot_salve", begin="1")
        self.assertEqual(
            sorted(Meaning.objects.values_list("key", "value")),
            [("name:shea", "shea_butter_refined"), ("weighs:cup beeswax_yellow", "130 g")],
        )
        next_one = self.post(text="20 g shea\n½ cup beeswax\n1 g vitamin E")
        self.assertContains(next_one, "As before: Shea butter, refined")
        self.assertContains(next_one, "As before: your cup of Beeswax, yellow is 130 g")
        self.assertEqual(next_one.context["page"].reading.open_doubts, 0)
        again = self.post(page=next_one, again="name:shea")
        self.assertContains(again, "It does not say which: Shea butter, unrefined is taken.")
        self.post(page=next_one, forget="name:shea")
        self.assertEqual([meaning.key for meaning in Meaning.objects.all()], ["weighs:cup beeswax_yellow"])

    def test_every_cell_can_be_changed_where_it_stands(self) -> None:
        """Amount, ingredient by another of its names, in or out; what cannot be read is said, and what stood there stays."""
        page = self.post(text="20 g beeswax\n80 g jojoba\n5 g lanolin")
        page = self.post(page=page, **{"row:amount@20 g beeswax": "1 oz"})
        self.assertContains(page, '<td class="num" data-unit="g">28.3</td>', html=True)
        page = self.post(page=page, **{"row:ingredient@80 g jojoba": "helianthus annuus (sunflower) seed oil"})
        self.assertContains(page, 'value="Sunflower oil"')
        page = self.post(page=page, **{"tap:out@5 g lanolin": "out"})
        self.assertContains(page, "take in")
        page = self.post(page=page, **{"row:amount@80 g jojoba": "a lot"})
        self.assertContains(page, "“a lot” is no amount")
        page = self.post(page=page, **{"row:ingredient@20 g beeswax": "sealing wax"})
        self.assertContains(page, "“sealing wax” is not in the pantry")
        shares = {row.line.name: round(row.line.percent or 0, 2) for row in page.context["page"].rows}
        self.assertEqual(shares, {"Beeswax, yellow": 26.16, "Sunflower oil": 73.84, "Lanolin, pure": 0})

    def test_the_recipe_is_kept_and_its_answers_make_the_next_version(self) -> None:
        """Opened again as it was pasted; an answer that changes grams is a version, one that does not is none."""
        text = "My salve\n2 to 3 oz beeswax\n8 oz jojoba by weight\n1 tsp vitamin E (optional)"
        version = self.begun(text)
        recipe = Recipe.objects.get()
        self.assertEqual((recipe.text, recipe.total_g and round(recipe.total_g, 2)), (text, Decimal("288.25")))
        studio = self.client.get(version.formula.get_absolute_url())
        self.assertContains(studio, f"{recipe.get_absolute_url()}#row-0")
        address = recipe.get_absolute_url()
        page = self.post(path=address, **{"tap:amount@2 to 3 oz beeswax": "3 oz"})
        self.post(302, page, address, save="1")
        new = Version.objects.get(number=2)
        self.assertAlmostEqual(float(new.lines.get(ingredient_key="beeswax_yellow").share), 85.05 / 316.59, delta=1e-4)
        page = self.post(path=address, **{"tap:out@1 tsp vitamin E (optional)": "in"})
        self.post(302, page, address, save="1")
        self.assertEqual((Version.objects.count(), Question.objects.count()), (2, 0))

    def test_kind_wishes_and_name_are_proposed(self) -> None:
        """A fifth wax is no lip balm, whatever it is called; vegan without nuts is wished, and what is against it said."""
        page = self.post(
            text="Winter lip balm (vegan)\nno nuts\n40 g candelilla\n50 g jojoba\n10 g shea butter, refined"
        )
        self.assertContains(page, 'value="Winter lip balm"')
        self.assertIn("lip", page.context["proposal"].why)
        self.assertNotEqual(page.context["kind_key"], "lip_balm_pot")
        self.post(302, page, name="Winter lip balm", kind=page.context["kind_key"], begin="1")
        studio = self.client.get(Version.objects.get().formula.get_absolute_url())
        self.assertContains(studio, "vegan, without")
        self.assertContains(studio, "Shea butter, refined: not without nuts")
        opened = self.client.post(studio.context["try"], form_data(studio, "studio", tool="reach"))
        self.assertTrue(opened.context["answer"].tool.wish.vegan)
        self.assertEqual(opened.context["answer"].tool.wish.without, ("nuts",))

    def test_answers_in_the_makers_own_measures(self) -> None:
        Preferences.objects.update_or_create(pk=1, defaults={"mass_unit": "oz"})
        page = self.post(text="8 oz beeswax\n100 g olive oil")
        for said in (
            '<th class="num">oz</th>',
            '<td class="num" data-unit="oz">8.0000</td>',
            '<td class="num" data-unit="oz">3.5274</td>',
        ):
            self.assertContains(page, said, html=True)

    def test_what_cannot_be_used_keeps_every_word(self) -> None:
        """Nothing to read, nothing understood, no name: a sentence each, and the text still there."""
        self.assertContains(self.post(400, text=" "), "There is nothing to read", status_code=400)
        none = self.post(400, self.post(text="a song"), name="x", kind="pot_salve", begin="1")
        self.assertContains(none, "No line was understood with its amount", status_code=400)
        unnamed = self.post(400, self.post(text="20 g beeswax\n80 g olive oil"), name="", kind="pot_salve", begin="1")
        self.assertContains(unnamed, "Give it a name; it can be changed later.", status_code=400)
        self.assertEqual(form_data(unnamed, "recipe")["text"], ["20 g beeswax\n80 g olive oil"])
        self.assertEqual(Version.objects.count(), 0)

    def test_bad_input_has_a_sentence_each_and_loses_nothing(self) -> None:
        """A novel, a hundred recipes, other scripts and tongues, numbers, headings, page code, parentheses without end."""
        for text, said in (
            ("It was a grey morning and the ferry was late again. " * 20_000, f"Only the first {LONGEST_TEXT} characters were read."),
            ("30 g beeswax\n90 g jojoba\n" * 100, "There seem to be several recipes here"),
            ("שעוות דבורים 30 גרם\nשמן זית 90 גרם", "Most of it is in another script"),
            ("30 g Bienenwachs\n90 g Sonnenblumenöl", "Most of it was not understood"),
            ("12 14 18\n22 9", "No amount could be read."),
            ("Ingredients:\nMethod:", "No amount could be read."),
            ("🐝🧴 30 g beeswax 🐝", "30 g beeswax"),
            ("1e9 cups beeswax", "“1e9” is not a number"),
            ("(" * 1000 + "30 g beeswax" + ")" * 1000, "Not understood as a whole"),
            ("<p onclick='x()'>30 g beeswax</p><script>alert(1)</script>", "its tags were left out"),
        ):  # fmt: skip
            with self.subTest(text[:30]):
                page = self.post(text=text)
                self.assertContains(page, said)
                self.assertEqual(page.context["page"].text, text)
                self.assertEqual(
                    "".join(part.text for part in page.context["page"].stretches)[:50_000],
                    text[:50_000] if len(text) <= LONGEST_TEXT else text[: 2 * LONGEST_TEXT],
                )
                self.assertNotContains(page, "<script>alert")
