"""Tests of a finished piece: the press test, the thumb grade, and what they say of firmness."""

import math
from dataclasses import dataclass

from balmcore.errors import Problem
from balmcore.physics.firmness import BANDS
from balmcore.units import mass_words

RODS_MM = (3, 6, 10)
PUNCH = 6.05  # punch on a plastic half-space, Eason & Shield 1960
STANDARD_GRAVITY = 9.80665e-3  # newton per gram-force
PRESS_SIGMA = 4.0
THUMB_SIGMA = 9.0
LEAST_DIVISIONS = 5
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
    if not grams <= 50_000:
        raise Problem(f"{mass_words(grams)} is more than a hand can press: check the reading.", "grams")
    if piece_mm is not None and rod_mm > piece_mm / 3:
        raise Problem(
            f"A {rod_mm:g} mm rod is wider than a third of a {piece_mm:g} mm piece: take a thinner rod.", "rod_mm"
        )
    area_m2 = math.pi * (rod_mm / 1000) ** 2 / 4
    yield_pa = grams * STANDARD_GRAVITY / (PUNCH * area_m2)
    return Measured(max(0.0, 25 * (math.log10(yield_pa) - 2)), PRESS_SIGMA)


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
