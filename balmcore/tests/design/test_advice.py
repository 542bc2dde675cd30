"""Press test, cautions, verdicts, kinds and the triangle: figures and sentences a maker reads."""

from decimal import Decimal as D
from unittest import mock

import numpy as np

from balmcore.advice.feel import feel, scent
from balmcore.advice.safety import Level, Wearer, cautions, most_scent
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


class CautionTests(CoreTestCase):
    def said(
        self, parts: dict[str, float], audience: str = "adult", area: str = "body", school: str = "cautious"
    ) -> list[tuple[str, str]]:
        composition = Composition.of({key: D(str(percent)) / 100 for key, percent in parts.items()})
        return [(caution.level, caution.line) for caution in cautions(composition, Wearer(audience, area, school))]

    def test_the_most_of_each_scent_that_is_in(self) -> None:
        """Two share the cautious 1 % as they stand; the sun's allowance of bergamot is 0.4 % alone and shared with
        lemon's 2 %; what is within its limits stays; a small child has none."""
        for scents, audience, policy, most in (
            ({"lavender": 0.8, "tea_tree": 0.8}, "adult", "cautious", ["0.0050", "0.0050"]),
            ({"lavender": 0.2}, "adult", "cautious", ["0.002"]),
            ({"bergamot_expressed": 0.8}, "adult", "cautious", ["0.0040"]),
            ({"bergamot_expressed": 0.3, "lemon_expressed": 0.9}, "adult", "usual", ["0.0025", "0.0075"]),
            ({"lavender": 0.2}, "newborn_0_3m", "usual", ["0"]),
        ):
            with self.subTest(scents):
                shares = {key: D(str(percent)) / 100 for key, percent in scents.items()}
                balm = Composition.of({**shares, "olive_oil": 1 - sum(shares.values())})
                self.assertEqual(
                    [str(each) for each in most_scent(balm, Wearer(audience, "body", policy)).values()], most
                )
        for percent, stronger in ((0.4, "0.0060"), (0.8, "0.0100"), (2, "0.0100")):
            balm = Composition.of({"lavender": D(str(percent)) / 100, "olive_oil": 1 - D(str(percent)) / 100})
            self.assertEqual(f"{most_scent(balm, Wearer(), D('1.5'))['lavender']:.4f}", stronger)

    def test_total_scent_by_method_audience_and_area(self) -> None:
        """1.5 % on an adult's body: over the cautious 1 %, within the usual 2 %; a child's is 0.25 %."""
        balm = {"beeswax_white": 20, "olive_oil": 78.5, "lavender": 1.5}
        self.assertIn(("stop", "Scent 1.5 % in all, 1.0 % is our most for adults, on the body"), self.said(balm))
        self.assertNotIn("stop", dict(self.said(balm, school="usual")))
        self.assertIn(
            ("stop", "Scent 1.5 % in all, 0.25 % is our most for children of 2 to 6, on the body"),
            self.said(balm, audience="child_2_6y"),
        )
        self.assertIn(("stop", "No scent at all for newborns, on the body"), self.said(balm, audience="newborn_0_3m"))
        self.assertIn(("stop", "Lavender 1.5 %, 0.5 % is its own most on lips"), self.said(balm, area="lips"))

    def test_each_oils_own_limit_age_and_lips(self) -> None:
        """Cinnamon bark 0.1 % is over 0.07; tea tree never on lips; eucalyptus not under ten."""
        self.assertIn(
            ("stop", "Cinnamon bark 0.1 %, 0.07 % is its own most on the body"),
            self.said({"olive_oil": 99.9, "cinnamon_bark": 0.1}),
        )
        self.assertIn(("stop", "Tea tree: not for lips"), self.said({"olive_oil": 99.9, "tea_tree": 0.1}, area="lips"))
        self.assertIn(
            ("stop", "Eucalyptus globulus: not under 10 years"),
            self.said({"olive_oil": 99.9, "eucalyptus_globulus": 0.1}, audience="child_6_15y"),
        )

    def test_sun_sensitising_oils_add_up(self) -> None:
        """Bergamot at 0.3 of 0.4 and lime at 0.35 of 0.7: 125 % of the allowance together."""
        both = {"olive_oil": 99.35, "bergamot_expressed": 0.3, "lime_expressed": 0.35}
        found = [
            c for c in cautions(Composition.of(both), Wearer("adult", "body", "usual")) if c.line.startswith("Sun")
        ]
        self.assertEqual(found[0].line, "Sun and citrus: 125 % of what sunlit skin allows")
        self.assertIn("Divide by 1.2", found[0].text)
        self.assertNotIn("stop", dict(self.said({"olive_oil": 99.7, "bergamot_expressed": 0.3})))

    def test_whom_a_caution_is_for(self) -> None:
        """Of every ingredient of the tables: what is asked first in pregnancy or while nursing is said to those, and to
        nobody else; lanolin is kept from the breast of the nursing alone; a child's age is asked of children alone."""
        asked = {"pregnant": "ask first in pregnancy", "nursing": "ask first while nursing"}
        found = dict.fromkeys(asked, 0)
        for item in shipped().ingredients.values():
            if item.key == "aroma" or item.water_bearing:
                continue
            composition = (
                Composition.of({"olive_oil": D("0.999"), item.key: D("0.001")}) if item.key != "olive_oil" else None
            )
            if composition is None:
                continue
            lines = {
                audience: [caution.line for caution in cautions(composition, Wearer(audience, "body", "cautious"))]
                for audience in ("adult", "pregnant", "nursing")
            }
            oil = item.aromatic
            wanted = {"pregnant": oil.pregnancy_caution, "nursing": oil.nursing_caution} if oil else {}
            for audience, words in asked.items():
                said = {name: any(words in line for line in told) for name, told in lines.items()}
                if wanted:
                    self.assertEqual(said[audience], wanted[audience], (item.key, audience))
                    found[audience] += said[audience]
                self.assertFalse(any(said[name] for name in lines if name != audience), (item.key, audience))
            breast = {name: any("not for the breast" in line for line in told) for name, told in lines.items()}
            if item.group == "lanolin":
                self.assertEqual(breast, {"adult": False, "pregnant": False, "nursing": True}, item.key)
        self.assertGreater(min(found.values()), 5)

    def test_what_lips_swallow(self) -> None:
        """Every oil of the tables that lips wear with care says so on lips, and nowhere else; the others never do."""
        careful = 0
        for item in shipped().ingredients.values():
            if item.aromatic is None or item.key == "aroma" or item.aromatic.lip_suitable == "no":
                continue
            composition = Composition.of({"olive_oil": D("0.9999"), item.key: D("0.0001")})
            said = {
                area: [
                    c.line
                    for c in cautions(composition, Wearer("adult", area, "usual"))
                    if "with care on lips" in c.line
                ]
                for area in ("lips", "body", "face")
            }
            is_careful = item.aromatic.lip_suitable == "caution"
            self.assertEqual((bool(said["lips"]), said["body"], said["face"]), (is_careful, [], []), item.key)
            careful += is_careful
        self.assertGreater(careful, 5)

    def test_what_is_barred_offers_to_be_left_out(self) -> None:
        """In pregnancy and while nursing: what is barred can be taken out by a press; what is only to be asked about
        is asked about, and nothing is taken out for it."""
        counted = {"no": 0, "ask": 0}
        for item in shipped().ingredients.values():
            if item.aromatic or item.pregnancy not in counted or item.water_bearing:
                continue
            composition = Composition.of({"olive_oil": D("0.99"), item.key: D("0.01")})
            for audience in ("pregnant", "nursing"):
                (found,) = (
                    c for c in cautions(composition, Wearer(audience, "body", "usual"))
                    if c.line.startswith(item.name) and "usual at most" not in c.line
                )  # fmt: skip
                self.assertEqual(bool(found.remedy), item.pregnancy == "no", (item.key, audience))
                self.assertIn("midwife or doctor", found.text)
            plain = [c for c in cautions(composition, Wearer("adult", "body", "usual")) if c.level is not Level.NOTE]
            self.assertEqual([c.line for c in plain if "pregnan" in c.line], [], item.key)
            counted[item.pregnancy] += 1
        self.assertGreater(sum(counted.values()), 0)

    def test_water_nursing_colour_allergens_and_vegan(self) -> None:
        """Honey brings water; lanolin is kept from the breast; lips get lip colours; labels are told."""
        self.assertIn(("stop", "Honey brings water"), self.said({"olive_oil": 98, "honey": 2}))
        self.assertIn(
            ("stop", "Lanolin while nursing: not for the breast"),
            self.said({"olive_oil": 70, "lanolin": 30}, audience="nursing"),
        )
        colour = {"olive_oil": 98, "ultramarine_blue": 2}
        self.assertIn(("care", "Ultramarine blue: for lips only if its papers say so"), self.said(colour, area="lips"))
        self.assertIn(
            "Ultramarine blue: not permitted on lips in the United States", dict(map(reversed, self.said(colour)))
        )
        wax = cautions(Composition.of({"beeswax_white": 20, "sweet_almond_oil": 80}), Wearer("adult", "body", "usual"))
        self.assertEqual(
            [(c.line, c.text) for c in wax],
            [
                ("Allergens: bee products, tree nuts", "bee products (Beeswax, white); tree nuts (Sweet almond oil)."),
                ("Not vegan: beeswax, white", "It comes from animals."),
            ],
        )
        self.assertEqual(self.said({"candelilla_wax": 12, "olive_oil": 88}), [("note", "Vegan")])
        self.assertIn(("note", "Vegan only if the supplier says so"), self.said({"cetyl_alcohol": 5, "olive_oil": 90}))
        self.assertIn(
            ("care", "Carnauba wax 20.0 %, 15 % is usual at most"), self.said({"carnauba_wax": 20, "olive_oil": 80})
        )

    def test_what_several_oils_hold_adds_up(self) -> None:
        """Lemongrass 0.1 at 85 % and melissa 0.1 at 65 % make 0.15 % of citral: just the most; a little more is over."""
        fine = {"olive_oil": 99.8, "lemongrass": 0.1, "melissa": 0.1}
        self.assertNotIn("stop", dict(self.said(fine)))
        over = cautions(
            Composition.of({"olive_oil": 99.76, "lemongrass": 0.12, "melissa": 0.12}), Wearer("adult", "body", "usual")
        )
        self.assertEqual(over[0].line, "Citral about 0.18 %, 0.15 % is our most")
        self.assertEqual([item.key for item in over[0].about], ["lemongrass", "melissa"])
        self.assertEqual([str(share) for _, share in over[0].remedy], ["0.0010", "0.0010"])

    def test_lips_age_and_pregnancy_of_oils_that_are_no_scent(self) -> None:
        """Neem and arnica are kept from lips, children and pregnancy; a care on lips is told; wintergreen fits adults."""
        herbal = {"beeswax_white": 20, "neem_oil": 3, "arnica_oil": 20, "olive_oil": 57}
        lips = self.said(herbal, area="lips")
        self.assertIn(("stop", "Neem oil: not for lips"), lips)
        self.assertIn(("stop", "Arnica-infused oil: not for lips"), lips)
        self.assertIn(("stop", "Arnica-infused oil: not under 3 years"), self.said(herbal, audience="child_2_6y"))
        self.assertIn(("stop", "Neem oil: not in pregnancy"), self.said(herbal, audience="pregnant"))
        self.assertIn(("care", "St John's wort-infused oil: ask first while nursing"),
                      self.said({"olive_oil": 90, "st_johns_wort_oil": 10}, audience="nursing"))  # fmt: skip
        self.assertIn(
            ("care", "Ylang ylang: with care on lips"), self.said({"olive_oil": 99.9, "ylang_ylang": 0.1}, area="lips")
        )
        self.assertNotIn("stop", dict(self.said({"olive_oil": 99.95, "wintergreen": 0.05})))
        self.assertIn(
            ("stop", "Spearmint: not under 2 years"),
            self.said({"olive_oil": 99.9, "spearmint": 0.1}, audience="baby_3_24m"),
        )
        self.assertIn(
            ("care", "Beetroot powder: not near the eye"),
            self.said({"olive_oil": 98, "beetroot_powder": 2}, area="face"),
        )

    def test_a_caution_offers_the_remedy_that_arithmetic_can_give(self) -> None:
        """Own limits, the total, the sun and water: after the remedy the caution is gone."""
        for parts, area, offer in (
            ({"olive_oil": 98.5, "lavender": 1.5}, "lips", "Bring lavender to 0.5 %"),
            ({"olive_oil": 97, "lavender": 2, "geranium": 1}, "body", "Bring them down to 0.99 % together"),
            (
                {"olive_oil": 99.35, "bergamot_expressed": 0.3, "lime_expressed": 0.35},
                "body",
                "Bring them down to 0.52 % together",
            ),
            ({"olive_oil": 98, "honey": 2}, "body", "Take honey out"),
            ({"olive_oil": 75, "carnauba_wax": 25}, "body", "Bring carnauba wax to 15.0 %"),
        ):
            with self.subTest(offer):
                composition = Composition.of({key: D(str(percent)) / 100 for key, percent in parts.items()})
                first = next(c for c in cautions(composition, Wearer("adult", area, "cautious")) if c.offer == offer)
                mended = set_shares(composition, {item.key: share for item, share in first.remedy}, follow=True)
                self.assertNotIn(first.line, [c.line for c in cautions(mended, Wearer("adult", area, "cautious"))])
                self.assertNotIn(offer, [c.offer for c in cautions(mended, Wearer("adult", area, "cautious"))])


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
            (70, 55, "On skin it drags: it gives up little in warmth."),
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
            (low - 0.1, "Just too soft for a hand balm"),
            (high + 0.1, "Just too firm for a hand balm"),
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
