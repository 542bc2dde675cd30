"""What a formula is meant for, and what goes against it."""

from balmcore.composition import Composition
from balmcore.design.meant import LISTED, SEASONS, SKINS, Meant, against
from balmcore.display import CELSIUS, Display
from balmcore.physics.firmness import predict
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase

BALM = {"beeswax_yellow": 17, "sweet_almond_oil": 40, "coconut_oil": 42, "lavender": 1}


class MeantTests(CoreTestCase):
    def told(self, shares: dict[str, float], meant: Meant, show: Display = CELSIUS) -> list[str]:
        found = against(Composition.of(shares), meant, shipped().kind("hand_balm"), shipped(), show)
        return [caution.line for caution in found]

    def test_every_wish_is_judged_line_by_line(self) -> None:
        self.assertEqual(self.told(BALM, Meant()), [])
        self.assertEqual(
            self.told(BALM, Meant(vegan=True, without=("tree nuts",))),
            ["Beeswax, yellow: not vegan", "Sweet almond oil: not without tree nuts"],
        )
        self.assertEqual(self.told({"cetyl_alcohol": 1}, Meant(vegan=True)), [
            "Cetyl alcohol: vegan only if the supplier says so"])  # fmt: skip
        self.assertEqual(self.told({"olive_oil": 1, "beeswax_yellow": 0}, Meant(vegan=True)), [])

    def test_a_skin_has_its_ingredients_marked_with_how_little_is_known(self) -> None:
        kind, tables = shipped().kind("hand_balm"), shipped()
        for skin in ("oily", "clogs"):
            found = against(Composition.of(BALM), Meant(skin=skin), kind, tables, Display())
            listed = next(caution for caution in found if caution.line.startswith("On lists of what clogs"))
            self.assertEqual([item.key for item in listed.about], ["coconut_oil"])
            self.assertIn("rest on old tests", listed.text)
        self.assertEqual(self.told(BALM, Meant(skin="reactive")), ["Often too much for reactive skin: lavender"])
        self.assertEqual(
            self.told({"grapeseed_oil": 97, "beeswax_yellow": 3}, Meant(skin="dry")), ["Light for dry skin"]
        )
        self.assertLessEqual(LISTED, set(tables.ingredients))

    def test_a_season_is_held_against_its_heat_in_either_unit(self) -> None:
        """In a bag at 40 degrees a soft balm is too soft, by the figure of the model itself; a hard one is not."""
        soft = {"beeswax_yellow": 6, "olive_oil": 94}
        there = predict(Composition.of(soft)).firmness_at(40)
        (line,) = self.told(soft, Meant(season="summer"))
        self.assertIn(f"In a bag in July, 40 °C, it is {there:.0f}, ", line)
        self.assertIn("104 °F", self.told(soft, Meant(season="summer"), Display(temp="F"))[0])
        self.assertEqual(self.told({"beeswax_yellow": 35, "olive_oil": 65}, Meant(season="summer")), [])
        self.assertIn("hard to take up", self.told(BALM, Meant(season="winter"))[0])

    def test_it_is_put_into_words(self) -> None:
        self.assertEqual(Meant().words, "")
        self.assertEqual(
            Meant(True, ("nuts", "soy"), True, "dry", "summer").words,
            "vegan, without nuts and soy, only from stock, for dry skin, for a bag in July",
        )
        self.assertEqual({Meant(skin=skin).words for skin in SKINS}, {f"for {words}" for words in SKINS.values()})
        self.assertEqual(len({Meant(season=key).words for key in SEASONS}), 2)
