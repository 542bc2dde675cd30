"""Declarations in their order, labels fitted and printed to a fifth of a millimetre."""

import io
import json
from dataclasses import replace
from decimal import Decimal as D
from pathlib import Path

import pypdfium2
from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.advice.claims import claims
from balmcore.cli import main
from balmcore.composition import Array, Composition, mixture
from balmcore.errors import Problem
from balmcore.labels.codes import code
from balmcore.labels.declaration import declare
from balmcore.labels.fonts import width_mm
from balmcore.labels.layout import LEGIBLE_MM, Block, Shape, Size, lay_out
from balmcore.labels.sheets import Grid, fitting_grid, print_labels
from balmcore.labels.sizes import net_words, suiting
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase


def _first_word(page: pypdfium2.PdfTextPage) -> tuple[float, float, float, float]:
    """The box of the letters "Neap Tide" that stand first on a page."""
    start = page.get_text_range().index("Neap Tide")
    boxes = [page.get_charbox(start + n, loose=True) for n in range(len("Neap Tide"))]
    return boxes[0][0], boxes[0][1], boxes[-1][2], boxes[-1][3]


DOTS = 20  # to the millimetre


def _ink(page: pypdfium2.PdfPage, darker: int = 160) -> tuple[Array, Array, Array]:
    """Where a page is inked, and the millimetres down and across at which it is."""
    ink = page.render(scale=DOTS * 25.4 / 72, grayscale=True).to_numpy() < darker
    return ink, ink.any(axis=1).nonzero()[0] / DOTS, ink.any(axis=0).nonzero()[0] / DOTS


LID = Size(Shape.ROUND, 48, 48)
BACK = Size(Shape.RECTANGLE, 60, 40)
WORDS = [
    Block("the name", "Neap Tide", 5.0, is_strong=True, is_needed=True),
    Block("the net weight", "50 g / 1.76 oz", 2.6, is_needed=True),
    Block("the maker", "The net loft, Ferry Quay 2", 2.4),
    Block("the ingredients", "Helianthus Annuus Seed Oil, Butyrospermum Parkii Butter, Cera Alba, Tocopherol", 2.2),
]


class DeclarationTests(CoreTestCase):
    def test_the_order_of_a_label(self) -> None:
        """Falling; two sorts of shea are one word; the colour last though there is more of it than of vitamin E."""
        found = declare(Composition.of({"sunflower_oil_ho": 47, "shea_butter": 10, "shea_butter_refined": 16,
                                        "beeswax_yellow": 25, "mica_pearl": 1.5, "vitamin_e_oil": 0.5}))  # fmt: skip
        keys = [each.ingredient.key for each in found.ingredients]
        self.assertEqual(keys, ["sunflower_oil_ho", "shea_butter", "beeswax_yellow", "vitamin_e_oil", "mica_pearl"])
        self.assertAlmostEqual(found.ingredients[1].share, 0.26)
        self.assertEqual(
            declare(Composition.of({"olive_oil": 9, "beeswax_yellow": 0})).text, "Olea Europaea (Olive) Fruit Oil"
        )
        self.assertEqual(found.plain, ("bee products", "shea nut", "soy (usual source)"))

    def test_herbs_drawn_out_in_oil(self) -> None:
        """Oil and herb are named, an oil that stands alone too only once; an infusion without a name is doubted."""
        found = declare(Composition.of({"sunflower_oil_ho": 50, "arnica_oil": 30, "infused_oil": 20}))
        self.assertEqual(
            found.text, "Helianthus Annuus (Sunflower) Seed Oil, Arnica Montana Flower Extract, Herb-infused oil"
        )
        self.assertIn("nobody has said which herb is in it", found.doubts[1])

    def test_what_boils_away_and_what_a_rest_was_made_of(self) -> None:
        """Spirit is not in the piece; a rest counts as its ingredients."""
        rest = mixture("rest", "Rest of v1", Composition.of({"beeswax_yellow": D("0.5"), "olive_oil": D("0.5")}))
        lines = (
            *Composition.of({"olive_oil": D("0.5")}).lines,
            Composition.of({"rest": D("0.5")}, shipped().and_own([rest])).lines[0],
        )
        found = declare(Composition(lines))
        self.assertEqual([(each.ingredient.key, round(each.share, 3)) for each in found.ingredients],
                         [("olive_oil", 0.75), ("beeswax_yellow", 0.25)])  # fmt: skip
        wet = (
            declare(Composition.of({"olive_oil": 90, "tincture": 10})) if "tincture" in shipped().ingredients else None
        )
        if wet:
            self.assertLess(wet.ingredients[-1].share, 0.05)

    def test_scent_allergens_above_a_hundredth_of_a_permille(self) -> None:
        """Citral by its content; linalool, whose content is not known, as the whole oil; traces are left out."""
        found = declare(Composition.of({"olive_oil": D("99.9"), "lemongrass": D("0.1")}))
        citral = next(each for each in found.allergens if each.name.lower() == "citral")
        self.assertTrue(citral.is_known)
        self.assertAlmostEqual(citral.share, 0.00085)
        self.assertTrue(all(each.share == 0.001 for each in found.allergens if not each.is_known))
        self.assertEqual(declare(Composition.of({"olive_oil": D("99.9995"), "lemongrass": D("0.0005")})).allergens, ())

    def test_from_a_shell(self) -> None:
        """Names of three sorts; nothing, less than nothing and names of a fourth sort are refused."""

        def ask(**request: object) -> tuple[int, dict[str, object]]:
            out = io.StringIO()
            code = main(["declare"], io.StringIO(json.dumps(request)), out)
            return code, json.loads(out.getvalue())

        code, answer = ask(grams={"olive_oil": 85, "beeswax_white": 15}, names="both")
        self.assertEqual(code, 0)
        self.assertEqual(
            answer["ingredients"][0],
            {"key": "olive_oil", "name": "Olea Europaea (Olive) Fruit Oil (Olive oil)", "percent": 85},
        )
        for request in ({"grams": {}}, {"grams": {"olive_oil": -1}}, {"grams": {"olive_oil": 0}}, {"grams": {"sand": 1}},
                        {"grams": {"olive_oil": 1}, "names": "latin"}):  # fmt: skip
            self.assertEqual(ask(**request)[0], 2, request)


