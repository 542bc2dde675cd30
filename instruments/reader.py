"""Reads scale and thermometer in a process of its own, beside the server.

It opens what the settings name, takes whole lines, keeps the last of each, and opens again what was
unplugged. A flood of lines costs no more than one a poll: only the newest is understood.
"""

import contextlib
import os
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import serial

from instruments.lines import LONGEST, read_line
from instruments.readings import Reading, now, steady, write
from instruments.zero import SMALL_STEPS, Beginning, Zero, asked

EVERY_S = 0.12
AGAIN_S = 1.0
SEEN = 240
SEEN_EVERY_S = {"scale": 0.1, "thermometer": 1.0}
BUFFER = 64 * 1024


@dataclass(frozen=True)
class Source:
    """Where one instrument speaks, as it is set: ``step`` is the smallest step of a scale, ``tare`` what its line takes
    to be tared by, empty where it takes nothing."""

    kind: str
    address: str
    baud: int
    unit: str
    step: float = 0.1
    tare: str = ""


@dataclass
class Port:
    """One instrument being read."""

    source: Source
    connection: serial.SerialBase | None = None
    rest: bytes = b""
    tried_at: float = 0.0
    seen: deque[tuple[float, float]] = field(default_factory=lambda: deque(maxlen=SEEN))
    reading: Reading | None = None
    zero: Zero = field(default_factory=lambda: Zero(now()))
    wanted: Beginning | None = None

    def poll(self) -> Reading | None:
        """What it said last; opens it when it is shut. Never raises, never waits."""
        if self.connection is None:
            self._open()
        if self.connection is not None:
            try:
                self._take(self._waiting())
            except (OSError, serial.SerialException, ValueError):
                self.close()
                self._problem("It went away: look at its cable.")
        return self.reading

    def close(self) -> None:
        """Let the port go."""
        if self.connection is not None:
            with contextlib.suppress(Exception):
                self.connection.close()
        self.connection, self.rest = None, b""

    def _open(self) -> None:
        if now() - self.tried_at < AGAIN_S:
            return
        self.tried_at = now()
        try:
            self.connection = serial.serial_for_url(self.source.address, baudrate=self.source.baud, timeout=0)
        except (OSError, serial.SerialException, ValueError) as refusal:
            self._problem(f"{self.source.address} does not open: {_plain(refusal)}")

    def _waiting(self) -> bytes:
        assert self.connection is not None
        data: bytes = self.connection.read(BUFFER)
        return data

    def _take(self, data: bytes) -> None:
        """Keep what was sent; the newest whole line counts."""
        *lines, self.rest = (self.rest + data).replace(b"\r", b"\n").split(b"\n")
        if len(self.rest) > LONGEST:
            lines, self.rest = [*lines, self.rest], b""
        whole = [line for line in lines if line.strip()]
        if whole:
            self._understand(whole[-1])

    def _understand(self, line: bytes) -> None:
        said, at = read_line(line, self.source.unit), now()
        if said.value is not None and (not self.seen or at - self.seen[-1][0] >= SEEN_EVERY_S[self.source.kind]):
            self.seen.append((at, said.value))
        # A scale calls itself steady within half a step; its last second tells whether it still creeps.
        calm = steady(self.seen, self.source.step) and said.is_steady is not False and not said.problem
        raw = line[:LONGEST].decode("ascii", "replace").strip()
        value, zero = said.value, self.zero
        if value is not None:
            self._begin(value, calm, at)
            value -= zero.grams
        subtracted = (zero.grams, zero.weighing, zero.came_at_once, zero.done.at if zero.done else 0.0, zero.is_counted)
        self.reading = Reading(value, raw, at, said.problem, calm, tuple(self.seen), *subtracted)

    def _begin(self, raw_g: float, is_steady: bool, at: float) -> None:
        """Let the weighing that was asked for begin, if it can."""
        step, tare = self.source.step, self.source.tare
        self.zero.look(raw_g, is_steady, step, at)
        if self.wanted is None or self.source.kind != "scale":
            return
        has_begun = self.zero.begin(self.wanted, raw_g, is_steady, at)
        if has_begun and tare and self.zero.grams > SMALL_STEPS * step:
            assert self.connection is not None
            self.connection.write(f"{tare}\r\n".encode("ascii"))
            self.zero.tared(at)

    def _problem(self, sentence: str) -> None:
        at = self.reading.at if self.reading else now()
        self.reading = Reading(None, "", at if self.reading else now(), sentence, seen=tuple(self.seen))


class Reader:
    """All instruments that are set."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.ports: dict[str, Port] = {}

    def set(self, sources: list[Source]) -> None:
        """Read these from now on; what is as it was stays open."""
        wanted = {source.kind: source for source in sources}
        for kind in [kind for kind, port in self.ports.items() if wanted.get(kind) != port.source]:
            self.ports.pop(kind).close()
        for kind, source in wanted.items():
            self.ports.setdefault(kind, Port(source))

    def once(self) -> dict[str, Reading]:
        """One look at every instrument, handed on."""
        if (scale := self.ports.get("scale")) is not None:
            scale.wanted = asked(self.folder)
        found = {kind: reading for kind, port in self.ports.items() if (reading := port.poll())}
        write(self.folder, found)
        return found

    def run(self, refresh: Callable[[], list[Source]], parent: int) -> None:
        """Read until the server that started this process is gone; ``refresh`` tells what is set now."""
        looked = 0.0
        while os.getppid() == parent:
            if now() - looked > AGAIN_S:
                self.set(refresh())
                looked = now()
            self.once()
            time.sleep(EVERY_S)


def _plain(refusal: Exception) -> str:
    reason = getattr(refusal, "strerror", None) or str(refusal)
    return reason.split(": ")[-1].strip(".'\" ").lower() or "no reason given"
