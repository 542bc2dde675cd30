"""What instruments say, what the stand-in does, and what the reader makes of either."""

import math
import os
import tempfile
import time
from pathlib import Path
from unittest import mock

from django.test import SimpleTestCase, TestCase

from balmcore.composition import Composition
from instruments.lines import read_line
from instruments.models import Instrument
from instruments.reader import Port, Reader, Source
from instruments.readings import Reading, latest, now, steady, write
from instruments.simulator import PROBE_LAG_S, Server, SimulatedPot, SimulatedScale
from instruments.zero import KEPT_S, Beginning, Zero


class LineTests(SimpleTestCase):
    def test_lines_of_many_sorts(self) -> None:
        """Our own, status words with commas, signs set apart, other units, a bare number."""
        for line, unit, value, is_steady in (
            (b"S +12.34 g", "g", 12.34, True),
            (b"U +12.30 g", "g", 12.30, False),
            (b"ST,GS,+  12.34g", "g", 12.34, True),
            (b"US,NT,-   0.1 g", "g", -0.1, False),
            (b"  1,250 kg", "g", 1250.0, None),
            (b"3.5", "oz", 99.2233, None),
            (b"T 71.3 C", "C", 71.3, None),
            (b"159.8 F", "C", 71.0, None),
            (b"160", "F", 71.1111, None),
            (b"S 1,234.5 g", "g", 1234.5, True),
            (b"ST,GS,+1.234,50 g", "g", 1234.5, True),
            (b"12,345,678.0 mg", "g", 12345.678, None),
            (b"0,125 g", "g", 0.125, None),
            (b"12.5 g ST", "g", 12.5, True),
        ):
            with self.subTest(line):
                said = read_line(line, unit)
                self.assertEqual((round(said.value, 4), said.is_steady), (value, is_steady))

    def test_nonsense_is_a_sentence_never_a_number(self) -> None:
        """Overload, half lines, 9e99, a wrong unit, a broken probe, a flood without an end."""
        for line, unit, said in (
            (b"#####", "g", "Too much"),
            (b"OL", "g", "Too much"),
            (b"-----", "g", "Too much"),
            (b"E over", "g", "Too much"),
            (b"+ 9e99 g", "g", "nothing that is understood"),
            (b"S +", "g", "nothing that is understood"),
            *(
                (line, "g", "nothing that is understood")
                for line in (
                    b"1.2.3 g",
                    b"S 1,23,4 g",
                    b"12.3.4",
                    b"12 34 g",
                    b"1 2.3 g",
                    b"12.3g 45.6g",
                    b"12. g",
                    b"3/4 g",
                    b"5g?",
                    b"1,2345.6 g",
                    b"S 1.234.567 g",
                    b"--5 g",
                    b"+-5 g",
                )
            ),
            (b"S 1,234 g", "g", "can be read in two ways"),
            (b"12.3 ml", "g", "It speaks of “ml”"),
            (b"99999999 g", "g", "more than any kitchen scale"),
            (b"900.0 C", "C", "is not this melt"),
            (b"12.3 g", "C", "It speaks of “g”"),
            (b"\xff\xfe\x00", "g", "nothing that is understood"),
            (b"1" * 200, "g", "lines without an end"),
            (b"", "g", "an empty line"),
        ):
            with self.subTest(line):
                found = read_line(line, unit)
                self.assertIsNone(found.value)
                self.assertIn(said, found.problem)


class SimulatorTests(SimpleTestCase):
    def test_the_scale_settles_trembles_drifts_and_calls_out(self) -> None:
        """50 g: on the way after a quarter of a second, there after three; a drift by minutes; too much."""
        scale = SimulatedScale(noise=0.0, drift=0.0)
        scale.load_g = 50.0
        scale.tick(0.25)
        self.assertEqual(scale.line()[:1], b"U")
        self.assertEqual(read_line(scale.line(), "g").value, 21.3)  # all but 50 e^(-0.25 / 0.45)
        scale.tick(5)
        self.assertEqual(scale.line(), b"S +50.0 g\r\n")
        scale.tare()
        self.assertEqual(scale.line(), b"S +0.0 g\r\n")
        coarse = SimulatedScale(noise=0.0, drift=0.0, step_g=2)
        self.assertEqual(coarse.line(), b"S +0 g\r\n")
        shaky = SimulatedScale(noise=2.0, drift=6.0)
        values = {read_line(shaky.line(), "g").value for _ in range(50)}
        self.assertTrue(len(values) >= 3 and max(map(abs, values)) < 0.6)
        shaky.tick(60)
        self.assertAlmostEqual(shaky.crept_g, 0.6)
        scale.load_g = 5000
        scale.tick(9)
        self.assertIn("Too much", read_line(scale.line(), "g").problem)

    def test_the_pot_follows_the_thermal_model(self) -> None:
        """200 g in the bath pass 70 °C in 17 minutes, and fall again on the counter, by eight in ten."""
        pot = SimulatedPot.of(Composition.of({"beeswax_yellow": 20, "shea_butter": 30, "olive_oil": 50}), 200, 20)
        pot.move("bath")
        minutes = 0
        while pot.temp_c < 70 and minutes < 90:
            pot.tick(1)
            minutes += 1
        self.assertEqual((minutes, round(pot.temp_c, 1)), (17, 70.2))
        self.assertLess(pot.probe_c, pot.temp_c + 0.1)
        pot.move("counter")
        pot.tick(10)
        self.assertAlmostEqual(pot.temp_c, 62.2, delta=0.05)
        # Where nothing warms or cools it, the probe comes nearer by one e-th in each of its lags.
        pot.temp_c, pot.probe_c = pot.room_c, pot.room_c + 10
        pot.tick(2 * PROBE_LAG_S / 60)
        self.assertAlmostEqual(pot.probe_c - pot.room_c, 10 * math.exp(-2), delta=1e-3)


