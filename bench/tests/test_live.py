"""What instruments put into the page at each step, and what is taken from them."""

from datetime import timedelta
from decimal import Decimal as D
from unittest import mock

from django.utils import timezone

from bench.models import Event
from bench.tests.test_bench import BenchTestCase
from instruments.readings import Reading, now
from instruments.zero import asked as zero_asked
from tests.support.makings import own_folder
from workshop.services import preferences


class LiveTests(BenchTestCase):
    def live(self, **readings: Reading) -> dict[str, dict[str, object]]:
        """The poll's answer at the step shown, while instruments say this."""
        query = {"stamp": self.page.context["bench"].stamp, "step": self.step}
        with mock.patch("instruments.services.readings", return_value=readings):
            return self.client.get(f"{self.path}live", query).json()

    def test_the_scale_fills_the_bar_in_the_maker_s_unit(self) -> None:
        """Half way, there and steady, there and moving, over; 17.3 g are 0.6102 oz."""
        self.do("done")
        at = now()
        for grams, steady, filled, words, there in (
            (8.65, True, 0.5, "8.7 g to go", False),
            (17.3, True, 1.0, "there", True),
            (17.3, False, 1.0, "there", False),
            (18.3, True, 1.058, "1.0 g over", False),
        ):
            with self.subTest(grams=grams, steady=steady):
                name = self.page.context["bench"].weighing
                said = self.live(scale=Reading(grams, "", at, is_steady=steady, weighing=name))["scale"]
                self.assertEqual((said["filled"], said["words"], said["there"]), (filled, words, there))
        prefs = preferences()
        prefs.mass_unit = "oz"
        prefs.save()
        self.page = self.client.get(self.path)
        said = self.live(scale=Reading(8.65, "", at))["scale"]
        self.assertEqual((said["number"], said["words"]), ("0.3051", "0.3051 oz to go"))
        self.assertContains(self.page, "0.6102 oz")

    def test_what_an_instrument_cannot_say_stands_in_its_place(self) -> None:
        """Silent, overloaded, below nothing, and none at all: words, and no number to accept."""
        self.do("done")
        at = now()
        self.assertEqual(set(self.live()), {"stamp"})
        silent = self.live(scale=Reading(5.0, "", at - 60))["scale"]
        self.assertIn("It has not spoken for 60 seconds", silent["problem"])
        self.assertNotIn("grams", silent)
        over = self.live(scale=Reading(None, "E over", at, "Too much: take something off."))["scale"]
        self.assertEqual(over["problem"], "Too much: take something off.")

    def test_only_what_was_poured_and_is_at_rest_is_taken(self) -> None:
        """Moving it waits, a pot that stands there is asked about, an empty pan begins by itself; what is posted from a
        scale that moved since, or before it was said what stands there, is not written down."""
        self.do("done")
        name = self.page.context["bench"].weighing
        for reading, asks, waits, begins in (
            (Reading(32.2, "", now()), "", "It still moves: it is taken as soon as it stands still.", False),
            (Reading(16.3, "", now(), is_steady=True), "16.3 g stand on it already: is that the pot?",
             "Say first what stands on it: 16.3 g stand on it already: is that the pot?", False),
            (Reading(16.4, "", now(), is_steady=True, weighing=name, came_at_once=True),
             "16.4 g stand on it already: is that the pot?",
             "Say first what stands on it: 16.4 g stand on it already: is that the pot?", False),
            (Reading(0.2, "", now(), is_steady=True), "", "It begins at nothing.", True),
            (Reading(17.1, "", now(), is_steady=True, weighing=name), "", "", False),
            (Reading(-30.0, "", now(), is_steady=True, weighing=name),
             *["30.0 g less than it began with: was something taken off, or is it another pot?"] * 2, False),
        ):  # fmt: skip
            with self.subTest(reading.value):
                said = self.live(scale=reading)["scale"]
                self.assertEqual((said["asks"], said["waits"], said.get("begins", False)), (asks, waits, begins))
                self.assertFalse(said["there"] and waits)
        for reading, said in (
            (Reading(17.1, "", now(), is_steady=True), "Say first what stands on the scale"),
            (Reading(17.1, "", now(), is_steady=True, weighing=name, came_at_once=True), "Say first what stands"),
            (Reading(17.4, "", now(), is_steady=True, weighing=name), "The scale moved as it was accepted"),
            (Reading(17.1, "", now() - 60, weighing=name), "The scale fell silent"),
        ):
            with self.subTest(said), mock.patch("instruments.services.readings", return_value={"scale": reading}):
                self.do("weigh", 400, grams="17.1 g", weighing=name)
                self.assertContains(self.page, said, status_code=400)
                waits = "moved" in said or "silent" in said  # nothing else ends by waiting
                self.assertEqual("Retry-After" in self.page.headers, waits)
        self.assertIsNone(self.grams("beeswax_yellow"))
        # Until it has begun nothing that could be taken for its weight is shown.
        said = self.live(scale=Reading(0.1, "", now(), is_steady=True))["scale"]
        self.assertEqual((said["number"], said["there"]), ("–", False))
        self.assertIn("do not pour yet", said["words"])

    def test_the_next_line_begins_at_what_stood_there_then(self) -> None:
        """Taken at 17.1 g with 300 g subtracted: the next begins at 317.1 g; typed while it moves, it is asked about."""
        self.do("done")
        folder, name = own_folder(self), self.page.context["bench"].weighing
        reading = Reading(17.1, "", now(), is_steady=True, zero_g=300.0, weighing=name)
        with mock.patch("instruments.services.readings", return_value={"scale": reading}):
            self.do("weigh", grams="17.1 g", weighing=name)
        self.assertEqual(self.grams("beeswax_yellow"), D("17.1"))
        after = self.page.context["bench"].weighing
        wanted = zero_asked(folder)
        self.assertEqual((wanted.name, wanted.raw_g, wanted.is_sure), (after, 317.1, True))
        for posted, counted in (({}, False), ({"counts": "1"}, True)):
            self.client.post(f"{self.path}zero", {"step": self.step, **posted})
            wanted = zero_asked(folder)
            self.assertEqual((wanted.raw_g, wanted.is_counted, wanted.is_sure), (None, counted, True))
        said = self.live(scale=Reading(3.0, "", now(), is_steady=True))["scale"]
        self.assertEqual((said["number"], said["there"]), ("–", False))
        self.assertIn("do not pour yet", said["words"])
        steady = Reading(2.0, "", now(), is_steady=True, zero_g=300.0)
        with mock.patch("instruments.services.readings", return_value={"scale": steady}):
            self.client.post(f"{self.path}zero", {"step": self.step})
        self.assertEqual(zero_asked(folder).raw_g, 302.0)

    def test_an_empty_pan_begins_once_and_not_after_something_was_poured(self) -> None:
        """By itself: neither while it moves, nor with something on it, nor a second time by another device."""
        self.do("done")
        folder, name = own_folder(self), self.page.context["bench"].weighing
        for reading, begins in (
            (Reading(0.2, "", now()), False),
            (Reading(4.0, "", now(), is_steady=True), False),
            (Reading(0.2, "", now(), is_steady=True, weighing=name), False),
            (Reading(0.2, "", now(), is_steady=True), True),
            (Reading(0.1, "", now(), is_steady=True), False),  # the other device, before the first was heard
        ):
            before = zero_asked(folder)
            with mock.patch("instruments.services.readings", return_value={"scale": reading}):
                self.client.post(f"{self.path}zero", {"step": self.step, "by_itself": "1"})
            after = zero_asked(folder)
            self.assertEqual(after != before, begins, reading)
        self.assertEqual((after.name, after.raw_g, after.is_sure), (name, 0.2, False))

    def test_a_line_opened_again_goes_on_from_where_the_pot_stands(self) -> None:
        """As the rest grows with what was over: at 450.5 g with nothing poured since, not with something on it."""
        self.do("done")
        self.do("weigh", grams="17.1 g")
        self.do("weigh", grams=f"{self.page.context['view'].left_g * 2} g")
        folder = own_folder(self)
        for grams, begins in ((9.0, False), (0.1, True)):
            before = self.page.context["bench"].weighing
            reading = Reading(grams, "", now(), is_steady=True, zero_g=450.4, weighing=before)
            with mock.patch("instruments.services.readings", return_value={"scale": reading}):
                self.do("rescale")
            self.assertEqual(self.step, "weigh:beeswax_yellow")
            self.assertEqual(zero_asked(folder) is not None, begins, grams)
            if not begins:
                self.do("undo")
        wanted = zero_asked(folder)
        self.assertEqual(
            (wanted.name, wanted.raw_g, wanted.is_sure), (self.page.context["bench"].weighing, 450.5, True)
        )

    def test_the_thermometer_is_drawn_over_the_course(self) -> None:
        """On the bath: how long, and a trail inside the strip; stuck for minutes it is doubted; elsewhere silent."""
        self.weigh_all()
        at = now()
        first = Reading(20.0, "T", at, seen=((at - 1, 20.0), (at, 20.0)))
        said = self.live(thermometer=first)["thermometer"]
        self.assertRegex(str(said["sentence"]), r"^72 °C in about \d+ minutes\.$")
        self.assertEqual(said["number"], "20.0 °C")
        stuck = Reading(41.0, "T", at, seen=tuple((at - 400 + n, 41.0) for n in range(0, 400, 4)))
        self.assertIn("the very same for minutes", self.live(thermometer=stuck)["thermometer"]["problem"])
        Event.objects.update(at=self.page.context["bench"].begun_at.replace(microsecond=0))
        strip = self.page.context["melt_timeline"]
        self.assertEqual(strip.path([(0.0, 0.0)]), f"M44.0,{strip.height - 26:.1f}")
        self.assertEqual(
            strip.path([(-5.0, 300.0), (1e6, -300.0)])[-11:], f"{strip.right:.1f},{strip.bottom:.1f}"[-11:]
        )

    def test_it_is_there_is_asked_where_the_thermometer_says_otherwise(self) -> None:
        """32 °C where 72 is wanted: nothing is done until one tap says that it is out of the pot, or that it is so; then
        the record says which."""
        self.weigh_all()
        cold = {"thermometer": Reading(32.0, "T", now())}
        with mock.patch("instruments.services.readings", return_value=cold):
            self.do("done", 400)
            self.assertContains(self.page, "The thermometer says 32 °C, and 72 °C is wanted.", status_code=400)
            self.assertEqual(self.step, "melt")
            self.do("done", probe_out="1")
            told = Event.objects.get(step="melt")
            self.assertEqual((told.temp_c, told.text), (None, "The thermometer was out of the pot."))
            self.do("undo")
            self.do("done", sure="1")
            self.assertEqual(Event.objects.filter(step="melt").last().temp_c, 32)
        hot = self.live(thermometer=Reading(92.0, "T", now()))["thermometer"]
        self.assertEqual(
            (hot["sentence"], hot["there"]),
            ("Shea butter, refined suffers above 75 °C, and this is 17 °C hotter.", False),
        )

    def test_a_piece_is_meant_to_set_where_it_cools(self) -> None:
        """Below where it sets: no word of the bath on the counter; at the jug there is."""
        self.weigh_all()
        for step, is_said in (("cool_counter_0", False), ("pour", True)):
            self.page = self.client.get(self.path, {"step": step})
            said = self.live(thermometer=Reading(40.0, "T", now()))["thermometer"]
            self.assertEqual("back on the bath" in str(said["sentence"]), is_said, said)

    def test_warmed_again_the_window_begins_anew_and_is_counted(self) -> None:
        self.weigh_all()
        self.do("rewarm", 400)
        while self.step != "pour":
            self.do("done")
        Event.objects.update(at=timezone.now() - timedelta(minutes=5))
        self.page = self.client.get(self.path)
        (window,) = self.page.context["bench"].timers
        self.do("rewarm")
        (again,) = self.page.context["bench"].timers
        self.assertAlmostEqual((again.due - window.due).total_seconds(), 300, delta=5)
        self.do("rewarm")
        self.assertContains(self.page, "2 so far")
        self.do("undo")
        self.assertContains(self.page, "1 so far")

    def test_an_old_page_is_told_the_new_stamp_and_nothing_else(self) -> None:
        """Another device weighed meanwhile: no reading is judged by a step that is over."""
        self.do("done")
        old = {"stamp": self.page.context["bench"].stamp, "step": self.step}
        self.do("weigh", grams="17.1 g")
        with mock.patch("instruments.services.readings", return_value={"scale": Reading(3.0, "", now())}):
            self.assertEqual(
                self.client.get(f"{self.path}live", old).json(), {"stamp": self.page.context["bench"].stamp}
            )
