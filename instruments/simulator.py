"""A scale and a thermometer to rehearse with: they speak our own lines and behave as real ones do.

The scale settles (a second or so), trembles by a part of its step, drifts, rounds to its step, and
calls out when too much is on it. The thermometer lags behind a pot whose melt follows the thermal
model: on the bath, on the counter, in the cold, stirred or not. Either can be unplugged.
"""

import contextlib
import json
import math
import os
import random
import selectors
import socket
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from decimal import Decimal
from pathlib import Path
from typing import Any

import numpy as np

from balmcore.composition import Composition
from balmcore.errors import Problem
from balmcore.physics.melting import WARM_UP_MIN, BathResistance, bath_c
from balmcore.physics.thermal import CONDUCTIVITY, Body, Melt, Place, places
from workshop.files import limits

HOST = "127.0.0.1"
FILE = "simulator.json"
TICK_S = 0.1
SETTLING_S, PROBE_LAG_S = 0.45, 2.5
MOST_G, BREAKS_G = 2000.0, 1e6
MOST_TICK_MIN = 0.1  # a longer step of the melt is taken in several
SILENT = -1.0
TARE = b"T"  # what the scale's line takes


@dataclass
class SimulatedScale:
    """What lies on it, what it shows, how many seconds its pan takes to follow, and its faults: ``noise`` in steps,
    ``drift`` in steps a minute."""

    step_g: float = 0.1
    settling_s: float = SETTLING_S
    noise: float = 0.25
    drift: float = 0.15
    load_g: float = 0.0
    tare_g: float = 0.0
    felt_g: float = 0.0
    crept_g: float = 0.0
    dice: random.Random = field(default_factory=lambda: random.Random(11))

    def tick(self, seconds: float) -> None:
        """Time goes by: the pan comes to rest, the zero creeps."""
        self.felt_g += (self.load_g - self.felt_g) * (1 - math.exp(-seconds / self.settling_s))
        self.crept_g += self.drift * self.step_g * seconds / 60

    def tare(self) -> None:
        """What lies on it counts as nothing from now on."""
        self.tare_g, self.crept_g = self.felt_g, 0.0

    @property
    def is_steady(self) -> bool:
        """True once the pan is at rest."""
        return abs(self.load_g - self.felt_g) < self.step_g / 2

    def line(self) -> bytes:
        """What it says now."""
        if self.felt_g > MOST_G:
            return b"E over\r\n"
        shown = self.felt_g - self.tare_g + self.crept_g + self.dice.gauss(0, self.noise * self.step_g / 2)
        steps = round(shown / self.step_g)
        places_after = max(0, -Decimal(str(self.step_g)).normalize().as_tuple().exponent)  # type: ignore[operator]
        return f"{'S' if self.is_steady else 'U'} {steps * self.step_g:+.{places_after}f} g\r\n".encode()


@dataclass
class SimulatedPot:
    """A melt with a thermometer in it, and where the pot stands."""

    melt: Melt
    body: Body
    on_bath: BathResistance
    temp_c: float = 20.0
    room_c: float = 20.0
    place: str = "counter"
    minutes_on_bath: float = 0.0
    probe_c: float = 20.0
    dice: random.Random = field(default_factory=lambda: random.Random(12))

    @classmethod
    def of(cls, composition: Composition, mass_g: float, room_c: float, diameter_mm: float = 85.0) -> "SimulatedPot":
        """So many grams of a melt, cold, in a jug on the counter."""
        melt = Melt(composition)
        body = Body.cylinder(mass_g, diameter_mm, melt.prediction.density_g_ml, in_bath=True)
        return cls(melt, body, BathResistance.of(melt, body), room_c, room_c, probe_c=room_c)

    def move(self, place: str) -> None:
        """Put the pot somewhere: ``bath``, ``counter``, ``refrigerator``, ``freezer``, ``ice_bath``."""
        self.place, self.minutes_on_bath = place, 0.0

    def _around(self) -> tuple[float, float]:
        """Temperature around it and resistance in m2 K/W."""
        if self.place == "bath":
            warm = min(1.0, self.minutes_on_bath / WARM_UP_MIN)
            hot = self.room_c + (bath_c(self.melt.composition) - self.room_c) * warm
            return hot, float(self.on_bath.at(np.array([self.temp_c]))[0])
        at: Place = places(self.room_c)[self.place]
        return at.temp_c, 1 / at.h_w_m2_k + self.body.depth_m / (3 * CONDUCTIVITY)

    def tick(self, minutes: float) -> None:
        """So many minutes of its own time go by."""
        table, enthalpy = self.melt.table
        left = minutes
        while left > 1e-9:
            part = min(left, MOST_TICK_MIN)
            around, resistance = self._around()
            heat = float(np.interp(self.temp_c, table, enthalpy))
            heat += (around - self.temp_c) * self.body.area_m2 / resistance * part * 60 / self.body.mass_g
            self.temp_c = float(np.interp(heat, enthalpy, table))
            self.minutes_on_bath += part
            self.probe_c += (self.temp_c - self.probe_c) * (1 - math.exp(-part * 60 / PROBE_LAG_S))
            left -= part

    def line(self) -> bytes:
        """What the thermometer says now."""
        return f"T {self.probe_c + self.dice.gauss(0, 0.04):.1f} C\r\n".encode()


