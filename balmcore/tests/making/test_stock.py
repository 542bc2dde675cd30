"""Lots, packs, bills, small lines, own ingredients and the rest of an earlier melt."""

from datetime import date
from decimal import Decimal as D

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.advice.safety import Wearer, cautions
from balmcore.advice.shelf_life import keeps, life
from balmcore.composition import Composition, Line, mixture
from balmcore.making.cost import Price, bill, per_gram
from balmcore.making.dosing import dosing
from balmcore.making.scaling import Filling, Piece, film_g, scale, sinkhole_ml
from balmcore.making.stock import Lot, Shelf, counts_from, draw, first_to_expire, most, packs, pieces_from
from balmcore.physics.firmness import predict
from balmcore.tables import Ingredient, shipped
from balmcore.tables.custom import by_melting, like
from balmcore.tests import CoreTestCase

SALVE = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.795"), "lavender": D("0.005")})


class StockTests(CoreTestCase):
    lots = (
        Lot(1, D(50), None, date(2026, 1, 1)),
        Lot(2, D(30), date(2027, 5, 1)),
        Lot(3, D(20), date(2027, 3, 1)),
        Lot(4, D(90), date(2026, 12, 1), is_good=False),
        Lot(5, D(0), date(2026, 12, 1)),
    )

    def test_a_shelf_is_drawn_from_until_it_is_empty_and_passes_by_what_is_barred(self) -> None:
        """The first to expire first, the one chosen before it; what is left is left for the next."""
        shelf = Shelf([Lot(1, D(30), date(2027, 1, 1)), Lot(2, D(20), date(2026, 12, 1)), Lot(3, D(9), is_good=False)])
        self.assertEqual(shelf.draw(D(15)), ({2: D(15)}, D(0)))
        self.assertEqual(shelf.draw(D(10), chosen=1), ({1: D(10)}, D(0)))
        self.assertEqual(shelf.draw(D(10), but={1}), ({2: D(5)}, D(5)))
        self.assertEqual(shelf.draw(D(40)), ({1: D(20)}, D(20)))

    def test_first_to_expire_first_unless_the_maker_chooses(self) -> None:
        """Dated lots before undated ones; spoiled and empty ones never; what is missing is told."""
        self.assertEqual([lot.pk for lot in first_to_expire(self.lots)], [3, 2, 1])
        self.assertEqual(draw(self.lots, D(45)), ({3: D(20), 2: D(25)}, D(0)))
        self.assertEqual(draw(self.lots, D(60), chosen=1), ({1: D(50), 3: D(10)}, D(0)))
        self.assertEqual(draw(self.lots, D(130), chosen=4), ({3: D(20), 2: D(30), 1: D(50)}, D(30)))

    def test_the_largest_batch_and_what_limits_it(self) -> None:
        """100 g of wax at a fifth is half a kilo; oil of which nothing is written down is named."""
        found = most(SALVE, {"beeswax_yellow": D(100), "lavender": D(10)})
        self.assertEqual((found.total_g, found.key, found.uncounted), (D(500), "beeswax_yellow", ("olive_oil",)))
        self.assertIsNone(most(SALVE, {}))
        self.assertEqual(pieces_from(D(500), D(3), 24.9), 19)
        self.assertEqual(pieces_from(D(2), D(3), 24.9), 0)

    def test_missing_grams_are_rounded_up_to_packs_bought_before(self) -> None:
        """130 g: two packs of 100, not one of 500; bare when none was bought; exact fits stay."""
        for sizes, wanted in (
            ([D(100), D(500)], (D(200), D(100), 2)),
            ([D(500)], (D(500), D(500), 1)),
            ([D(65), D(130)], (D(130), D(130), 1)),
            ([], (D(130), None, 1)),
        ):
            pack = packs(D(130), sizes)
            self.assertEqual((pack.amount, pack.size, pack.count), wanted)


