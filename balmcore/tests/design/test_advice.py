"""Press test, verdicts, kinds and the triangle: figures and sentences a maker reads."""

from decimal import Decimal as D
from unittest import mock

import numpy as np

from balmcore.advice.feel import feel, scent
from balmcore.advice.safety import Wearer, cautions
from balmcore.advice.structure import contributions
from balmcore.advice.verdict import judge
from balmcore.composition import Composition, set_shares
from balmcore.design.triangle import firmness_at_places, grid, place_of, spread, survey
from balmcore.display import Display
from balmcore.physics.firmness import Prediction, predict
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase
from balmcore.trials.press import Measured, compare, press, thumb


class PressTests(CoreTestCase):
    def test_yield_from_a_flat_rod(self) -> None:
        """252 g on a 6 mm rod: 252 x 9.80665e-3 / (6.05 x 28.27e-6) = 14.4 kPa, firmness 54."""
        found = press(252, 6, 0.1)
        self.assertAlmostEqual(found.firmness, 53.99, delta=0.01)
        self.assertEqual(found.sigma, 4)
        self.assertAlmostEqual(press(63, 3, 0.1).firmness, found.firmness, places=9)

    def test_readings_that_mean_nothing_are_refused(self) -> None:
        """Under 5 steps of the scale, a rod too wide for the piece, a rod nobody has, not a number."""
        for case, said in (
            ((0.4, 6, 0.1), "A reading of 0.4 g is under 5 steps of the scale"),
            ((100, 6, 0.1, 12.2), "A 6 mm rod is wider than a third of a 12.2 mm piece: take a thinner rod."),
            ((100, 5, 0.1), "The rod should be 3, 6 or 10 mm across."),
            ((float("nan"), 6, 0.1), "is under 5 steps"),
            ((1e9, 6, 0.1), "more than a kitchen scale bears"),
        ):
            with self.subTest(said), self.assert_refused(said):
                press(*case)
        self.assertGreater(press(0.5, 10, 0.1).firmness, -1)

    def test_a_thumb_grade_is_the_middle_of_its_word(self) -> None:
        """Soft scoop lies between 28 and 42."""
        self.assertEqual(thumb("soft scoop"), Measured(35, 9))
        with self.assert_refused("“rock” is not a thumb grade"):
            thumb("rock")

    def test_a_gap_is_judged_by_both_uncertainties(self) -> None:
        """9 and 4 together make 9.8: nine points are within, twelve are not."""
        self.assertEqual(compare(50, 9, Measured(52, 4)), "The test agrees with the prediction.")
        self.assertEqual(
            compare(50, 9, Measured(41, 4)), "9 points softer than predicted: within what the model can promise."
        )
        self.assertIn("12 points firmer than predicted: more than the model expects", compare(50, 9, Measured(62, 4)))


