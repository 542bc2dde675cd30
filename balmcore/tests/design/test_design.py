"""Reaching a firmness and swapping: the middle is met, locks and wishes kept, refusals named."""

from dataclasses import replace
from decimal import Decimal as D

import numpy as np

from balmcore.advice.safety import Wearer, cautions
from balmcore.composition import Composition
from balmcore.design.from_stock import from_stock, using_up
from balmcore.design.ladder import ladder
from balmcore.design.solver import BRITTLE_CAP, WAX_CAP, Aim, Task
from balmcore.design.substitution import CURVE_C, Substitution, distance, stand_ins, substitute
from balmcore.design.target import Status, Target, _task, per_gram, reformulate
from balmcore.design.triangle import moved, place_of, reachable
from balmcore.design.wishes import Wishes, named_by, read_wishes
from balmcore.physics.firmness import predict
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase

BALM = Composition.of(
    {"beeswax_yellow": D("0.17"), "shea_butter_refined": D("0.2"), "coconut_oil_refined": D("0.08"),
     "sunflower_oil_ho": D("0.545"), "vitamin_e_oil": D("0.005")}
)  # fmt: skip


def swap(composition: Composition, out: str, into: str, filler: str) -> Substitution:
    """A substitution by the keys of the shipped tables."""
    tables = shipped()
    return substitute(composition, out, tables.ingredient(into), tables.ingredient(filler))


def wishes(vegan: bool = False, *without: str) -> Wishes:
    """Wishes among the shipped tables."""
    return read_wishes(shipped(), vegan, without)


def share(composition: Composition, key: str) -> float:
    return float(next((line.share for line in composition.lines if line.key == key), 0))


