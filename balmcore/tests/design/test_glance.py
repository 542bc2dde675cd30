"""What is drawn of a prediction: marks that agree with their sentences and with the plan, scales with two ends."""

import re

from balmcore.advice.feel import feel
from balmcore.advice.verdict import judge
from balmcore.composition import Composition
from balmcore.design.glance import marks, scales, unmarked
from balmcore.display import Display
from balmcore.making.pot import pour_temperature
from balmcore.physics.firmness import predict
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase

BALMS = (
    {"beeswax_yellow": 17, "shea_butter": 23, "sunflower_oil_ho": 60},
    {"carnauba_wax": 30, "castor_oil": 70},
    {"cocoa_butter": 60, "jojoba_oil": 40},
    {"beeswax_yellow": 5, "olive_oil": 95},
    {"olive_oil": 100},
)


class GlanceTests(CoreTestCase):
    def test_marks_say_what_their_sentences_say(self) -> None:
        """For every kind, in both units: the figure of a mark stands in its sentence; what has no mark is said; the
        stretch to pour in ends where the plan pours."""
        for shares in BALMS:
            composition = Composition.of(shares)
            prediction = predict(composition)
            for kind in shipped().kinds.values():
                for show in (Display(), Display(temp="F")):
                    verdict = judge(prediction, kind, show)
                    found = {mark.key: mark for mark in marks(prediction, verdict, show)}
                    for mark in found.values():
                        with self.subTest(f"{shares} {kind.key} {mark.name}"):
                            self.assertIn(re.findall(r"\d+ °[CF]", mark.name)[0], mark.sentence)
                    self.assertEqual("set" in found, prediction.set_c is not None)
                    self.assertEqual(len(found) - ("pour" in found) + len(unmarked(prediction, verdict)), 3)
                    if "pour" in found:
                        self.assertEqual(found["pour"].until_c, pour_temperature(composition))
                        self.assertLessEqual(found["pour"].temp_c, prediction.set_c or 0)

    def test_feel_has_its_place_between_two_ends(self) -> None:
        """Castor and wax cling, starch takes the shine, a light oil is dry; the ends are never passed."""
        places = {}
        for name, shares in {
            "gloss": {"castor_oil": 70, "beeswax_yellow": 10, "grapeseed_oil": 20},
            "light": {"grapeseed_oil": 97, "beeswax_yellow": 3},
            "starched": {"castor_oil": 62, "beeswax_yellow": 10, "grapeseed_oil": 20, "arrowroot": 8},
        }.items():
            prediction = predict(Composition.of(shares))
            kind = shipped().kind("pot_salve")
            found = scales(prediction, judge(prediction, kind, Display()), feel(prediction.composition, kind))
            places[name] = {scale.key: scale.place for scale in found}
            self.assertEqual([scale.key for scale in found], ["skin", "rich", "sink", "shine", "cling"])
            self.assertTrue(all(0 <= scale.place <= 1 for scale in found))
        self.assertAlmostEqual(places["gloss"]["shine"], 0.7 / 0.9)
        self.assertAlmostEqual(places["starched"]["shine"], 0.62 / 0.9 - 8 * 0.15 / 4)
        self.assertAlmostEqual(places["gloss"]["cling"], 0.7 / 0.9 + 0.1 / 0.5)
        self.assertAlmostEqual(places["light"]["cling"], 0.03 / 0.5)
        self.assertEqual(places["light"]["shine"], 0)
        self.assertLess(places["light"]["rich"], 0.1)
