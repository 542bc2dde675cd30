"""The recipe reader against lines of our own, ordinary and hostile, and its doubts."""

import csv
import math
from decimal import Decimal as D
from itertools import product
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.cli.request import mixed
from balmcore.composition import Composition
from balmcore.recipes.reading import composition, read
from balmcore.tables import DATA, shipped
from balmcore.tables.herbs import herb_name, herbs
from balmcore.tests import CoreTestCase


def lines_of(name: str) -> list[list[str]]:
    """The cells of a file of lines beside this one."""
    text = (Path(__file__).parent / name).read_text(encoding="utf-8")
    return [[cell.strip() for cell in line.split("|")] for line in text.splitlines() if line and line[0] != "#"]


LINES, ORDINARY = lines_of("recipe_lines.txt"), lines_of("ordinary_lines.txt")
WHOLE = lines_of("whole_recipes.txt")
KNOWN = [text for text, _, key, grams in [*LINES, *ORDINARY] if key and grams]


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

    def test_what_is_refused_says_why_in_a_sentence(self) -> None:
        """Every reason is whole; waters, plants themselves and what is sold for other things are never another thing."""
        rows = csv.reader(line for line in (DATA / "refused_names.csv").open() if not line.startswith("#"))
        reasons = [(name, *why) for name, *why in rows if name != "name"]
        self.assertGreater(len(reasons), 40)
        for name, *why in reasons:
            self.assertEqual((len(why), why[0][-1:]), (1, "."), name)
            (line,) = read(f"10 g {name}").lines
            self.assertIsNone(line.ingredient, name)
            self.assertIn(why[0], " ".join(map(str, line.doubts)), name)
        for text, said in (
            ("water", "does not mix with fat"),
            ("orange blossom hydrosol", "does not mix with fat"),
            ("oat milk", "does not mix with fat"),
            ("dried calendula petals", "steep it in oil first"),
            ("fresh comfrey leaves", "steep it in oil first"),
            ("turmeric powder", "steep it in oil"),
        ):
            with self.subTest(text):
                (line,) = read(f"10 g {text}").lines
                self.assertIsNone(line.ingredient)
                self.assertIn(said, " ".join(map(str, line.doubts)))

    def test_number_words(self) -> None:
        """As people write them, in words and in parts."""
        for words, number in (
            ("one", 1), ("two", 2), ("three", 3), ("four", 4), ("five", 5), ("six", 6), ("seven", 7), ("eight", 8),
            ("nine", 9), ("ten", 10), ("eleven", 11), ("twelve", 12), ("fifteen", 15), ("twenty", 20), ("thirty", 30),
            ("forty", 40), ("fifty", 50), ("sixty", 60), ("a hundred", 100), ("half a", 0.5), ("a quarter", 0.25),
            ("three quarters of a", 0.75), ("two and a half", 2.5),
        ):  # fmt: skip
            with self.subTest(words):
                (line,) = read(f"{words} kilogram olive oil").lines
                self.assertAlmostEqual(line.grams or 0, number * 1000)

    def test_of_two_that_are_named_the_first_is_taken_and_said(self) -> None:
        for text, key, said in (
            ("1 oz shea butter or cocoa butter", "shea_butter", "One or the other: Shea butter, unrefined is taken."),
            ("2 g moonlight or stardust", None, "One or the other, and none of them is known."),
        ):
            (line,) = read(text).lines
            self.assertEqual((line.ingredient and line.ingredient.key, str(line.doubts[0])), (key, said))
            self.assertLess(line.sure, 0.5)

    def test_doubts_are_told_and_can_be_settled(self) -> None:
        """Ounces of a liquid, a cup of wax, an unknown name: the other figure stands beside."""
        ounces = read("4 oz olive oil").lines[0]
        self.assertEqual(
            [str(doubt) for doubt in ounces.doubts],
            ["Ounces of a liquid: taken as weight."],
        )
        self.assertAlmostEqual(
            read("4 oz olive oil", answers={"ounces:liquid": "fluid"}).lines[0].grams, 108.1, delta=0.1
        )
        wax = read("1 cup beeswax", "us").lines[0]
        self.assertEqual(
            [str(doubt) for doubt in wax.doubts],
            ["A volume of something solid: taken as pellets."],
        )
        self.assertEqual([choice.value for choice in wax.doubts[0].choices], ["loose", "grated", "melted"])
        self.assertAlmostEqual(
            read("1 cup beeswax", "us", {"form:beeswax_yellow": "melted"}).lines[0].grams, 227.1, delta=0.1
        )
        unknown = read("20 g moonlight").lines[0]
        self.assertEqual((unknown.ingredient, unknown.trust), (None, "unsure"))
        self.assertEqual(
            read("20 g moonlight", answers={"ingredient@20 g moonlight": "squalane"}).lines[0].ingredient.key,
            "squalane",
        )
        self.assertEqual((read("30 g beeswax").lines[0].doubts, read("30 g beeswax").lines[0].trust), ((), "sure"))