class ReachTests(CoreTestCase):
    def test_every_kind_is_reached_from_a_hand_balm_or_refused_with_a_reason(self) -> None:
        """The middle of the window to half a point, the hold kept, exactly one hundred, extras untouched."""
        met = []
        for kind in shipped().kinds.values():
            with self.subTest(kind.key):
                found = reformulate(
                    BALM, Target(kind.firm_low, kind.firm_high, kind.hold_firmness, kind.hold_temp_c, kind.overrun)
                )
                self.assertEqual(found.composition.total, 1)
                self.assertEqual(share(found.composition, "vitamin_e_oil"), 0.005)
                firmness = predict(found.composition, kind.overrun).firmness_at(21)
                self.assertAlmostEqual(found.firmness, firmness)
                self.assertEqual(found.success, found.message == "")
                if found.success:
                    met.append(kind.key)
                    self.assertTrue(kind.firm_low <= firmness <= kind.firm_high)
                    if kind.hold_firmness is not None:
                        self.assertGreaterEqual(found.hold_firmness, kind.hold_firmness - 0.05)
        self.assertGreaterEqual(len(met), 11)
        for low, high in ((30, 40), (50, 62), (70, 80)):
            self.assertAlmostEqual(reformulate(BALM, Target(low, high)).firmness, (low + high) / 2, delta=0.5)

    def test_the_least_change_is_proposed(self) -> None:
        """A composition already in the middle stays as it is, to a tenth of a percent."""
        middle = predict(BALM).firmness_at(21)
        found = reformulate(BALM, Target(middle - 5, middle + 5, 20, 38))
        for line in BALM.lines:
            self.assertAlmostEqual(share(found.composition, line.key), float(line.share), delta=0.001)

    def test_locked_lines_stay_and_are_named_when_they_stand_in_the_way(self) -> None:
        """Wax locked at 17 % makes no lotion bar; a locked oil stays to the digit."""
        waxed = Composition(tuple(line._replace(locked=line.key == "beeswax_yellow") for line in BALM.lines))
        found = reformulate(waxed, Target(82, 94, 45, 40))
        self.assertFalse(found.success)
        self.assertEqual(found.message, "The locked lines stand in the way: unlock one.")
        self.assertEqual(share(found.composition, "beeswax_yellow"), 0.17)
        oiled = Composition(tuple(line._replace(locked=line.key == "coconut_oil_refined") for line in BALM.lines))
        found = reformulate(oiled, Target(70, 80, 45, 40))
        self.assertTrue(found.success)
        self.assertEqual(share(found.composition, "coconut_oil_refined"), 0.08)

    def test_wishes_replace_what_they_bar(self) -> None:
        """A vegan stick without coconut or nuts: a plant wax and another butter come in."""
        found = reformulate(BALM, Target(70, 80, 45, 40, wishes=wishes(True, "coconut", "nuts")))
        self.assertTrue(found.success)
        kept = {line.key for line in found.composition.lines if line.share}
        self.assertTrue(kept.isdisjoint({"beeswax_yellow", "shea_butter_refined", "coconut_oil_refined"}))
        self.assertEqual([shipped().ingredient(key).vegan for key in kept], ["yes"] * len(kept))
        locked = Composition(tuple(line._replace(locked=line.key == "beeswax_yellow") for line in BALM.lines))
        self.assertEqual(
            reformulate(locked, Target(50, 62, wishes=wishes(True))).message,
            "Beeswax, yellow is locked, and the wishes bar it: unlock it first.",
        )

    def test_a_wish_names_or_is_refused_and_nothing_unwished_stays(self) -> None:
        """Tree nuts, almond and shea go to the last trace; what names nothing is refused with the nearest."""
        for word, gone in (("tree nuts", "argan_oil"), ("almond", "almond_wax"), ("shea", "shea_butter")):
            self.assertIn(shipped().ingredient(gone), named_by(word, shipped()))
        for word in ("shea", "tree nuts", "liquid oil", "beeswax_yellow"):
            kept = wishes(False, word)
            for way in reformulate(BALM, Target(48, 64, 20, 38, wishes=kept)).ways:
                self.assertTrue(all(kept.allow(line.ingredient) for line in way.composition.lines if line.share), word)
        for word, nearest in (("zzz", "Say one such as tree nuts"), ("almnd", "almond")):
            with self.subTest(word), self.assert_refused(nearest):
                named_by(word, shipped())

    def test_the_simplest_way_comes_first_and_a_halved_line_is_told(self) -> None:
        """A stick by more wax alone: butter, coconut and vitamin stay; ways differ by a percent or more."""
        found = reformulate(BALM, Target(62, 82, 40, 38))
        self.assertEqual([way.name for way in found.ways][:2], ["More wax", "More wax and more butter"])
        self.assertEqual(
            [share(found.composition, line.key) for line in BALM.lines[1:3]],
            [float(line.share) for line in BALM.lines[1:3]],
        )
        soft = reformulate(BALM, Target(10, 20))
        self.assertTrue(all(way.warning.startswith("Takes more than half of") for way in soft.ways if way.halved))
        halved = [[item.key for item in way.halved] for way in soft.ways]
        self.assertTrue(any(halved))
        parts = Composition(tuple(line._replace(share=line.share * 2) for line in BALM.lines))
        in_parts = reformulate(parts, Target(10, 20))
        self.assertEqual([[item.key for item in way.halved] for way in in_parts.ways], halved)

    def test_cheaper_gives_up_what_is_dear_and_says_when_nothing_is_to_be_saved(self) -> None:
        """The dear butter shrinks at the same firmness; with butter and oil locked nothing can be saved."""
        prices = (("beeswax_yellow", 0.02), ("shea_butter_refined", 0.04), ("sunflower_oil_ho", 0.01))
        target = Target(50, 62, 20, 38, prices=prices, cheaper=True)
        found = reformulate(BALM, target)
        self.assertTrue(found.success)
        self.assertLess(per_gram(found.composition, target), per_gram(BALM, target) * 0.995)
        self.assertTrue(any(share(way.composition, "shea_butter_refined") < 0.2 for way in found.ways))
        locked = Composition(tuple(line._replace(locked=line.key != "beeswax_yellow") for line in BALM.lines))
        refused = reformulate(locked, target)
        self.assertEqual(
            (refused.success, refused.message),
            (False, "The wish for less cost stands in the way: nothing cheaper reaches it."),
        )

    def test_what_cannot_be_met_names_the_constraint(self) -> None:
        """No wax, a range at its end, a hold no firmness of that sort can keep, a window upside down."""
        wax = Composition.of({"beeswax_yellow": D("0.15"), "olive_oil": D("0.85")})
        self.assertEqual(
            reformulate(wax, Target(8, 25)).message, "The usual range of olive oil stands in the way: up to 90 %."
        )
        self.assertEqual(
            reformulate(
                Composition.of({"shea_butter": D("0.75"), "olive_oil": D("0.25")}), Target(70, 80, 45, 40)
            ).message,
            "There is no wax in it: add one, and ask again.",
        )
        butter = Composition.of({"cocoa_butter": D("0.5"), "olive_oil": D("0.4"), "beeswax_yellow": D("0.1")})
        self.assertIn(
            "70 at 55 °C cannot be kept at this firmness.", reformulate(butter, Target(70, 74, 70, 55)).message
        )
        with self.assert_refused("The window should run from a lower to a higher firmness."):
            reformulate(BALM, Target(60, 50))

    def test_each_dial_that_exists_is_tried_and_nothing_is_refused_that_can_be_met(self) -> None:
        """Butter against oil where there is no wax; of forty formulas by chance none is refused that one of four thousand
        mixtures by chance meets; a reason is a wall without which it is met."""
        plain = Composition.of({"shea_butter": D("0.5"), "olive_oil": D("0.5")})
        self.assertEqual(reformulate(plain, Target(50, 60)).ways[0].name, "More butter")
        chance = np.random.default_rng(8)
        for _ in range(40):
            keys = [
                *chance.choice(("beeswax_yellow", "candelilla_wax"), int(chance.integers(0, 2)), replace=False),
                *chance.choice(("shea_butter", "cocoa_butter", "mango_butter"), 1),
                "olive_oil",
                "jojoba_oil",
            ]
            asked = Composition.of({str(key): float(chance.uniform(5, 50)) for key in keys})
            low = float(chance.uniform(15, 80))
            target = Target(low, low + 12, 20.0, float(chance.uniform(28, 38)))
            found, task = reformulate(asked, target), _task(asked, target, shipped())
            if not found.success:
                mixed = chance.dirichlet(np.full(len(task.start), 0.7), 4000)
                meets = task.within(mixed) & (task.aim.missed(task.firmness(mixed)) <= 0)
                self.assertFalse(meets.any(), (asked, target, found.message))
            if found.status is Status.HOLD:
                self.assertTrue(reformulate(asked, replace(target, hold_firmness=None, hold_temp_c=None)).success)
            if found.status is Status.RANGES:
                self.assertTrue(reformulate(asked, replace(target, usual_ranges=False)).success)

    def test_an_answer_does_not_depend_on_the_order_of_lines(self) -> None:
        """Met and refused alike: the same shares, told in the order in which they were written."""
        chance = np.random.default_rng(2)
        for low in (55.0, 98.0):
            told = reformulate(BALM, Target(low, low + 8, 20, 38))
            for _ in range(4):
                mixed = Composition(tuple(BALM.lines[n] for n in chance.permutation(len(BALM.lines))))
                found = reformulate(mixed, Target(low, low + 8, 20, 38))
                self.assertEqual({line.key: line.share for line in found.composition.lines},
                                 {line.key: line.share for line in told.composition.lines})  # fmt: skip
                self.assertEqual((found.message, [way.name for way in found.ways]),
                                 (told.message, [way.name for way in told.ways]))  # fmt: skip
                self.assertEqual([key for key in found.composition.keys if key in mixed.keys],
                                 [key for key in mixed.keys if key in found.composition.keys])  # fmt: skip

    def test_scent_over_its_limit_is_brought_down_to_it(self) -> None:
        """Three percent of lavender, one allowed: one is proposed."""
        scented = Composition.of({"beeswax_yellow": D("0.17"), "olive_oil": D("0.8"), "lavender": D("0.03")})
        found = reformulate(scented, Target(45, 58, most=(("lavender", 0.01),)))
        self.assertTrue(found.success)
        self.assertEqual(share(found.composition, "lavender"), 0.01)
        self.assertNotIn(
            "stop", [caution.level for caution in cautions(found.composition, Wearer("adult", "body", "cautious"))]
        )