@dataclass
class Simulator:
    """Both instruments and the clock they live by: ``speed`` is how much faster it runs for the melt."""

    scale: SimulatedScale = field(default_factory=SimulatedScale)
    pot: SimulatedPot | None = None
    speed: float = 1.0
    silent_until: dict[str, float] = field(default_factory=dict)

    def tick(self, seconds: float) -> None:
        """Time goes by. The scale lives by the wall, the melt by its own clock."""
        self.scale.tick(seconds)
        if self.pot is not None:
            self.pot.tick(seconds * self.speed / 60)

    def line(self, kind: str) -> bytes:
        """What an instrument says now; nothing while it is unplugged, or without a pot."""
        if self.silent_until.get(kind, 0.0) > time.monotonic() or self.silent_until.get(kind) == SILENT:
            return b""
        if kind == "scale":
            return self.scale.line()
        return self.pot.line() if self.pot is not None else b""

    def do(self, order: dict[str, Any]) -> None:
        """What the maker does: ``put`` grams (less than 0 takes some), ``load`` the pan to some, ``tare``, ``step``,
        ``drift`` and ``settling`` of the scale, ``move`` the pot, ``pot`` a melt, ``speed``, ``unplug`` an instrument
        for seconds (-1 for good)."""
        scale = self.scale
        acts: dict[str, Callable[[Any], None]] = {
            "put": lambda grams: setattr(scale, "load_g", _held(scale.load_g + _finite(grams))),
            "load": lambda grams: setattr(scale, "load_g", _held(_finite(grams))),
            "tare": lambda _: scale.tare(),
            "step": lambda grams: setattr(scale, "step_g", max(1e-4, _finite(grams))),
            "drift": lambda steps: setattr(scale, "drift", min(60.0, max(-60.0, _finite(steps)))),
            "settling": lambda seconds: setattr(scale, "settling_s", min(5.0, max(0.01, _finite(seconds)))),
            "speed": lambda times: setattr(self, "speed", min(600.0, max(0.1, _finite(times)))),
            "move": lambda place: self.pot.move(str(place)) if self.pot else None,
            "pot": self._pot,
            "unplug": self._unplug,
        }
        for name, value in order.items():
            if name in acts:
                acts[name](value)

    def _pot(self, told: dict[str, Any]) -> None:
        before = self.pot
        composition = Composition.of({key: Decimal(str(share)) for key, share in told["shares"].items()})
        self.pot = SimulatedPot.of(composition, float(told["grams"]), float(told["room_c"]))
        if before is not None and told.get("warm"):  # the same pot with more in it
            self.pot.temp_c, self.pot.probe_c, self.pot.place = before.temp_c, before.probe_c, before.place
            self.pot.minutes_on_bath = before.minutes_on_bath

    def _unplug(self, told: dict[str, float]) -> None:
        for kind, seconds in told.items():
            self.silent_until[kind] = SILENT if seconds < 0 else time.monotonic() + float(seconds)


