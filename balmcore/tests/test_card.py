"""A recipe on a card: its grams, its steps for as many containers as they fill, its cautions; printed on the paper asked
for."""

from decimal import Decimal as D

import pypdfium2

from balmcore.advice.safety import Wearer
from balmcore.composition import Composition
from balmcore.display import COMMA, Display
from balmcore.errors import Problem
from balmcore.labels.card import Card, card
from balmcore.labels.card_pdf import print_card
from balmcore.making.pot import pour_temperature
from balmcore.making.scaling import by_suit, filled_density
from balmcore.making.steps import BURNS
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase

SALVE = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.79"), "lavender": D("0.01")})


def of_pour(composition: Composition) -> float:
    """Where it is poured."""
    return pour_temperature(composition)


def of(grams: object, kind: str = "pot_salve", show: Display | None = None, composition: Composition = SALVE) -> Card:
    """The card of a salve for so many grams, worn by adults."""
    tables = shipped()
    return card(
        "Ebb, version 2",
        "A pot salve.",
        composition,
        tables.kind(kind),
        D(str(grams)),
        tables.containers,
        Wearer(),
        18,
        show or Display(),
    )


class CardTests(CoreTestCase):
    def test_grams_on_the_scale_and_the_sum_of_them(self) -> None:
        """To the scale's step, adding up; in the maker's unit and mark; for nothing it is refused."""
        self.assertEqual([row[1:] for row in of(250).rows], [("20.0", "50.0"), ("79.0", "197.5"), ("1.0", "2.5")])
        self.assertEqual((of(250).total, of(250).mass), ("250.0", "g"))
        ounces = of("226.796185", show=Display("oz", "F", 0.05 * 28.349523125, COMMA))
        self.assertEqual([row[2] for row in ounces.rows], ["1,60", "6,30", "0,10"])
        self.assertEqual((ounces.total, ounces.mass), ("8,00", "oz"))
        for grams in (0, -3):
            with self.assert_refused("Say of how much: 100 g."):
                of(grams)

    def test_the_method_for_as_many_pieces_as_the_grams_fill(self) -> None:
        """The first container that suits a pot salve; the steps in order, each temperature said once, the fire
        only below; ounces and °F say the same steps."""
        steps = dict(of(500).steps)
        self.assertEqual(
            list(steps)[:4] + list(steps)[-2:],
            ["Make ready", "Weigh", "Melt", "Clear test", "Cap and label", "Let it rest"],
        )
        self.assertRegex(steps["Pour"], r"^Pour at \d+ °C\. \d+ pieces take about")
        few, many = (int(dict(of(grams).steps)["Pour"].split(" pieces")[0].split()[-1]) for grams in (500, 1000))
        tin = by_suit(shipped().kind("pot_salve"), shipped().containers)[0]
        each = tin.capacity_ml * tin.fill * filled_density(SALVE, of_pour(SALVE), 0.0)
        self.assertEqual((few, many), (round(500 / each), round(1000 / each)))
        self.assertIn("1 piece takes about 8 seconds", dict(of(3).steps)["Pour"])
        self.assertIn("Beeswax, yellow; Olive oil.", steps["Melt"])
        self.assertEqual([words for words in steps.values() if BURNS in words], [])
        self.assertEqual(of(500).notes[0], BURNS)
        self.assertIn("none of this is medical advice", of(500).notes[-1])
        self.assertRegex(dict(of(500, show=Display("oz", "F")).steps)["Melt"], r"\d+ °F")
        whipped = dict(of(500, "whipped_butter").steps)
        self.assertNotEqual(list(whipped), list(steps))
        self.assertTrue({"Melt", "Whip"} <= set(whipped))
        oil = of(500, "whipped_butter", composition=Composition.of({"olive_oil": 100}))
        self.assertIn("It stays too soft to dent even in a refrigerator", dict(oil.steps)["Chill as far as it goes"])

    def test_cautions_of_the_composition(self) -> None:
        """What decides for its wearer stands on it, with its reason."""
        heavy = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.7"), "lavender": D("0.1")})
        told = " ".join(of(100, composition=heavy).cautions)
        self.assertIn("Scent 10.0 % in all, 1.0 % is our most for adults, on the body.", told)
        self.assertIn("bee products", told)

    def test_on_paper(self) -> None:
        """A4 and Letter to a tenth of a millimetre; every row, step and note is on it; strange letters are left out."""
        shown = of(250)
        for paper, size in (("a4", (210.0, 297.0)), ("letter", (215.9, 279.4))):
            printed = pypdfium2.PdfDocument(print_card(shown, paper))
            self.assertEqual(tuple(round(side / 72 * 25.4, 1) for side in printed[0].get_size()), size)
            text = " ".join(page.get_textpage().get_text_range() for page in printed).replace("\r\n", " ")
            for words in ("Ebb, version 2", "Olive oil 79.0 197.5", "Total 100 250.0", "13. Let it rest", BURNS[:40]):
                self.assertIn(words, text)
        strange = Card("Tide 🌊 <b>", "", "g", (("מים", "1", "1"),), "1", (), ())
        text = pypdfium2.PdfDocument(print_card(strange, "a4"))[0].get_textpage().get_text_range()
        self.assertIn("Tide <b>", text)
        with self.assertRaises(KeyError):
            print_card(shown, "napkin")


class RefusedTests(CoreTestCase):
    def test_nothing_in_it(self) -> None:
        """A composition of nothing has no card."""
        with self.assertRaises(Problem):
            of(100, composition=Composition.of({"olive_oil": D(0)}))
