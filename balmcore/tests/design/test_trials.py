"""What pours say: rates and middles, suspects, ladders, comparison, and what to try next."""

from dataclasses import replace
from decimal import Decimal as D

import numpy as np

from balmcore.composition import Composition
from balmcore.design.ladder import ladder
from balmcore.errors import Problem
from balmcore.physics.firmness import predict, structure_by_group
from balmcore.tables import shipped
from balmcore.tables.correction import Correction
from balmcore.tests import CoreTestCase
from balmcore.trials.calibration import Calibration, FirmnessReading, corrected
from balmcore.trials.comparison import Handled, Made, handling_rows, one_line, share_rows, shown_by
from balmcore.trials.ladder_fit import RungTest, fit_ladder
from balmcore.trials.press import at_window, expected_g, press, repeated, rod_for, sensible_temp
from balmcore.trials.rates import Rate, middle
from balmcore.trials.suspects import Wearing, suspects

SALVE = {"beeswax_yellow": 17.0, "shea_butter_refined": 23.0, "sunflower_oil_ho": 60.0}


def of(percent: dict[str, float]) -> Composition:
    return Composition.of({key: D(str(each)) / 100 for key, each in percent.items()})


def made(name: str, cooled: str, grain: bool | None, firmness: float | None = None, room: float | None = 20,
         **shares: float) -> Made:  # fmt: skip
    percent = {**SALVE, **shares}
    percent["sunflower_oil_ho"] = 100 - percent["beeswax_yellow"] - percent["shea_butter_refined"]
    handling = (Handled("Cooling", cooled, cooled), Handled("Room", f"{room}", room, 4))
    return Made(name, of(percent), handling, firmness, {} if grain is None else {"grain": grain})


class RateTests(CoreTestCase):
    def test_few_cases_say_little(self) -> None:
        """Wilson's interval against published values, its ends within 0 and 1, and when one rate beats another."""
        for rate, low, high in ((Rate(0, 4), 0, 0.490), (Rate(4, 4), 0.510, 1), (Rate(10, 50), 0.112, 0.330)):
            self.assertAlmostEqual(rate.interval[0], low, delta=0.001)
            self.assertAlmostEqual(rate.interval[1], high, delta=0.001)
        self.assertEqual(Rate(0, 0).interval, (0, 1))
        self.assertEqual(Rate(3, 4).sentence, "3 of 4 (30 to 95 %)")
        self.assertTrue(Rate(0, 4).is_below(Rate(3, 4)))
        self.assertFalse(Rate(0, 4).is_below(Rate(3, 4), rivals=3))
        self.assertFalse(Rate(0, 1).is_below(Rate(1, 1)))  # fewer than three on either side decide nothing
        self.assertFalse(Rate(0, 2).is_below(Rate(40, 40)))
        self.assertIsNone(middle([1, 2, 3]))
        # Against numbers by chance: Beta(1, 5) below Beta(4, 2).
        draws = np.random.default_rng(3)
        by_chance = np.mean(draws.beta(1, 5, 200_000) < draws.beta(4, 2, 200_000))
        self.assertAlmostEqual(Rate(0, 4).chance_below(Rate(3, 4)), by_chance, delta=0.002)

    def test_three_rivals_that_are_no_better_are_seldom_preferred(self) -> None:
        """Ways that all grain in three of ten pours, twelve pours of each: in under seven of a hundred workshops is one
        of three preferred to the usual; one that never grains is, nearly always, where the usual does in six."""
        draws = np.random.default_rng(7)

        def preferred(own: float, usual: float, of: int = 12) -> float:
            found = [
                any(Rate(int(draws.binomial(of, own)), of).is_below(stood, 3) for _ in range(3))
                for stood in (Rate(int(cases), of) for cases in draws.binomial(of, usual, 600))
            ]
            return float(np.mean(found))

        self.assertLess(preferred(0.3, 0.3), 0.07)
        self.assertGreater(preferred(0.0, 0.6), 0.9)

    def test_suspects_are_ranked_by_wearers_and_cleared(self) -> None:
        """Three reacted to what holds lavender, one of five wore it without trouble; beeswax is in all and says nothing;
        a pour checked by many wearers counts by wearers; who wore rose in another thing without trouble clears it."""
        bad = [[worn("wax lavender rose", True), worn("wax rose", False)]] * 3
        fine = [[worn("wax")]] * 4 + [[worn("wax lavender"), worn("wax lavender")]]
        found = suspects([*bad, *fine])
        first, *others = found.ranked
        self.assertEqual((first.key, others), ("lavender", []))
        self.assertAlmostEqual(first.p, 4 / 56)
        self.assertEqual(first.sentence, "in what 3 of 3 reacted to; worn without trouble by 1 of 5")
        self.assertIn("the best of such a list looks as good", found.sentence)
        self.assertLess(found.by_chance, 0.2)
        nobody = suspects([[worn("wax")]])
        self.assertEqual((nobody.ranked, nobody.reacted), ((), 0))
        one = suspects([[worn("b a", True)]])
        self.assertEqual([each.key for each in one.ranked], ["a", "b"])
        self.assertIn("Fewer than 3 wearers reacted: chance alone makes such a list", one.sentence)

    def test_a_list_of_suspects_is_seldom_called_unlikely_by_chance_alone(self) -> None:
        """With reactions at random in workshops of twelve wearers and ten ingredients, the list is called unlikelier than
        one in twenty in hardly more than that; where one thing alone harms, in most."""
        draws = np.random.default_rng(5)
        for harms, least, most in ((False, 0.0, 0.13), (True, 0.6, 1.0)):
            unlikely = 0
            for _ in range(40):
                wearers = []
                for _ in range(12):
                    things = [frozenset(f"i{n}" for n in draws.choice(10, 4, replace=False)) for _ in range(3)]
                    wearers.append([Wearing(keys, "i3" in keys if harms else bool(draws.random() < 0.12))
                                    for keys in things])  # fmt: skip
                found = suspects(wearers)
                unlikely += bool(found.ranked) and found.by_chance < 0.05
            self.assertTrue(least <= unlikely / 40 <= most, (harms, unlikely))


