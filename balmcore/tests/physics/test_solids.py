"""Solids and firmness against worked values, and the laws any mixture obeys."""

import json
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.composition import Composition
from balmcore.physics.basis import basis
from balmcore.physics.firmness import BANDS, DRAWN_C, predict, structure_by_group, word, words_of
from balmcore.tables import Ingredient, shipped
from balmcore.tests import CoreTestCase

VECTORS = json.loads((Path(__file__).parent / "vectors" / "solids_firmness.json").read_text())
KEYS = sorted(shipped().ingredients)


def items(keys: Sequence[str]) -> tuple[Ingredient, ...]:
    """The shipped ingredients of some keys."""
    return tuple(shipped().ingredient(key, f"percent.{key}") for key in keys)


TEMPS = np.arange(-10.0, 95.0, 2.5)

compositions = st.dictionaries(
    st.sampled_from(KEYS), st.floats(0.001, 1000, allow_nan=False), min_size=1, max_size=10
).map(lambda parts: (tuple(parts), np.array([list(parts.values())])))


class WorkedValuesTests(CoreTestCase):
    def test_every_worked_case_holds_within_its_tolerance(self) -> None:
        """Solid share to 0.002, structure to 0.002, firmness to 0.3, temperatures to 0.3 K, volume to 0.002 mL/g."""
        self.assertEqual(len(VECTORS["cases"]), 13)
        for case in VECTORS["cases"]:
            with self.subTest(case["name"]):
                found = predict(Composition.of(case["percent"]))
                state = found.curve(case["temps_c"])
                np.testing.assert_allclose(state.solid_share[0], case["solid_share"], atol=0.002)
                np.testing.assert_allclose(state.structuring[0], case["structuring"], atol=0.002)
                for firmness, wanted in zip(state.unclipped[0], case["firmness_unclipped"], strict=True):
                    if wanted is None:
                        self.assertLess(firmness, -30)
                    else:
                        self.assertAlmostEqual(firmness, wanted, delta=0.3)
                self.assertAlmostEqual(found.clear_c, case["clear_c"], delta=0.3)
                self.assertAlmostEqual(found.hold_c(20), case["hold20_c"], delta=0.3)
                self.assertAlmostEqual(found.hold_c(45), case["hold45_c"], delta=0.3)
                self.assertAlmostEqual(found.set_c, case["set_c"], delta=0.3)
                self.assertAlmostEqual(found.undercooling_k, case["undercooling_k"], delta=0.05)
                for temp, volume in case["ml_per_g"].items():
                    self.assertAlmostEqual(found.ml_per_g(float(temp)), volume, delta=0.002)

    def test_what_is_drawn_agrees_with_one_temperature_at_a_time(self) -> None:
        """The curve's 121 temperatures, what is remembered of them, and the window's state."""
        composition = Composition.of({"beeswax_yellow": 17, "shea_butter_refined": 23, "olive_oil": 60})
        drawn, alone = predict(composition), predict(composition)
        self.assertEqual(len(drawn.drawn), 121)
        for temp, firmness in zip(DRAWN_C.tolist(), drawn.drawn.tolist(), strict=True):
            self.assertAlmostEqual(firmness, alone.firmness_at(temp), places=9)
            self.assertEqual(drawn.firmness_at(temp), firmness)
        self.assertAlmostEqual(float(drawn.in_window.firmness[0, 0]), alone.firmness_at(21), places=9)

    def test_many_compositions_at_many_temperatures_agree_with_one_at_a_time(self) -> None:
        """The grid of 30 compositions and 42 temperatures is the same, point by point."""
        keys = ("beeswax_yellow", "cocoa_butter", "shea_butter", "olive_oil", "arrowroot", "lavender")
        shares = np.random.default_rng(7).dirichlet(np.ones(len(keys)), 30)
        whole = basis(items(keys)).state(shares, TEMPS).firmness
        self.assertEqual(whole.shape, (30, len(TEMPS)))
        for i, j in ((0, 0), (3, 12), (17, 20), (29, 41)):
            alone = basis(items(keys)).state(shares[i : i + 1], TEMPS[j : j + 1]).firmness[0, 0]
            self.assertAlmostEqual(whole[i, j], alone, places=9)

    def test_a_wax_sets_where_it_clears_and_a_butter_8_k_below(self) -> None:
        """Beeswax in olive oil sets 1 K under its clear point, shea butter 8 K; both together between, by what each
        gives to the structure 5 K below clear."""
        wax = predict(Composition.of({"beeswax_yellow": 15, "olive_oil": 85}))
        fat = predict(Composition.of({"shea_butter": 100}))
        self.assertAlmostEqual(wax.clear_c - wax.set_c, 1.0)
        self.assertAlmostEqual(fat.clear_c - fat.set_c, 8.0)
        both = Composition.of({"beeswax_yellow": 2.5, "shea_butter": 76, "olive_oil": 21.5})
        found = predict(both)
        given = structure_by_group(both, found.clear_c - 5)
        self.assertAlmostEqual(found.undercooling_k, 1 + 7 * (1 - given["beeswax"]), places=6)
        self.assertTrue(1.5 < found.undercooling_k < 7.5, found.undercooling_k)

    def test_densities_that_makers_know(self) -> None:
        """Beeswax is 0.96 solid and 0.85 molten, cocoa butter 0.97 and 0.90; half cocoa, half coconut is 45 % solid
        at 20 °C, where the average would be more; petrolatum is soft and holds to about 40 °C."""
        for key, cold, hot_c, hot in (("beeswax_yellow", 0.96, 65, 0.85), ("cocoa_butter", 0.97, 40, 0.90)):
            found = predict(Composition.of({key: 1}))
            self.assertAlmostEqual(found.density_g_ml, cold, places=2)
            self.assertAlmostEqual(1 / found.ml_per_g(hot_c), hot, delta=0.011)
        mixed = predict(Composition.of({"cocoa_butter": 50, "coconut_oil": 50}))
        self.assertAlmostEqual(mixed.curve([20.0]).solid_share[0, 0], 0.45, delta=0.005)
        jelly = predict(Composition.of({"petrolatum": 1}))
        self.assertTrue(10 < jelly.firmness_at(21) < 42, jelly.firmness_at(21))
        self.assertAlmostEqual(jelly.hold_c(10), 43.3, delta=0.3)

    def test_powders_stiffen_as_a_filler_and_take_nothing_from_the_network(self) -> None:
        """20 % arrowroot in a salve: the rest is as it was, times 1 + 2.5 v + 14.1 v²."""
        plain = {"beeswax_yellow": 15, "olive_oil": 65}
        firm, filled = (predict(Composition.of(parts)) for parts in (plain, plain | {"arrowroot": 20}))
        by_volume = {key: grams / shipped().ingredient(key, "").density_g_ml for key, grams in
                     (plain | {"arrowroot": 20}).items()}  # fmt: skip
        part = by_volume["arrowroot"] / sum(by_volume.values())
        gained = 25 * np.log10(1 + 2.5 * part + 14.1 * part**2)
        self.assertAlmostEqual(filled.firmness_at(21) - firm.firmness_at(21), gained, places=6)
        self.assertGreater(gained, 3)

    def test_whipping_to_twice_the_room_takes_25_points(self) -> None:
        """Worked 0.4 and half of it air, squared: the yield is a tenth, 25 log10(10) = 25.0 points."""
        shea = Composition.of({"shea_butter_refined": 100})
        self.assertAlmostEqual(predict(shea).firmness_at(20) - predict(shea, 1.0).firmness_at(20), 25.0, delta=0.01)

    def test_sigma_widens_by_3_for_each_ingredient_the_table_is_unsure_of(self) -> None:
        """Lanolin and cetyl alcohol are of low confidence, beeswax is not: 9 + 3 + 3."""
        mixed = Composition.of({"beeswax_white": 20, "lanolin": 20, "cetyl_alcohol": 5, "olive_oil": 55})
        self.assertEqual(predict(mixed).sigma, 15)

    def test_what_never_sets_says_so(self) -> None:
        """Liquid oils, and powder or honey alone: no clear point, no set point, firmness 0."""
        for parts in ({"olive_oil": 100}, {"arrowroot": 100}, {"honey": 60, "castor_oil": 40}):
            with self.subTest(parts):
                found = predict(Composition.of(parts))
                self.assertIsNone(found.clear_c)
                self.assertIsNone(found.set_c)
                self.assertIsNone(found.hold_c(20))
                self.assertEqual(found.firmness_at(21), 0)

    def test_words_change_at_the_borders_of_their_bands(self) -> None:
        """10, 28, 42, 58, 70, 82 and 96 each begin the next word."""
        self.assertEqual(
            [word(top) for top, _ in BANDS[:-1]],
            ["gel", "soft scoop", "pot salve", "firm pot", "stick", "bar", "brick"],
        )
        self.assertEqual([word(f) for f in (0, 9.4, 9.6, 57.4, 57.6, 200)],
                         ["runs", "runs", "gel", "pot salve", "firm pot", "brick"])  # fmt: skip
        for firmness in np.linspace(0, 120, 1201):
            self.assertEqual(word(firmness), word(round(firmness)), firmness)
            self.assertEqual(words_of(np.array([firmness])), [word(firmness)])