class LayoutTests(CoreTestCase):
    def inside(self, size: Size, blocks: list[Block]) -> None:
        layout = lay_out(size, blocks)
        for text in layout.texts:
            self.assertGreaterEqual(text.size_mm, LEGIBLE_MM - 1e-9)
            self.assertAlmostEqual(text.width_mm, width_mm(text.text, text.size_mm, text.font))
            corners = [
                (text.x_mm + dx, text.y_mm + dy)
                for dx in (0, text.width_mm)
                for dy in (-0.78 * text.size_mm, 0.22 * text.size_mm)
            ]
            for x, y in corners:
                if size.shape == Shape.ROUND:
                    self.assertLessEqual(
                        (x - size.width_mm / 2) ** 2 + (y - size.height_mm / 2) ** 2, (size.width_mm / 2) ** 2
                    )
                else:
                    self.assertTrue(0 <= x <= size.width_mm and 0 <= y <= size.height_mm, (text, size))

    @settings(max_examples=60)
    @given(st.floats(14, 120), st.floats(14, 120), st.booleans(), st.integers(0, 12))
    def test_text_never_leaves_its_label(self, wide: float, high: float, is_round: bool, more: int) -> None:
        """Whatever the size and however much there is to say: inside, legible, or refused with a sentence."""
        size = Size(Shape.ROUND, wide, wide) if is_round else Size(Shape.RECTANGLE, wide, high)
        blocks = [*WORDS, *(Block(f"use {n}", "Warm it between the hands and rub it in.", 2.2) for n in range(more))]
        try:
            self.inside(size, blocks)
        except Problem as problem:
            self.assertIn("take a larger label", problem.sentence)

    @settings(max_examples=60)
    @given(st.floats(20, 120), st.floats(20, 120), st.booleans())
    def test_a_code_stands_clear_of_words_and_edge(self, wide: float, high: float, is_round: bool) -> None:
        """Its free border lies on the label and no line of text in it; where it has no room it is said."""
        size = Size(Shape.ROUND, wide, wide) if is_round else Size(Shape.RECTANGLE, wide, high)
        try:
            layout = lay_out(size, WORDS, code("BATCH 27 2026-03-27"))
        except Problem:
            return
        if layout.code is None:
            self.assertIn("No room for the code", layout.said[0])
            return
        x, y, side = layout.code.x_mm, layout.code.y_mm, layout.code.code.side_mm
        corners = [(x, y), (x + side, y), (x, y + side), (x + side, y + side)]
        for across, down in corners:
            if is_round:
                self.assertLessEqual((across - wide / 2) ** 2 + (down - wide / 2) ** 2, (wide / 2 - 2) ** 2 + 1e-6)
            else:
                self.assertTrue(1.5 - 1e-6 <= across <= wide - 1.5 + 1e-6 and 1.5 - 1e-6 <= down <= high - 1.5 + 1e-6)
        for text in layout.texts:
            is_beside = text.x_mm + text.width_mm <= x + 1e-6
            is_above, is_below = text.y_mm <= y + 1e-6, text.y_mm - text.size_mm * 0.78 >= y + side - 1e-6
            self.assertTrue(is_beside or is_above or is_below, text)

    def test_a_code_where_it_just_fits(self) -> None:
        """Ten millimetres of code and the margins: 13 are enough, and less is not; its dots are those of its text."""
        made = code("BATCH 27 2026-03-27")
        self.assertEqual(round(made.side_mm, 6), 10.0)
        self.assertEqual(round(sum(long for _, _, long in made.bars()) / 0.4), sum(map(sum, made.rows)))
        self.assertEqual(min(x for x, _, _ in made.bars()), 0.8)
        placed = lay_out(Size(Shape.RECTANGLE, 13, 13), [], made).code
        assert placed is not None
        self.assertEqual((placed.x_mm, placed.y_mm), (1.5, 1.5))
        # Its dots begin and end two dots inside: a finder at three of its corners, none at the fourth.
        dots = {
            (round((x - 2.3) / 0.4) + n, round((y - 2.3) / 0.4))
            for x, y, long in placed.bars
            for n in range(round(long / 0.4))
        }
        self.assertEqual((min(dots), max(x for x, _ in dots), max(y for _, y in dots)), ((0, 0), 20, 20))
        self.assertEqual(
            {corner: corner in dots for corner in ((0, 0), (20, 0), (0, 20))},
            dict.fromkeys(((0, 0), (20, 0), (0, 20)), True),
        )
        self.assertEqual(len(dots), sum(map(sum, made.rows)))
        lower = Grid((210, 297), 1, 2, 10, 20)
        alone = lay_out(Size(Shape.RECTANGLE, 13, 13), [], made)
        printed = pypdfium2.PdfDocument(print_labels([alone], lower, start=2))[0]
        _, down, across = _ink(printed, darker=100)
        self.assertAlmostEqual(down[0], 20 + 13 + 2.3, delta=0.1)
        self.assertAlmostEqual(down[-1] - down[0], 8.4, delta=0.1)
        self.assertAlmostEqual(across[0], 10 + 2.3, delta=0.1)
        self.assertIsNone(lay_out(Size(Shape.RECTANGLE, 12.9, 13), [], made).code)
        self.assertIsNone(lay_out(Size(Shape.ROUND, 14, 14), [], made).code)
        self.assertIsNotNone(lay_out(Size(Shape.ROUND, 19, 19), [], made).code)

    def test_a_sheet_as_full_as_its_page_takes(self) -> None:
        """In the middle of the page; a label that is wider or higher than the page is refused."""
        for size, page in ((LID, "a4"), (BACK, "letter")):
            grid = fitting_grid(size, page)
            wide = 2 * grid.left_mm + grid.columns * size.width_mm + (grid.columns - 1) * 2
            high = 2 * grid.top_mm + grid.rows * size.height_mm + (grid.rows - 1) * 2
            self.assertAlmostEqual(wide, grid.page[0], delta=0.02)
            self.assertAlmostEqual(high, grid.page[1], delta=0.02)
            self.assertEqual(grid.checked(size), grid)
        for size in (Size(Shape.RECTANGLE, 250, 20), Size(Shape.RECTANGLE, 20, 300)):
            with self.assert_refused("larger than the page"):
                fitting_grid(size)

    def test_what_does_not_fit_is_said(self) -> None:
        """Eighty ingredients on a small lid: the name stays, the list goes to a slip, and it is said."""
        many = Block("the ingredients", ", ".join(["Butyrospermum Parkii Butter"] * 80), 2.2)
        layout = lay_out(Size(Shape.ROUND, 24, 24), [WORDS[0], WORDS[1], many])
        self.assertEqual(layout.left_out, ("the ingredients",))
        self.assertIn("No room for the ingredients: put it on a back label or a folded slip", layout.said[0])
        self.assertTrue(lay_out(BACK, WORDS).is_whole)
        for size, said in ((Size(Shape.RECTANGLE, 3, 3), "8 to 400 mm"), (Size(Shape.ROUND, 30, 20), "as wide as it is high"),
                           (Size(Shape.RECTANGLE, 8, 8), "Not even the name")):  # fmt: skip
            with self.assertRaisesRegex(Problem, said):
                lay_out(size, WORDS)

    def test_letters_that_cannot_be_printed_are_named(self) -> None:
        layout = lay_out(BACK, [Block("the name", "Tide 🌊 מים", 5.0, is_needed=True)])
        self.assertEqual([text.text for text in layout.texts], ["Tide"])
        self.assertIn("🌊", layout.said[0])


