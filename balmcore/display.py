"""Grams and degrees C as a maker reads them: the way back from :mod:`balmcore.units`."""

import math
from contextvars import ContextVar
from dataclasses import dataclass
from decimal import Decimal


@dataclass(frozen=True)
class Display:
    """How one maker reads quantities: ``mass`` g or oz, ``temp`` C or F, the scale's step in grams."""

    mass: str = "g"
    temp: str = "C"
    resolution_g: float = 0.1

    @property
    def price_grams(self) -> Decimal:
        """What a price is told for: 100 g, or an ounce."""
        return Decimal(100) if self.mass == "g" else Decimal("28.349523125")

    @property
    def price_mass(self) -> str:
        """That mass in words."""
        return "100 g" if self.mass == "g" else "1 oz"

    @property
    def mass_places(self) -> int:
        """Decimals that show every step of the scale."""
        step = self.in_mass(self.resolution_g)
        for places in range(5):
            if abs(step * 10**places - round(step * 10**places)) < 1e-4 * 10**places * step and round(
                step * 10**places
            ):
                return places
        return min(4, max(0, 1 - math.floor(math.log10(step))))

    def in_mass(self, grams: float) -> float:
        """Grams in the unit shown."""
        return grams if self.mass == "g" else grams / 28.349523125

    def in_temp(self, celsius: float) -> float:
        """Degrees C in the unit shown."""
        return celsius if self.temp == "C" else celsius * 1.8 + 32

    def step_text(self, grams: float | Decimal) -> str:
        """A scale's step as short as it is exact: ``0.1 g``, ``0.05 oz``."""
        return f"{self.in_mass(float(grams)):.4f}".rstrip("0").rstrip(".") + f" {self.mass}"

    def mass_number(self, grams: float | Decimal) -> str:
        """``12.3`` to the scale's resolution, without the unit."""
        return f"{self.in_mass(float(grams)):.{self.mass_places}f}"

    def mass_text(self, grams: float | Decimal) -> str:
        """``12.3 g`` to the scale's resolution."""
        return f"{self.mass_number(grams)} {self.mass}"

    def temp_number(self, celsius: float, places: int = 0) -> str:
        """``41`` without the unit, never ``-0``."""
        value = round(self.in_temp(celsius), places)
        return f"{value + 0.0:.{places}f}"

    def temp_text(self, celsius: float, places: int = 0) -> str:
        """``41 °C``."""
        return f"{self.temp_number(celsius, places)} °{self.temp}"


CELSIUS = Display()  # for sentences when no maker has said otherwise
_showing: ContextVar[Display] = ContextVar("showing", default=CELSIUS)


def speak_in(display: Display) -> None:
    """From here on, in this thread or task, sentences name quantities as one maker reads them."""
    _showing.set(display)


def mass_words(grams: float | Decimal) -> str:
    """A mass inside a sentence: ``500 g``, ``17.6 oz``; never nothing for something.

    >>> mass_words(Decimal("500.000000")), mass_words(0.0123)
    ('500 g', '0.012 g')
    """
    show = _showing.get()
    number = show.mass_number(grams)
    if grams and not float(number):
        number = f"{show.in_mass(float(grams)):.2g}"
    return f"{number.rstrip('0').rstrip('.') if '.' in number else number} {show.mass}"


def temp_words(celsius: float) -> str:
    """A temperature inside a sentence: ``40 °C``, ``104 °F``."""
    return _showing.get().temp_text(celsius)


def percent_words(percent: float) -> str:
    """A percentage inside a sentence."""
    return f"{percent:g} %"