class BillTests(CoreTestCase):
    def test_a_bill_adds_up_and_names_what_has_no_price(self) -> None:
        """Melt by weight with the jug's rest, containers and labels per piece, 100 g of melt."""
        prices = {
            "beeswax_yellow": Price(D("0.02"), "lot 1"),
            "olive_oil": Price(D("0.01"), "lot 2"),
            "tin": Price(D("0.40"), "lot 3"),
        }
        lines = {"beeswax_yellow": D(20), "olive_oil": D(80), "lavender": D("0.5")}
        found = bill(lines, [Piece("tin", 3, 30.0), Piece("tube", 1, 6.0)], prices, D("0.10"))
        self.assertEqual(found.melt, D("1.20"))
        self.assertEqual(found.unpriced, ("lavender", "tube"))
        self.assertEqual(found.pieces[0].total, D("1.20") * 30 / 96 + D("0.50"))
        self.assertEqual(found.total, D("1.20") + 3 * D("0.40") + 4 * D("0.10"))
        self.assertEqual(found.per_100_g, D("1.20") / D("100.5") * 100)  # not of the 96 g that the pieces hold
        self.assertEqual(per_gram({"beeswax_yellow": D("0.2"), "olive_oil": D("0.8")}, prices), D("0.012"))
        self.assertIsNone(per_gram({"lavender": D(1)}, prices))


class FillingTests(CoreTestCase):
    def test_a_net_weight_decides_and_a_fluid_ounce_is_room(self) -> None:
        """50 g each by weight; 60 g do not go into a 2 fl oz tin, which holds 52 g of this melt."""
        two_fl_oz = 59.147
        found = scale(SALVE, [Filling("tin", two_fl_oz, 0.9, 4, 50.0)], 60, D("0.1"))
        self.assertEqual((found.product_g, found.total_g), (200.0, D("200.0")))
        with self.assert_refused("60 g does not go in: brimful of this it holds 52.3 g."):
            scale(SALVE, [Filling("tin", two_fl_oz, 0.9, 4, 60.0)], 60, D("0.1"))

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.tuples(st.floats(3, 100), st.integers(1, 150)), min_size=1, max_size=3),
        st.decimals(0, 20, places=1),
    )
    def test_what_was_planned_for_is_what_it_fills(self, sorts: list[tuple[float, int]], loss: D) -> None:
        """A batch for so many pieces fills so many: none is lost to the scale's step."""
        fillings = [Filling(f"c{n}", room, 0.9, count) for n, (room, count) in enumerate(sorts)]
        found = scale(SALVE, fillings, 60, D("0.1"), loss)
        self.assertEqual(counts_from(found.total_g, loss, found.pieces), [filling.count for filling in fillings])

    def test_film_and_sinkhole(self) -> None:
        """3 g stay in a 250 mL jug of 70 mm; what is full as its skin forms dips by 3 to 7 % as it sets, a butter that is half molten at 25 °C by less, a liquid not
        at all."""
        self.assertAlmostEqual(film_g(0.9, 200, 70), 2.06, delta=0.01)
        for parts, least in (
            ({"beeswax_yellow": 20, "olive_oil": 80}, 3.3),
            ({"beeswax_yellow": 17, "shea_butter": 23, "sunflower_oil_ho": 60}, 3.3),
            ({"beeswax_yellow": 30, "cocoa_butter": 34, "shea_butter": 12, "sunflower_oil_ho": 24}, 5.8),
            ({"shea_butter": 75, "olive_oil": 25}, 1.8),
        ):
            found = predict(Composition.of(parts))
            dip = sinkhole_ml(found, 100.0)
            self.assertTrue(least <= dip <= 7.2, (parts, dip))
            self.assertAlmostEqual(dip, 100 * (1 - found.ml_per_g(25) / found.ml_per_g(found.set_c, is_melt=True)))
        self.assertEqual(sinkhole_ml(predict(Composition.of({"olive_oil": 1})), 55.8), 0)

    def test_a_line_too_small_for_the_scale_has_three_ways(self) -> None:
        """0.34 g of lavender: 10 drops, a batch of 200 g, or 10.0 % in olive oil."""
        way = dosing(SALVE, "lavender", D(68), D("0.1"))
        self.assertEqual(way.grams, D("0.340"))
        self.assertEqual(way.drops, 10)  # 0.34 g / 0.885 g/mL x 25 to the mL
        self.assertEqual(way.larger_g, D("200.0"))
        thin = way.dilution
        self.assertEqual((thin.carrier.key, thin.strength), ("olive_oil", 10))
        self.assertEqual((thin.pure_g, thin.carrier_g, thin.take_g, thin.less_g), (D(2), D(18), D("3.4"), D("3.1")))
        self.assertIsNone(dosing(SALVE, "olive_oil", D(68), D("0.1")).dilution)


def alone(item: Ingredient) -> Composition:
    """One ingredient alone."""
    return Composition((Line(item, D(1)),))


