"""The laws of reading, each over what hypothesis makes of it, and over texts that were gone through by eye."""

from collections import Counter
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.recipes.doubts import SURE_FROM, Doubted
from balmcore.recipes.lines import ReadLine
from balmcore.recipes.reading import RecipeReading, read
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase
from balmcore.tests.recipes.test_recipes import LINES, ORDINARY, WHOLE

TEXTS = [
    line.split(" ~ ")
    for line in (Path(__file__).parent / "law_texts.txt").read_text(encoding="utf-8").splitlines()
    if line[0] != "#"
]
NAMES = {
    "beeswax": "beeswax_yellow",
    "candelilla wax": "candelilla_wax",
    "jojoba": "jojoba_oil",
    "castor oil": "castor_oil",
    "mango butter": "mango_butter",
    "lanolin": "lanolin",
    "squalane": "squalane",
}
name = st.sampled_from(sorted(NAMES))
two_names = st.lists(name, min_size=2, max_size=2, unique=True)
three_names = st.lists(name, min_size=3, max_size=3, unique=True)
whole = st.integers(1, 90)
amount = st.decimals(1, 400, places=1).map(lambda value: f"{value:f}")


def grams(found: RecipeReading) -> list[tuple[str | None, float | None]]:
    """The ingredient and the grams of each line, to a hundredth."""
    return [
        (line.ingredient and line.ingredient.key, None if line.grams is None else round(line.grams, 2))
        for line in found.lines
    ]


def kinds(line: ReadLine) -> set[str]:
    return {doubt.kind for doubt in line.doubts}


