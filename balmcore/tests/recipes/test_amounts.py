"""Amounts of recipes by themselves: numbers, sums, ranges, shares and what stands on top of the hundred."""

from balmcore.recipes.grammar.clauses import clauses
from balmcore.recipes.reading import read
from balmcore.recipes.words.meanings import tokens
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase


class NumberTests(CoreTestCase):
    def values(self, text: str) -> list[tuple[float, str]]:
        (clause,) = clauses(tokens(f"{text} olive oil", shipped()))
        self.assertTrue(clause.derived, text)
        return [(round(quantity.value, 4), quantity.unit) for amount in clause.amounts for quantity in amount]

    def test_numbers_in_figures_and_words(self) -> None:
        """Fractions, halves that follow, thirds, dozens: the same number however it is said."""
        for text, value in (
            ("1/2 cup", 0.5),
            ("1 1/2 cups", 1.5),
            ("1-1/2 cups", 1.5),
            ("one and a half cups", 1.5),
            ("a cup and a half of", 1.5),
            ("three quarters of a cup of", 0.75),
            ("two thirds of a cup", 0.6667),
            ("one and two thirds cup", 1.6667),
            ("half a cup", 0.5),
            ("2 x 3 cups", 6.0),
            ("0,25 c.", 0.25),
        ):
            with self.subTest(text):
                self.assertEqual(self.values(text), [(value, "cup")])
        self.assertEqual(self.values("two dozen drops"), [(24.0, "drop")])
        self.assertEqual((self.values("2 T"), self.values("2 t")), ([(2.0, "tbsp")], [(2.0, "tsp")]))

    def test_sums_and_two_ways_to_say_one(self) -> None:
        """Plus, less, side by side, and in parentheses."""
        self.assertEqual(self.values("1/4 cup + 2 tbsp"), [(0.25, "cup"), (2.0, "tbsp")])
        self.assertEqual(self.values("1 lb 2 oz"), [(1.0, "lb"), (2.0, "oz")])
        self.assertEqual(self.values("1 cup (240 ml)"), [(1.0, "cup"), (240.0, "ml")])
        less = read("1 cup less 1 tbsp olive oil", "metric").lines[0]
        self.assertAlmostEqual(less.grams, 235 * 0.914, delta=0.01)
        both = read("1 cup (500 g) olive oil", "metric").lines[0]
        self.assertLess(both.sure, 0.5)
        self.assertIn("Two amounts that are not the same", str(both.doubts[0]))

    def test_what_comes_on_top_is_inside_only_where_it_makes_a_hundred(self) -> None:
        """Six percent on top of a hundred are 5.66 of the whole; to make the hundred they are six."""
        top = read("beeswax 20 %\nolive oil 80 %\nplus 6 % kaolin")
        self.assertAlmostEqual(top.lines[2].percent, 600 / 106, places=6)
        self.assertIn("Kaolin clay 6 % comes on top of the hundred.", top.doubts)
        led = read("20 % beeswax, 80 % olive oil, optional 6 % kaolin")
        self.assertEqual([round(line.percent, 2) for line in led.lines], [18.87, 75.47, 5.66])
        oil, lanolin = read("100 g olive oil, optional 5 g lanolin").lines
        self.assertEqual(
            (oil.doubts, [str(doubt) for doubt in lanolin.doubts]),
            ((), ["It is said to be optional or extra: it is counted."]),
        )
        whole = read("beeswax 20 %\nolive oil 74 %\nplus 6 % kaolin")
        self.assertAlmostEqual(whole.lines[2].percent, 6, places=6)
        mixed = read("1 part beeswax\n40 g olive oil")
        self.assertLess(mixed.lines[0].sure, 0.5)

    def test_by_weight_and_by_volume_settle_what_an_ounce_is(self) -> None:
        """Fluid ounces weigh less than ounces of an oil, and parts by volume go by density."""
        weight, volume = (read(f"4 oz olive oil by {by}").lines[0] for by in ("weight", "volume"))
        self.assertAlmostEqual(weight.grams, 113.398, delta=0.001)
        self.assertAlmostEqual(volume.grams, 4 * 29.5735 * 0.914, delta=0.01)
        self.assertEqual((weight.doubts, volume.doubts), ((), ()))
        parts = read("1 part beeswax, 4 parts olive oil by volume").lines
        self.assertAlmostEqual(parts[0].percent, 100 * 0.96 / (0.96 + 4 * 0.914), places=4)


class NameTests(CoreTestCase):
    def test_names_in_any_order_with_praise_and_without_their_role(self) -> None:
        """Refined before or behind, virgin, plural, "oil" left out; two names are never one."""
        for text, key in (
            ("refined shea butter", "shea_butter_refined"),
            ("shea butter, refined", "shea_butter_refined"),
            ("organic extra virgin olive oil", "olive_oil"),
            ("hazelnut", "hazelnut_oil"),
            ("butyrospermum parkii (shea) butter", "shea_butter"),
            ("lavender eo", "lavender"),
        ):
            with self.subTest(text):
                line = read(f"10 g {text}").lines[0]
                self.assertEqual((line.ingredient.key, line.sure), (key, 0.99))
        for text in ("lavender flowers", "olive essential oil", "moonlit olive oil", "coconut milk", "beezwax"):
            with self.subTest(text):
                self.assertLess(max(line.sure for line in read(f"10 g {text}").lines), 0.5)

    def test_an_alternative_takes_the_first_and_asks(self) -> None:
        """Cocoa butter or shea butter: one of them, both to choose from, never sure."""
        line = read("30 g cocoa butter or shea butter").lines[0]
        self.assertEqual([choice.value for choice in line.doubts[0].choices], ["cocoa_butter", "shea_butter", "-"][:2])
        self.assertLess(line.sure, 0.5)
        settled = read(
            "30 g cocoa butter or shea butter", answers={"ingredient@30 g cocoa butter or shea butter": "shea_butter"}
        ).lines[0]
        self.assertEqual((settled.ingredient.key, settled.grams), ("shea_butter", 30))