class ReaderTests(SimpleTestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.server = Server(self.folder)
        self.addCleanup(self.server.close)

    def until(self, port: Port, wanted: str | float, is_steady: bool = False) -> Reading:
        """Turn the stand-in and poll the port until it shows a value, or a problem with some words."""
        for _ in range(200):
            self.server.turn(0.02)
            self.server.simulator.scale.tick(0.3)
            reading = port.poll()
            if (
                reading
                and (reading.is_steady or not is_steady)
                and (
                    (reading.value is not None and not isinstance(wanted, str) and abs(reading.value - wanted) < 1e-6)
                    or (isinstance(wanted, str) and wanted in reading.problem)
                )
            ):
                return reading
        raise AssertionError(f"{wanted}: {port.reading}")

    @mock.patch("instruments.readings.STEADY_S", 0.3)
    def check(self, address: str) -> None:
        scale = self.server.simulator.scale
        scale.noise = scale.drift = 0.0
        port = Port(Source("scale", address, 9600, "g"))
        self.addCleanup(port.close)
        scale.load_g = 18.3
        reading = self.until(port, 18.3)
        self.assertFalse(reading.is_steady)  # it calls itself steady: its last second does not
        self.assertEqual(reading.raw, "S +18.3 g")
        self.until(port, 18.3, is_steady=True)
        scale.load_g = 9000
        self.until(port, "Too much")
        scale.load_g = 2.0
        self.until(port, 2.0)

    def test_a_socket(self) -> None:
        """Settled, overloaded, and back; unplugged it is said, and it opens again by itself."""
        self.check(f"socket://127.0.0.1:{self.server.ports['scale']}")

    @mock.patch("instruments.readings.STEADY_S", 0.3)
    def test_a_weighing_begins_at_nothing_however_its_scale_is_tared(self) -> None:
        """18.3 g stand there: subtracted, or tared by its line; what is poured then shows alone. What moves waits, and
        what is to count counts."""
        for tare, raw in (("", "S +20.8 g"), ("T", "S +2.5 g")):
            with self.subTest(tare):
                scale = self.server.simulator.scale
                scale.noise = scale.drift = scale.load_g = scale.tare_g = 0.0
                port = Port(Source("scale", f"socket://127.0.0.1:{self.server.ports['scale']}", 9600, "g", tare=tare))
                self.addCleanup(port.close)
                self.until(port, 0.0, is_steady=True)
                scale.load_g = 18.3
                self.until(port, 18.3)
                port.wanted = Beginning("oil", now())
                self.assertEqual(self.until(port, 18.3).weighing, "")  # not yet at rest
                self.assertEqual(self.until(port, 0.0).weighing, "oil")
                scale.load_g = 20.8
                self.assertEqual(self.until(port, 2.5, is_steady=True).raw, raw)
                port.wanted = Beginning("wax", now(), is_counted=True)
                counted = self.until(port, 2.5)
                self.assertEqual((counted.weighing, counted.is_counted), ("wax", True))
                port.wanted = Beginning("butter", now(), raw_g=port.reading.value + port.reading.zero_g)
                self.assertEqual(self.until(port, 0.0).weighing, "butter")

    def test_a_scale_that_does_not_obey_is_subtracted_from(self) -> None:
        """Told to tare, it shows 18.3 g as before: three seconds later as before."""
        zero, wanted = Zero(), Beginning("oil", 99.0)
        self.assertTrue(zero.begin(wanted, 18.3, True, 100.0))
        self.assertFalse(zero.begin(wanted, 19.0, True, 100.0))
        zero.tared(100.0)
        for at in (100.1, 103.5, 104.0):
            zero.look(18.4, True, 0.1, at)
        zero.look(0.0, True, 0.1, 105.0)  # now it is the maker who took the pot off
        self.assertEqual(zero.grams, 18.3)

    def test_what_comes_at_once_onto_an_empty_pan_may_be_a_vessel(self) -> None:
        """A glass of 16.3 g within a second and a half; poured in half a minute it is what was poured; where it is known
        that a vessel stands there, nothing is asked."""
        for seconds, is_sure, at_once in ((1.5, False, True), (30.0, False, False), (1.5, True, False)):
            with self.subTest(seconds=seconds, is_sure=is_sure):
                zero = Zero()
                zero.begin(Beginning("oil", 99.0, is_sure=is_sure), 0.0, True, 100.0)
                for raw_g, is_steady, at in (
                    (0.1, True, 101.0),
                    (8.0, False, 102.0),
                    (14.8, False, 102.0 + seconds),
                    (16.3, True, 140.0),
                ):
                    zero.look(raw_g, is_steady, 0.1, at)
                self.assertEqual(zero.came_at_once, at_once)

    def test_a_reader_that_was_started_again_subtracts_what_it_did_before_and_no_more(self) -> None:
        """300 g of a pot, said when the line before was taken, still count as nothing; “what stands there” does not mean
        what was poured since; and yesterday's pot is forgotten."""
        for wanted, grams in (
            (Beginning("oil", 990.0, raw_g=300.0), 300.0),
            (Beginning("oil", 990.0), 0.0),
            (Beginning("oil", 990.0 - 2 * KEPT_S, raw_g=300.0), 0.0),
        ):
            zero = Zero(started_at=1000.0)
            zero.begin(wanted, 320.0, True, 1001.0)
            self.assertEqual(zero.grams, grams)

    def test_a_pseudo_terminal_reads_the_same(self) -> None:
        self.check(self.server.open_terminal("scale"))

    def test_gone_flooded_and_back(self) -> None:
        """A thousand lines at once cost one; half a line waits for its other half; an end is said."""
        ours, theirs = os.pipe()
        port = Port(Source("scale", "nowhere://", 9600, "g"))
        self.assertIn("does not open", port.poll().problem)
        port.connection = open(ours, "rb", buffering=0)  # noqa: SIM115 - closed by the port
        os.set_blocking(ours, False)
        os.write(theirs, b"S +1.0 g\r\n" * 1000 + b"S +2")
        self.assertEqual(port.poll().value, 1.0)
        os.write(theirs, b".5 g\r\n")
        self.assertEqual(port.poll().value, 2.5)
        os.close(theirs)
        self.assertEqual(port.poll().value, 2.5)
        port.close()

    def test_readings_are_handed_on_and_grow_old(self) -> None:
        """One small file; silent after three seconds, lost after twelve; stuck after three minutes."""
        self.assertEqual(latest(self.folder), {})
        at = now()
        seen = ((at - 200, 20.1), (at - 190, 20.0), (at, 20.0))
        write(self.folder, {"scale": Reading(20.0, "S +20.0 g", at, seen=seen)})
        kept = latest(self.folder)["scale"]
        self.assertEqual((kept.trouble(at + 1), kept.trouble(at + 5)), ("", "It does not speak just now."))
        self.assertIn("It has not spoken for 30 seconds", kept.trouble(at + 30))
        self.assertTrue(kept.is_stuck(at))
        self.assertTrue(steady([(0, 1.0), (1, 1.1), (1.4, 1.0)], 0.1))
        self.assertFalse(steady([(0, 1.0), (1, 1.3), (1.4, 1.0)], 0.1))
        (self.folder / "readings.json").write_text("{half")
        self.assertEqual(latest(self.folder), {})

    def test_all_that_is_set_is_read_and_no_more(self) -> None:
        reader = Reader(self.folder)
        reader.set([Source("scale", f"socket://127.0.0.1:{self.server.ports['scale']}", 9600, "g")])
        end = time.monotonic() + 5
        while not latest(self.folder).get("scale") and time.monotonic() < end:
            self.server.turn(0.05)
            reader.once()
        self.assertIsNotNone(latest(self.folder)["scale"].value)
        reader.set([])
        self.assertEqual(reader.once(), {})


class SettingsTests(TestCase):
    def test_instruments_are_set_and_odd_addresses_refused(self) -> None:
        """A port, a socket, the stand-in, none; what pyserial could not open is refused beside its field."""
        fields = {"scale-address": "socket://127.0.0.1:9", "scale-baud": "9600", "scale-unit": "oz",
                  "thermometer-address": "stand-in", "thermometer-baud": "9600", "thermometer-unit": "C"}  # fmt: skip
        self.assertEqual(self.client.post("/settings/instruments/", fields).status_code, 302)
        self.assertEqual(str(Instrument.objects.get(kind="scale")), "Scale at socket://127.0.0.1:9")
        for address in ("socket://nowhere", "http://127.0.0.1/", "loop://x", "../../etc/passwd"):
            with self.subTest(address):
                answer = self.client.post("/settings/instruments/", {**fields, "scale-address": address})
                self.assertContains(answer, "Write ", status_code=400)
                self.assertContains(answer, f'value="{address}"', status_code=400)
        self.assertContains(self.client.get("/settings/instruments/heard"), "Nothing reads it yet.")
        self.assertContains(self.client.get("/settings/instruments/"), ' list="ports"', count=2)
        self.client.post("/settings/instruments/", {**fields, "scale-address": ""})
        self.assertFalse(Instrument.objects.filter(kind="scale").exists())
        self.assertContains(self.client.get("/settings/"), "Scale and thermometer")