class LawTests(CoreTestCase):
    """Every word is used, left out and said to be, or a doubt."""

    def test_whole_recipes_are_read_as_they_are_meant_or_doubted(self) -> None:
        """Compound amounts, number words, each, equal parts, ratios, on top, method, alternatives."""
        self.assertGreaterEqual(len(WHOLE), 100)
        for text, meant in WHOLE:
            with self.subTest(text):
                found = read(text.replace("\\n", "\n"), "us").lines
                if not meant:
                    self.assertLess(max(line.sure for line in found), 0.5)
                    continue
                want = [pair.split("=") for pair in meant.split(", ")]
                self.assertEqual([line.ingredient.key for line in found], [key for key, _ in want])
                for line, (_, grams) in zip(found, want, strict=True):
                    self.assertAlmostEqual(line.grams, float(grams), delta=0.006)
                    self.assertGreaterEqual(line.sure, 0.5)

    @settings(max_examples=120, deadline=None)
    @given(st.sampled_from(KNOWN), st.sampled_from(["3 kg", "castor oil", "candelilla", "moonlight", "17"]), st.data())
    def test_nothing_that_is_put_into_a_line_disappears(self, text: str, more: str, data: st.DataObject) -> None:
        """An amount, a name or a word no one knows, anywhere in a line: another reading, or a doubt."""
        words = text.split()
        place = data.draw(st.integers(0, len(words)))
        before = read(text).lines
        after = read(" ".join([*words[:place], more, *words[place:]])).lines
        changed = [(line.ingredient, line.grams) for line in after] != [
            (line.ingredient, line.grams) for line in before
        ]
        self.assertTrue(changed or max(line.sure for line in after) < 0.5, [line.sure for line in after])
        if more in ("castor oil", "candelilla") and max(line.sure for line in after) >= 0.5:
            self.assertIn(more.split()[0], " ".join(line.ingredient.key for line in after))

    def test_what_is_left_out_is_said_and_what_is_unfit_is_refused(self) -> None:
        """Headings and method with its minutes, degrees and tins; bitter almond and thuja with why."""
        text = "Ingredients:\n30 g beeswax\n100 g olive oil\nMethod:\nMelt the beeswax for 10 minutes at 70 °C. Pour into four 30 ml tins."
        found = read(text)
        self.assertEqual([line.grams for line in found.lines], [30, 100])
        self.assertEqual(len(found.left_out), 3)
        self.assertEqual(found.left_out[0], "Ingredients:")
        for name, why in (("bitter almond", "prussic acid"), ("thuja", "thujone"), ("wormwood", "thujone")):
            line = read(f"3 drops {name} oil").lines[0]
            self.assertEqual((line.ingredient, line.sure), (None, 0.1))
            self.assertIn(why, str(line.doubts[0]))
        lime = read("3 drops lime oil").lines[0]
        self.assertEqual(
            (lime.ingredient.key, [choice.value for choice in lime.doubts[0].choices]),
            ("lime_expressed", ["lime_expressed", "lime_distilled"]),
        )
        self.assertLess(lime.sure, 0.5)
        self.assertIsNone(read("20 drops essential oil").lines[0].ingredient)


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

    def test_every_oil_with_every_herb_in_it_asks_for_what_both_ask_for(self) -> None:
        oils = [
            item for item in shipped().ingredients.values() if item.group == "liquid_oil" and item.name.endswith("oil")
        ]
        tried = 0
        for oil, key in product(oils, herbs()):
            if oil.key in herbs() or key == "propolis" or "infused" in oil.name:
                continue
            text = f"50 g {oil.name} infused with {herb_name(key)}"
            (line,) = read(text).lines
            assert line.ingredient is not None, text
            herb = shipped().ingredient(key)
            self.assertLessEqual({*oil.allergens, *herb.allergens}, {*line.ingredient.allergens}, text)
            self.assertTrue(line.ingredient.inci.startswith(oil.inci), text)
            self.assertIn(herb.inci.split(", ")[1], line.ingredient.inci, text)
            self.assertEqual(mixed({line.ingredient.key: D(1)}, "grams").lines[0].ingredient, line.ingredient)
            tried += 1
        self.assertGreater(tried, 100)

    def test_it_is_called_by_the_heading_it_begins_with(self) -> None:
        """What asks for things, tells a step or a size is no name."""
        body = "10 g beeswax\n90 g olive oil"
        for head, title in (
            ("Fog Horn (makes about 8 oz)", "Fog Horn"),
            ("For the ferry\nHand salve", "Hand salve"),
            ("Ingredients:", ""),
            ("What you need", ""),
            ("2 oz tin", ""),
            ("", ""),
        ):
            with self.subTest(head):
                self.assertEqual(read(f"{head}\n{body}").title, title)
        self.assertEqual(read(f"{body}\nRest it overnight.").title, "")

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
        alone = read("100 g")
        self.assertEqual(
            (alone.lines[0].ingredient, str(alone.lines[0].doubts[0])), (None, "No ingredient is named here.")
        )
        self.assertEqual(alone.doubts, ())
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
