"""A method worked one step at a time, and what an instrument says beside the prediction."""

from decimal import Decimal as D

import numpy as np

from balmcore.composition import Composition
from balmcore.display import CELSIUS, Display
from balmcore.making.bench.live import Pan, doubt, pace, pan, sets_in, warming, weighing
from balmcore.making.bench.steps import BenchLine, Task, bench_steps
from balmcore.making.method import method_for
from balmcore.making.pot import STAGES
from balmcore.tests import CoreTestCase
from balmcore.tests.making.test_method import setup

MINUTES, TEMPS = np.array([0.0, 10.0, 30.0]), np.array([20.0, 40.0, 80.0])
FALLING = np.array([80.0, 60.0, 40.0])
STANDING = np.array([60.0, 60.2, 60.4])


class StepTests(CoreTestCase):
    def test_every_line_is_a_step_in_the_order_of_the_pot(self) -> None:
        """Wax, butter, oil, then into a glass of its own what goes in off the heat; a drop tested once it is clear."""
        shares = {"olive_oil": D("0.6"), "beeswax_yellow": D("0.2"), "shea_butter": D("0.19"), "lavender": D("0.01")}
        made = setup(Composition.of(shares))
        lines = [BenchLine(item.key, item, D(10)) for item in made.items(*STAGES)]
        steps = bench_steps(made, method_for(made), lines)
        self.assertEqual(
            [step.key for step in steps[:8]],
            [
                "prepare",
                "weigh:beeswax_yellow",
                "weigh:shea_butter",
                "weigh:olive_oil",
                "weigh:lavender",
                "melt",
                "clear",
                "test",
            ],
        )
        self.assertIn("small glass of its own", steps[4].text)
        self.assertEqual([step.task for step in steps[5:8]], [Task.WARM, Task.WAIT, Task.TEST])
        fill = next(step for step in steps if step.task is Task.FILL)
        self.assertIn("down the sink", fill.caution)
        self.assertEqual(len({step.key for step in steps}), len(steps))

    def test_what_burns_spits_or_flies_is_said_where_it_is_weighed(self) -> None:
        shares = {"olive_oil": D("0.7"), "beeswax_yellow": D("0.2"), "tincture": D("0.05"), "kaolin": D("0.05")}
        made = setup(Composition.of(shares))
        lines = [BenchLine(item.key, item, D(10)) for item in made.items(*STAGES)]
        steps = {step.key: step for step in bench_steps(made, method_for(made), lines)}
        keys = list(steps)
        self.assertLess(keys.index("water_off"), keys.index("weigh:beeswax_yellow"))
        self.assertIn("no flame", steps["weigh:tincture"].caution)
        self.assertIn("Powder flies", steps["weigh:kaolin"].caution)


class DoubtTests(CoreTestCase):
    def test_what_a_thermometer_says_otherwise_is_asked(self) -> None:
        """32 °C where 72 is wanted, 92 where shea stands 75, too warm for the scent; not where a piece sets by itself."""
        shares = {
            "olive_oil": D("0.6"),
            "beeswax_yellow": D("0.2"),
            "shea_butter_refined": D("0.19"),
            "lavender": D("0.01"),
        }
        made = setup(Composition.of(shares))
        lines = [BenchLine(item.key, item, D(10)) for item in made.items(*STAGES)]
        steps = {step.key: step for step in bench_steps(made, method_for(made), lines)}
        for key, temp_c, said in (
            ("melt", 32.0, "The thermometer says 32 °C, and 73 °C is wanted."),
            ("melt", 71.0, ""),
            (
                "clear",
                92.0,
                "The thermometer says 92 °C. Shea butter, refined suffers above 75 °C, and this is 17 °C hotter.",
            ),
            ("cool", 70.0, "The thermometer says 70 °C, and 61 °C is wanted."),
            ("cool", 62.0, ""),
            ("cool_counter_0", 20.0, ""),
            ("add", 90.0, ""),
            ("melt", None, ""),
            ("prepare", 20.0, ""),
        ):
            with self.subTest(key=key, temp_c=temp_c):
                self.assertEqual(doubt(made, steps[key], temp_c), said)