class GeneratedTests(CoreTestCase):
    @settings(max_examples=25, deadline=None)
    @given(whole, whole, name, st.sampled_from(["g", "oz", "cups", "tsp", "drops", "%"]))
    def test_a_range_is_no_number(self, low: int, more: int, of: str, unit: str) -> None:
        """Both ends are choices, and the one that is answered is weighed."""
        for said in (
            f"{low} to {low + more} {unit}",
            f"{low}-{low + more} {unit}",
            f"between {low} and {low + more} {unit}",
        ):
            line = read(f"{said} {of}").lines[0]
            (doubt,) = (one for one in line.doubts if one.kind == Doubted.AMOUNT)
            self.assertLess(line.sure, 0.5)
            self.assertEqual([choice.value.split()[0] for choice in doubt.choices], [str(low), str(low + more)])
            chosen = read(f"{said} {of}", answers={doubt.key: doubt.choices[1].value}).lines[0]
            self.assertAlmostEqual(chosen.grams or 0, read(f"{low + more} {unit} {of}").lines[0].grams or 0, places=6)
            self.assertNotIn(Doubted.AMOUNT, kinds(chosen))

    @settings(max_examples=25, deadline=None)
    @given(whole, two_names, st.sampled_from(["{} to {}", "{} q.s. to {}", "q.s. {} to {}", "top up with {} to {}"]))
    def test_the_rest_is_solved(self, part: int, of: list[str], way: str) -> None:
        """To a hundred grams, to a hundred percent; asked where nothing says of what."""
        first, last = of
        want = [(NAMES[first], part), (NAMES[last], 100 - part)]
        self.assertEqual(grams(read(f"{part} g {first}\n{way.format(last, '100 g')}")), want)
        for said in (f"{last} q.s.", f"remaining {last}", f"the rest {last}", f"{last}: remainder", f"{last} to 100 %"):
            self.assertEqual(grams(read(f"{part} % {first}\n{said}")), want)
            asked = read(f"{part} g {first}\n{said}").lines[1]
            self.assertEqual((asked.grams, kinds(asked)), (None, {"amount"}))

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.integers(1, 9), min_size=2, max_size=2), two_names)
    def test_proportions_in_every_order(self, parts: list[int], of: list[str]) -> None:
        """Numbers first or last, with colons, dashes, words and parts: the same percent."""
        (a, b), (one, two) = parts, of
        want = [(NAMES[one], round(100 * a / (a + b), 6)), (NAMES[two], round(100 * b / (a + b), 6))]
        for said in (
            f"{one} to {two}, {a} to {b}",
            f"{a}:{b} {one} to {two}",
            f"{one} : {two} = {a} : {b}",
            f"{a} parts {one}, {b} parts {two}",
            f"{one} {a} : {two} {b}",
            f"{a} {one} : {b} {two}",
            f"{one} and {two} in the ratio of {a}:{b}",
            f"{a} parts {one}\n{b} parts {two}\n",
        ):
            found = read(said)
            self.assertEqual([(line.ingredient.key, round(line.percent or 0, 6)) for line in found.lines], want, said)
            self.assertIsNone(found.total_g)
        beside = read(f"{a} parts {one}\n{b} parts {two}\n1 % vitamin E").lines
        self.assertAlmostEqual(beside[2].percent or 0, 1)

    @settings(max_examples=20, deadline=None)
    @given(three_names, amount, amount)
    def test_alternatives_denials_and_conditions_are_never_added(self, of: list[str], some: str, other: str) -> None:
        """One line with a choice; what is denied or depends is a note, and a wish where it can be one."""
        one, two, three = of
        for said in (
            f"{some} g {one} or {other} g {two}",
            f"{some} g {one}\nor {other} g {two}",
            f"{some} g {one} ({other} g {two})",
        ):
            found = read(f"{said}\n20 g {three}")
            if "(" not in said:
                (doubt,) = found.lines[0].doubts
                self.assertEqual((len(found.lines), doubt.kind), (2, Doubted.ALTERNATIVE))
                second = read(f"{said}\n20 g {three}", answers={doubt.key: doubt.choices[1].value}).lines[0]
                self.assertEqual((second.ingredient.key, round(second.grams or 0, 2)), (NAMES[two], float(other)))
        for said in (
            f"no {two}",
            f"without {two}",
            f"if too soft add {other} g more {two}",
            f"{other} g {two} if it is hot",
        ):
            found = read(f"{some} g {one}\n{said}\n20 g {three}")
            self.assertEqual([key for key, _ in grams(found)], [NAMES[one], NAMES[three]], said)
            self.assertEqual(len(found.notes), 1)
        self.assertEqual(read(f"{some} g {one}\nno {two}").wishes.without, (two,))

    @settings(max_examples=20, deadline=None)
    @given(st.integers(1, 60), st.integers(10, 900), two_names)
    def test_per_multiplies_by_what_it_speaks_of(self, drops: int, mass: int, of: list[str]) -> None:
        """Per hundred grams and to the cup; asked where there is none of it."""
        dose = read(f"{drops} drops lavender").lines[0].grams or 0
        for said in (f"{drops} drops lavender per 100 g", f"lavender, {drops} drops per 100 g of {of[0]}"):
            found = read(f"{mass} g {of[0]}\n{said}").lines[1]
            self.assertAlmostEqual(found.grams or 0, dose * mass / 100, places=6)
        cups = read(f"3 cups {of[1]}, melted\n{drops} drops lavender to the cup").lines[1]
        self.assertAlmostEqual(cups.grams or 0, 3 * dose, places=6)
        self.assertIn("amount", kinds(read(f"{drops} drops lavender per cup of {of[0]}").lines[0]))

    @settings(max_examples=25, deadline=None)
    @given(amount, name, st.text("bcdfgklmnprtvz", min_size=5, max_size=7))
    def test_an_unknown_unit_is_never_grams(self, much: str, of: str, word: str) -> None:
        """Neither a word that is no measure, nor a bare number, nor an amount of nothing."""
        for said in (f"{much} {word} {of}", f"{much} {of}", f"{of} {much}", f"1 stick {of}"):
            line = read(said).lines[0]
            self.assertIsNone(line.grams, said)
            self.assertLess(line.sure, 0.5)
        told = read(f"{much} {of}", answers={"unit:bare@recipe": "oz"}).lines[0]
        self.assertAlmostEqual(told.grams or 0, float(much) * 28.349523125, places=4)

    @settings(max_examples=25, deadline=None)
    @given(amount, name)
    def test_separators_are_no_decimals(self, much: str, of: str) -> None:
        """Leaders, bars, tabs, bullets, numbers of the line, dashes and signs."""
        for said in ("{}.....{} g", "{}......... {} g", "| {} | {} g |", "{}\t{}\tg", "{} – {} g", "{} = {} g", "{}: {} g",
                     "1. {} {} g", "• {} {} g", "{},{} g", "{}; {} g", "<li>{} {} g</li>", "{} … {} g"):  # fmt: skip
            line = read(said.format(of, much)).lines[0]
            self.assertEqual((line.ingredient.key, line.grams), (NAMES[of], float(much)), said)
            self.assertGreaterEqual(line.sure, SURE_FROM)
        table = read(f"Ingredient\tGrams\tNote\n{of}\t{much}\t")
        self.assertEqual(grams(table), [(NAMES[of], float(much))])

    @settings(max_examples=40, deadline=None)
    @given(st.sampled_from(["rose", "almond", "jojoba", "lavender", "plum", "shea", "olive", "calendula"]),
           st.sampled_from(["extract", "tincture", "hydrosol", "leaves", "petals", "milk", "syrup", "essence", "soap"]))  # fmt: skip
    def test_a_name_of_two_words_is_not_that_of_one(self, first: str, second: str) -> None:
        """It is refused, asked, or a thing of its own: never called sure."""
        found = read(f"10 g {first} {second}").lines
        self.assertEqual(len(found), 1)
        key = found[0].ingredient and found[0].ingredient.key
        self.assertTrue(key is None or key.endswith(("_in_tincture", "_in_infused_oil")), key)
        self.assertLess(found[0].sure, SURE_FROM)
        self.assertTrue(found[0].doubts)


