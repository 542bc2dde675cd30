"""From containers to grams on the scale's grid, and the order of the pot."""

from decimal import Decimal as D

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.composition import Composition
from balmcore.making.pot import pot_order
from balmcore.making.scaling import Filling, filled_density, scale
from balmcore.physics.firmness import predict
from balmcore.tests import CoreTestCase

SALVE = Composition.of({"olive_oil": D("0.8"), "beeswax_yellow": D("0.195"), "lavender": D("0.005")})
TWO_TINS = [Filling("tin_screw_30", 31, 0.9, 2)]


class ScaleTests(CoreTestCase):
    def test_four_tubes_and_two_tins(self) -> None:
        """Capacity x fill x the melt's density at 60 °C, which is clear; loss on top, and lines that add to the total."""
        tubes_and_tins = [Filling("tube", 5.3, 0.92, 4), *TWO_TINS]
        found = scale(SALVE, tubes_and_tins, 60, D("0.1"), D(3))
        # Of beeswax 96 % are solid at 25 °C: molten they take 0.10 mL/g more.
        cold = 0.8 / 0.914 + 0.195 / 0.96 + 0.005 / 0.885
        density = 1 / (cold * (1 + 0.00075 * 35) + 0.10 * 0.195 * 0.96)
        self.assertAlmostEqual(found.density_g_ml, density, places=4)
        self.assertAlmostEqual(found.pieces[0].net_g, 5.3 * 0.92 * density, places=3)
        self.assertAlmostEqual(found.product_g, (4 * 5.3 * 0.92 + 2 * 31 * 0.9) * density, places=2)
        self.assertEqual(found.total_g, D("69.6"))
        self.assertEqual(found.lines, {"olive_oil": D("55.7"), "beeswax_yellow": D("13.6"), "lavender": D("0.3")})
        self.assertEqual(sum(found.lines.values()), found.total_g)

    def test_a_line_the_scale_cannot_weigh_well_is_flagged(self) -> None:
        """0.35 g of scent on a 0.1 g scale is 15 % off, on a 1 g scale nothing; on 0.01 g fine."""
        coarse = scale(SALVE, TWO_TINS, 60, D("0.1"), D(20)).flags
        self.assertEqual([(flag.key, round(flag.error, 3)) for flag in coarse], [("lavender", 0.154)])
        none = scale(SALVE, TWO_TINS, 60, D(1)).flags
        self.assertIn("is too little for this scale. Use a finer scale, drops or a larger batch.", none[-1].sentence)
        self.assertEqual(scale(SALVE, TWO_TINS, 60, D("0.01")).flags, ())

    def test_whipped_butter_fills_at_room_temperature_with_half_the_weight(self) -> None:
        """Overrun 1: density of what is set, at 25 °C, halved, whatever the pouring temperature."""
        found = scale(SALVE, TWO_TINS, 60, D("0.1"), overrun=1.0)
        self.assertAlmostEqual(found.density_g_ml, predict(SALVE).density_g_ml / 2)

    @settings(max_examples=80, deadline=None)
    @given(
        st.lists(st.decimals("0.01", 50, places=3), min_size=1, max_size=6),
        st.sampled_from([D("0.01"), D("0.1"), D(1), D("1.417476")]),
        st.decimals(0, 30, places=2),
        st.integers(1, 200),
    )
    def test_lines_add_up_exactly_and_none_is_off_by_a_step(self, parts: list[D], step: D, loss: D, count: int) -> None:
        """For any composition, scale, loss and count: on the grid, exact in sum, under one step off."""
        keys = ("beeswax_yellow", "cocoa_butter", "olive_oil", "castor_oil", "lavender", "arrowroot")
        composition = Composition.of(dict(zip(keys, parts, strict=False)))
        found = scale(composition, [Filling("tin", 62, 0.9, count)], 60, step, loss)
        self.assertEqual(sum(found.lines.values()), found.total_g)
        self.assertLessEqual(abs(float(found.total_g) - found.product_g - float(loss)), float(step) / 2 + 1e-9)
        for line in composition.lines:
            self.assertEqual(found.lines[line.key] % step, 0)
            self.assertLess(abs(found.lines[line.key] - line.share / composition.total * found.total_g), step)

    def test_refusals_say_what_to_do(self) -> None:
        """No containers, none of one, a scale without a step, a bath-tub of balm."""
        for fillings, step, loss, said in (
            ([], D("0.1"), D(0), "Choose at least one container."),
            ([Filling("tin", 31, 0.9, 0)], D("0.1"), D(0), "0 pieces: choose between 1 and 5000 in one batch."),
            ([Filling("tin", 31, 0.9, 10_000)], D("0.1"), D(0), "10000 pieces: choose between 1 and 5000"),
            ([Filling("tin", 31, 1.4, 1)], D("0.1"), D(0), "A fill of 140 % is not possible"),
            ([Filling("tin", 0, 0.9, 1)], D("0.1"), D(0), "A container of 0 mL cannot be filled."),
            (TWO_TINS, D(0), D(0), "The scale's smallest step should be above 0."),
            (TWO_TINS, D("NaN"), D(0), "The scale's smallest step should be above 0."),
            (TWO_TINS, D("0.1"), D(-1), "What stays in the jug cannot be less than nothing."),
            (
                [Filling("tin", 500, 1, 5000)],
                D("0.1"),
                D(0),
                "That is 2210.1 kg in one melt: split it into batches of 50 kg or less.",
            ),
        ):
            with self.subTest(said), self.assert_refused(said):
                scale(SALVE, fillings, 60, step, loss)
        with self.assert_refused("There is nothing in this formula yet"):
            scale(Composition(()), TWO_TINS, 60, D("0.1"))

    def test_a_melt_is_lighter_when_hot(self) -> None:
        """Olive oil of 0.914 g/mL at 25 °C takes 3 % more room at 65; poured between setting and clear a butter is a
        melt still, and takes the room of one."""
        olive = Composition.of({"olive_oil": 1})
        self.assertAlmostEqual(filled_density(olive, 65, 0.0), 0.914 / (1 + 0.00075 * 40))
        butter = Composition.of({"shea_butter": 75, "olive_oil": 25})
        found = predict(butter)
        hotter, colder = found.clear_c + 2, found.clear_c - 2
        gained = filled_density(butter, colder, 0.0) / filled_density(butter, hotter, 0.0)
        self.assertAlmostEqual(gained, 1 + 0.00075 * 4, places=4)
        self.assertLess(found.ml_per_g(colder), 1 / filled_density(butter, colder, 0.0))


class PotOrderTests(CoreTestCase):
    def test_water_off_first_then_by_melting_then_off_the_heat(self) -> None:
        """Tincture with the oils, hardest wax, butters, powder, what does not stand the melt, as shea beside carnauba,
        antioxidant, scent last; oils after butters where no water is in it."""
        keys = ["lavender", "olive_oil", "vitamin_e_oil", "shea_butter", "arrowroot", "tincture", "beeswax_yellow",
                "carnauba_wax", "kokum_butter"]  # fmt: skip
        self.assertEqual(
            tuple(item.key for item in pot_order(Composition.of(dict.fromkeys(keys, 1)))),
            ("tincture", "olive_oil", "carnauba_wax", "beeswax_yellow", "kokum_butter", "arrowroot", "shea_butter",
             "vitamin_e_oil", "lavender"),
        )  # fmt: skip
        dry = pot_order(Composition.of({"olive_oil": 3, "shea_butter": 2, "beeswax_yellow": 1}))
        self.assertEqual([item.key for item in dry], ["beeswax_yellow", "shea_butter", "olive_oil"])
