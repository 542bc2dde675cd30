"""Where a weighing begins: what stands on the scale then counts as nothing.

A page asks for it in one small file; the process that reads the scale does it, by the scale's own tare where its line
takes one, else by subtracting what stands there. So every page of every device sees the same number.
"""

import json
import os
from dataclasses import asdict, dataclass
from pathlib import Path

FILE = "zero.json"
NEAR_STEPS = 2.5  # of the scale: what an empty pan shows after an hour
TARE_S = 3.0  # until a scale that was told to tare has done so
SMALL_STEPS = 20  # below this a tare could not be told from what is poured next


@dataclass(frozen=True)
class Beginning:
    """A weighing that begins, by a ``name`` of its own. ``raw_g`` is what the scale shows that counts as nothing, None
    for what stands there once it is steady; with ``is_counted`` what stands there counts, and nothing moves."""

    name: str
    raw_g: float | None = None
    is_counted: bool = False


def ask(folder: Path, beginning: Beginning) -> None:
    """Let a weighing begin; the reader does it with the next line of the scale."""
    temporary = folder / f".{FILE}.{os.getpid()}"
    temporary.write_text(json.dumps(asdict(beginning)))
    temporary.replace(folder / FILE)


def asked(folder: Path) -> Beginning | None:
    """The weighing that was asked for last, None for none."""
    try:
        told = json.loads((folder / FILE).read_text())
        raw = told["raw_g"]
        return Beginning(str(told["name"]), None if raw is None else float(raw), bool(told["is_counted"]))
    except (OSError, ValueError, TypeError, KeyError):
        return None


@dataclass
class Zero:
    """What is subtracted from what a scale shows, and for which weighing."""

    grams: float = 0.0
    weighing: str = ""
    tared_at: float | None = None

    def begin(
        self, wanted: Beginning, raw_g: float, is_steady: bool, step_g: float, now: float, can_tare: bool
    ) -> bool:
        """Begin a weighing if it can begin yet; True where the scale is to be told to tare."""
        if wanted.name == self.weighing or (wanted.raw_g is None and not wanted.is_counted and not is_steady):
            return False
        self.weighing = wanted.name
        if wanted.is_counted:
            return False
        self.grams = raw_g if wanted.raw_g is None else wanted.raw_g
        self.tared_at = now if can_tare and self.grams > SMALL_STEPS * step_g else None
        return self.tared_at is not None

    def look(self, raw_g: float, now: float) -> None:
        """Let go of what was subtracted once a scale that was told to tare has done so."""
        if self.tared_at is None:
            return
        if raw_g < self.grams / 2:
            self.grams, self.tared_at = 0.0, None
        elif now - self.tared_at > TARE_S:
            self.tared_at = None