class SheetTests(CoreTestCase):
    def test_a_printed_sheet_is_exact(self) -> None:
        """The outlines of a 2 × 3 grid in the rendered PDF lie within 0.2 mm of the grid, the offset counted."""
        grid = Grid((210, 297), 2, 3, 15, 20, 5, 4, offset_mm=(1.0, -0.5))
        pdf = pypdfium2.PdfDocument(print_labels([lay_out(BACK, WORDS)] * 6, grid, outlines=True))
        _, rows, columns = _ink(pdf[0])
        for found, wanted in (
            (columns[0], 16),
            (columns[-1], 16 + 60 * 2 + 5),
            (rows[0], 19.5),
            (rows[-1], 19.5 + 40 * 3 + 8),
        ):
            self.assertAlmostEqual(found, wanted, delta=0.2)
        lids = Grid((210, 297), 2, 1, 30, 40)
        pdf = pypdfium2.PdfDocument(print_labels([lay_out(LID, WORDS)] * 2, lids, outlines=True))
        ink, down, across = _ink(pdf[0])
        for found, wanted in ((across[0], 30), (across[-1], 30 + 48 * 2), (down[0], 40), (down[-1], 40 + 48)):
            self.assertAlmostEqual(found, wanted, delta=0.2)
        self.assertFalse(ink[: 41 * DOTS, : 40 * DOTS].any(), "a round label has no corners")

    def test_the_print_says_what_the_layout_says(self) -> None:
        """The words of the PDF stand where the layout put them, within 0.2 mm; a part-used sheet begins at its place."""
        layout, grid = lay_out(LID, WORDS[:2]), Grid((210, 297), 4, 5, 6, 10)
        pdf = pypdfium2.PdfDocument(print_labels([layout] * 20, grid, start=3))
        self.assertEqual(len(pdf), 2)
        x, y = grid.place(2, LID)
        text = layout.texts[0]
        box = ((x + text.x_mm) * 72 / 25.4, (297 - y - text.y_mm) * 72 / 25.4)
        page = pdf[0].get_textpage()
        left, bottom, right, _ = _first_word(page)
        self.assertAlmostEqual((left - box[0]) * 25.4 / 72, 0, delta=0.2)
        self.assertAlmostEqual((bottom - box[1]) * 25.4 / 72, -0.235 * text.size_mm, delta=0.2)  # below it hang letters
        self.assertIn("Neap Tide", page.get_text_range())
        self.assertEqual(page.get_text_range().count("Neap Tide"), 18)
        self.assertAlmostEqual((right - left) * 25.4 / 72, text.width_mm, delta=0.2)

    def test_a_grid_wider_than_its_sheet(self) -> None:
        """And starts beyond it, no labels, too many: each refused with its sentence."""
        label = lay_out(BACK, WORDS)
        wide = Grid((210, 297), 4, 3, 0, 0)
        for labels, grid, start, said in (([label], wide, 1, "need 240 × 120 mm, and the page has 210 × 297"),
                                          ([label], fitting_grid(BACK), 99, "labels 1 to 18"), ([], wide, 1, "Print 1 to 2000"),
                                          ([label] * 2001, wide, 1, "Print 1 to 2000")):  # fmt: skip
            with self.assertRaisesRegex(Problem, said):
                print_labels(labels, grid, start)
        self.assertEqual((fitting_grid(BACK).columns, fitting_grid(BACK).rows), (3, 6))
        exact = Grid((210, 297), 3, 7, 15, 2, 0, 2.5)  # 2 + 7 * 40 + 6 * 2.5 = 297: to the edge, and no further
        self.assertEqual(exact.checked(BACK), exact)
        for grid in (replace(exact, rows=8), replace(exact, gap_y_mm=2.6), replace(exact, top_mm=2.1)):
            with self.assertRaisesRegex(Problem, "and the page has 210 × 297"):
                grid.checked(BACK)
        with self.assertRaisesRegex(Problem, "not below nothing"):
            replace(exact, left_mm=-1).checked(BACK)

    def test_words_stand_in_the_middle_of_a_round_label(self) -> None:
        """As much is left above as below, to a twentieth of its height, whatever it says."""
        for blocks in (WORDS[:1], WORDS[:2], WORDS):
            texts = lay_out(LID, blocks).texts
            above = texts[0].y_mm - texts[0].size_mm * 0.78 - 2
            below = LID.height_mm - 2 - texts[-1].y_mm - texts[-1].size_mm * 0.22
            self.assertAlmostEqual(above, below, delta=LID.height_mm / 20)
            self.assertTrue(all(abs(text.x_mm + text.width_mm / 2 - 24) < 0.01 for text in texts))