class VerdictTests(CoreTestCase):
    def test_every_kind_begins_inside_its_own_window_and_without_a_stop(self) -> None:
        """All twelve starting points fit, and none breaks a limit for an adult."""
        self.assertEqual(len(shipped().kinds), 12)
        for kind in shipped().kinds.values():
            with self.subTest(kind.key):
                start = Composition.of({key: round(percent / 100, 6) for key, percent in kind.start})
                verdict = judge(predict(start, kind.overrun), kind, Display())
                self.assertTrue(verdict.fits, verdict)
                self.assertEqual(verdict.headline, f"Right for a {kind.name.lower()}")
                self.assertNotIn("stop", [c.level for c in cautions(start, Wearer("adult", kind.area, "cautious"))])

    def test_sentences_in_the_makers_own_degrees(self) -> None:
        """A firm tube holds to 44.0 °C: told as 44 °C, or 111 °F; soft ones are told what is wanted."""
        tube = shipped().kinds["lip_balm_tube"]
        firm = predict(
            Composition.of(
                {
                    "beeswax_white": 24,
                    "kokum_butter": 14,
                    "coconut_oil_refined": 22,
                    "castor_oil": 15,
                    "sweet_almond_oil": 25,
                }
            )
        )
        verdict = judge(firm, tube, Display())
        self.assertEqual((verdict.word, verdict.hold), ("firm pot", "Holds its shape to 44 °C."))
        self.assertEqual(verdict.headline, "Right for a tube lip balm")
        self.assertEqual(judge(firm, tube, Display(temp="F")).clear, "The melt is clear from 129 °F.")
        salve = judge(predict(Composition.of({"beeswax_yellow": 15, "olive_oil": 85})), tube, Display())
        self.assertEqual(salve.hold, "Holds its shape to 26 °C only; 38 °C is wanted.")
        butter = judge(
            predict(Composition.of({"shea_butter": 60, "olive_oil": 40})), shipped().kinds["hand_balm"], Display()
        )
        self.assertEqual(butter.skin, "On skin it runs: it melts away at once.")
        oil = judge(predict(Composition.of({"olive_oil": 100})), tube, Display())
        self.assertEqual((oil.clear, oil.set), ("Stays liquid and clear even in the cold.", "It never sets."))
        self.assertIn("Free oil is likely", oil.bleed)

    def test_a_point_from_a_border_is_said(self) -> None:
        """Right, at its soft or its firm edge; two points inside nothing is added; held as it is shown is held."""
        kind = shipped().kind("lip_gloss")
        balm = predict(Composition.of({"olive_oil": 1}))
        tube = shipped().kinds["lip_balm_tube"]
        for there, drags in ((70, False), (71, True)):
            told = {21.0: 80.0, 33.0: float(there)}
            with mock.patch.object(Prediction, "firmness_at", lambda _, temp, told=told: told.get(temp, 60.0)):
                found = judge(balm, tube, Display())
                self.assertEqual(found.headline.startswith("Drags"), drags)
                self.assertFalse(found.fits and drags)
        low, high = kind.firm_low, kind.firm_high
        for firmness, edge in ((low, ", at its soft edge"), (low + 1.4, ", at its soft edge"), (low + 2, ""),
                               (high - 2, ""), (high - 0.6, ", at its firm edge"), (high + 0.4, ", at its firm edge")):  # fmt: skip
            with mock.patch.object(Prediction, "firmness_at", lambda _, temp, f=firmness: f):
                found = judge(balm, kind, Display())
                self.assertEqual((found.headline, found.fits), (f"Right for a {kind.name.lower()}{edge}", True))

    def test_where_one_word_ends_and_the_next_begins(self) -> None:
        """On skin by what is left at 33 degrees C, and by what was given up where that is much; a point off its
        window is said, less is just."""
        balm, kind = predict(Composition.of({"olive_oil": 100})), shipped().kinds["hand_balm"]
        for at_21, at_33, skin in (
            (9.9, 9.9, "On skin it runs, like an oil."),
            (10, 9.9, "On skin it runs: it melts away at once."),
            (40, 10, "On skin it gives up quickly and glides."),
            (40, 34.9, "On skin it gives up quickly and glides."),
            (43, 35, "On skin it glides with a little warmth."),
            (42.9, 35, "On skin it glides slowly, with some drag."),
            (70, 54.9, "On skin it glides with a little warmth."),
            (70, 55, "On skin it drags: it softens little in warmth."),
        ):
            told = {21.0: at_21, 33.0: at_33}
            with (
                self.subTest(told),
                mock.patch.object(Prediction, "firmness_at", lambda _, temp, told=told: told[temp]),
            ):
                self.assertEqual(judge(balm, kind, Display()).skin, skin)
        low, high = kind.firm_low, kind.firm_high
        for firmness, headline in (
            (low - 1, "1 point too soft for a hand balm"),
            # What is shown is what is judged: 47.6 stands there as 48.
            (low - 0.4, "Right in a cool room, but too soft in heat for a hand balm"),
            (high + 0.4, "Right in a cool room, but too soft in heat for a hand balm"),
            (high + 0.6, "1 point too firm for a hand balm"),
            (high + 2, "2 points too firm for a hand balm"),
            (low, "Right in a cool room, but too soft in heat for a hand balm"),
            (high, "Right in a cool room, but too soft in heat for a hand balm"),
        ):
            told = {21.0: firmness, 33.0: 5}
            with (
                self.subTest(told),
                mock.patch.object(Prediction, "firmness_at", lambda _, temp, told=told: told[temp]),
            ):
                self.assertEqual(judge(balm, kind, Display()).headline, headline)


