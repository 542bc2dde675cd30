"""Balancing a composition: exactly a hundred, locks kept, refusals in words."""

from decimal import Decimal as D

from hypothesis import given
from hypothesis import strategies as st

from balmcore.composition import (
    GRID,
    Composition,
    Line,
    base_share,
    largest_remainder,
    normalise,
    percent_text,
    set_group,
    set_of_base,
    set_parts,
    set_shares,
)
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase


def line(key: str, share: D, locked: bool = False) -> Line:
    """A line of a shipped ingredient."""
    return Line(shipped().ingredient(key), share, locked)


BALM = Composition(
    (
        line("beeswax_yellow", D("0.2")),
        line("shea_butter", D("0.3"), locked=True),
        line("olive_oil", D("0.3")),
        line("castor_oil", D("0.2")),
    )
)


def percents(composition: Composition) -> list[str]:
    return [percent_text(line.share) for line in composition.lines]


class BalanceTests(CoreTestCase):
    def test_the_free_lines_share_the_difference_in_proportion(self) -> None:
        """Wax 20 to 30: shea is locked at 30, oils give the ten three to two."""
        self.assertEqual(
            percents(set_shares(BALM, {"beeswax_yellow": D("0.3")}, follow=True)), ["30.0", "30.0", "24.0", "16.0"]
        )

    def test_without_following_nothing_else_moves(self) -> None:
        """Wax 20 to 30 and the total is 110."""
        kept = set_shares(BALM, {"beeswax_yellow": D("0.3")}, follow=False)
        self.assertEqual(percents(kept), ["30.0", "30.0", "30.0", "20.0"])
        self.assertEqual(kept.total, D("1.1"))
        self.assertFalse(kept.is_whole)

    def test_lines_at_nothing_take_up_what_is_set_free_evenly(self) -> None:
        """When all that may follow stands at 0, it is split in equal parts."""
        composition = Composition((line("beeswax_yellow", D(1)), line("olive_oil", D(0)), line("castor_oil", D(0))))
        self.assertEqual(
            percents(set_shares(composition, {"beeswax_yellow": D("0.3")}, follow=True)), ["30.0", "35.0", "35.0"]
        )

    def test_a_share_finer_than_the_grid_is_kept_and_the_whole_stays_whole(self) -> None:
        """0.125 % of scent is possible; the total is exactly one hundred."""
        fine = set_shares(BALM, {"castor_oil": D("0.00125")}, follow=True)
        self.assertEqual(fine.total, 1)
        self.assertEqual(percents(fine)[3], "0.125")

    def test_refusals_name_the_line_and_the_room_left(self) -> None:
        """Above the room of the locked lines, nothing free to follow, and shares that are none."""
        with self.assert_refused("The locked lines leave room for 70.0 % at most") as caught:
            set_shares(BALM, {"olive_oil": D("0.71")}, follow=True)
        self.assertEqual(caught.exception.where, "percent.olive_oil")
        locked = Composition((line("beeswax_yellow", D("0.2")), line("olive_oil", D("0.8"), locked=True)))
        with self.assert_refused("Nothing is free to follow"):
            set_shares(locked, {"beeswax_yellow": D("0.1")}, follow=True)
        for bad in (D("NaN"), D("-0.1"), D("1.0001"), D("Infinity")):
            with self.assert_refused("between 0 and 100"):
                set_shares(BALM, {"olive_oil": bad}, follow=True)

    def test_an_ingredient_stands_once_and_never_below_nothing(self) -> None:
        """The same line twice and a negative share are refused by name."""
        with self.assert_refused("Olive oil stands here twice"):
            Composition((line("olive_oil", D("0.5")), line("olive_oil", D("0.5"))))
        with self.assert_refused("Olive oil cannot be less than nothing."):
            Composition.of({"olive_oil": -1})

    @given(st.lists(st.decimals(0, 5, places=6), min_size=1, max_size=12).filter(any))
    def test_normalising_ends_at_exactly_one_hundred_on_the_grid(self, shares: list[D]) -> None:
        """For any shares: the sum is 1, every share a multiple of 0.01 %, none off by a step."""
        keys = ["beeswax_yellow", "cocoa_butter", "shea_butter", "olive_oil", "castor_oil", "jojoba_oil",
                "lavender", "arrowroot", "lanolin", "squalane", "mct_oil", "hemp_seed_oil"]  # fmt: skip
        whole = normalise(Composition.of(dict(zip(keys, shares, strict=False))))
        self.assertEqual(whole.total, 1)
        for line, share in zip(whole.lines, shares, strict=True):
            self.assertEqual(line.share % GRID, 0)
            self.assertLess(abs(line.share - share / sum(shares)), GRID)

    def test_role_shares_of_a_simple_balm(self) -> None:
        """15 % wax, 85 % olive oil."""
        simple = Composition.of({"beeswax_yellow": D("0.15"), "olive_oil": D("0.85")})
        self.assertEqual(simple.role_shares(), {"wax": 0.15, "butter": 0.0, "oil": 0.85, "extra": 0.0})

    def test_largest_remainder_serves_those_who_lost_most(self) -> None:
        """10 g in three equal parts on a 0.1 g scale: 3.4, 3.3, 3.3."""
        parts = largest_remainder([D(1), D(1), D(1)], D("0.1"), D(10))
        self.assertEqual(parts, [D("3.4"), D("3.3"), D("3.3")])