class SwapTests(CoreTestCase):
    def test_a_matched_swap_lies_nearer_on_the_curve_than_one_for_one(self) -> None:
        """Plant waxes, butters and oils: the matched curve is never further off, and often much nearer."""
        for out, into in (("beeswax_yellow", "candelilla_wax"), ("beeswax_yellow", "carnauba_wax"), ("beeswax_yellow", "soy_wax"),
                          ("shea_butter_refined", "mango_butter"), ("shea_butter_refined", "cocoa_butter"),
                          ("coconut_oil_refined", "babassu_oil")):  # fmt: skip
            with self.subTest(into):
                found = swap(BALM, out, into, "sunflower_oil_ho")
                before = predict(BALM).curve(CURVE_C).firmness[0]
                off = [
                    float(np.sqrt(np.mean((predict(made).curve(CURVE_C).firmness[0] - before) ** 2)))
                    for made in (found.one_for_one, found.matched)
                ]
                self.assertLessEqual(off[1], off[0] + 0.01)
                np.testing.assert_allclose(found.distance, off)
                self.assertEqual((found.one_for_one.total, found.matched.total), (1, 1))
                self.assertNotIn(out, found.matched.keys)

    def test_a_matched_swap_always_holds_the_newcomer(self) -> None:
        """Carnauba for coconut would match best at next to nothing: it stands in it all the same."""
        for out, into in (("coconut_oil_refined", "carnauba_wax"), ("sunflower_oil_ho", "castor_oil"),
                          ("shea_butter_refined", "mango_butter")):  # fmt: skip
            self.assertGreaterEqual(share(swap(BALM, out, into, "olive_oil").matched, into), 0.005)

    def test_a_swap_that_is_held_says_so_and_by_how_much_it_misses(self) -> None:
        """A tenth of a percent of beeswax would be enough of soy wax's two percent: the least that is usual is more."""
        thin = Composition.of({"soy_wax": 2, "olive_oil": 98})
        held = substitute(
            thin, "soy_wax", shipped().ingredient("shea_butter", ""), shipped().ingredient("olive_oil", "")
        )
        free = substitute(BALM, "beeswax_yellow", shipped().ingredient("candelilla_wax", ""),
                          shipped().ingredient("sunflower_oil_ho", ""))  # fmt: skip
        self.assertNotIn("misses the curve", free.sentence)
        self.assertRegex(
            held.sentence, r"(it is held at|There is no olive oil left).*misses the curve by \d+\.\d points"
        )

    def test_the_words_for_a_swap(self) -> None:
        """Candelilla for beeswax: ten points harder one for one, three quarters of the weight nearest; babassu for coconut stays as it is."""
        found = swap(BALM, "beeswax_yellow", "candelilla_wax", "sunflower_oil_ho")
        self.assertEqual(
            found.sentence,
            "One for one lands 10 points harder; 74 % of the weight comes nearest, 2 points off; the rest goes to sunflower "
            "oil, high oleic.",
        )
        self.assertAlmostEqual(found.weight_ratio, 0.74, delta=0.005)
        self.assertIn("leave it at that", swap(BALM, "coconut_oil_refined", "babassu_oil", "sunflower_oil_ho").sentence)

    def test_swaps_that_make_no_sense(self) -> None:
        """Not in the composition, itself, and a filler that is no liquid oil."""
        for arguments, said in (
            (
                ("cocoa_butter", "mango_butter", "olive_oil"),
                "What is to be swapped is not in this formula: choose one of its lines.",
            ),
            (("beeswax_yellow", "beeswax_yellow", "olive_oil"), "Choose another ingredient"),
            (("beeswax_yellow", "candelilla_wax", "shea_butter"), "cannot take up the rest: choose a liquid oil"),
            (("beeswax_yellow", "plutonium", "olive_oil"), "There is no ingredient “plutonium”"),
        ):
            with self.subTest(said), self.assert_refused(said):
                swap(BALM, *arguments)

    def test_how_unlike_two_ingredients_are(self) -> None:
        """Each thing counts by itself, either way round; what is not known counts as a usual oil's; two waxes are nearer
        than a wax and an oil."""
        oil, wax, other = (shipped().ingredient(key) for key in ("olive_oil", "beeswax_yellow", "candelilla_wax"))
        for changes, far in (
            ({}, 0),
            ({"group": "wax"}, 1),
            ({"strength": oil.strength + 0.5}, 0.5),
            ({"feel_weight": oil.feel_weight + 2}, 0.5),
            ({"feel_weight": None}, 0.25),
            ({"sink_minutes": oil.sink_minutes + 30}, 0.5),
            ({"shelf_months": oil.shelf_months / 2}, 0.25),
            ({"lip_ok": "no"}, 0.5),
        ):
            changed = replace(oil, **changes)
            self.assertAlmostEqual(distance(oil, changed), far, msg=changes)
            self.assertAlmostEqual(distance(changed, oil), far, msg=changes)
        self.assertAlmostEqual(distance(wax, other), 2.691, delta=1e-3)
        self.assertAlmostEqual(distance(wax, oil), 11.745, delta=1e-3)

    def test_stand_ins_are_near_and_respect_wishes(self) -> None:
        """White for yellow beeswax; candelilla for a vegan; a butter without nuts for shea."""
        self.assertEqual(stand_ins(shipped().ingredient("beeswax_yellow"), shipped())[0].key, "beeswax_white")
        self.assertEqual(
            stand_ins(shipped().ingredient("beeswax_yellow"), shipped(), wishes(True))[0].key, "candelilla_wax"
        )
        near = stand_ins(shipped().ingredient("shea_butter"), shipped(), wishes(False, "nuts"), ("mango_butter",))
        self.assertTrue(all("nut" not in " ".join(item.allergens) for item in near))
        self.assertNotIn("mango_butter", [item.key for item in near])
        oils = stand_ins(shipped().ingredient("olive_oil"), shipped(), share=0.67)
        self.assertTrue(all((item.usual_max_share or 1) >= 0.67 for item in oils))
        self.assertEqual({item.group for item in stand_ins(shipped().ingredient("lavender"), shipped())}, {"aromatic"})