class LiveTests(CoreTestCase):
    def test_a_weight_is_told_by_how_far_it_is(self) -> None:
        """To go, there within a step, over; in ounces too; a bar of four fifths."""
        step = D("0.1")
        told = [weighing(D(g), D("12.5"), step, CELSIUS) for g in ("10", "12.4", "12.6", "13.1")]
        self.assertEqual([one.words for one in told], ["2.5 g to go", "there", "there", "0.6 g over"])
        self.assertEqual((told[0].filled, told[3].is_over), (0.8, True))
        self.assertEqual(weighing(D(10), D("12.5"), step, Display("oz", "F", 0.1)).words, "0.0882 oz to go")

    def test_what_is_on_the_pan_is_taken_at_rest_and_above_its_trembling(self) -> None:
        """Two steps on an empty pan are nothing for 35 g, and all of it for 0.3 g; what moves waits whatever it is;
        what is far too much is asked about."""
        step = D("0.1")
        for grams, target, is_steady, waits in (
            ("0.2", D(35), True, "Nothing is on it yet."),
            ("0.2", D("0.3"), True, ""),
            ("0.1", D("0.1"), True, ""),
            ("0", D("0.1"), True, "Nothing is on it yet."),
            ("0.3", D(35), True, ""),
            ("0.3", None, True, ""),
            ("32.2", D("34.6"), False, "It still moves: it is taken as soon as it stands still."),
        ):
            self.assertEqual(pan(D(grams), target, step, is_steady, True, "pot", CELSIUS), Pan(waits=waits), grams)
        # A kilogram where 34.6 g are wanted is asked about, until it is said that all of it counts.
        jumped = pan(D(1034), D("34.6"), step, True, True, "pot", CELSIUS)
        self.assertEqual(
            (jumped.asks, jumped.can_count),
            ("1034.0 g, and 34.6 g are wanted: did something else come onto it?", True),
        )
        self.assertEqual(pan(D(1034), D("34.6"), step, True, False, "pot", CELSIUS, is_counted=True), Pan())
        self.assertEqual(pan(D(100), D("34.6"), step, True, True, "pot", CELSIUS), Pan())

    def test_the_prediction_is_corrected_by_what_was_seen(self) -> None:
        """Predicted 2 K a minute; seen twice as fast, half the time is left."""
        as_told = [(0.0, 20.0), (5.0, 30.0)]
        quick = [(0.0, 20.0), (5.0, 40.0)]
        self.assertEqual((pace(MINUTES, TEMPS, as_told), pace(MINUTES, TEMPS, quick)), (1.0, 2.0))
        for seen, found in (
            ([(0.0, 20.0), (0.5, 22.0)], 2.0),
            ([(0.0, 20.0), (0.4, 22.0)], 1.0),
            ([(0.0, 20.0), (1.0, 20.5)], 0.25),
            ([(0.0, 20.0), (1.0, 20.4)], 1.0),
            ([(0.0, 20.0), (60.0, 22.0)], 0.2),
            ([(0.0, 20.0), (1.0, 32.0)], 5.0),
        ):
            self.assertAlmostEqual(pace(MINUTES, TEMPS, seen), found, msg=seen)
        self.assertAlmostEqual(warming(MINUTES, TEMPS, 70, as_told, CELSIUS).minutes, 20)
        self.assertAlmostEqual(warming(MINUTES, TEMPS, 70, quick, CELSIUS).minutes, 7.5)

    def test_what_the_thermometer_says_in_words(self) -> None:
        """On the way, any minute, there; cooling first; set; below what it should be."""
        for temps, aim, now, set_c, said in (
            (TEMPS, 70, 40.0, None, "70 °C in about 15 minutes."),
            (TEMPS, 70, 67.4, None, "70 °C in about 78 seconds."),
            (TEMPS, 70, 67.5, None, "70 °C any minute."),
            (TEMPS, 70, 68.9, None, "70 °C any minute."),
            (TEMPS, 70, 69.0, None, "70 °C is reached."),
            (FALLING, 50, 60.0, 45, "Cool to 50 °C first, about 10 minutes."),
            (FALLING, 50, 44.0, 45, "It sets at this: back on the bath with it."),
            (FALLING, 60, 55.9, 45, "It is below 60 °C already: warm it again."),
            (FALLING, 60, 56.0, 45, "60 °C is reached."),
            (STANDING, 60, 64.0, None, "60 °C."),
            (STANDING, 60, 64.1, None, "Hotter than 60 °C: wait."),
            (STANDING, 60, 55.9, None, "It is below 60 °C already: warm it again."),
        ):
            with self.subTest(said):
                self.assertEqual(warming(MINUTES, temps, aim, [(0.0, now)], CELSIUS, set_c).sentence, said)
        self.assertEqual(sets_in(MINUTES, FALLING, 60, 50), 10)
        self.assertIsNone(sets_in(MINUTES, TEMPS, 60, None))