class TriangleTests(CoreTestCase):
    composition = Composition.of(
        {"beeswax_yellow": 15, "shea_butter": 10, "cocoa_butter": 10, "olive_oil": 64, "lavender": 1}
    )

    def test_places_keep_inner_splits_and_extras(self) -> None:
        """Half wax, half butter: wax 49.5 %, two butters 24.75 % each, scent still 1 %."""
        keys, shares = spread(self.composition, np.array([[0.5, 0.5, 0.0]]))
        self.assertEqual(keys, self.composition.ingredients)
        np.testing.assert_allclose(shares[0], [0.495, 0.2475, 0.2475, 0, 0.01])

    def test_the_formulas_own_place_has_its_own_firmness(self) -> None:
        """At its place the triangle agrees with the prediction."""
        place = place_of(self.composition)
        np.testing.assert_allclose(place, (15 / 99, 20 / 99, 64 / 99))
        found = firmness_at_places(self.composition, np.array([place]), 21.0)[0]
        self.assertAlmostEqual(found, predict(self.composition).firmness_at(21), places=9)

    def test_the_grid_at_one_percent_has_5151_places(self) -> None:
        """All of them add to 1."""
        places = grid(100)
        self.assertEqual(places.shape, (5151, 3))
        np.testing.assert_allclose(places.sum(axis=1), 1)

    def test_bands_lie_where_the_firmness_is_and_missing_groups_are_named(self) -> None:
        """The window's outline runs at its firmness; without butter shea stands in and is said."""
        survey_of = survey(Composition.of({"beeswax_yellow": 15, "olive_oil": 85}), (45, 58))
        self.assertEqual(survey_of.stand_ins, ("shea_butter_refined",))
        outline = np.array([point for ring in survey_of.window.rings for point in ring])
        inner = outline[(outline > 0.02).all(axis=1) & (outline.sum(axis=1) < 0.98)]
        places = np.column_stack([inner, 1 - inner.sum(axis=1)])
        found = firmness_at_places(Composition.of({"beeswax_yellow": 15, "olive_oil": 85}), places, 21.0)
        self.assertGreater(len(found), 20)
        self.assertTrue(np.all(np.minimum(abs(found - 45), abs(found - 58)) < 0.6))
        self.assertEqual([band.name for band in survey_of.bands][:3], ["runs", "gel", "soft scoop"])

    def test_a_name_keeps_clear_of_what_stands_there(self) -> None:
        """Where its best place is taken, "bar" goes half its width and three steps aside, "stick" three steps down."""
        balm = Composition.of({"beeswax_yellow": 17, "shea_butter_refined": 23, "sunflower_oil_ho": 60})
        for name, best, other in (("bar", (0.58, 0.22), (0.58, 0.12)), ("stick", (0.28, 0.44), (0.22, 0.56))):
            free, moved = (survey(balm, (48, 70), taken=taken) for taken in ((), [(*best, 1 - sum(best))]))
            at = [band.name for band in free.bands].index(name)
            self.assertEqual((free.labels[at], moved.labels[at]), (best, other))

    def test_a_composition_that_only_moves_stays_in_its_country(self) -> None:
        """A little more wax, the others in proportion: the very same borders, true to a point; another split of the
        oils has its own."""
        shares = {"beeswax_yellow": 15, "shea_butter_refined": 13.3, "coconut_oil": 10.2, "castor_oil": 40.9}
        start = Composition.of({**shares, "olive_oil": 19.9, "lavender": 0.7})
        waxier = set_shares(start, {"beeswax_yellow": D("0.153")}, follow=True)
        before, after = survey(start, (45, 58)), survey(waxier, (45, 58))
        self.assertIs(after.window, before.window)
        outline = np.array([point for ring in after.window.rings for point in ring])
        inner = outline[(outline > 0.02).all(axis=1) & (outline.sum(axis=1) < 0.98)]
        found = firmness_at_places(waxier, np.column_stack([inner, 1 - inner.sum(axis=1)]), 21.0)
        self.assertLess(np.minimum(abs(found - 45), abs(found - 58)).max(), 1)
        other = Composition.of({**shares, "castor_oil": 39.9, "olive_oil": 20.9, "lavender": 0.7})
        self.assertIsNot(survey(other, (45, 58)).window, before.window)