class WordingTests(CoreTestCase):
    def test_words_that_promise_too_much(self) -> None:
        """Marked with why and a neutral wording, whatever their case; words that only look like them are not."""
        found = {
            claim.words: claim.kind for claim in claims("HEALING balm: treats eczema, anti-bacterial, UV protection")
        }
        self.assertEqual(found, {"HEALING": "treats", "eczema": "treats", "anti-bacterial": "treats", "UV": "sun"})
        self.assertEqual(claims("HEALING")[0].sentence, "“HEALING” promises to treat. Instead: for dry, rough skin.")
        for text in ("Repels midges", "After-sun balm", "Protects your skin all day from the sun", "shields against UVA",
                     "for sunburn", "fades scars", "cold-sore stick", "kills what grows", "bacteria", "against fungus",
                     "Anti aging", "relieves", "soothes pain", "nappy rash", "Medicated", "detox"):  # fmt: skip
            self.assertTrue(claims(text), text)
        for text in ("A healthy shine, a treatise on wheals", "Sunday balm", "Burnished tin", "", "Sun-kissed, supple glow",
                     "Protects dry hands from wind", "Keep out of the sun", "Soothing on dry heels"):  # fmt: skip
            self.assertEqual(claims(text), (), text)

    def test_claims_are_known_by_their_kind(self) -> None:
        """Of more than 150 claims 95 % are marked, of more than 150 harmless names at most 2 %."""
        text = (Path(__file__).parent / "claims.txt").read_text(encoding="utf-8")
        for mark, least, most in (("+", 0.95, 1.0), ("-", 0.0, 0.02)):
            texts = [row[2:] for row in text.splitlines() if row.startswith(f"{mark} ")]
            self.assertGreaterEqual(len(texts), 150)
            marked = sum(bool(claims(each)) for each in texts) / len(texts)
            self.assertTrue(least <= marked <= most, [t for t in texts if bool(claims(t)) != (mark == "+")])

    def test_labels_that_suit_a_container(self) -> None:
        """A lid for a tin, a band for a bar, a wrap for a tube; a back label for each; never more than there is."""
        known = shipped().containers
        tin, bar, tube = (suiting(known[key]) for key in ("tin_screw_60", "mould_round_40g", "lip_tube_4_5g"))
        self.assertEqual(list(tin), ["Lid, round", "Wrap", "Back label"])
        self.assertEqual((next(iter(bar)), next(iter(tube))), ("Band", "Wrap"))
        self.assertEqual(tin["Lid, round"].width_mm, known["tin_screw_60"].diameter_mm // 1 - 4)
        for wide, high, labels in ((14, 14, []), (14.1, 14, ["Lid, round"]), (14, 14.1, ["Wrap"])):
            small = replace(known["tin_screw_60"], diameter_mm=wide, height_mm=high)
            self.assertEqual(list(suiting(small)), [*labels, "Back label"])
        wrap = suiting(replace(known["tin_screw_60"], diameter_mm=50, height_mm=30.5))["Wrap"]
        self.assertEqual((wrap.width_mm, wrap.height_mm), (160, 26))  # 157.08 round it and 3 to overlap
        for grams in (0.99, 4.58, 9.99, 10, 53.97, 1000):
            told, ounces = net_words(grams).split(" / ")
            self.assertLessEqual(float(told.removesuffix(" g")), grams)
            self.assertLessEqual(float(ounces.removesuffix(" oz")) * 28.349523125, grams)

    def test_a_name_is_not_broken_for_a_little_size(self) -> None:
        """On a lid of 30 mm two words stand on one line, though broken they could be larger."""
        name = Block("the name", "Slack Water", 5.2, is_strong=True, is_needed=True)
        small = lay_out(Size(Shape.ROUND, 30, 30), [name, *WORDS[1:3]])
        self.assertEqual(small.texts[0].text, "Slack Water")
        self.assertGreaterEqual(small.texts[0].size_mm, 2.5)
        long = lay_out(Size(Shape.ROUND, 30, 30), [replace(name, text="Slack Water Over The Sands"), *WORDS[1:2]])
        self.assertEqual([line.text for line in long.texts[:2]], ["Slack", "Water Over"])
