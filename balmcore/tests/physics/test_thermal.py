"""Heat and time against worked values, grain, and the schools of cooling."""

import io
import json
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from balmcore.cli import main
from balmcore.composition import Composition
from balmcore.physics.cooling import COOLING_METHODS, body_of, by_method, cool_down, rivals
from balmcore.physics.firmness import predict
from balmcore.physics.grain import grain, readiness
from balmcore.physics.melting import bath_c, melting
from balmcore.physics.thermal import Body, Course, Melt, Place, places
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase

VECTORS = json.loads((Path(__file__).parent / "vectors" / "cooling.json").read_text())
ANSWERS = ("name", "minutes_to", "lag_k_at_minutes")
SALVE = Composition.of({"beeswax_yellow": 17, "shea_butter_refined": 20, "sunflower_oil_ho": 63})
BUTTER = Composition.of({"shea_butter_refined": 70, "sunflower_oil_ho": 30})
TIN = Body.cylinder(50, 60, 0.9)


def cool(**changes: object) -> tuple[int, dict[str, object]]:
    """The command on the first worked case, with changes; the exit code and the answer."""
    case = {key: value for key, value in VECTORS["cases"][0].items() if key not in ANSWERS}
    target = io.StringIO()
    code = main(["cool"], io.StringIO(json.dumps({**case, "to_c": [40], **changes})), target)
    return code, json.loads(target.getvalue())


class CoolTests(CoreTestCase):
    def test_every_worked_case_holds_within_three_percent(self) -> None:
        """Tins on the counter and in the refrigerator, and half a kilo in a bowl."""
        self.assertEqual(len(VECTORS["cases"]), 5)
        for case in VECTORS["cases"]:
            body = Body(case["mass_g"], case["area_m2"], case["volume_m3"])
            place = Place("here", "Here", case["h_w_m2_k"], case["room_c"])
            course = Melt(Composition.of(case["percent"])).course(body, case["start_c"], place)
            for minutes, lag in case["lag_k_at_minutes"].items():
                self.assertAlmostEqual(course.lag_at(float(minutes)), lag, delta=max(0.02, 0.03 * lag))
            given = {key: value for key, value in case.items() if key not in ANSWERS}
            code, answer = cool(**given, to_c=[float(temp) for temp in case["minutes_to"]])
            self.assertEqual(code, 0)
            for temp, wanted in case["minutes_to"].items():
                with self.subTest(case["name"], temp=temp):
                    self.assertAlmostEqual(answer["minutes_to"][temp], wanted, delta=0.03 * wanted)

    def test_the_command_answers_null_for_what_never_comes_and_refuses_nonsense(self) -> None:
        """15 degrees are not reached in a room of 21; a vessel needs a surface."""
        self.assertEqual(cool(to_c=[15, 70])[1]["minutes_to"], {"15": None, "70": None})
        for changes, said, where in (
            ({"area_m2": 0}, "area_m2 should be between 1e-09 and 1e+09, not 0.", "area_m2"),
            ({"stirred": "yes"}, "stirred should be true or false.", "stirred"),
            ({"h_w_m2_k": None}, "h_w_m2_k should be a number, not null.", "h_w_m2_k"),
            ({"to_c": []}, "to_c should be a list of at least one.", "to_c"),
        ):
            self.assertEqual(cool(**changes), (2, {"problem": said, "where": where}))

    @settings(max_examples=40, deadline=None)
    @given(st.floats(5, 500), st.floats(20, 120), st.floats(45, 90), st.floats(-15, 30))
    def test_heat_flows_one_way_and_more_of_it_takes_longer(
        self, mass: float, width: float, start: float, room: float
    ) -> None:
        """Times rise strictly, the melt is never colder than the place nor gains heat; stirring hurries; double mass
        delays. What it gives as its lag fades may warm it, as a butter does."""
        place = Place("here", "Here", 10, room)
        course = Melt(SALVE).course(Body.cylinder(mass, width, 0.9), start, place)
        self.assertTrue((np.diff(course.minutes) > 0).all())
        self.assertTrue((np.diff(course.temps_c + course.lags_k) < 1e-9).all())
        self.assertTrue((course.temps_c > room - 1e-6).all())
        middle = (start + room) / 2
        slow = course.minutes_to(middle)
        for body, stirred, quicker in (
            (Body.cylinder(mass, width, 0.9), True, True),
            (Body.cylinder(2 * mass, width, 0.9), False, False),
        ):
            other = Melt(SALVE).course(body, start, place, stirred).minutes_to(middle)
            self.assertEqual(other < slow, quicker)

    def test_the_melting_plateau_costs_its_heat(self) -> None:
        """Cocoa butter warms from 20 to 45 °C far slower than as much oil does."""
        bath = Place("bath", "Bath", 60, 92)
        wax, oil = (
            Melt(Composition.of({key: 1})).course(TIN, 20, bath).minutes_to(45) for key in ("cocoa_butter", "olive_oil")
        )
        # 100 J/K through 0.331 W/K: 302 s times ln(72 / 47).
        self.assertAlmostEqual(oil, 2.15, places=2)
        self.assertGreater(wax, 3 * oil)

    def test_lumps_in_oil_melt_quicker_than_lumps_alone(self) -> None:
        """200 g with the bath's own ten minutes: 17 % beeswax and 3 % carnauba in oil some twelve minutes, beeswax alone
        fifty; butters in a gentle bath. More oil is never slower."""
        for parts, grams, bath, wanted in (
            ({"beeswax_yellow": 17, "olive_oil": 83}, 200, 92, 11.8),
            ({"carnauba_wax": 3, "olive_oil": 97}, 200, 92, 11.9),
            ({"beeswax_yellow": 100}, 200, 92, 49.8),
            ({"beeswax_yellow": 25, "shea_butter_refined": 25, "sunflower_oil_ho": 50}, 25, 92, 8.3),
            ({"shea_butter_refined": 75, "sunflower_oil_ho": 25}, 200, 78, 10.7),
        ):
            composition = Composition.of(parts)
            self.assertEqual(bath_c(composition), bath)
            course = _melted(composition, grams)
            self.assertAlmostEqual(course.minutes_to(predict(composition).clear_c), wanted, delta=0.2)
            self.assertTrue((np.diff(course.temps_c) >= 0).all())
            self.assertLess(course.temps_c[-1], bath)
        wax = [Composition.of({"beeswax_yellow": part, "olive_oil": 100 - part}) for part in (100, 90, 80, 60, 40, 20)]
        times = [_melted(each, 200).minutes_to(predict(each).clear_c) for each in wax]
        self.assertEqual(times, sorted(times, reverse=True))

    def test_a_body_of_nothing_and_a_melt_already_there(self) -> None:
        """No surface is refused; at the place's own temperature no time passes."""
        with self.assert_refused("Mass, area and volume should be above nothing."):
            Melt(SALVE).course(Body(50, 0, 1e-5), 60, places(20)["counter"])
        self.assertEqual(Melt(SALVE).course(TIN, 20, places(20)["counter"]).minutes_to(20), 0)