class FeelTests(CoreTestCase):
    def test_feel_is_weighted_over_what_is_liquid_on_skin_and_powder_dries_it(self) -> None:
        """Half grapeseed (1, 20 min), half castor (5, 90 min): 3 and 55; eight percent starch takes 1.2 off."""
        gloss, butter = shipped().kinds["lip_gloss"], shipped().kinds["body_butter"]
        oils = feel(Composition.of({"grapeseed_oil": 1, "castor_oil": 1}), gloss)
        self.assertEqual((oils.weight, oils.sink_minutes, oils.greasiness), (3, 55, 3))
        self.assertEqual(oils.sentence, "Rich, cushioned finish, stays on the skin. High shine that clings.")
        starched = feel(Composition.of({"grapeseed_oil": 46, "castor_oil": 46, "arrowroot": 8}), butter)
        self.assertAlmostEqual(starched.greasiness, 1.8)
        self.assertIsNone(feel(Composition.of({"arrowroot": 1}), butter))
        # With so much castor in a hundred it weighs 1 + 0.04 of it and takes 20 + 0.7 of it minutes.
        for castor, words in (
            (17, "Light, dry finish, sinks in within half an hour."),
            (19, "Light, dry finish, sinks in slowly."),
            (21, "Light, satin finish, sinks in slowly."),
            (26, "Medium, satin finish, sinks in slowly."),
            (39, "Medium, satin finish, sinks in slowly."),
            (41, "Medium, satin finish, stays on the skin."),
            (46, "Medium, cushioned finish, stays on the skin."),
            (51, "Rich, cushioned finish, stays on the skin."),
            (69, "Rich, cushioned finish, stays on the skin."),
            (71, "Rich, greasy finish, stays on the skin."),
            (76, "Heavy, greasy finish, stays on the skin."),
        ):
            with self.subTest(castor):
                found = feel(Composition.of({"grapeseed_oil": 100 - castor, "castor_oil": castor}), gloss)
                shine = "High shine that clings." if castor >= 45 else "Some shine, slips off sooner."
                self.assertEqual(found.sentence, f"{words} {shine}")
        self.assertIn("sinks in quickly", feel(Composition.of({"squalane": 1}), butter).sentence)

    def test_a_base_that_smells_fights_a_chosen_scent(self) -> None:
        """Unrefined butters are told; refined ones are not."""
        base = {"shea_butter": 60, "olive_oil": 39, "lavender": 1}
        self.assertEqual(
            scent(Composition.of(base)),
            "The base smells of smoky nut (shea butter, unrefined): it will fight lavender. Refined butter has no smell.",
        )
        self.assertEqual(scent(Composition.of({"shea_butter_refined": 60, "olive_oil": 40})), "")

    def test_why_it_is_firm(self) -> None:
        """Parts add to the whole; the slope is the difference that one percent more really makes."""
        composition = Composition.of({"beeswax_yellow": 15, "shea_butter": 15, "olive_oil": 70})
        parts = contributions(composition, 21)
        self.assertAlmostEqual(sum(part.structure for part in parts.values()), 1)
        self.assertEqual(parts["olive_oil"].structure, 0)
        more = Composition.of({"beeswax_yellow": 15 * 0.99 + 1, "shea_butter": 15 * 0.99, "olive_oil": 70 * 0.99})
        gain = predict(more).firmness_at(21) - predict(composition).firmness_at(21)
        self.assertAlmostEqual(parts["beeswax_yellow"].slope, gain, places=6)
        self.assertGreater(parts["beeswax_yellow"].slope, 1)
        self.assertLess(parts["olive_oil"].slope, 0)
