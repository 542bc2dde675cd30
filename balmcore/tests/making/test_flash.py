"""What can catch fire or scald: flash points at every warm step, spirit, thermostats, microwaves."""

from dataclasses import replace
from decimal import Decimal as D
from itertools import product

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.composition import Composition
from balmcore.making.method import method_for
from balmcore.making.method.flash import UNKNOWN_FLASH_C, flash_c
from balmcore.making.method.temperatures import set_to
from balmcore.making.portions import Addition, Finish, portioned
from balmcore.making.pot import MELTED, heat_limit, pour_temperature
from balmcore.making.steps import Setup
from balmcore.physics.firmness import predict
from balmcore.tables import Ingredient, Role, shipped
from balmcore.tests import CoreTestCase
from balmcore.tests.making.test_method import setup, step

SCENTS = [item for item in shipped().ingredients.values() if item.aromatic]
HARD = {"carnauba_wax": 8, "beeswax_yellow": 20, "olive_oil": 71.5}
SOFT = {"shea_butter_refined": 70, "olive_oil": 29.5}


class FlashPointTests(CoreTestCase):
    def assert_held(self, made: Setup, scents: list[Ingredient], first: str) -> int:
        """From the step ``first`` on, every step that is as warm as a scent's flash point names it, and no other step
        does; how many did."""
        steps, told, is_in = method_for(made).steps, 0, False
        for each in steps:
            is_in = is_in or each.key == first
            warmest = max([each.aim_c if each.aim else 0.0, *each.temps_c.tolist()], default=0.0)
            for scent in scents:
                over = is_in and warmest >= flash_c(scent)
                named = "above the flash point of" in each.caution and scent.name.lower() in each.caution.lower()
                self.assertEqual(named, over, (scent.key, each.key, warmest))
                told += over
            self.assertEqual(each.flash_c, min(map(flash_c, scents)) if is_in else None, (each.key, first))
        return told

    def test_every_scent_at_every_warm_step(self) -> None:
        """By bath, cooker and microwave, poured and whipped: adding, cooling, pouring, topping up."""
        told = 0
        for scent, (parts, heating) in product(
            SCENTS, ((HARD, "bath"), (HARD, "thermostat"), (SOFT, "microwave"), (SOFT, "bath"))
        ):
            made = setup(Composition.of({**parts, scent.key: 0.5})).handled(heating=heating)
            told += self.assert_held(made, [scent], "add")
        self.assertGreater(told, 300)
        unknown = [scent for scent in SCENTS if scent.flash_c is None]
        self.assertGreater(len(unknown), 0)
        for scent in unknown:
            found = step(method_for(setup(Composition.of({**HARD, scent.key: 0.5}))), "add")
            self.assertEqual(found.flash_c, UNKNOWN_FLASH_C)
            self.assertIn("(not known, counted as 40 °C)", found.caution)

    def test_every_scent_of_a_finish_and_of_an_earlier_melt(self) -> None:
        """A finish's own scent while it is stirred in and poured; one that an earlier melt holds from the melt on."""
        for scent in SCENTS:
            base = Composition.of(HARD)
            finishes = [Finish("Plain", D(60), count=1), Finish("Tide", D(60), (Addition(scent, D("0.01")),), 1)]
            found = portioned(base, finishes, D("0.1"))
            plain = setup(base)
            made = replace(plain, total_g=float(found.total_g), portions=found.portions)
            steps = {each.key: each for each in method_for(made).steps if each.key.startswith("finish_")}
            for number, own in ((0, []), (1, [scent])):
                caution = steps[f"finish_{number}"].caution
                over = bool(own) and made.handling.pour_c >= flash_c(scent)
                self.assertEqual("above the flash point" in caution, over, (scent.key, number))
            oil = shipped().ingredient("olive_oil")
            rest = replace(shipped().ingredient("tallow"), key="rest", made_of=((oil, 0.9), (scent, 0.1)), fractions=())
            again = Composition.of({**HARD, "rest": 1}, shipped().and_own([rest]))
            self.assert_held(setup(again), [scent], "melt")

    def test_spirit_evaporates_far_from_any_heat_and_little_of_it(self) -> None:
        """No stove, no temperature to warm to; more than 50 g of it is refused with the reason; honey is not driven off."""

        def wet(grams: float) -> Setup:
            return replace(setup(Composition.of({"beeswax_yellow": 20, "olive_oil": 75, "tincture": 5})), total_g=grams)

        off = step(method_for(wet(990)), "water_off")
        self.assertEqual((off.at, off.aim), ("", ""))
        self.assertIn("No flame, hot plate, thermostat or electric switch in the room", off.caution)
        with self.assert_refused("Evaporate at most 50.0 g at a time"):
            method_for(wet(1010))
        honey = method_for(setup(Composition.of({"beeswax_yellow": 20, "olive_oil": 78, "honey": 2})))
        self.assertNotIn("water_off", [each.key for each in honey.steps])
        self.assertNotIn("pirit", " ".join(each.caution for each in honey.steps))

    def test_a_room_warmer_than_it_sets_and_much_lanolin(self) -> None:
        """Nothing waits for a skin and nothing is poured below the room; lanolin is poured 15 K above setting."""
        soft = Composition.of({"coconut_oil": 60, "olive_oil": 40})
        warm = setup(soft, room=30).handled(pour_c=pour_temperature(soft, room_c=30))
        self.assertTrue(warm.stays_liquid)
        self.assertGreaterEqual(warm.handling.pour_c, 30)
        text = " ".join(each.text for each in method_for(warm).steps)
        self.assertIn("it stays liquid", text)
        self.assertNotIn("until a skin forms", text)
        for lanolin, above in ((40, 15), (20, 8)):
            balm = Composition.of({"lanolin": lanolin, "beeswax_white": 10, "olive_oil": 90 - lanolin})
            set_c = predict(balm).set_c
            assert set_c is not None
            self.assertAlmostEqual(pour_temperature(balm) - set_c, above, delta=0.01)

    def test_crystals_are_dissolved_in_warm_oil(self) -> None:
        add = step(method_for(setup(Composition.of({**HARD, "menthol": 0.5}))), "add")
        self.assertIn("Dissolve menthol crystals first, in a little of the warm oil", add.text)
        self.assertGreaterEqual(add.length, 6)

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_a_thermostat_asks_for_no_more_than_anything_in_it_stands(self, data: st.DataObject) -> None:
        """Random waxes, butters and oils: what the step says never exceeds the lowest damage limit in the pot."""
        of = {role: [i.key for i in shipped().ingredients.values() if i.role is role and i.fractions] for role in Role}
        keys = [data.draw(st.sampled_from(of[role])) for role in (Role.WAX, Role.BUTTER, Role.OIL)]
        made = setup(Composition.of({key: data.draw(st.integers(5, 60)) for key in keys})).handled(heating="thermostat")
        limits = [most for item in made.items(*MELTED) if (most := heat_limit(item)) is not None]
        self.assertLessEqual(set_to(made), min(limits))
        melt = next((each for each in method_for(made).steps if each.key == "melt"), None)
        if melt is not None:
            self.assertIn(f"on low, at {made.temp(set_to(made))}", melt.text)

    def test_a_microwave_is_refused_below_thirty_grams(self) -> None:
        with self.assert_refused("A microwave can't heat less than 30 g safely"):
            method_for(replace(setup(Composition.of(SOFT)).handled(heating="microwave"), total_g=29.0))