class OwnTests(CoreTestCase):
    def test_by_a_melting_range_it_is_clear_near_its_upper_end(self) -> None:
        """Waxes and butters follow the range they are given; confidence is low and told by sigma."""
        for role, low, high in (("wax", 52, 56), ("wax", 78, 82), ("butter", 30, 34), ("butter", 40, 44)):
            with self.subTest(role, high=high):
                found = predict(alone(by_melting("own-1", "Mine", role, low, high)))
                self.assertAlmostEqual(found.clear_c, high, delta=5)
                self.assertEqual(found.sigma, 12)
                self.assertGreater(found.firmness_at(20), 80)
        self.assertEqual(predict(alone(by_melting("own-1", "Mine", "oil", -10, 5))).firmness_at(10), 0)

    def test_a_fifth_of_an_own_wax_or_butter_in_oil_to_the_point(self) -> None:
        """Two ranges and two roles: firmness at 21 and 33 °C, and where each alone is clear."""
        for role, low, high, cool, skin, clear in (
            ("wax", 52, 56, 46.6, 26.9, 53.7),
            ("wax", 78, 82, 62.4, 56.5, 79.6),
            ("butter", 30, 34, 0.0, 0.0, 34.5),
            ("butter", 40, 44, 16.5, 0.0, 46.8),
        ):
            with self.subTest(role, high=high):
                own = by_melting("own-1", "Mine", role, low, high)
                mixed = predict(Composition((Line(own, D("0.2")), Line(shipped().ingredient("olive_oil"), D("0.8")))))
                self.assertAlmostEqual(mixed.firmness_at(21), cool, delta=0.06)
                self.assertAlmostEqual(mixed.firmness_at(33), skin, delta=0.06)
                self.assertAlmostEqual(predict(alone(own)).clear_c, clear, delta=0.06)
                self.assertEqual((own.role, own.allergens, own.vegan), (role, (), "varies"))

    def test_nonsense_is_refused(self) -> None:
        """Upside down, out of reach, an unknown model, a model of another role."""
        for work, said in (
            (
                lambda: by_melting("own-1", "M", "wax", 60, 50),
                "It cannot begin to melt at 60 °C and be molten at 50 °C",
            ),
            (lambda: by_melting("own-1", "M", "wax", 60, 400), "Melting lies between -30 °C and 110 °C."),
            (lambda: by_melting("own-1", "M", "soap", 60, 70), "A role is one of wax, butter, oil, extra."),
            (lambda: like("own-1", "M", "gold"), "There is no ingredient “gold” in the pantry."),
            (lambda: like("own-1", "M", "olive_oil", "wax"), "Olive oil is of the role oil, not wax."),
        ):
            with self.assert_refused(said):
                work()

    def test_like_an_essential_oil_has_its_limits_and_only_within_its_workshop(self) -> None:
        """Peppermint of one's own is as unfit for small children; outside it is unknown."""
        composition = {"own-2": D("0.005"), "olive_oil": D("0.995")}
        tables = shipped().and_own((like("own-2", "Loft mint", "peppermint"),))
        found = cautions(Composition.of(composition, tables), Wearer("child_2_6y", "face", "usual"))
        self.assertIn("Loft mint", " ".join(caution.line for caution in found))
        self.assertNotIn("own-2", shipped().ingredients)
        with self.assert_refused("There is no ingredient “own-2”"):
            Composition.of(composition)

    def test_the_rest_of_a_melt_counts_as_what_it_was_mixed_from(self) -> None:
        """Half rest, half oil predicts as the same written out: firmness, clear, roles, life, cautions."""
        rest = mixture("leftover-1", "Rest of the loft", SALVE)
        self.assertEqual((rest.aroma, rest.water_bearing), ("honey, faint, olive", False))
        wet = Composition.of({"olive_oil": D("0.97"), "aloe_gel": D("0.03")})
        self.assertTrue(mixture("leftover-2", "Rest of a cream", wet).water_bearing)
        written = Composition.of({"beeswax_yellow": D("0.1"), "olive_oil": D("0.8975"), "lavender": D("0.0025")})
        mixed = Composition((Line(rest, D("0.5")), Line(shipped().ingredient("olive_oil"), D("0.5"))))
        one, other = predict(mixed), predict(written)
        for temp in (5, 21, 40):
            self.assertAlmostEqual(one.firmness_at(temp), other.firmness_at(temp), places=6)
        self.assertAlmostEqual(one.set_c, other.set_c, places=6)
        self.assertAlmostEqual(mixed.role_shares()["wax"], 0.1)
        self.assertEqual(life(mixed), life(written))
        nursing = [c.line for c in cautions(mixed, Wearer("newborn_0_3m", "body", "cautious"))]
        self.assertEqual(nursing, [c.line for c in cautions(written, Wearer("newborn_0_3m", "body", "cautious"))])
        # Scent that came along with the rest cannot be lowered by changing a line.
        self.assertEqual({c.offer for c in cautions(mixed, Wearer("newborn_0_3m", "body", "cautious"))}, {""})
        again = mixture("leftover-2", "Rest of that", mixed)
        self.assertEqual({item.key for item, _ in again.made_of}, {"beeswax_yellow", "olive_oil", "lavender"})


