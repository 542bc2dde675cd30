"""What a label says to anyone who gets the tin."""

from decimal import Decimal as D

from balmcore.composition import Composition
from balmcore.labels.warnings import warnings
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase


class WarningTests(CoreTestCase):
    def of(self, area: str = "body", **percent: float) -> tuple[str, ...]:
        shares = {key: D(str(each)) / 100 for key, each in percent.items()}
        return warnings(Composition.of({**shares, "olive_oil": 1 - sum(shares.values())}), area)

    def test_a_tin_speaks_to_all_who_may_find_it(self) -> None:
        """A herb, citrus in the sun, scent for whose skin; nothing where nothing is asked."""
        for parts, area, said in (
            ({"comfrey_oil": 30}, "body", ("Only on unbroken skin.", "For short use.", "Not for lips.",
             "Not for children under 15 years.", "Not in pregnancy or while nursing.")),
            ({"st_johns_wort_oil": 30}, "body", ("Beside medicines ask first.", "Keep treated skin out of the sun.")),
            ({"bergamot_expressed": 0.3}, "hands_feet", ()),
            ({"bergamot_expressed": 0.8}, "hands_feet", ("Keep treated skin out of the sun.",)),
            ({"lavender": 1}, "body", ("Not for children under 15 years.",)),
            ({"lavender": 0.2}, "body", ("Not for children under 2 years.",)),
            ({"honey": 2}, "lips", ("Not for children under 1 year.",)),
            ({"beeswax_white": 20}, "lips", ()),
            ({"lip_flavour_oil": 0.5}, "lips", ("Not for children under 6 years.", "Not for the breast.")),
        ):  # fmt: skip
            with self.subTest(parts):
                found = self.of(area, **parts)
                self.assertEqual([each for each in said if each not in found], [], found)
                if "lip_flavour_oil" in parts:  # a flavour for lips bars nobody from six
                    self.assertNotIn("Not for children under 15 years.", found)
                if not said:
                    self.assertNotIn("sun", " ".join(found))

    def test_everything_that_is_barred_anywhere_is_on_the_tin(self) -> None:
        """Every row of the tables: its lips, its age, pregnancy; short, and no figure that is only the maker's."""
        self.assertEqual(self.of("lips", beeswax_white=20), ())
        for key, item in shipped().ingredients.items():
            found = " ".join(told := self.of(**{key: 0.01}))
            scent, colour = item.aromatic, item.colourant
            with self.subTest(key):
                self.assertTrue(all(len(each) <= 60 and "%" not in each for each in told), told)
                if "no" in (item.lip_ok, scent and scent.lip_suitable, colour and colour.lip_ok):
                    self.assertIn("Not for lips.", found)
                if years := max(part.avoid_under_years or 0 for part in (item, scent, colour) if part):
                    self.assertIn("Not for ", found)
                    self.assertGreaterEqual(float(found.split("under ")[1].split()[0]), min(years, 15))
                if item.pregnancy == "no" or (scent and scent.pregnancy_caution == "never"):
                    self.assertIn("Not in pregnancy or while nursing.", found)