def _melted(composition: Composition, grams: float) -> Course:
    melt = Melt(composition)
    return melting(melt, Body.cylinder(grams, 85, melt.prediction.density_g_ml, in_bath=True), 20)


class GrainTests(CoreTestCase):
    def test_shea_grains_on_the_counter_and_wax_does_not(self) -> None:
        """A butter's score falls with colder schools; stirred it is half; a salve of wax and oil has none."""
        self.assertAlmostEqual(readiness(BUTTER), 0.81, places=2)
        self.assertEqual(readiness(Composition.of({"beeswax_yellow": 15, "olive_oil": 85})), 0)
        slow = grain(readiness(BUTTER), 40)
        self.assertEqual(slow.word, "high")
        self.assertAlmostEqual(grain(readiness(BUTTER), 40, stirred=True).score, slow.score / 2)
        self.assertAlmostEqual(grain(readiness(BUTTER), 40, held=False).score, slow.score * 1.5)
        prediction = predict(BUTTER)
        jar = shipped().containers["jar_glass_100"]
        found = by_method(prediction, body_of(jar, 88, 0.9), 42, 19)
        self.assertEqual([found[key].grain.word for key in ("rest_then_cold", "cold", "counter", "freezer")],
                         ["some", "some", "high", "low"])  # fmt: skip
        self.assertLess(found["freezer"].grain.score, found["cold"].grain.score)
        # Resting first grains more than cold at once; what it has over it is that it cracks less.
        said = rivals(found, "rest_then_cold")
        self.assertEqual(
            said[0],
            "Against “refrigerate at once”: the same grain, some (0.80 to 0.50), ready 17 minutes later, it cracks and sinks "
            "less.",
        )
        self.assertIn("Against “slowly on the counter”: less grain, some (0.80) to high (", said[1])

    def test_a_tin_rests_until_its_skin_and_then_stands_in_the_cold(self) -> None:
        """Legs follow without a gap; the skin forms at the set temperature; firm before labelled."""
        prediction = predict(SALVE)
        cooled = cool_down(prediction, TIN, prediction.set_c + 8, 20)
        self.assertEqual([leg.place.key for leg in cooled.legs], ["counter", "refrigerator", "counter"])
        self.assertEqual([leg.start for leg in cooled.legs[1:]], [leg.end for leg in cooled.legs[:-1]])
        self.assertAlmostEqual(float(np.interp(cooled.set_min, cooled.minutes, cooled.temps_c)), prediction.set_c, 3)
        self.assertLess(cooled.set_min, cooled.firm_min)
        self.assertLess(cooled.firm_min, cooled.label_min)
        self.assertAlmostEqual(prediction.undercooling_k, 1.0, delta=0.2)  # a wax leads, and hardly lags
        then = float(np.interp(cooled.firm_min, cooled.minutes, cooled.temps_c))
        self.assertAlmostEqual(prediction.firmness_at(then), prediction.firmness_at(20) - 5, delta=2)
        self.assertIn(COOLING_METHODS["rest_then_cold"].reason[:11], "Our default")
        with self.assert_refused("Choose how it cools"):
            cool_down(prediction, TIN, 60, 20, "cold_whip")

    def test_a_butter_stays_liquid_below_clear_and_takes_hours_to_be_firm(self) -> None:
        """Three quarters shea in a 60 mL tin on the counter: a skin after some 25 minutes, firm after three and a half
        hours; a bowl of half a kilo dents at about 20 °C; what is warmed has no lag."""
        butter = Composition.of({"shea_butter": 75, "sunflower_oil_ho": 25})
        prediction, tin = predict(butter), shipped().containers["tin_screw_60"]
        cooled = cool_down(prediction, body_of(tin, 51, 0.92), prediction.clear_c + 8, 21, "counter")
        self.assertAlmostEqual(cooled.set_min, 25, delta=4)
        self.assertAlmostEqual(cooled.firm_min / 60, 3.5, delta=0.4)
        course = Melt(butter).course(Body.cylinder(500, 140, 0.92), prediction.clear_c + 1, places(21)["refrigerator"])
        firmness = prediction.lagging(course.temps_c, course.lags_k)
        self.assertAlmostEqual(course.temp_at(course.first_minute(firmness - 50)), 20, delta=1)
        self.assertEqual(Melt(butter).course(TIN, 10, Place("bath", "Bath", 60, 90)).lags_k.max(), 0)

    def test_the_fading_lag_agrees_with_a_solver_of_its_equation(self) -> None:
        """Temperatures along the course of a tin of butter against SciPy's solution of the same enthalpy, to a tenth of
        a kelvin."""
        melt, place = Melt(BUTTER), places(21)["counter"]
        course = melt.course(TIN, melt.prediction.set_c + 5, place)
        below = np.flatnonzero(course.temps_c <= melt.prediction.set_c + 1e-9)[0]
        begun = course.minutes[below] * 60
        table, enthalpy = melt.table
        per_g = TIN.area_m2 / (TIN.mass_g * (1 / place.h_w_m2_k + TIN.depth_m / (3 * 0.17)))

        def temp(seconds: float, heat: float) -> float:
            lag = melt.prediction.undercooling_k * np.exp(-seconds / 6000)
            return float(np.interp(heat + 2 * lag, enthalpy, table)) - lag

        start = float(np.interp(melt.prediction.clear_c, table, enthalpy)) - 2 * melt.prediction.undercooling_k
        found = solve_ivp(lambda t, h: [-per_g * (temp(t, h[0]) - 21)], (0, 9000), [start], max_step=5)
        for seconds, heat in zip(found.t[::60], found.y[0][::60], strict=True):
            self.assertAlmostEqual(course.temp_at((begun + seconds) / 60), temp(seconds, heat), delta=0.1)
