"""Grams, degrees C, numbers and days as a maker reads them: the way back from :mod:`balmcore.units`.

What one maker reads by is a :class:`Display`. Sentences made deep inside the core are spoken in the one that
:func:`speak_in` set for this thread, as a locale is.
"""

import math
import re
from collections.abc import Iterable
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

POINT, COMMA = ".", ","
DAY_FIRST, MONTH_FIRST, YEAR_FIRST = "day", "month", "year"
OUNCE_G = 28.349523125  # the avoirdupois ounce, exactly (international yard and pound agreement, 1959)

_DECIMAL = re.compile(r"(?<![\w.])(\d+)\.(\d+)(?![\w.]*\d)")
# How days are written: long, short and without their year in words; in figures, as in a field.
_DAYS = {
    DAY_FIRST: ("{d} {month} {y}", "{d} {mon} {y}", "{d} {month}", "{d:02d}/{m:02d}/{y}"),
    MONTH_FIRST: ("{month} {d}, {y}", "{mon} {d}, {y}", "{month} {d}", "{m:02d}/{d:02d}/{y}"),
    YEAR_FIRST: ("{y} {month} {d}", "{y} {mon} {d}", "{month} {d}", "{y}-{m:02d}-{d:02d}"),
}


@dataclass(frozen=True)
class Display:
    """How one maker reads quantities: ``mass`` g or oz, ``temp`` C or F, the scale's step in grams, the mark before
    decimals, and whether a date begins with its day, month or year."""

    mass: str = "g"
    temp: str = "C"
    resolution_g: float = 0.1
    mark: str = POINT
    dates: str = DAY_FIRST

    @property
    def price_grams(self) -> Decimal:
        """What a price is told for: 100 g, or an ounce."""
        return Decimal(100) if self.mass == "g" else Decimal(str(OUNCE_G))

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
        return grams if self.mass == "g" else grams / OUNCE_G

    def in_temp(self, celsius: float) -> float:
        """Degrees C in the unit shown."""
        return celsius if self.temp == "C" else celsius * 1.8 + 32

    def figure(self, value: float | Decimal, places: int | None = None, signed: bool = False) -> str:
        """A number with this maker's mark: to so many places or, without, as short as six digits allow.

        >>> Display(mark=COMMA).figure(0.25), Display().figure(1 / 3, 2), Display().figure(12, signed=True)
        ('0,25', '0.33', '+12')
        """
        shape = f"{'+' if signed else ''}{'.6g' if places is None else f'.{places}f'}"
        return f"{value:{shape}}".replace(POINT, self.mark)

    def written(self, text: str) -> str:
        """A text of the reference tables with this maker's mark in its numbers.

        >>> Display(mark=COMMA).written("Older figure is 1.7 %; see 2023/1545.")
        'Older figure is 1,7 %; see 2023/1545.'
        """
        return text if self.mark == POINT else _DECIMAL.sub(rf"\1{self.mark}\2", text)

    def step_text(self, grams: float | Decimal) -> str:
        """A scale's step as short as it is exact: ``0.1 g``, ``0.05 oz``."""
        return f"{self.figure(round(self.in_mass(float(grams)), 4))} {self.mass}"

    def mass_number(self, grams: float | Decimal) -> str:
        """``12.3`` to the scale's resolution, without the unit."""
        return self.figure(self.in_mass(float(grams)), self.mass_places)

    def mass_text(self, grams: float | Decimal) -> str:
        """``12.3 g`` to the scale's resolution."""
        return f"{self.mass_number(grams)} {self.mass}"

    def shown_sum_g(self, grams: Iterable[Decimal]) -> Decimal:
        """Grams of a sum whose parts are shown: of the figures as they stand, so that these add up to it.

        >>> Display(mass="oz", resolution_g=0.2835).shown_sum_g([Decimal("2.84")] * 3).quantize(Decimal("0.001"))
        Decimal('8.505')
        """
        unit = Decimal(1) if self.mass == "g" else Decimal(str(OUNCE_G))
        shown = (Decimal(f"{self.in_mass(float(each)):.{self.mass_places}f}") for each in grams)
        return sum(shown, Decimal(0)) * unit

    def mass_words(self, grams: float | Decimal) -> str:
        """A mass inside a sentence: ``500 g``, ``17.6 oz``; never nothing for something.

        >>> Display().mass_words(Decimal("500.000000")), Display().mass_words(0.0123)
        ('500 g', '0.012 g')
        """
        told = f"{self.in_mass(float(grams)):.{self.mass_places}f}"
        if grams and not float(told):
            told = f"{self.in_mass(float(grams)):.2g}"
        short = told.rstrip("0").rstrip(POINT) if POINT in told else told
        return f"{short.replace(POINT, self.mark)} {self.mass}"

    def temp_number(self, celsius: float, places: int = 0) -> str:
        """``41`` without the unit, never ``-0``."""
        return self.figure(round(self.in_temp(celsius), places) + 0.0, places)

    def temp_text(self, celsius: float, places: int = 0) -> str:
        """``41 °C``."""
        return f"{self.temp_number(celsius, places)} °{self.temp}"

    def temp_gap(self, kelvin: float) -> str:
        """A difference of temperatures with its unit; one that is there is a degree at least.

        >>> Display().temp_gap(9), Display(temp="F").temp_gap(5), Display().temp_gap(0.6)
        ('9 °C', '9 °F', '1 °C')
        """
        return f"{self.figure(max(1, round(kelvin * (1.8 if self.temp == 'F' else 1))), 0)} °{self.temp}"

    def day(self, day: date) -> str:
        """``31 May 2026``, ``May 31, 2026`` or ``2026 May 31``."""
        return self._day(day, 0)

    def short_day(self, day: date) -> str:
        """``31 Dec 2026``, for tables."""
        return self._day(day, 1)

    def near_day(self, day: date) -> str:
        """``31 May``, where the year is plain."""
        return self._day(day, 2)

    def day_field(self, day: date) -> str:
        """``31/05/2026``, ``05/31/2026`` or ``2026-05-31``, as a field holds it; read by
        :func:`balmcore.days.read_day`."""
        return self._day(day, 3)

    def _day(self, day: date, row: int) -> str:
        return _DAYS[self.dates][row].format(y=day.year, m=day.month, d=day.day, month=f"{day:%B}", mon=f"{day:%b}")


