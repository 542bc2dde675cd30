"""One melt for several finishes, and a melt put right in the pot."""

from decimal import Decimal as D
from functools import partial

from hypothesis import given
from hypothesis import strategies as st

from balmcore.advice.safety import Wearer, over_limit
from balmcore.composition import Composition
from balmcore.design.rescue import rescue, strengthen
from balmcore.making.dosing import dosing_in_finish
from balmcore.making.portions import Addition, Finish, FinishPlan, Wanted, drops_g, portioned, scale_finishes
from balmcore.making.scaling import Filling, on_grid
from balmcore.physics.firmness import predict
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase

BASE = Composition.of({"beeswax_yellow": D("0.2"), "shea_butter_refined": D("0.2"), "sunflower_oil_ho": D("0.6")})


def item(key: str):
    return shipped().ingredient(key)


def added(key: str, share: str) -> Addition:
    return Addition(item(key), D(share))


class PortionTests(CoreTestCase):
    def test_three_finishes_of_one_base_close_to_the_last_step(self) -> None:
        """Plain, scented and tinted, and more of an oil that is in the base: grams by hand."""
        finishes = [
            Finish("plain", D("84.03")),
            Finish("scented", D("84.03"), (added("lavender", "0.01"), added("mica_pearl", "0.015"))),
            Finish("softer", D("25"), (added("sunflower_oil_ho", "0.1"),)),
        ]
        made = portioned(BASE, finishes, D("0.1"), D("3"))
        self.assertEqual([portion.base_g for portion in made.portions], [D("84.0"), D("81.9"), D("22.5")])
        self.assertEqual(made.portions[1].add, {"lavender": D("0.8"), "mica_pearl": D("1.3")})
        self.assertEqual(made.total_g, D("191.4"))
        self.assertEqual(sum(made.lines.values()), D("191.4"))
        softer = made.portions[2].composition
        self.assertEqual(softer.share_of("sunflower_oil_ho"), D("0.64"))
        self.assertAlmostEqual(predict(softer).firmness_at(21), 53.76, places=2)

    @given(
        st.lists(st.tuples(st.decimals(1, 500, places=3), st.decimals(0, D("0.9"), places=4)), min_size=1, max_size=6),
        st.sampled_from([D("0.01"), D("0.1"), D("1"), D("0.28349523125")]),
        st.decimals(0, 20, places=2),
    )
    def test_every_sum_closes(self, asked: list[tuple[D, D]], step: D, loss: D) -> None:
        """Lines to the base, parts to their portion, portions and the jug's rest to the base, on the grid."""
        finishes = [
            Finish(str(n), grams + 1, (Addition(item("lavender"), share),)) for n, (grams, share) in enumerate(asked)
        ]
        made = portioned(BASE, finishes, step, loss)
        self.assertEqual(sum(made.lines.values()), made.total_g)
        self.assertEqual(sum((p.base_g for p in made.portions), made.loss_g), made.total_g)
        for portion in made.portions:
            self.assertEqual(portion.total_g % step, 0)
            self.assertLessEqual(abs(portion.total_g - portion.finish.product_g), step / 2)

    def test_a_drop_in_each_mould_is_counted_on_top_of_what_is_weighed(self) -> None:
        """One drop of lavender in a 25 g bar: a tenth of a percent, off the scale's grid and in the sum."""
        lavender = item("lavender")
        bars = Filling("bar", 30, 0.9, 4, net_g=25.0)
        drop = Wanted(lavender, D(1), Wanted.How.DROPS)
        scaled = scale_finishes(BASE, [FinishPlan("bars", (bars,), (drop,))], 60, D("0.1"), D(2))
        (portion,) = scaled.portions
        one = lavender.density_g_ml / lavender.drops_per_ml
        self.assertAlmostEqual(float(portion.add["lavender"]), 4 * one)
        self.assertAlmostEqual(float(portion.finish.add[0].share), one / 25)
        self.assertEqual((portion.base_g, scaled.total_g, scaled.flags), (D("101.9"), D("101.9"), ()))
        with self.assert_refused("How much a drop of mica, white pearl (generic) weighs is not known"):
            drops_g(item("mica_pearl"), 1)

    def test_finishes_are_scaled_to_their_pieces(self) -> None:
        """Three plain tins, three with 0.8 g of scent: each portion holds its pieces and its part of the rest."""
        tins = Filling("tin", 30, 0.9, 3)
        scent = Wanted(item("lavender"), D("0.8"), Wanted.How.GRAMS)
        plans = [FinishPlan("plain", (tins,)), FinishPlan("scented", (tins,), (scent,))]
        scaled = scale_finishes(BASE, plans, 60, D("0.1"), D(3))
        plain, scented = scaled.portions
        self.assertEqual(scented.add, {"lavender": D("0.8")})
        held = [sum(piece.net_g * piece.count for piece in pair) for pair in (scaled.pieces[:1], scaled.pieces[1:])]
        for portion, product in zip((plain, scented), held, strict=True):
            self.assertAlmostEqual(float(portion.total_g), product + 3 * product / sum(held), delta=0.05)
        self.assertEqual(plain.base_g + scented.base_g, scaled.total_g)
        with self.assert_refused("“tinted” has no container"):
            scale_finishes(BASE, [FinishPlan("tinted", ())], 60, D("0.1"), D(0))
        with self.assert_refused("takes the whole of it"):
            scale_finishes(
                BASE, [FinishPlan("all", (tins,), (Wanted(item("lavender"), D(99), Wanted.How.GRAMS),))], 60, D(1), D(0)
            )

    def test_water_in_the_base_is_weighed_in_on_top_and_nonsense_is_refused(self) -> None:
        """Half a tincture boils away; a finish of nothing, one that is all addition, and a name twice."""
        wet = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.7"), "tincture": D("0.1")})
        made = portioned(wet, [Finish("plain", D(90))], D("0.1"))
        self.assertEqual(made.total_g - made.driven_off_g, 90)
        self.assertAlmostEqual(float(made.driven_off_g), 9.7, delta=0.1)
        for finishes, said in (
            ([Finish("none", D(0))], "“none” holds nothing"),
            ([Finish("all", D(9), (added("lavender", "1"),))], "takes the whole of it"),
            ([Finish("twin", D(9)), Finish("twin", D(9))], "Two finishes are called “twin”"),
            ([], "between one and 12"),
        ):
            with self.subTest(said), self.assert_refused(said):
                portioned(BASE, finishes, D("0.1"))

    @given(
        st.decimals(D("0.0005"), D("0.05"), places=4),
        st.decimals(3, 2000, places=1),
        st.sampled_from(["lavender", "iron_oxide_red", "tocopherol_t50", "sunflower_oil_ho", "mica_pearl"]),
        st.sampled_from([D("0.01"), D("0.1"), D("1"), D("0.28349523125")]),
    )
    def test_what_a_finish_asks_of_the_scale_is_said_of_that_finish(
        self, share: D, grams: D, key: str, step: D
    ) -> None:
        """A line that the step puts off by over 5 % is flagged at its portion, in the base or not, and each way
        to do it does: the larger finish is not flagged, the dilution holds what is wanted and stays in the base."""
        made = portioned(BASE, [Finish("plain", D(50)), Finish("other", grams, (added(key, str(share)),))], step)
        self.assertTrue({flag.key for flag in made.flags} <= set(BASE.keys))
        portion = made.portions[1]
        if not portion.flags:
            return
        want = share * portion.total_g
        self.assertGreater(abs(portion.add[key] - want) / want, D("0.05"))
        way = dosing_in_finish(portion, key, step)
        larger = portioned(BASE, [Finish("other", way.larger_g, (added(key, str(share)),))], step).portions[0]
        self.assertEqual((way.grams, way.drops_per_ml), (want, item(key).drop_count))
        self.assertLess(max((flag.error for flag in larger.flags), default=0.0), 0.1)  # a step of the largest remainder
        if mix := way.dilution:
            self.assertIsNone(mix.carrier)
            self.assertLess(abs(mix.take_g / mix.strength - want) / want, D("0.026"))
            self.assertLessEqual(mix.carrier_g, portion.base_g)
            self.assertGreaterEqual(mix.pure_g * mix.strength, mix.take_g)
            self.assertLess(abs(mix.take_g - want - mix.less_g), step)

    @given(
        st.sampled_from([D("0.01"), D("0.1"), D("0.5"), D("1"), D("0.28349523125")]),
        st.decimals(5, 400, places=2),
        st.decimals(D("0.0001"), D("0.02"), places=4),
        st.decimals(0, D("0.02"), places=4),
        st.sampled_from(["body", "face", "lips", "hands_feet"]),
        st.sampled_from(["adult", "pregnant", "child_6_15y"]),
    )
    def test_rounding_brings_nothing_over_a_limit(
        self, step: D, grams: D, first: D, second: D, area: str, audience: str
    ) -> None:
        """In a pot, and in what its finishes become: what is within a limit as planned is so as it is weighed."""
        wearer = Wearer(audience, area)
        over = partial(over_limit, wearer=wearer)
        scented = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.8") - first - second,
                                  "lavender": first, "lemongrass": second})  # fmt: skip
        total = max(step, (grams / step).to_integral_value() * step)
        lines, _ = on_grid(scented, total, step, over)
        self.assertEqual(sum(lines.values()), total)
        weighed = Composition.of(lines)
        self.assertEqual(over(weighed) - over(scented), frozenset())
        finishes = [Finish("plain", grams + 20), Finish("gale", grams + 20, (added("tea_tree", str(second)),))]
        made = portioned(scented, finishes, step, over=over)
        self.assertEqual(sum(made.lines.values()), made.total_g)
        base = Composition.of(made.lines)
        for portion in made.portions:
            self.assertEqual(portion.total_g % step, 0)
            self.assertEqual(over(portion.of(base)) - over(portion.composition), frozenset(), portion.finish.name)

    def test_one_percent_of_lavender_stays_one_percent(self) -> None:
        """9.58 g at 1 %: 0.1 g would be 1.044 %, over the limit for hands; nothing is weighed, and the ways are said."""
        made = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.79"), "lavender": D("0.01")})
        for total, got in ((D("9.6"), D("0")), (D("49.6"), D("0.4")), (D("50.0"), D("0.5"))):
            lines, _ = on_grid(made, total, D("0.1"), partial(over_limit, wearer=Wearer("adult", "hands_feet")))
            self.assertEqual((lines["lavender"], sum(lines.values())), (got, total))

    def test_a_scent_for_three_tins_is_offered_in_drops_and_diluted_in_their_base(self) -> None:
        """0.45 % lavender of 80 g: 0.36 g on a scale of 0.1; by hand 1 in 10, 3.6 g of it for 3.2 g of base."""
        portion = portioned(BASE, [Finish("gale", D(80), (added("lavender", "0.0045"),))], D("0.1")).portions[0]
        self.assertEqual(portion.flags[0].sentence[:38], "The scale's step puts it 11 % off. Use")
        way = dosing_in_finish(portion, "lavender", D("0.1"))
        assert way.dilution is not None
        self.assertEqual((way.larger_g, way.drops), (D("222.3"), 10))
        self.assertEqual(
            (way.dilution.strength, way.dilution.pure_g, way.dilution.carrier_g, way.dilution.take_g),
            (10, D("1.0"), D("9.0"), D("3.6")),
        )
        self.assertEqual((way.dilution.less_g, way.dilution.more_g), (D("3.2"), D("5.8")))