class MoveTests(CoreTestCase):
    locked = Composition(tuple(line._replace(locked=line.key == "coconut_oil_refined") for line in BALM.lines))

    def test_groups_move_and_keep_their_inner_split(self) -> None:
        """Half wax, a quarter butter, a quarter oil of what is not extra: 99.5 % to share out."""
        found = moved(BALM, (0.5, 0.25, 0.25))
        self.assertEqual(found.total, 1)
        self.assertAlmostEqual(share(found, "beeswax_yellow"), 0.4975, delta=1e-4)
        self.assertEqual(share(found, "vitamin_e_oil"), 0.005)
        self.assertAlmostEqual(
            share(found, "sunflower_oil_ho") / share(found, "coconut_oil_refined"), 54.5 / 8, delta=0.05
        )
        np.testing.assert_allclose(place_of(found), (0.5, 0.25, 0.25), atol=2e-4)
        np.testing.assert_allclose(place_of(Composition.of({"vitamin_e_oil": 1})), (1 / 3, 1 / 3, 1 / 3))

    def test_locked_lines_bound_what_can_be_reached(self) -> None:
        """Coconut locked at 8 %: a pure wax keeps it, and the reachable corners say so."""
        found = moved(self.locked, (1.0, 0.0, 0.0))
        self.assertEqual(share(found, "coconut_oil_refined"), 0.08)
        self.assertAlmostEqual(share(found, "beeswax_yellow"), 0.915, delta=1e-4)
        self.assertEqual(len(reachable(self.locked)), 3)
        self.assertAlmostEqual(min(place[2] for place in reachable(self.locked)), 0.08 / 0.995, places=6)

    def test_a_missing_group_stays_missing_and_nowhere_is_refused(self) -> None:
        """Wax and oil alone move along one edge; extras alone not at all; not-a-number is no place."""
        edge = Composition.of({"beeswax_yellow": D("0.15"), "olive_oil": D("0.85")})
        self.assertEqual(moved(edge, (0.3, 0.5, 0.2)).role_shares()["butter"], 0)
        self.assertEqual(share(moved(edge, (0.3, 0.5, 0.2)), "beeswax_yellow"), 0.6)
        self.assertEqual(len(reachable(edge)), 2)
        powder = Composition.of({"arrowroot": D(1)})
        self.assertEqual((moved(powder, (1, 0, 0)), len(reachable(powder))), (powder, 1))
        for place in ((float("nan"), 0, 0), (0, 0, 0), (-1, -1, 0)):
            with self.assert_refused("That is no place in the triangle."):
                moved(edge, place)


