"""Where a weighing begins: what stands on the scale then counts as nothing.

A page asks for it in one small file; the process that reads the scale does it, by the scale's own tare where its line
takes one, else by subtracting what stands there. So every page of every device sees the same number.
"""

import json
from dataclasses import asdict, dataclass, field
from pathlib import Path

from instruments.readings import hand_on

FILE = "zero.json"
NEAR_STEPS = 2.5  # of the scale: what an empty pan shows after an hour
TARE_S = 3.0  # until a scale that was told to tare has done so
SMALL_STEPS = 20  # below this a tare could not be told from what is poured next
AT_ONCE_S, NEARLY = 2.5, 0.9  # until nearly all of it is there: a vessel put down, and no pouring
MOST_SEEN = 100  # of a rise: later ones say no more of how it began
KEPT_S = 3600.0  # a weighing that began earlier than this before a start is over


@dataclass(frozen=True)
class Beginning:
    """A weighing that begins, by a ``name`` of its own, asked for ``at`` a moment. ``raw_g`` is what the scale shows
    that counts as nothing, None for what stands there once it is steady; with ``is_counted`` what stands there counts,
    and nothing moves. ``is_sure`` where its maker, or what was weighed before it, says that a vessel stands there."""

    name: str
    at: float
    raw_g: float | None = None
    is_counted: bool = False
    is_sure: bool = True


def ask(folder: Path, beginning: Beginning) -> None:
    """Let a weighing begin; the reader does it with the next line of the scale."""
    hand_on(folder / FILE, asdict(beginning))


def asked(folder: Path) -> Beginning | None:
    """The weighing that was asked for last, None for none."""
    try:
        told = json.loads((folder / FILE).read_text())
        raw = told["raw_g"]
        return Beginning(
            str(told["name"]),
            float(told["at"]),
            None if raw is None else float(raw),
            bool(told["is_counted"]),
            bool(told["is_sure"]),
        )
    except (OSError, ValueError, TypeError, KeyError):
        return None


@dataclass
class Zero:
    """What is subtracted from what a scale shows, and for which weighing. ``came_at_once`` where the first that came
    onto a pan of which nobody said what stands on it was nearly all there in a moment, as a vessel is; ``is_counted``
    where its maker said that all of it counts."""

    started_at: float = 0.0
    grams: float = 0.0
    weighing: str = ""
    done: Beginning | None = None
    is_sure: bool = True
    is_counted: bool = False
    came_at_once: bool = False
    _rise: list[tuple[float, float]] = field(default_factory=list, repr=False)
    _tared_at: float | None = field(default=None, repr=False)

    def begin(self, wanted: Beginning, raw_g: float, is_steady: bool, now: float) -> bool:
        """Begin a weighing if it can begin yet; True where it did, and something is subtracted."""
        if wanted == self.done:
            return False
        if wanted.at < self.started_at and (wanted.raw_g is None or wanted.at < self.started_at - KEPT_S):
            self.done = wanted  # what stood there then is not what stands there now
            return False
        if wanted.raw_g is None and not wanted.is_counted and not is_steady:
            return False
        self.done, self.weighing, self.is_sure = wanted, wanted.name, wanted.is_sure
        self.is_counted, self.came_at_once, self._rise = wanted.is_counted, False, []
        if not wanted.is_counted:
            self.grams = raw_g if wanted.raw_g is None else wanted.raw_g
        return not wanted.is_counted

    def tared(self, now: float) -> None:
        """The scale was told to tare."""
        self._tared_at = now

    def look(self, raw_g: float, is_steady: bool, step_g: float, now: float) -> None:
        """Let go of what was subtracted once a scale that was told to tare has done so, and see what comes onto it."""
        if self._tared_at is not None:
            if raw_g < self.grams / 2:
                self.grams, self._tared_at = 0.0, None
            elif now - self._tared_at > TARE_S:
                self._tared_at = None
        if self.is_sure:
            return
        shown = raw_g - self.grams
        if shown <= NEAR_STEPS * step_g:
            self._rise = []
            return
        self._rise = [*self._rise[:MOST_SEEN], (now, shown)]
        if is_steady:
            nearly = next(at for at, grams in self._rise if grams >= NEARLY * shown)
            self.is_sure, self.came_at_once = True, nearly - self._rise[0][0] < AT_ONCE_S