def worn(keys: str, reacted: bool = False) -> Wearing:
    """One thing worn, by what it holds."""
    return Wearing(frozenset(keys.split()), reacted)


class PressTests(CoreTestCase):
    def test_repeats_rods_and_temperatures(self) -> None:
        """The mean of what each says; scatter counts; the rod that reads best and fits; 21 degrees by the slope."""
        calm, wild = repeated([260, 268, 264], 6, 0.1), repeated([150, 400], 6, 0.1)
        self.assertAlmostEqual(calm.measured.firmness, press(264, 6, 0.1).firmness, delta=0.02)
        self.assertEqual((round(calm.measured.sigma, 2), calm.doubt), (2.31, ""))  # 4 over the root of three
        self.assertEqual(repeated([264], 6, 0.1).measured.sigma, 4)
        self.assertEqual(repeated([264] * 20, 6, 0.1).measured.sigma, 1)
        self.assertAlmostEqual(wild.measured.sigma, 25 * 0.42597 / 2, delta=0.01)
        self.assertIn("8 points from each other", wild.doubt)
        self.assertAlmostEqual(press(expected_g(52, 10), 10, 0.1).firmness, 52)
        soft, hard = rod_for(25, 0.1, 48), rod_for(88, 0.1, 60)
        assert soft and hard
        self.assertEqual((soft.rod_mm, hard.rod_mm), (10, 3))
        self.assertAlmostEqual(soft.about_g, 48.5, delta=0.1)
        narrow = rod_for(50, 0.1, 16)
        self.assertEqual(narrow and narrow.rod_mm, 3)
        self.assertIsNone(rod_for(2, 5, 9))
        salve = predict(of(SALVE))
        moved = at_window(60, 15, salve)
        self.assertAlmostEqual(moved, 60 - salve.firmness_at(15) + salve.firmness_at(21))
        self.assertLess(moved, 56)
        # By what is below nothing too: a gel that runs at 33 degrees is corrected by all of its slope.
        soft = predict(of({"beeswax_yellow": 4, "olive_oil": 96}))
        self.assertEqual(soft.firmness_at(40), 0)
        gained = soft.firmness_at(21) - float(soft.curve([40.0]).unclipped[0, 0])
        self.assertAlmostEqual(at_window(2, 40, soft), 2 + gained)
        for temp in (-40, 300, float("nan")):
            with self.assertRaisesRegex(Problem, "between -25 °C and 60 °C"):
                sensible_temp(temp)
        for grams in (0, -3, 50_000, float("nan")):
            with self.assertRaises(Problem):
                repeated([200, grams], 6, 0.1)
        for readings in ([], [200] * 21):
            with self.assertRaisesRegex(Problem, "one to 20 readings"):
                repeated(readings, 6, 0.1)