CELSIUS = Display()  # for sentences when no maker has said otherwise
_speaking: ContextVar[Display] = ContextVar("speaking", default=CELSIUS)


def speak_in(display: Display) -> None:
    """From here on, in this thread or task, sentences name quantities as one maker reads them."""
    _speaking.set(display)


def spoken() -> Display:
    """How sentences are spoken in this thread or task."""
    return _speaking.get()


def figure(value: float | Decimal, places: int | None = None, signed: bool = False) -> str:
    """A number inside a sentence, see :meth:`Display.figure`."""
    return spoken().figure(value, places, signed)


def mass_words(grams: float | Decimal) -> str:
    """A mass inside a sentence: ``500 g``, ``17.6 oz``."""
    return spoken().mass_words(grams)


def temp_words(celsius: float) -> str:
    """A temperature inside a sentence: ``40 °C``, ``104 °F``."""
    return spoken().temp_text(celsius)


def day_words(day: date) -> str:
    """A day inside a sentence: ``31 May 2026``."""
    return spoken().day(day)


def short_day_words(day: date) -> str:
    """``31 Dec 2026``."""
    return spoken().short_day(day)


def near_day_words(day: date) -> str:
    """``31 May``, where the year is plain."""
    return spoken().near_day(day)


def percent_words(percent: float) -> str:
    """A percentage inside a sentence."""
    return f"{figure(percent)} %"
