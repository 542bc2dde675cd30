"""What is named is what goes in: every plant × form × oil, and no essential oil that the text does not say."""

from itertools import combinations, cycle, product

from balmcore.advice.safety import Wearer, cautions
from balmcore.composition import Composition
from balmcore.labels.declaration import declare
from balmcore.labels.warnings import warnings
from balmcore.recipes.doubts import SURE_FROM
from balmcore.recipes.lines import ReadLine
from balmcore.recipes.reading import composition, read
from balmcore.recipes.words.plants import plants
from balmcore.tables import Ingredient, shipped
from balmcore.tables.herbs import herb, herb_name, herbs, infused
from balmcore.tests import CoreTestCase

PLANTS = {" ".join(words): key for words, key in plants().items()}
OILS = ("olive oil", "sunflower oil", "jojoba oil", "coconut oil", "shea butter", "sweet almond oil")
STEEPED = (
    "{plant}-infused {oil}", "{plant} infused {oil}", "{oil} infused with {plant}", "{oil} (infused with {plant})",
    "{oil}, infused with {plant}", "infused {plant} {oil}", "organic {plant} infused {oil}", "{plant} infusion in {oil}",
    "{oil} ({plant}-infused)", "{oil}, {plant} infused",
)  # fmt: skip
NO_OIL = ("{plant}-infused oil", "{plant} infused oil", "oil infused with {plant}", "infused {plant} oil")
ITSELF = (
    "dried {plant}", "{plant} powder", "powdered {plant}", "{plant} petals", "fresh {plant}", "fresh {plant} leaves",
    "dried {plant} flowers", "ground {plant}", "{plant} chips", "{plant}, freshly grated",
)  # fmt: skip
NOT_OIL = ("{plant} tea", "{plant} hydrosol", "{plant} water", "tea of {plant}", "{plant} extract", "{plant} CO2 extract",
           "{plant} absolute", "{plant} glycerite", "extract of {plant}", "{plant} honey",
           "{plant} vinegar", "{plant} scented olive oil")  # fmt: skip


def line(text: str) -> ReadLine:
    """The one line that a text is read as."""
    (found,) = read(text, "metric").lines
    return found


