"""What is kept running beside the server, and what a page hears of it."""

import math
import re
import sys
import time
from io import StringIO
from unittest import mock

from django.core.management import call_command
from django.test import SimpleTestCase, TestCase

from instruments import services
from instruments.models import SIMULATOR, Instrument
from instruments.readings import FILE, Reading, now, write
from instruments.simulator import Server, SimulatedPot, address_of, order
from instruments.supervisor import Beside, supervise
from tests.support.makings import own_folder


class BesideTests(SimpleTestCase):
    def test_what_dies_is_started_again_and_what_is_not_wanted_ends(self) -> None:
        """Killed: another process within a second or two; not wanted any more: gone."""
        wanted = [True]
        sleeper = Beside("unused", wanted=lambda: wanted[0])
        command = [sys.executable, "-c", "import time; time.sleep(60)"]
        popen = mock.Mock(side_effect=lambda *_, **__: real(command))
        from subprocess import Popen as real

        with (
            mock.patch("instruments.supervisor.subprocess.Popen", popen),
            mock.patch("instruments.supervisor.LOOK_S", 0.05),
        ):
            ended = supervise([sleeper])
            self.until(lambda: sleeper.process is not None)
            first = sleeper.process
            first.kill()
            self.until(lambda: sleeper.process is not first and sleeper.process.poll() is None)
            wanted[0] = False
            self.until(lambda: sleeper.process.poll() is not None)
            ended.set()
        self.assertEqual(popen.call_count, 2)

    def until(self, happens: object) -> None:
        end = time.monotonic() + 10
        while not happens():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.02)

    def test_a_simulator_says_where_it_speaks(self) -> None:
        """On a socket for each instrument and for orders; on terminals where they are asked for."""
        own_folder(self)
        for terminal in (False, True):
            said = StringIO()
            call_command("simulator", parent=-1, terminal=terminal, stdout=said)
            self.assertEqual(len(re.findall(r"^\w+: socket://127\.0\.0\.1:\d+$", said.getvalue(), re.M)), 3)
            self.assertEqual(len(re.findall(r"^(scale|thermometer): /dev/", said.getvalue(), re.M)), 2 * terminal)

    def test_orders_reach_the_simulator_and_nonsense_does_it_no_harm(self) -> None:
        """Grams on the pan, a pot warm as before when more goes in, an unplugged scale, an order that is none."""
        folder = own_folder(self)
        server = Server(folder)
        self.addCleanup(server.close)
        simulator = server.simulator
        self.assertRegex(address_of("scale", folder), r"^socket://127\.0\.0\.1:\d+$")
        simulator.do({"put": 5, "step": 0.01})
        simulator.do({"put": -2})
        self.assertEqual((simulator.scale.load_g, simulator.scale.step_g), (3.0, 0.01))
        simulator.do({"settling": 0.1})
        simulator.tick(0.1)
        self.assertAlmostEqual(simulator.scale.felt_g, 3 * (1 - math.exp(-1)))
        shares = {"beeswax_yellow": 20, "olive_oil": 80}
        simulator.do({"pot": {"shares": shares, "grams": 100, "room_c": 18}, "move": "bath"})
        assert isinstance(simulator.pot, SimulatedPot)
        simulator.pot.temp_c = 61.0
        simulator.do({"pot": {"shares": shares, "grams": 110, "room_c": 18, "warm": True}})
        self.assertEqual((simulator.pot.temp_c, simulator.pot.body.mass_g, simulator.pot.place), (61.0, 110.0, "bath"))
        simulator.do({"unplug": {"scale": -1}})
        self.assertEqual(simulator.line("scale"), b"")
        simulator.do({"unplug": {"scale": 30}})
        self.assertEqual(simulator.line("scale"), b"")
        simulator.do({"unplug": {"scale": 0}, "dance": 1})
        self.assertTrue(simulator.line("scale").startswith((b"S", b"U")))
        (folder / "simulator.json").write_text("{")
        self.assertFalse(order(folder, put=1))
        self.assertEqual(address_of("scale", folder), "")


class HeardTests(TestCase):
    def setUp(self) -> None:
        self.folder = own_folder(self)

    def test_the_raw_line_stands_beside_what_was_understood(self) -> None:
        """The scale steady in grams, the thermometer out of its range in words."""
        services.set_instrument("scale", "socket://127.0.0.1:9")
        services.set_instrument("thermometer", "socket://127.0.0.1:10", unit="F")
        at = now()
        write(self.folder, {
            "scale": Reading(12.3, "ST,GS,+  12.30g", at, is_steady=True),
            "thermometer": Reading(None, "1650 F", at, "1650 °F is not this melt: is the probe broken, or in the flame?"),
        })  # fmt: skip
        page = self.client.get("/settings/instruments/heard")
        self.assertContains(page, "<code>ST,GS,+  12.30g</code>")
        self.assertContains(page, '12.3 g <span class="fine">steady</span>')
        self.assertContains(page, "is the probe broken, or in the flame?")

    def test_what_is_set_is_what_is_read(self) -> None:
        """The stand-in is left out while it does not run; a scale's step is that of the settings."""
        services.set_instrument("scale", SIMULATOR)
        services.set_instrument("thermometer", "/dev/ttyUSB0", 2400, "C")
        (source,) = services.sources(self.folder)
        self.assertEqual((source.kind, source.address, source.baud, source.unit, source.step),
                         ("thermometer", "/dev/ttyUSB0", 2400, "C", 0.1))  # fmt: skip
        services.set_instrument("thermometer", "")
        self.assertEqual([str(row) for row in Instrument.objects.all()], ["Scale at stand-in"])

    def test_the_reader_ends_with_the_process_that_started_it(self) -> None:
        call_command("read_instruments", parent=-1)
        self.assertFalse((self.folder / FILE).exists())
