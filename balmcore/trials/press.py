"""Tests of a finished piece: the press test, the thumb grade, and what they say of firmness."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, stdev

from balmcore.display import figure, mass_words, temp_words
from balmcore.errors import Problem
from balmcore.physics.firmness import BANDS, WINDOW_C, Prediction

RODS_MM = (3, 6, 10)  # flat ends that a hardware shop has
PUNCH = 6.05  # punch on a plastic half-space, Eason & Shield 1960
STANDARD_GRAVITY = 9.80665e-3  # newton per gram-force
PRESS_SIGMA = 4.0  # points, of one press (docs/model.md)
LEAST_SIGMA = 1.0  # points, of however many presses of one piece
THUMB_SIGMA = 9.0  # points, of one grade of eight words (docs/model.md)
LEAST_DIVISIONS = 5  # of the scale, below which its step is the reading
# A hand's strength; what a kitchen scale stands; a good reading on it.
MOST_PRESSED_G, MOST_ASKED_G, GOOD_READING_G = 30_000, 4_000, 300
MOST_READINGS = 20  # of one tin, before its surface is all dents
COLDEST_TESTED_C, HOTTEST_TESTED_C = -25.0, 60.0  # a freezer, a car in the sun
THUMB_WORDS = tuple(name for _, name in BANDS)


@dataclass(frozen=True)
class Measured:
    """A measured firmness (0 and up) and its one-sigma, in points."""

    firmness: float
    sigma: float


def press(grams: float, rod_mm: float, resolution_g: float, piece_mm: float | None = None) -> Measured:
    """Firmness from the peak reading of a flat rod pressed 3 mm into a piece on the scale.

    ``grams`` of force, rod and piece width in mm. Raises :class:`Problem` for a reading
    under 5 scale divisions or a rod wider than a third of the piece.

    >>> round(press(820, 6, 0.1).firmness, 1)
    66.8
    """
    if rod_mm not in RODS_MM:
        raise Problem("The rod should be 3, 6 or 10 mm across.", "rod_mm")
    if not grams >= LEAST_DIVISIONS * resolution_g:
        raise Problem(
            f"A reading of {mass_words(grams)} is under {LEAST_DIVISIONS} steps of the scale: "
            "take a wider rod or a finer scale.",
            "grams",
        )
    if not grams <= MOST_PRESSED_G:
        raise Problem(f"{mass_words(grams)} is more than a kitchen scale bears: check the reading.", "grams")
    if piece_mm is not None and rod_mm > piece_mm / 3:
        raise Problem(
            f"A {figure(rod_mm)} mm rod is wider than a third of a {figure(piece_mm)} mm piece: take a thinner rod.",
            "rod_mm",
        )
    yield_pa = grams * STANDARD_GRAVITY / (PUNCH * _area_m2(rod_mm))
    return Measured(max(0.0, 25 * (math.log10(yield_pa) - 2)), PRESS_SIGMA)


def _area_m2(rod_mm: float) -> float:
    return math.pi * (rod_mm / 1000) ** 2 / 4


def expected_g(firmness: float, rod_mm: float) -> float:
    """The peak reading in grams that a firmness gives under a rod: :func:`press` turned round.

    >>> round(expected_g(66.8, 6))
    820
    """
    return float(10 ** (firmness / 25 + 2) * PUNCH * _area_m2(rod_mm) / STANDARD_GRAVITY)


@dataclass(frozen=True)
class RodAdvice:
    """Which rod to take, and about what the scale will show."""

    rod_mm: int
    about_g: float


def rod_for(firmness: float, resolution_g: float, piece_mm: float | None = None) -> RodAdvice | None:
    """The rod whose reading lies best within a kitchen scale, of those thin enough for the piece; None where
    no reading would say anything: then the thumb has to do."""
    thin = [rod for rod in RODS_MM if piece_mm is None or rod <= piece_mm / 3]
    readable = [rod for rod in thin if LEAST_DIVISIONS * resolution_g <= expected_g(firmness, rod) <= MOST_ASKED_G]
    if not readable:
        return None
    best = min(readable, key=lambda rod: abs(math.log(expected_g(firmness, rod) / GOOD_READING_G)))
    return RodAdvice(best, expected_g(firmness, best))


@dataclass(frozen=True)
class Repeated:
    """Several readings of one piece: their mean in grams, the spread in points, and the firmness, whose sigma is that
    of their mean."""

    mean_g: float
    spread: float
    measured: Measured

    @property
    def doubt(self) -> str:
        """What to say of readings far from each other, empty when they agree."""
        if self.spread <= PRESS_SIGMA:
            return ""
        return (
            f"These readings lie {self.spread:.0f} points from each other: press again, in the middle and never "
            "twice in one place."
        )


def repeated(readings: Sequence[float], rod_mm: float, resolution_g: float, piece_mm: float | None = None) -> Repeated:
    """Firmness from one or more readings: the mean of what each says, as sure as so many are by the method or by how
    far they agree, whichever is less, and never surer than a point.

    Raises :class:`Problem` as :func:`press` does, and for none or more than 20.
    """
    if not 1 <= len(readings) <= MOST_READINGS:
        raise Problem(f"Write down one to {MOST_READINGS} readings.", "grams")
    found = [press(grams, rod_mm, resolution_g, piece_mm).firmness for grams in readings]
    spread, root = stdev(found) if len(found) > 1 else 0.0, math.sqrt(len(found))
    sigma = max(spread / root, PRESS_SIGMA / root, LEAST_SIGMA)
    return Repeated(fmean(readings), spread, Measured(fmean(found), sigma))


def sensible_temp(temp_c: float) -> float:
    """The temperature of a piece at its test. Raises :class:`Problem` where nothing is left to press, and for
    what no household has."""
    if not COLDEST_TESTED_C <= temp_c <= HOTTEST_TESTED_C:
        low, high = temp_words(COLDEST_TESTED_C), temp_words(HOTTEST_TESTED_C)
        raise Problem(f"A piece is tested between {low} and {high}: look at the thermometer again.", "test_c")
    return temp_c


def at_window(measured: float, temp_c: float, prediction: Prediction) -> float:
    """A firmness measured at a temperature as it would be at 21 degrees, by the model's own slope, not below 0. Where
    the model has nothing solid left at one of the two, nothing is known of the slope, and it stays as it is."""
    there, here = prediction.curve([WINDOW_C, temp_c]).unclipped[0].tolist()
    return max(0.0, measured + there - here) if math.isfinite(there) and math.isfinite(here) else measured


def thumb(grade: str) -> Measured:
    """Firmness from a thumb grade: the middle of the word's band. Raises :class:`Problem`."""
    low = 0.0
    for high, name in BANDS:
        if name == grade:
            return Measured((low + min(high, 104.0)) / 2, THUMB_SIGMA)
        low = high
    raise Problem(f"“{grade[:40]}” is not a thumb grade: choose one of {', '.join(THUMB_WORDS)}.", "thumb")


def compare(predicted: float, sigma: float, measured: Measured) -> str:
    """A sentence on how far a measurement lies from its prediction."""
    # Of the figures as they are shown, so that the sentence agrees with the picture.
    gap = round(measured.firmness) - round(predicted)
    spread = math.hypot(sigma, measured.sigma)
    if abs(gap) < 3:
        return "The test agrees with the prediction."
    side = "firmer" if gap > 0 else "softer"
    if abs(gap) <= spread:
        return f"{abs(gap):.0f} points {side} than predicted: within what the model can promise."
    return (
        f"{abs(gap):.0f} points {side} than predicted: more than the model expects. Check the weights and the cooling."
    )