class CorrectedTests(CoreTestCase):
    def test_tables_as_the_tests_say(self) -> None:
        """Six points softer: everything reckoned with the corrected tables is, rests too; the plain ones stay."""
        known = shipped()
        waxed = [{"candelilla_wax": wax, "olive_oil": 100 - wax} for wax in (8, 10, 12, 14, 16)]
        tests = [FirmnessReading(c := Composition.of(w), 21, predict(c).firmness_at(21) - 6, 4.0) for w in waxed]
        learned = Calibration(tests)
        tables = corrected(known, learned.correction)
        for percent in (waxed[0], {"candelilla_wax": 6, "cocoa_butter": 20, "shea_butter": 20, "olive_oil": 54}):
            told = learned.predict(of(percent), 21)
            found = predict(Composition.of(percent, tables))
            self.assertAlmostEqual(found.firmness_at(21), told.firmness, delta=0.05)
            self.assertAlmostEqual(found.sigma, told.sigma, delta=0.1)
            self.assertGreater(told.plain - told.firmness, 3)
        # Of mixtures too, whatever the groups differ by, at every temperature.
        apart = Correction(("beeswax", "brittle_butter"), np.array([2.0, 15.0, -15.0]), np.eye(3))
        mixed, strange = of({"beeswax_yellow": 12, "cocoa_butter": 30, "olive_oil": 58}), corrected(known, apart)
        found = predict(Composition.of({line.key: line.share for line in mixed.lines}, strange))
        for temp in (10, 21, 30, 38):
            by_hand = predict(mixed).firmness_at(temp) + apart.points(structure_by_group(mixed, temp))
            self.assertAlmostEqual(found.firmness_at(temp), by_hand, places=6)
        self.assertIs(corrected(tables, learned.correction).plain, known)
        self.assertIs(known.plain, known)