class TextTests(CoreTestCase):
    def test_texts_of_every_law(self) -> None:
        """What is known is read as it was meant; what is not is asked."""
        self.assertGreater(len(TEXTS), 180)
        for text, meant in TEXTS:
            with self.subTest(text):
                found = read(text.replace("\\n", "\n").replace("\\t", "\t"), "us").lines
                want = [cell.split("=") for cell in meant.strip().split(", ") if cell]
                self.assertEqual(
                    ["refused" if line.refused else line.ingredient.key if line.ingredient else "?" for line in found],
                    [key for key, _ in want],
                )
                for line, (_, mass) in zip(found, want, strict=True):
                    if mass == "?":
                        self.assertLess(line.sure, 0.5)
                        self.assertTrue(line.doubts or line.told)
                    else:
                        self.assertAlmostEqual(line.grams or 0, float(mass), delta=0.006)

    def test_asked_once_for_a_recipe_and_remembered(self) -> None:
        """Shea twice is one question; what its maker always means closes it, and says so."""
        twice = read("20 g shea\n10 g shea\n5 g cocoa butter")
        self.assertEqual(
            [[d.key for d in line.doubts] for line in twice.lines], [["name:shea"], [], ["name:cocoa butter"]]
        )
        self.assertEqual(twice.lines[1].told, ("Asked above, for all such lines.",))
        always = {"name:shea": "shea_butter_refined", "weighs:cup beeswax_yellow": "130 g"}
        known = read("20 g shea\n10 g shea\n½ cup beeswax", always=always).lines
        self.assertEqual([line.ingredient.key for line in known[:2]], ["shea_butter_refined"] * 2)
        self.assertEqual((known[0].doubts, known[0].settled[0].is_remembered), ((), True))
        self.assertEqual((known[2].grams, known[2].doubts), (65, ()))

    def test_a_row_can_be_answered_in_any_part(self) -> None:
        """Amount, ingredient, form, in or out: each moves grams and percent; nonsense is said, and nothing is lost."""
        text = "1 cup beeswax\n100 g jojoba"
        rows = {"amount": "½ cup", "ingredient": "candelilla_wax", "form": "melted"}
        line, oil = read(text, answers={f"{part}@1 cup beeswax": told for part, told in rows.items()}).lines
        self.assertEqual((line.ingredient.key, line.form), ("candelilla_wax", "melted"))
        self.assertAlmostEqual(line.grams or 0, 125 * shipped().ingredients["candelilla_wax"].density_g_ml)
        self.assertAlmostEqual((line.percent or 0) + (oil.percent or 0), 100)
        out = read(text, answers={"out@1 cup beeswax": "out"})
        self.assertEqual(([line.percent for line in out.lines], out.lines[0].is_out), ([None, 100], True))
        wrong = read(text, answers={"amount@100 g jojoba": "a whale"}).lines[1]
        self.assertEqual(wrong.grams, 100)
        self.assertIn("“a whale” is no amount", str(wrong.doubts[0]))

    def test_what_becomes_of_words(self) -> None:
        """Every mark is a stretch of the text itself: used, asked, kept as a note, or left out."""
        text = "My balm\n½ cup jojoba.....\n2-3 g shea\nno nuts\nhttps://example.org"
        marks = [(text[mark.start : mark.end], mark.what, mark.line) for mark in read(text).marks]
        self.assertIn(("½ cup jojoba", "used", 0), marks)
        self.assertIn(("2-3 g shea", "asked", 1), marks)
        self.assertIn(("no nuts", "note", None), marks)
        self.assertIn(("https://example.org", "left", None), marks)

    def test_sure_means_sure(self) -> None:
        """Of all our own lines that are called sure, each is right; the table of it stands in docs/model.md."""
        found: Counter[tuple[str, bool]] = Counter()
        for text, kitchen, want in _own_lines():
            lines = read(text, kitchen).lines
            for at, line in enumerate(lines):
                key, mass = want[at] if at < len(want) else ("", None)
                right = (line.ingredient.key if line.ingredient else "") == key and mass is not None
                right = (
                    right and line.grams is not None and abs(line.grams - (mass or 0)) <= 0.006 + 0.005 * (mass or 0)
                )
                found[line.trust, right] += 1
        self.assertGreater(sum(found.values()), 400)
        self.assertEqual(found["sure", False], 0)
        doc = (Path(__file__).parents[3] / "docs/model.md").read_text(encoding="utf-8")
        for trust in ("sure", "likely", "unsure"):
            self.assertIn(f"| {trust} | {found[trust, True] + found[trust, False]} | {found[trust, True]} |", doc)


def _own_lines() -> list[tuple[str, str, list[tuple[str, float | None]]]]:
    """Text, kitchen, and ingredient and grams of each line as they were meant; None where that cannot be known."""
    made = []
    for text, kitchen, key, factors in (*LINES, *ORDINARY):
        mass = 1.0
        for factor in factors.split("*") if factors else ():
            mass *= float(factor)
        if any(char.isalnum() for char in text):
            made.append((text, kitchen, [(key, mass if factors else None)]))
    for text, meant in (*WHOLE, *TEXTS):
        cells = [cell.split("=") for cell in meant.strip().split(", ") if cell]
        lines = [(key, None if mass == "?" else float(mass)) for key, mass in cells]
        made.append((text.replace("\\n", "\n").replace("\\t", "\t"), "us", lines))
    return made
