"""The ruler: predicted and measured firmness on the one scale, with the words of its bands."""

from dataclasses import dataclass

from balmcore.display import figure
from balmcore.physics.firmness import BANDS, HIGHEST, word

WIDTH, HEIGHT = 640.0, 118.0
LEFT, RIGHT = 14.0, 14.0


@dataclass(frozen=True)
class Zone:
    """A band of the scale: its number, word, and extent."""

    number: int
    name: str
    x: float
    width: float
    low: str

    @property
    def middle(self) -> float:
        """Where its word stands."""
        return self.x + self.width / 2


@dataclass(frozen=True)
class RulerMark:
    """A firmness with its one-sigma, as a mark and a span."""

    what: str
    x: float
    low: float
    high: float
    text: str


@dataclass(frozen=True)
class Ruler:
    """What the ruler template draws."""

    zones: tuple[Zone, ...]
    predicted: RulerMark
    measured: RulerMark | None
    title: str
    width: float = WIDTH
    height: float = HEIGHT


def x_of(firmness: float) -> float:
    """Horizontal place of a firmness."""
    return LEFT + (WIDTH - LEFT - RIGHT) * min(max(firmness, 0.0), HIGHEST) / HIGHEST


def _reading(what: str, firmness: float, sigma: float) -> RulerMark:
    return RulerMark(what, x_of(firmness), x_of(firmness - sigma), x_of(firmness + sigma), f"{firmness:.0f}")


def ruler(predicted: float, sigma: float, measured: tuple[float, float] | None) -> Ruler:
    """Predicted firmness and its sigma beside a measured (firmness, sigma), or alone."""
    lows = [0.0, *(high for high, _ in BANDS[:-1])]
    zones = tuple(
        Zone(n, name, x_of(low), x_of(high) - x_of(low), figure(low))
        for n, (low, (high, name)) in enumerate(zip(lows, BANDS, strict=True))
    )
    title = f"Predicted {predicted:.0f} ({word(predicted)})"
    if measured:
        title += f", measured {measured[0]:.0f} ({word(measured[0])})"
    return Ruler(
        zones,
        _reading("predicted", predicted, sigma),
        _reading("measured", *measured) if measured else None,
        title + ".",
    )