class FillingFromStockTests(CoreTestCase):
    def test_how_many_a_melt_fills(self) -> None:
        """What stays in the jug fills nothing; nothing over is nothing; a piece more only when it is full."""
        for total, loss, net, count in ((103, 3, 50, 2), (102.9, 3, 50, 1), (3, 3, 50, 0), (2, 3, 50, 0), (53, 3, 50, 1),
                                        (100, 0, 0, 0), (100, 0, -1, 0), (100, 0, 0.1, 1000)):  # fmt: skip
            self.assertEqual(pieces_from(D(str(total)), D(str(loss)), net), count, (total, loss, net))


class KeepingTests(CoreTestCase):
    def test_the_shortest_lived_oil_decides_and_no_lot_is_outlived(self) -> None:
        """Hemp keeps six months, half as long again with 0.2 % vitamin E; under 2 % it does not count; a lot's
        own day comes first."""
        made = date(2026, 6, 1)
        parts = {"beeswax_yellow": 20, "olive_oil": 50, "hemp_seed_oil": 30}
        hemp = shipped().ingredient("hemp_seed_oil").shelf_months
        found = keeps(made, Composition.of(parts), {})
        self.assertEqual((found.decides.key, (found.until - made).days), ("hemp_seed_oil", round(hemp * 365.25 / 12)))
        slowed = keeps(made, Composition.of({**parts, "vitamin_e_oil": 0.3}), {})
        self.assertEqual((slowed.until - made).days, round(1.5 * hemp * 365.25 / 12))
        little = keeps(made, Composition.of({"beeswax_yellow": 20, "olive_oil": 79, "hemp_seed_oil": 1}), {})
        self.assertEqual(little.decides.key, "olive_oil")
        lots = {"olive_oil": date(2026, 8, 1), "hemp_seed_oil": date(2026, 9, 1)}
        by_lot = keeps(made, Composition.of(parts), lots)
        self.assertEqual(by_lot.sentence, "Best before 1 August 2026: the lot of olive oil ends then.")
        self.assertEqual(found.sentence, "Best before 1 December 2026: hemp seed oil turns first.")
        self.assertEqual([found.open_months(made, kind) for kind in ("tin", "tube", "")], [4, 6, 6])
        self.assertEqual(by_lot.open_months(made, "jar"), 1)

    def test_what_is_made_at_home_keeps_two_years_at_most(self) -> None:
        """An aromatic above 0.3 % and an extra above 1 % count by their own months, and no antioxidant helps them; what
        does not turn is not said to turn first."""
        wax = {"beeswax_white": D(20), "petrolatum": D(79)}
        months = {}
        for more, share in (
            ("frankincense", "0.2"),
            ("frankincense", "0.4"),
            ("vitamin_e_oil", "0.5"),
            ("lecithin", "2"),
        ):
            found = life(Composition.of({**wax, more: D(share)}))
            assert found is not None
            months[more, share] = found.months
        own = shipped().ingredients
        self.assertEqual(
            list(months.values()), [24, own["frankincense"].shelf_months, 24, own["lecithin"].shelf_months]
        )
        plain = life(Composition.of({"petrolatum": 1}))
        assert plain is not None
        self.assertNotIn("turns first", plain.sentence)

    def test_a_life_in_a_sentence(self) -> None:
        """What decides, what an open jar takes off, what an antioxidant would add; nothing known is no life."""
        plain = life(Composition.of({"beeswax_yellow": 20, "sunflower_oil_ho": 80}))
        self.assertEqual(
            plain.sentence,
            "Keeps about 18 months, 13 in an open jar: sunflower oil, high oleic turns first. "
            "0.2 % of an antioxidant would make it 24; it preserves nothing.",
        )
        self.assertIn("6 months, 4 in an open jar", life(Composition.of({"hemp_seed_oil": 1})).sentence)
        self.assertIsNone(life(Composition.of({"mica_pearl": 1})))
