"""What a maker's tests teach: nothing without tests, a bias found, a wild reading held off."""

import numpy as np

from balmcore.composition import Composition
from balmcore.physics.firmness import predict, structure_by_group
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase
from balmcore.trials.calibration import Calibration, FirmnessReading, learned_words

WAXED = [Composition.of({"candelilla_wax": wax, "olive_oil": 100 - wax}) for wax in (8, 10, 12, 14, 16)]
BUTTER = Composition.of({"cocoa_butter": 40, "shea_butter": 30, "coconut_oil": 20, "olive_oil": 10})


def readings(bias: float, sigma: float = 4.0) -> list[FirmnessReading]:
    """Tests that come out so many points beside the model."""
    return [FirmnessReading(each, 21, predict(each).firmness_at(21) + bias, sigma) for each in WAXED]


class CalibrationTests(CoreTestCase):
    def test_without_readings_it_is_the_model(self) -> None:
        """The same firmness; one sigma of the priors: 8 overall, 6 of the wax, 3 of the model."""
        found = Calibration([]).predict(WAXED[2], 21)
        self.assertEqual((found.firmness, found.plain), (predict(WAXED[2]).firmness_at(21),) * 2)
        self.assertAlmostEqual(found.sigma, np.sqrt(64 + 36 + 9))
        self.assertEqual(Calibration([]).learned, ())

    def test_parts_of_the_structure_by_group(self) -> None:
        parts = structure_by_group(BUTTER, 20)
        self.assertEqual(set(parts), {"brittle_butter", "soft_butter", "lauric"})
        self.assertAlmostEqual(sum(parts.values()), 1)
        self.assertGreater(parts["brittle_butter"], parts["soft_butter"])

    def test_a_bias_is_learned_by_its_wax_and_tells_less_of_others(self) -> None:
        """Candelilla six points softer in five presses: its predictions move by nearly five, cocoa butter's less."""
        known = Calibration(readings(-6))
        for composition in WAXED:
            found = known.predict(composition, 21)
            self.assertAlmostEqual(found.firmness - found.plain, known.trust * -6 * 100 / (100 + 25 / 5), delta=0.05)
        other = known.predict(BUTTER, 21)
        self.assertTrue(-4.2 < other.firmness - other.plain < -3)
        self.assertLess(known.predict(WAXED[0], 21).sigma, 4.2)
        self.assertGreater(other.sigma, 6)
        words = [learned_words(one, shipped()) for one in known.learned]
        self.assertIn("Your candelilla wax runs 2 points softer than the table, from 5 tests.", words)

    def test_the_closed_form_is_the_leave_one_out_of_every_reading(self) -> None:
        """Against five calibrations of four readings each."""
        uneven = [FirmnessReading(r.composition, r.temp_c, r.firmness + step, r.sigma) for r, step in
                  zip(readings(0), (3, -2, 1, 4, -5), strict=True)]  # fmt: skip
        known = Calibration(uneven)
        apart = known._apart(np.ones(5))
        for n, left_out in enumerate(uneven):
            others = Calibration(uneven[:n] + uneven[n + 1 :])
            mean, covariance = others._posterior(np.ones(4))
            row = others.correction.row(structure_by_group(left_out.composition, 21))
            wide = np.sqrt(16 + 9 + row @ covariance @ row)
            self.assertAlmostEqual(apart[n], abs(known.residuals[n] - row @ mean) / wide)

    def test_simulated_makers(self) -> None:
        """Held out, after ten pours: at most half of the model's error for makers with biases of their own, hardly
        any harm for one without, and the 80 % band holds seven to nine of ten."""
        chance = np.random.default_rng(11)
        waxes, butters = ("beeswax_yellow", "candelilla_wax", "carnauba_wax"), ("cocoa_butter", "shea_butter")
        pool = [
            Composition.of({waxes[n % 3]: 6 + n % 5 * (4 if n % 3 == 0 else 2), butters[n % 2]: 5 + n % 7 * 4,
                            "sunflower_oil": 60}) for n in range(30)
        ]  # fmt: skip
        parts = [structure_by_group(each, 21) for each in pool]
        groups = sorted({group for each in parts for group in each})
        for biased, most in ((1, 0.5), (0, 1.05)):
            squares, held = np.zeros(2), []
            for _ in range(60):
                order, overall = chance.permutation(30), chance.normal(0, 8) * biased
                own = dict(zip(groups, chance.normal(0, 6, len(groups)) * biased, strict=True))
                true = [predict(each).firmness_at(21) + overall + sum(own[g] * x for g, x in part.items())
                        + chance.normal(0, 3) for each, part in zip(pool, parts, strict=True)]  # fmt: skip
                known = Calibration(
                    [FirmnessReading(pool[n], 21, true[n] + chance.normal(0, 4), 4.0) for n in order[:10]]
                )
                for n in order[10:]:
                    found = known.predict(pool[n], 21)
                    squares += [(found.plain - true[n]) ** 2, (found.firmness - true[n]) ** 2]
                    held.append(abs(found.firmness - true[n]) < 1.2816 * found.sigma)
            self.assertLess(np.sqrt(squares[1] / squares[0]), most)
            self.assertTrue(0.7 < np.mean(held) < 0.9, np.mean(held))

    def test_predictions_become_better(self) -> None:
        """Seven points off before, at most two and a half after, each by the others alone."""
        plain, corrected = Calibration(readings(-6) + readings(-8)).errors
        self.assertAlmostEqual(plain, np.sqrt((36 + 64) / 2))
        self.assertLess(corrected, 2)
        mixed = Calibration([*readings(-6), FirmnessReading(BUTTER, 21, predict(BUTTER).firmness_at(21) + 1, 4.0)])
        self.assertAlmostEqual(mixed.errors_of("candelilla_wax")[0], 6)
        self.assertAlmostEqual(mixed.errors_of("soft_butter")[0], 1)
        self.assertEqual(Calibration([]).errors, (0, 0))

    def test_one_wild_reading_moves_little_and_is_shown(self) -> None:
        """Sixty points beside ten others, and alone of its group: a point, and it does not fit."""
        calm = readings(-2) + readings(-3)
        wild = FirmnessReading(BUTTER, 21, predict(BUTTER).firmness_at(21) - 60, 4)
        known, before = Calibration([*calm, wild]), Calibration(calm)
        self.assertEqual(known.unfit.tolist(), [False] * 10 + [True])
        for composition in (BUTTER, WAXED[1]):
            moved = known.predict(composition, 21).firmness - before.predict(composition, 21).firmness
            self.assertLess(abs(moved), 1)