class Server:
    """The stand-in on three local sockets: scale, thermometer, and one that takes orders as JSON lines."""

    PARTS = ("scale", "thermometer", "orders")

    def __init__(self, folder: Path | None = None, ports: tuple[int, int, int] = (0, 0, 0)) -> None:
        self.simulator = Simulator()
        self.selector = selectors.DefaultSelector()
        self.listeners = {}
        self.clients: dict[str, list[socket.socket]] = {part: [] for part in self.PARTS}
        self.terminals: dict[str, int] = {}
        for part, port in zip(self.PARTS, ports, strict=True):
            listener = socket.create_server((HOST, port))
            listener.setblocking(False)
            self.listeners[part] = listener
            self.selector.register(listener, selectors.EVENT_READ, part)
        self.folder = folder
        if folder is not None:
            (folder / FILE).write_text(json.dumps(self.ports))

    @property
    def ports(self) -> dict[str, int]:
        """The port of each part."""
        return {part: listener.getsockname()[1] for part, listener in self.listeners.items()}

    def open_terminal(self, kind: str) -> str:
        """A pseudo-terminal on which an instrument speaks as well; returns its path."""
        import pty
        import tty

        ours, theirs = pty.openpty()
        tty.setraw(theirs)
        os.set_blocking(ours, False)
        self.terminals[kind] = ours
        return os.ttyname(theirs)

    def turn(self, seconds: float = TICK_S) -> None:
        """One tick: orders taken, time gone by, both instruments speak."""
        end = time.monotonic() + seconds
        while (left := end - time.monotonic()) > 0:
            for key, _ in self.selector.select(left):
                if isinstance(key.data, str):
                    self._welcome(key.data)
                elif key.data in self.clients["scale"]:
                    self._obey(key.data)
                else:
                    self._hear(key.data)
        self.simulator.tick(seconds)
        for kind in ("scale", "thermometer"):
            self._speak(kind, self.simulator.line(kind))

    def run(self, parent: int | None = None) -> None:
        """Go on until the process that started it is gone, or for ever."""
        while parent is None or os.getppid() == parent:
            self.turn()

    def close(self) -> None:
        """Let every socket and terminal go."""
        for each in (*self.listeners.values(), *(one for many in self.clients.values() for one in many)):
            each.close()
        for number in self.terminals.values():
            os.close(number)
        self.selector.close()

    def _welcome(self, part: str) -> None:
        client, _ = self.listeners[part].accept()
        client.setblocking(False)
        self.clients[part].append(client)
        if part in ("orders", "scale"):
            self.selector.register(client, selectors.EVENT_READ, client)

    def _obey(self, client: socket.socket) -> None:
        """A scale told to tare by its own line."""
        data = b""
        with contextlib.suppress(OSError):
            data = client.recv(4096)
        if not data:
            self._forget("scale", client)
        elif TARE in data.splitlines():
            self.simulator.scale.tare()

    def _forget(self, part: str, client: socket.socket) -> None:
        self.selector.unregister(client)
        self.clients[part].remove(client)
        client.close()

    def _hear(self, client: socket.socket) -> None:
        data = b""
        with contextlib.suppress(OSError):
            data = client.recv(65536)
        if not data:
            self._forget("orders", client)
            return
        for line in data.splitlines():
            with contextlib.suppress(ValueError, KeyError, TypeError, AttributeError, Problem):
                self.simulator.do(limits.read_json(line.decode()))
        with contextlib.suppress(OSError):
            client.send(b"ok\n")

    def _speak(self, kind: str, line: bytes) -> None:
        if not line:
            return
        for client in list(self.clients[kind]):
            try:
                client.send(line)
            except BlockingIOError:
                continue
            except OSError:
                if kind == "scale":
                    self.selector.unregister(client)
                self.clients[kind].remove(client)
                client.close()
        if kind in self.terminals:
            with contextlib.suppress(OSError):
                os.write(self.terminals[kind], line)


def _finite(value: Any) -> float:
    """A number that ends. Raises ``ValueError``."""
    number = float(value)
    if not math.isfinite(number):
        raise ValueError("a number without end")
    return number


def _held(grams: float) -> float:
    """What a pan can hold without breaking."""
    return min(BREAKS_G, max(0.0, grams))


def address_of(kind: str, folder: Path) -> str:
    """Where the stand-in of a folder speaks for an instrument; empty when it does not run."""
    try:
        return f"socket://{HOST}:{json.loads((folder / FILE).read_text())[kind]}"
    except (OSError, ValueError, KeyError):
        return ""


def order(folder: Path, **orders: Any) -> bool:
    """Tell the stand-in of a folder what the maker does; False when it does not run."""
    try:
        port = json.loads((folder / FILE).read_text())["orders"]
        with socket.create_connection((HOST, port), timeout=1) as line:
            line.sendall(json.dumps(orders).encode() + b"\n")
            return line.recv(8) == b"ok\n"
    except (OSError, ValueError, KeyError):
        return False