class FormTests(CoreTestCase):
    def test_a_plant_steeped_in_an_oil_is_that_oil_with_it(self) -> None:
        """Every plant × way of saying it, every oil in turn; without an oil, the infused oil of the plant."""
        self.assertGreater(len(PLANTS), 200)
        oils = cycle(OILS)
        for ((plant, key), way), oil in zip(product(PLANTS.items(), STEEPED), oils, strict=False):
            text = f"80 g {way.format(plant=plant, oil=oil)}"
            found = line(text)
            item = found.ingredient
            assert item is not None, text
            self.assertEqual((found.grams, item.aromatic), (80, None), text)
            row = herbs().get(key)
            known = read(f"1 g {oil}").lines[0].ingredient
            assert known is not None
            self.assertTrue(item.herbs == (key,) or (item is row and row.inci.startswith(known.inci)), (text, item.key))
            self.assertEqual((item.fractions, item.density_g_ml) == (known.fractions, known.density_g_ml) or item is row,
                             True, text)  # fmt: skip
        for (plant, key), way in product(PLANTS.items(), NO_OIL):
            item = line(f"80 g {way.format(plant=plant)}").ingredient
            assert item is not None, (way, plant)
            self.assertTrue(item.key == key or item.herbs == (key,), (way, plant, item.key))

    def test_several_plants_in_one_oil_are_one_ingredient_with_all_of_them(self) -> None:
        """The strictest rule of each counts, on lips, by age and in pregnancy; one that no table knows stays open."""
        keys = [*herbs(), "lavender", "nettle"]
        for (one, other), way in product(
            combinations(keys, 2),
            (
                "olive oil infused with {} and {}",
                "{}-{} infused olive oil",
                "{} & {} infused olive oil",
                "{}, {} infused olive oil",
            ),
        ):
            if "propolis" in (one, other):
                continue
            text = f"80 g {way.format(herb_name(one), herb_name(other))}"
            item = line(text).ingredient
            assert item is not None, text
            self.assertEqual(set(item.herbs), {one, other}, text)
            order = ["", "yes", "care", "no"]
            lips = [order.index(herb(key).lip_ok) for key in (one, other)]
            self.assertEqual(order.index(item.lip_ok), max(lips), text)
            ages = [herb(key).avoid_under_years or 0 for key in (one, other)]
            self.assertEqual(item.avoid_under_years or 0, max(ages), text)
            for key in (one, other):
                self.assertIn(herb(key).caution, item.caution)
            self.assertEqual(bool(item.unknown), {one, other} & {"lavender", "nettle"} != set(), text)

    def test_a_tincture_carries_its_herb(self) -> None:
        """Every plant: spirit, never the oil; what the herb asks for is asked on formula and label."""
        for (plant, key), way in product(
            PLANTS.items(), ("{plant} tincture", "tincture of {plant}", "{plant} tinctures")
        ):
            found = line(f"5 g {way.format(plant=plant)}")
            item = found.ingredient
            assert item is not None, (way, plant)
            self.assertEqual((item.like, item.herbs, item.lip_ok), ("tincture", (key,), "no"), (way, plant))
            self.assertLess(found.sure, SURE_FROM)
        arnica = line("5 g arnica tincture").ingredient
        assert arnica is not None
        balm = Composition.of({"beeswax_yellow": 20, "olive_oil": 75, arnica.key: 5}, shipped().and_own([arnica]))
        self.assertIn("Arnica tincture: not under 3 years",
                      [each.line for each in cautions(balm, Wearer("child_2_6y"))])  # fmt: skip
        self.assertIn("Not for children under 3 years.", warnings(balm, "body"))
        self.assertIn("Arnica Montana Flower Extract", declare(balm).text)

    def test_the_plant_itself_waters_and_extracts_are_no_oil(self) -> None:
        """Every plant × form: refused or asked, and nothing offered first that is an essential oil."""
        for plant, way in product(PLANTS, (*ITSELF, *NOT_OIL)):
            text = f"10 g {way.format(plant=plant)}"
            found = read(text, "metric").lines
            for each in found:
                item, words = each.ingredient, set(way.split())
                if item is not None and item.aromatic and words & {"absolute", "CO2"}:
                    self.assertIn(words & {"absolute", "CO2"} and plant.split()[-1], item.name.lower(), text)
                    continue
                known = item is not None and item.name.lower().startswith(plant) and item.aromatic is None
                self.assertTrue(item is None or known, (text, item and item.key))
                if item is None:
                    self.assertLess(each.sure, 0.5)
                    choices = [choice.value for doubt in each.doubts for choice in doubt.choices]
                    offered = [shipped().ingredients[value] for value in choices if value in shipped().ingredients]
                    self.assertEqual([one.key for one in offered if one.aromatic], [], text)

    def test_a_herb_that_no_table_knows_keeps_its_oil(self) -> None:
        """Any word: the oil stays, and what is not known of the herb is open."""
        for word, way in product(("fluffwort", "moonseed"), STEEPED[:5]):
            item = line(f"80 g {way.format(plant=word, oil='olive oil')}").ingredient
            assert item is not None
            self.assertEqual((item.herbs, item.like, len(item.unknown)), ((word,), "olive_oil", 3), way)

    def test_what_is_in_the_pantry_comes_first(self) -> None:
        """Calendula in sunflower, made here: it is read as that, and said; two of them are asked about."""

        def own(number: int, oil: str) -> Ingredient:
            base = shipped().ingredient(oil)
            return infused(base, f"own-ingredient-{number}", f"Calendula in {oil}", ("calendula_oil",))

        sunflower, olive = own(1, "sunflower_oil"), own(2, "olive_oil")
        tables = shipped().and_own([sunflower, olive])
        for text, key, sure in (
            ("10 g calendula-infused sunflower oil", sunflower.key, 0.7),
            ("10 g olive oil infused with calendula", olive.key, 0.7),
            ("10 g calendula infused oil", sunflower.key, 0.45),
        ):
            (found,) = read(text, tables=tables).lines
            self.assertEqual((found.ingredient and found.ingredient.key, found.sure), (key, sure), text)
            self.assertIn("in your pantry", str(found.doubts[0]))
            self.assertEqual(found.doubts[0].choices[0].value, key)

    def test_what_is_read_can_be_made(self) -> None:
        made = composition(read("80 g olive oil infused with arnica and nettle\n20 g beeswax"))
        self.assertEqual([each.key for each in made.lines], ["arnica_oil+nettle_in_olive_oil", "beeswax_yellow"])