class LadderFitTests(CoreTestCase):
    def setUp(self) -> None:
        composition = of({"beeswax_yellow": 15, "sunflower_oil_ho": 85})
        self.made = ladder(composition, "beeswax_yellow", (D("0.1"), D("0.2")), 5, D(20), D("0.1"))

    def tests(self, *off: float) -> list[RungTest]:
        rungs = zip(self.made.rungs, off, strict=False)
        return [RungTest(rung.number, float(rung.share), rung.firmness + by, 4) for rung, by in rungs]

    def test_a_line_through_the_cups(self) -> None:
        """Ten points firmer all along: nine of them are believed, and the share for 50 is lower than the model's."""
        fit = fit_ladder(self.made.line, self.tests(10, 10, 10, 10, 10))
        moved = fit.firmness - fit.model
        self.assertAlmostEqual(float(moved.mean()), 10 * 64 / (64 + 25 / 5), delta=0.01)
        share, sigma = fit.share_for(50)
        plain = fit_ladder(self.made.line, self.tests(0, 0, 0, 0, 0)).share_for(50)[0]
        self.assertAlmostEqual(float(predict(Composition.of({"beeswax_yellow": plain, "sunflower_oil_ho": 1 - plain}))
                                     .firmness_at(21)), 50, delta=0.3)  # fmt: skip
        self.assertLess(share, plain - 0.015)
        self.assertTrue(0.005 < sigma < 0.03)
        with self.assertRaisesRegex(Problem, "for 99 make a ladder further up"):
            fit.share_for(99)

    def test_it_never_turns_back_and_says_what_does_not_fit(self) -> None:
        fit = fit_ladder(self.made.line, self.tests(60, 30, 0, -30, -60))
        self.assertTrue((fit.firmness[1:] >= fit.firmness[:-1]).all())
        self.assertIn("Cup 2 is", fit.doubts[0])
        with self.assertRaisesRegex(Problem, "three cups at least"):
            fit_ladder(self.made.line, self.tests(1, 2))
        # The model has 5.6 points between the second and the third; fourteen against it are within what presses differ by.
        self.assertEqual(fit_ladder(self.made.line, self.tests(0, 19.6, 0, 0, 0)).doubts, ())
        self.assertIn("14 points softer than cup 2", fit_ladder(self.made.line, self.tests(0, 19.9, 0, 0, 0)).doubts[0])
        # Where the line is flat the share is no surer than the ladder is long, and no figure is infinite.
        flat = fit_ladder(self.made.line, self.tests(30, 15, 0, -15, -30))
        _, sigma = flat.share_for(float(flat.firmness[len(flat.firmness) // 2]))
        self.assertTrue(0.01 < sigma <= float(self.made.line[-1][0] - self.made.line[0][0]), sigma)

    def test_good_ladders_are_seldom_called_mixed_up(self) -> None:
        """Five cups pressed once each, each from a melt of its own: under seven of a hundred ladders raise a doubt; with
        the second cup in the place of the fourth, most do."""
        chance = np.random.default_rng(4)
        doubted = np.zeros(2)
        for _ in range(200):
            noise = chance.normal(0, np.hypot(4, 3), 5)
            tests = self.tests(*noise.tolist())
            doubted[0] += bool(fit_ladder(self.made.line, tests).doubts)
            first, second, third, fourth, fifth = tests
            swapped = (
                first,
                replace(second, firmness=fourth.firmness),
                third,
                replace(fourth, firmness=second.firmness),
                fifth,
            )
            doubted[1] += bool(fit_ladder(self.made.line, swapped).doubts)
        self.assertLess(doubted[0] / 200, 0.07)
        self.assertGreater(doubted[1], 2 * doubted[0])

    def test_more_oil_makes_softer(self) -> None:
        """The line of a ladder of oil falls, as it should; the cup that is softer than one with more oil is named."""
        composition = of({"beeswax_yellow": 20, "sunflower_oil_ho": 80})
        self.made = ladder(composition, "sunflower_oil_ho", (D("0.75"), D("0.9")), 5, D(20), D("0.1"))
        fit = fit_ladder(self.made.line, self.tests(0, 0, 0, 0, 0))
        self.assertTrue((fit.firmness[1:] <= fit.firmness[:-1]).all())
        self.assertEqual(fit.doubts, ())
        self.assertAlmostEqual(fit.share_for(50)[0], 0.8123, delta=1e-3)
        self.assertIn(
            "Cup 1 is 35 points softer than cup 2", fit_ladder(self.made.line, self.tests(-40, 0, 0, 0, 0)).doubts[0]
        )


class ComparisonTests(CoreTestCase):
    def test_what_differs_comes_first(self) -> None:
        """Weighing noise is no difference; a room two degrees warmer neither; what is not known tells nothing."""
        pours = [
            made("a", "counter", True),
            made("b", "cold", False, beeswax_yellow=17.1, room=22),
            made("c", "cold", None, room=None),
        ]
        self.assertFalse(any(row.differs for row in share_rows(pours)))
        self.assertEqual(
            [(row.name, row.differs) for row in handling_rows(pours)], [("Cooling", True), ("Room", False)]
        )
        firmer = made("d", "cold", None, beeswax_yellow=20)
        rows = share_rows([pours[1], firmer])
        self.assertEqual([row.ingredient.key for row in rows if row.differs], ["beeswax_yellow", "sunflower_oil_ho"])
        scented = share_rows([made("e", "cold", None), made("f", "cold", None, lavender=1)])
        lavender = next(row for row in scented if row.ingredient.key == "lavender")
        self.assertEqual([round(share, 4) for share in lavender.shares], [0.0, 0.0099])

    def test_what_is_only_weighed_otherwise(self) -> None:
        """Up to a twenty-fifth of a line, or 0.15 percent of the whole."""
        for one, other, differs in ((25, 24.01, False), (25, 23.99, True), (2, 2.15, False), (2, 2.16, True)):
            pair = [
                Made(name, of({"beeswax_yellow": wax, "olive_oil": 100 - wax}), ())
                for name, wax in (("a", one), ("b", other))
            ]
            wax = next(row for row in share_rows(pair) if row.ingredient.key == "beeswax_yellow")
            self.assertEqual(wax.differs, differs, (one, other))

    def test_counts_of_those_that_differ_in_the_cooling_alone(self) -> None:
        """Grain 3 of 4 on the counter, 0 of 4 in the cold; one poured in a hot room is not among them."""
        pours = [made(f"p{n}", "counter", n < 3) for n in range(4)] + [made(f"q{n}", "cold", False) for n in range(4)]
        hot = made("hot", "cold", True, room=32)
        shown = shown_by([*pours, hot])[0]
        self.assertEqual(shown.sentence, "Only the cooling differs: grain 3 of 4 counter, 0 of 4 cold.")
        self.assertEqual(len(shown.names), 8)

    def test_a_pair_that_differs_in_one_line(self) -> None:
        """The wax is named, not the oil that gives way; two changes at once show nothing."""
        soft, firm = made("a", "cold", False, 40), made("b", "cold", True, 56, beeswax_yellow=20)
        self.assertEqual(
            [one.sentence for one in shown_by([soft, firm])],
            ["Only beeswax, yellow differs, 17.0 % and 20.0 %: firmness 40 and 56 and grain no and yes."],
        )
        both = made("c", "cold", True, 52, beeswax_yellow=20, shea_butter_refined=15)
        self.assertIsNone(one_line(soft, both))
        self.assertEqual(shown_by([soft, both]), ())
        self.assertEqual(shown_by([soft, made("d", "counter", True, beeswax_yellow=20)]), ())

    def test_what_is_worth_saying(self) -> None:
        """What two presses cannot tell apart is not: fourteen points; what one side did not look for is not, and is not the
        same either; what both were looked at for and came out the same is said to."""
        for firmness, told in (
            (54.2, "firmness 40 and 54"),
            (54.1, "no difference of firmness that the tests could show"),
            (25.8, "firmness 40 and 26"),
            (None, None),
        ):
            pair = [made("a", "cold", None, 40), made("b", "cold", None, firmness, beeswax_yellow=20)]
            said = [one.sentence.split(": ")[1] for one in shown_by(pair)]
            self.assertEqual(said, [f"{told}."] if told else [], firmness)
        grained = [made("a", "cold", True, 40), made("b", "cold", True, None, beeswax_yellow=20)]
        self.assertTrue(shown_by(grained)[0].sentence.endswith(": the same grain; firmness was not tested of both."))
        unseen = [made("a", "cold", True, 40), made("b", "cold", None, 40, beeswax_yellow=20)]
        self.assertTrue(shown_by(unseen)[0].sentence.endswith(": no difference of firmness that the tests could show."))
        alike = [made(f"p{n}", "counter", n < 2) for n in range(4)] + [made(f"q{n}", "cold", n < 1) for n in range(2)]
        self.assertEqual([one.sentence for one in shown_by(alike) if "grain" in one.sentence], [])
        one_sided = [made(f"p{n}", "counter", n < 2, 50) for n in range(4)] + [
            made(f"q{n}", "cold", None, 60) for n in range(2)
        ]
        self.assertEqual(shown_by(one_sided)[0].sentence, "Only the cooling differs: firmness 50 counter, 60 cold.")
        close = [
            made("p", "counter", None, 50),
            made("p2", "counter", None, 50),
            made("q", "cold", None, 53.9),
            made("q2", "cold", None, 53.9),
        ]
        self.assertEqual([one.sentence for one in shown_by(close)],
                         ["Only the cooling differs: no difference of firmness that the tests could show."])  # fmt: skip

    def test_pours_that_are_the_same_are_seldom_told_apart(self) -> None:
        """Of pairs of the same salve, pressed once each, under seven of a hundred are called different, and of those
        twenty points apart most are."""
        chance = np.random.default_rng(6)
        for apart, least, most in ((0.0, 0.0, 0.07), (20.0, 0.7, 1.0)):
            said = 0
            for _ in range(400):
                noise = chance.normal(0, np.hypot(4, 3), 2)
                one = made("a", "cold", None, 50 + noise[0])
                other = made("b", "cold", None, 50 + apart + noise[1], beeswax_yellow=20)
                said += "no difference of firmness" not in shown_by([one, other])[0].sentence
            self.assertTrue(least <= said / 400 <= most, (apart, said))

    def test_one_taken_for_another_is_named_so_and_what_was_not_written_down_is_not_alike(self) -> None:
        """Castor for jojoba is one thing; a pour whose room nobody noted makes no pair; what groups there are does not
        depend on the order in which pours come."""
        castor, jojoba = (
            Made(
                name,
                of({"beeswax_yellow": 20, "olive_oil": 60, key: 20}),
                (Handled("Room", "21", 21.0, 4.0),),
                firmness,
            )
            for name, key, firmness in (("a", "jojoba_oil", 40.0), ("b", "castor_oil", 60.0))
        )
        self.assertEqual(
            [one.sentence for one in shown_by([castor, jojoba])],
            ["Only castor oil for jojoba oil differs, 20.0 % and 20.0 %: firmness 40 and 60."],
        )
        unknown = replace(jojoba, handling=(Handled("Room", "not known", None, 4.0),))
        self.assertEqual(shown_by([castor, unknown]), ())
        rooms = [made(f"p{n}", "counter" if n % 2 else "cold", n % 3 == 0, room=18 + n) for n in range(9)]
        told = {frozenset(one.names) for one in shown_by(rooms)}
        chance = np.random.default_rng(3)
        for _ in range(20):
            mixed = [rooms[n] for n in chance.permutation(9)]
            self.assertEqual({frozenset(one.names) for one in shown_by(mixed)}, told)
