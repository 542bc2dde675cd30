"""Several methods on one clock: forwards, backwards, and a whole day of them."""

import math
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.composition import Composition
from balmcore.making.day import DayJob, lay_out
from balmcore.making.method import method_for
from balmcore.making.schedule import HANDS, Job, Use, by_what, collision, ready_by, start_at
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase
from balmcore.tests.making.test_method import setup

TUBES = Composition.of({"beeswax_yellow": 25, "olive_oil": 74.5, "peppermint": 0.5})
WET = Composition.of({"beeswax_yellow": 15, "olive_oil": 82, "tincture": 3})
WHIPPED = Composition.of(dict(shipped().kinds["whipped_butter"].start))
DAY = {
    "tins": DayJob.of("", setup()),
    "counter": DayJob.of("", setup(cooling="counter", tin_screw_60=6)),
    "tubes": DayJob.of("", setup(TUBES, "lip_balm_tube", lip_tube_4_5g=30)),
    "whipped": DayJob.of("", setup(WHIPPED, "whipped_butter", jar_glass_100=6)),
    "wet": DayJob.of("", setup(WET)),
}


class ScheduleTests(CoreTestCase):
    def test_forwards_and_backwards_on_an_empty_clock(self) -> None:
        """A start is kept; ready by noon is ready at noon; too late a wish says how late, and when it can be."""
        found = Job.of(method_for(setup()))
        self.assertEqual(start_at(found, 600, ()).start, 600)
        placed = ready_by(found, 720, 0, ())
        self.assertEqual(placed.start, math.floor(720 - found.length))
        self.assertEqual(placed.moved_for, "")
        with self.assert_refused("you would have had to begin 1 h 54 ago. Begun now it is ready 1 h 54 later"):
            ready_by(found, 105, 100, ())

    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.tuples(st.booleans(), st.integers(0, 1500)), min_size=2, max_size=6))
    def test_several_batches_never_collide_on_hands_stove_or_cold(self, asked: list[tuple[bool, int]]) -> None:
        """However they are asked for, nothing is used twice at once, and none starts before it may."""
        found, busy = Job.of(method_for(setup())), list[Use]()
        own = found.uses
        for backwards, minute in asked:
            if backwards:
                start = ready_by(found, minute, -1e6, busy).start
                self.assertLessEqual(start + found.length, minute + 1e-6)
            else:
                start = start_at(found, minute, busy).start
                self.assertGreaterEqual(start, minute)
            self.assertEqual(start % 1, 0)  # clocks are kept to the minute
            moved = [use.moved(start) for use in own]
            for use in busy:
                self.assertIsNone(collision([use], by_what(moved)))
            busy += moved

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.sampled_from(sorted(DAY)), min_size=1, max_size=7), st.integers(1, 3), st.integers(1, 3))
    def test_a_day_of_batches_never_crowds_and_never_ends_after_the_plain_order(
        self, names: list[str], rings: int, cooks: int
    ) -> None:
        """However many rings and cooks: at no minute is more in use than there is, driving spirit off is alone on the
        stove, the bench is made ready once, and no day ends later than one batch put after another."""
        room = {"stove": rings, HANDS: cooks}
        jobs = [replace(DAY[name], name=f"{name} {n}") for n, name in enumerate(names)]
        found = lay_out(jobs, 540, (), room)
        self.assertEqual(sorted(slot.name for slot in found.slots), sorted(job.name for job in jobs))
        self.assertEqual(sum(slot.is_first for slot in found.slots), 1)
        every = [use for slot in found.slots for use in slot.uses]
        for use in every:
            at_once = [
                o for o in every if o.what == use.what and o.start <= use.start + 1e-6 and o.end > use.start + 1e-6
            ]
            self.assertLessEqual(len(at_once), room.get(use.what, 1))
            self.assertFalse(len(at_once) > 1 and any(o.alone for o in at_once))
        plain, ready = list[Use](), 540.0
        for n, job in enumerate(jobs):
            kind = job.after if n else job.first
            start = start_at(kind, ready, plain, room).start
            ready = ready if n else start + job.ready_min
            plain += kind.at(start)
        self.assertLessEqual(found.end, max(use.end for use in plain) + 5)

    def test_four_batches_of_twelve_hours_fit_five_with_two_rings(self) -> None:
        """One after another they take nearly ten hours; with two rings five, with one six."""
        four = list(DAY.values())[:4]
        self.assertGreater(sum(job.first.length for job in four), 9.5 * 60)
        self.assertLess(lay_out(four, 0, (), {"stove": 2}).end, 5 * 60)
        self.assertLess(lay_out(four, 0).end, 6 * 60)
        self.assertLess(lay_out(four, 0, (), {"stove": 2}, is_ready=True).end, lay_out(four, 0, (), {"stove": 2}).end)
        with self.assert_refused("Choose at least one batch."):
            lay_out([], 0)