class GroupTests(CoreTestCase):
    def test_a_group_moves_as_one_number_with_its_inner_split(self) -> None:
        """Oils 50 to 24: olive to castor stays three to two, and wax takes up what is free."""
        self.assertEqual(percents(set_group(BALM, "oil", D("0.24"))), ["46.0", "30.0", "14.4", "9.6"])
        with self.assert_refused("The locked lines of this group do not let it: unlock one."):
            set_group(BALM, "butter", D("0.4"))
        with self.assert_refused("The locked lines leave room for 70.0 % at most"):
            set_group(BALM, "oil", D("0.8"))
        held = Composition(tuple(one._replace(locked=one.key == "olive_oil") for one in BALM.lines))
        self.assertEqual(percents(set_group(held, "oil", D("0.3"))), ["28.0", "42.0", "30.0", "0.0"])

    def test_parts_become_percent(self) -> None:
        """One part a line in order, or wax : butter : oil; extras keep their share."""
        self.assertEqual(percents(set_parts(BALM, [D(1), D(2), D(4), D(1)])), ["12.5", "25.0", "50.0", "12.5"])
        self.assertEqual(percents(set_parts(BALM, [D(3), D(2), D(5)])), ["30.0", "20.0", "30.0", "20.0"])
        scented = Composition(
            (line("beeswax_yellow", D("0.2")), line("olive_oil", D("0.79")), line("lavender", D("0.01")))
        )
        self.assertEqual(percents(set_parts(scented, [D(1), D(2)])), ["33.0", "66.0", "1.0"])
        for parts, said in (
            ([D(1), D(2)], "That is 2 parts for 4 lines"),
            ([D(0)] * 4, "Parts are numbers above nothing"),
            ([D(1), D(-1), D(1), D(1)], "Parts are numbers above nothing"),
        ):
            with self.assert_refused(said):
                set_parts(BALM, parts)
        with self.assert_refused("There is no butter in the formula to give a part to"):
            set_parts(scented, [D(1), D(1), D(1)])

    def test_percent_of_the_base_and_of_the_whole(self) -> None:
        """Half a percent on top of a base is 0.4975 of the whole; a base line leaves the extras be."""
        plain = Composition(
            (line("beeswax_yellow", D("0.2")), line("olive_oil", D("0.8")), line("vitamin_e_oil", D(0)))
        )
        topped = set_of_base(plain, "vitamin_e_oil", D("0.005"), follow=True)
        self.assertEqual(topped.total, 1)
        self.assertAlmostEqual(float(topped.lines[2].share), 0.005 / 1.005, delta=1e-6)
        self.assertAlmostEqual(float(topped.lines[0].share / base_share(topped)), 0.2, delta=1e-4)
        waxier = set_of_base(topped, "beeswax_yellow", D("0.3"), follow=True)
        self.assertEqual(waxier.lines[2].share, topped.lines[2].share)
        self.assertAlmostEqual(float(waxier.lines[0].share / base_share(waxier)), 0.3, delta=1e-4)
        with self.assert_refused("There is no base for it to be a part of"):
            set_of_base(Composition.of({"vitamin_e_oil": D(1)}), "vitamin_e_oil", D("0.01"), follow=True)
