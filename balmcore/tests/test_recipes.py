"""The recipe reader against lines of our own, ordinary and hostile, and its doubts."""

import math
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.composition import Composition
from balmcore.recipes.reading import composition, read
from balmcore.tests import CoreTestCase


def lines_of(name: str) -> list[list[str]]:
    """The cells of a file of lines beside this one."""
    text = (Path(__file__).parent / name).read_text(encoding="utf-8")
    return [[cell.strip() for cell in line.split("|")] for line in text.splitlines() if line and line[0] != "#"]


LINES, ORDINARY = lines_of("recipe_lines.txt"), lines_of("ordinary_lines.txt")


class LineTests(CoreTestCase):
    def test_every_line_is_read_as_it_is_meant(self) -> None:
        """More than 120 lines and forty ordinary ones: ingredient and grams to half a percent."""
        self.assertGreaterEqual(len(LINES), 120)
        self.assertEqual(len(ORDINARY), 40)
        for number, (text, kitchen, key, factors) in enumerate([*LINES, *ORDINARY], 1):
            with self.subTest(number=number, text=text):
                found = read(text, kitchen).lines if any(ch.isalnum() for ch in text) else ()
                line = next((line for line in found if line.grams is not None or line.ingredient), None)
                self.assertEqual(line.ingredient.key if line and line.ingredient else "", key)
                if factors:
                    grams = math.prod(float(factor) for factor in factors.split("*"))
                    self.assertAlmostEqual(line.grams, grams, delta=0.005 * grams + 1e-9)
                else:
                    self.assertTrue(line is None or line.grams is None or line.sure < 0.5)

    def test_doubts_are_told_and_can_be_settled(self) -> None:
        """Ounces of a liquid, a cup of wax, an unknown name: the other figure stands beside."""
        ounces = read("4 oz olive oil").lines[0]
        self.assertEqual(
            ounces.doubts, ("Ounces of a liquid: taken as weight, 113.4 g; fluid ounces would be 108.1 g.",)
        )
        self.assertAlmostEqual(
            read("4 oz olive oil", answers={(0, "ounces"): "fluid"}).lines[0].grams, 108.1, delta=0.1
        )
        wax = read("1 cup beeswax", "us").lines[0]
        self.assertEqual(
            wax.doubts, ("A volume of something solid: taken as pellets, 132.5 g; melted it would be 227.1 g.",)
        )
        self.assertEqual([value for value, _ in wax.asks[0].options], ["loose", "grated", "melted"])
        self.assertAlmostEqual(read("1 cup beeswax", "us", {(0, "form"): "melted"}).lines[0].grams, 227.1, delta=0.1)
        unknown = read("20 g moonlight").lines[0]
        self.assertEqual((unknown.ingredient, unknown.trust), (None, "unsure"))
        self.assertEqual(
            read("20 g moonlight", answers={(0, "ingredient"): "squalane"}).lines[0].ingredient.key, "squalane"
        )
        self.assertEqual((read("30 g beeswax").lines[0].doubts, read("30 g beeswax").lines[0].trust), ((), "sure"))


class RecipeTests(CoreTestCase):
    def percents(self, text: str, kitchen: str = "metric") -> dict[str, float]:
        return {line.ingredient.key: round(line.percent or 0, 2) for line in read(text, kitchen).lines}

    def test_a_sentence_is_as_good_as_a_list(self) -> None:
        """Commas and "and" part the ingredients; "melted" belongs to the one before it."""
        text = (
            "Melt 1 cup shea butter, 1/2 cup coconut oil, melted, and 1/4 cup olive oil, then stir in 10 drops lavender"
        )
        self.assertEqual(
            [line.ingredient.key for line in read(text).lines], ["shea_butter", "coconut_oil", "olive_oil", "lavender"]
        )
        two = read("10 g beeswax and 50 g olive oil").lines
        self.assertEqual([line.grams for line in two], [10, 50])

    def test_parts_and_percent(self) -> None:
        """3 : 2 : 5 becomes 30, 20 and 50; percent stay; both are told when they do not fit."""
        parts = "3 parts olive oil\n2 parts beeswax\n5 parts shea butter"
        self.assertEqual(self.percents(parts), {"olive_oil": 30, "beeswax_yellow": 20, "shea_butter": 50})
        self.assertEqual(self.percents("beeswax 20%, olive oil 80%"), {"beeswax_yellow": 20, "olive_oil": 80})
        over = read("beeswax 20%\nolive oil 80.5%")
        self.assertEqual(over.doubts, ("These add to 100.5 %, not 100: each is turned into percent of the whole.",))
        self.assertAlmostEqual(over.lines[0].percent, 19.9, delta=0.01)
        top = read("beeswax 20%\nolive oil 80%\nvitamin e 0.5%")
        self.assertIn("0.5 % come on top", top.doubts[0])
        mixed = read("20 g beeswax\n79 g olive oil\nlavender 1%")
        self.assertAlmostEqual(mixed.lines[2].percent, 1, places=6)
        self.assertIn("Percent and weights are mixed", mixed.doubts[0])

    def test_the_same_ingredient_twice_becomes_one_line(self) -> None:
        """Told, and added together."""
        twice = read("10 g olive oil\n20 g olive oil\n5 g beeswax")
        self.assertIn("Olive oil stands here 2 times", twice.doubts[0])
        self.assertEqual(composition(twice), Composition.of({"olive_oil": 30.0, "beeswax_yellow": 5.0}))

    def test_refusals_and_floods(self) -> None:
        """Nothing, an unknown kitchen, ten thousand characters and more."""
        for text in ("", " \n ;; ,, "):
            with self.assert_refused("There is nothing to read"):
                read(text)
        with self.assert_refused("The kitchen should be one of us, metric, au."):
            read("1 cup olive oil", "lunar")
        for text in (
            "1 " * 6000,
            "a" * 20_000,
            "(1 g " * 3000,
            "1/2 " * 4000 + "cup olive oil",
            "\n".join(["1 g olive oil"] * 3000),
        ):
            found = read(text)
            self.assertLessEqual(len(found.lines), 60)
        self.assertIn("Only the first 60 lines were read.", found.doubts)

    @settings(max_examples=150, deadline=None)
    @given(st.text(max_size=200))
    def test_any_text_is_read_or_refused_in_words(self, text: str) -> None:
        """No input ends in anything but lines with finite grams, or a refusal."""
        try:
            found = read(text)
        except ValueError as problem:
            self.assertIn("There is nothing to read", str(problem))
            return
        for line in found.lines:
            self.assertTrue(line.grams is None or math.isfinite(line.grams))
            self.assertTrue(0 <= line.sure <= 1)
