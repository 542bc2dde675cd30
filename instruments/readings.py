"""The last that scale and thermometer said, handed from the reader process to the pages in one small file."""

import json
import os
import time
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

FILE = "readings.json"
SILENT_S, LOST_S = 3.0, 12.0
STUCK_S = 180.0
STEADY_S, STEADY_STEPS = 1.2, 1.01


@dataclass(frozen=True)
class Reading:
    """What one instrument said last: ``value`` in grams or degrees C, None with a ``problem``; ``at`` and
    the times of ``seen`` are seconds of the clock that never goes back. ``raw`` is the line as it came. Of a scale
    ``zero_g`` was subtracted, as ``weighing`` began, and what came onto it first may have come at once;
    that was asked for at ``asked_at``, and its maker may have said that all of it counts."""

    value: float | None
    raw: str
    at: float
    problem: str = ""
    is_steady: bool = False
    seen: tuple[tuple[float, float], ...] = field(default=())
    zero_g: float = 0.0
    weighing: str = ""
    came_at_once: bool = False
    asked_at: float = 0.0
    is_counted: bool = False

    def trouble(self, now: float) -> str:
        """What is wrong with it at a moment, empty when nothing is."""
        silent = now - self.at
        if silent > LOST_S:
            return f"It has not spoken for {silent:.0f} seconds: look at its cable, or type the number."
        if silent > SILENT_S:
            return "It does not speak just now."
        return self.problem

    def is_stuck(self, now: float) -> bool:
        """True when it has shown the very same for minutes although it speaks."""
        since = [at for at, value in self.seen if value != self.value]
        begun = max(since, default=self.seen[0][0] if self.seen else now)
        return self.value is not None and now - begun > STUCK_S


def write(folder: Path, readings: Mapping[str, Reading]) -> None:
    """Put the last readings into their file; readers see the old or the new one, never a half."""
    hand_on(folder / FILE, {kind: asdict(reading) for kind, reading in readings.items()})


def hand_on(path: Path, told: Mapping[str, Any]) -> None:
    """Put something for another process into a file, as a whole."""
    temporary = path.with_name(f".{path.name}.{os.getpid()}")
    temporary.write_text(json.dumps(told))
    temporary.replace(path)


def latest(folder: Path) -> dict[str, Reading]:
    """The last readings by kind of instrument; empty when nothing reads."""
    try:
        stored: dict[str, Any] = json.loads((folder / FILE).read_text())
        return {
            kind: Reading(**{**one, "seen": tuple((at, value) for at, value in one["seen"])})
            for kind, one in stored.items()
        }
    except (OSError, ValueError, TypeError, KeyError):
        return {}


def now() -> float:
    """Seconds of the computer's clock that never goes back, shared by all its processes."""
    return time.monotonic()


def steady(seen: Sequence[tuple[float, float]], step: float) -> bool:
    """True when the last second or so of values lies within a step of the scale."""
    if not seen:
        return False
    end = seen[-1][0]
    last = [value for at, value in seen if end - at <= STEADY_S]
    covers = end - seen[0][0] >= STEADY_S
    return covers and max(last) - min(last) <= step * STEADY_STEPS