class RescueTests(CoreTestCase):
    def test_the_pot_comes_to_the_firmness_asked_for(self) -> None:
        """Wax to 70, oil to 40: the model of what is then in the pot says so to a hundredth."""
        for want, key in ((70, "beeswax_yellow"), (40, "olive_oil"), (62, "candelilla_wax"), (60, "cocoa_butter")):
            with self.subTest(key):
                found = rescue(BASE, 200, want, item(key))
                self.assertTrue(found.success)
                self.assertAlmostEqual(predict(found.composition).firmness_at(21), want, places=2)
                mixed = {line.key: float(line.share) * 200 for line in BASE.lines}
                mixed[key] = mixed.get(key, 0.0) + found.add_g
                self.assertAlmostEqual(float(found.composition.share_of(key)), mixed[key] / (200 + found.add_g))

    def test_what_was_felt_shifts_the_model(self) -> None:
        """Felt 12 points softer than the model: 60 is asked of a model that stands 12 higher."""
        model = predict(BASE).firmness_at(21)
        found = rescue(BASE, 200, 60, item("beeswax_yellow"), felt=model - 12)
        self.assertAlmostEqual(found.firmness, 60, places=3)
        self.assertAlmostEqual(predict(found.composition).firmness_at(21), 72, places=2)
        self.assertEqual(rescue(BASE, 200, 45, item("beeswax_yellow"), felt=45).add_g, 0)
        # The shift stays with the pot: what brings it to 60 from there is what felt would have asked for, and no drop
        # felt since is another one.
        again = rescue(found.composition, found.total_g, 64, item("beeswax_yellow"), shift=found.shift)
        self.assertAlmostEqual(found.shift, -12)
        at_once = rescue(BASE, 200, 64, item("beeswax_yellow"), felt=model - 12)
        self.assertAlmostEqual(found.add_g + again.add_g, at_once.add_g, places=3)
        self.assertEqual(rescue(BASE, 200, 45, item("beeswax_yellow"), felt=45, shift=30).shift, 45 - model)

    def test_what_cannot_be_says_why(self) -> None:
        """The wrong way, too far, and an empty pot; a scent made stronger."""
        self.assertIn("only softens it", rescue(BASE, 200, 70, item("olive_oil")).reason)
        self.assertIn("only stiffens it", rescue(BASE, 200, 30, item("beeswax_yellow")).reason)
        self.assertIn("no nearer than", rescue(BASE, 200, 120, item("shea_butter_refined")).reason)
        with self.assert_refused("nothing in the pot"):
            rescue(BASE, 0, 60, item("beeswax_yellow"))
        self.assertAlmostEqual(strengthen(BASE, 99, item("lavender"), D("0.01")), 1.0)
        with self.assert_refused("as much lavender"):
            strengthen(BASE, 99, item("lavender"), D(0))