class LadderTests(CoreTestCase):
    def test_cups_are_mixed_from_two_stock_melts(self) -> None:
        """Wax 10 to 20 % in five cups of 20 g: 2.5 % apart, rising in firmness, grams that add up."""
        found = ladder(BALM, "beeswax_yellow", (D("0.1"), D("0.2")), 5, D(20), D("0.1"), loss_g=D("2.5"))
        self.assertEqual([round(float(rung.share), 4) for rung in found.rungs], [0.1, 0.125, 0.15, 0.175, 0.2])
        self.assertEqual([(rung.low_g, rung.high_g) for rung in found.rungs][:2], [(D(20), D(0)), (D(15), D(5))])
        firmness = [rung.firmness for rung in found.rungs]
        self.assertEqual(firmness, sorted(firmness))
        self.assertAlmostEqual(firmness[-1], predict(found.high.composition).firmness_at(21), delta=0.01)
        for stock, cups in ((found.low, [r.low_g for r in found.rungs]), (found.high, [r.high_g for r in found.rungs])):
            self.assertEqual(sum(stock.lines.values()), sum(cups) + D("2.5"))  # what stays in each jug
        for n, at in ((0, 0), (12, 2), (24, 4)):
            share, expected = found.line[n]
            self.assertAlmostEqual(share, 0.1 + 0.1 * n / 24)
            self.assertAlmostEqual(expected, firmness[at], delta=0.1)
        self.assertEqual([rung.composition.total for rung in found.rungs], [1] * 5)

    def test_ladders_that_make_no_sense(self) -> None:
        """Too many rungs, upside down, a stranger, cups too small for the scale, locks in the way."""
        wax = ("beeswax_yellow", (D("0.1"), D("0.2")))
        for arguments, said in (
            ((*wax, 2, D(20), D("0.1")), "A ladder has 3 to 9 rungs."),
            ((*wax, 10, D(20), D("0.1")), "A ladder has 3 to 9 rungs."),
            (("beeswax_yellow", (D("0.2"), D("0.1")), 5, D(20), D("0.1")), "from a lower to a higher percentage"),
            (("kokum_butter", (D("0.1"), D("0.2")), 5, D(20), D("0.1")), "Choose one of the formula's own lines"),
            ((*wax, 9, D(5), D(1)), "too small for this scale"),
        ):
            with self.subTest(said), self.assert_refused(said):
                ladder(BALM, *arguments)
        locked = Composition(tuple(line._replace(locked=line.key != "beeswax_yellow") for line in BALM.lines))
        with self.assert_refused("Nothing is free to follow"):
            ladder(locked, "beeswax_yellow", (D("0.1"), D("0.2")), 3, D(20), D("0.1"))