class LawTests(CoreTestCase):
    @settings(max_examples=120, deadline=None)
    @given(compositions)
    def test_solids_fall_with_temperature_and_nothing_is_ever_nan(self, mixed: tuple) -> None:
        """For any mixture of anything: 0 <= solids <= 1, falling, and every figure a number."""
        keys, shares = mixed
        state = basis(items(keys)).state(shares, TEMPS)
        self.assertTrue(np.all(np.diff(state.solid_share[0]) <= 1e-9))
        self.assertTrue(np.all((state.solid_share >= -1e-12) & (state.solid_share <= 1 + 1e-9)))
        for array in (state.structuring, state.yield_pa, state.firmness):
            self.assertTrue(np.all(np.isfinite(array)))

    @settings(max_examples=60, deadline=None)
    @given(compositions, st.floats(0.001, 1000), st.randoms())
    def test_scale_and_order_do_not_matter(self, mixed: tuple, factor: float, random: object) -> None:
        """A kilo is as firm as a gram, and lines may stand in any order."""
        keys, shares = mixed
        plain = basis(items(keys)).state(shares, TEMPS).structuring
        np.testing.assert_allclose(basis(items(keys)).state(shares * factor, TEMPS).structuring, plain, atol=1e-9)
        order = list(range(len(keys)))
        random.shuffle(order)
        turned = basis(items([keys[i] for i in order])).state(shares[:, order], TEMPS).structuring
        np.testing.assert_allclose(turned, plain, atol=1e-9)

    @settings(max_examples=60, deadline=None)
    @given(st.floats(0.01, 0.99), compositions)
    def test_mixing_identical_ingredients_changes_nothing(self, part: float, mixed: tuple) -> None:
        """Yellow beeswax split with white, its twin in the table, is the same mixture."""
        keys, shares = mixed
        keys = tuple(key for key in keys if not key.startswith("beeswax"))
        rest = shares[:, : len(keys)]
        one = basis(items((*keys, "beeswax_yellow"))).state(np.column_stack([rest, [10.0]]), TEMPS)
        two = basis(items((*keys, "beeswax_yellow", "beeswax_white"))).state(
            np.column_stack([rest, [10 * part], [10 * (1 - part)]]), TEMPS
        )
        np.testing.assert_allclose(two.structuring, one.structuring, atol=1e-9)

    def test_two_butters_are_softer_than_their_average_and_oil_takes_more_than_its_share(self) -> None:
        """Cocoa and shea at 30 °C: 17 % solid together, 30 % on average; halving cocoa leaves under half."""
        keys = ("cocoa_butter", "shea_butter", "olive_oil")
        cocoa, shea, both, half = (
            basis(items(keys))
            .state(np.array([[1, 0, 0], [0, 1, 0], [0.5, 0.5, 0], [0.5, 0, 0.5]]), np.array([30.0]))
            .solid_share[:, 0]
        )
        self.assertLess(both, (cocoa + shea) / 2 - 0.1)
        self.assertLess(half, cocoa / 2 - 0.05)