class StockTests(CoreTestCase):
    def test_the_largest_batch_from_what_is_there_and_nothing_else(self) -> None:
        """Wax, shea and two oils make a salve: all oils at once where that makes half as much again; without
        wax there is none."""
        kind = shipped().kind("pot_salve")
        start = [Composition.of({key: D(str(part)) / 100 for key, part in kind.start})]
        stock = {"beeswax_yellow": D(200), "shea_butter": D(300), "sunflower_oil": D(60), "olive_oil": D(500)}
        found = from_stock(kind, start, stock, shipped())
        self.assertLessEqual({line.key for line in found.composition.lines if line.share}, set(stock))
        self.assertTrue(kind.firm_low <= found.firmness <= kind.firm_high)
        share = found.composition.share_of(found.most.key)
        self.assertAlmostEqual(float(found.most.total_g * share), float(stock[found.most.key]))
        self.assertGreater(found.most.total_g, 750)
        self.assertIsNone(from_stock(kind, start, {"olive_oil": D(500)}, shipped()))
        self.assertIsNone(from_stock(kind, start, {}, shipped()))

    def test_the_largest_batch_is_the_largest(self) -> None:
        """For ten pantries by chance at most 3 % smaller than the best of twenty thousand mixtures by chance that keep
        window, hold, usual ranges and caps; what limits it is used up."""
        chance = np.random.default_rng(4)
        waxes, butters = (
            ("beeswax_yellow", "candelilla_wax", "soy_wax"),
            ("shea_butter", "cocoa_butter", "mango_butter"),
        )
        oils = ("olive_oil", "sunflower_oil_ho", "jojoba_oil", "castor_oil", "sweet_almond_oil")
        for n in range(10):
            kind = shipped().kinds[("pot_salve", "lotion_bar", "soft_salve", "lip_balm_tube", "body_butter")[n % 5]]
            keys = [str(key) for names, count in ((waxes, 2), (butters, 2), (oils, 3))
                    for key in chance.choice(names, count, replace=False)]  # fmt: skip
            stock = {key: D(str(round(float(np.exp(chance.uniform(3, 7))), 1))) for key in keys}
            start = Composition.of({key: D(str(part)) / 100 for key, part in kind.start})
            items = tuple(shipped().ingredients[key] for key in keys)
            high = np.array([item.usual_max_share or 1.0 for item in items])
            caps = ((np.array([item.role == "wax" for item in items]), WAX_CAP),
                    (np.array([item.group == "brittle_butter" for item in items]), BRITTLE_CAP))  # fmt: skip
            aim = Aim(kind.firm_low, kind.firm_high, kind.hold_firmness, kind.hold_temp_c, kind.overrun)
            mixed = chance.dirichlet(np.full(len(items), 0.6), 20_000)
            task = Task(aim, items, mixed[0], np.zeros(len(items)), high, caps, np.zeros(0))
            meets = task.within(mixed) & (aim.missed(task.firmness(mixed)) <= 0)
            have = np.array([float(stock[key]) for key in keys])
            grams = (have / np.maximum(mixed, 1e-3)).min(axis=1)
            best = float(grams[meets].max()) if meets.any() else 0.0
            found = from_stock(kind, [start], stock, shipped())
            made_g = float(found.most.total_g) if found else 0.0
            self.assertGreaterEqual(made_g, 0.97 * best, (kind.key, stock))
            if found:
                self.assertAlmostEqual(float(found.composition.share_of(found.most.key)) * made_g,
                                       float(stock[found.most.key]), delta=0.1)  # fmt: skip

    def test_a_lot_is_used_up_by_a_batch_of_that_size(self) -> None:
        """60 g of hemp in 300 g are a fifth, locked; the other lines give way; a batch smaller than the lot does
        not take it."""
        hemp = shipped().ingredient("hemp_seed_oil")
        found = using_up(BALM, hemp, D(60), D(300))
        self.assertEqual((found.share_of("hemp_seed_oil"), found.total), (D("0.2"), 1))
        self.assertEqual([line.key for line in found.lines if line.locked], ["hemp_seed_oil"])
        with self.assert_refused("the batch has to be larger than the lot"):
            using_up(BALM, hemp, D(60), D(50))
