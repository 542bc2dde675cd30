"""How it feels, and why it is firm: weight, sink-in and finish on skin; what each line gives.

Each liquid and soft ingredient has a weight from 1 (dry) to 5 (rich) and a time to sink in;
the mixture's are weighted by mass over what is liquid at skin heat. Powders take 0.15 off the
greasiness per percent, to a floor of 1.
"""

from dataclasses import dataclass

import numpy as np

from balmcore.composition import Formula
from balmcore.physics.firmness import SKIN_C, basis
from balmcore.physics.solids import Array
from balmcore.tables import Kind, library

DRYING_PER_PERCENT = 0.15
DRIEST = 1.0
STRONG = "strong"
# Greasiness up to which a word holds.
WEIGHTS = ((2.0, "light"), (3.0, "medium"), (4.0, "rich"), (9.0, "heavy"))
FINISHES = ((1.8, "dry"), (2.8, "satin"), (3.8, "cushioned"), (9.0, "greasy"))
SINKS = (
    (18.0, "sinks in quickly"),
    (32.0, "sinks in within half an hour"),
    (48.0, "sinks in slowly"),
    (999.0, "stays on the skin"),
)


@dataclass(frozen=True)
class Feel:
    """Figures and words. ``weight`` 1 to 5, ``sink_minutes``, ``greasiness`` 1 to 5; None of it
    when nothing is liquid on skin."""

    weight: float
    sink_minutes: float
    greasiness: float
    sentence: str
    figures: str


def feel(formula: Formula, kind: Kind) -> Feel | None:
    """How a formula feels on skin, None when nothing of it is liquid there."""
    formula = formula.expanded
    items = [line.ingredient for line in formula.lines]
    shares = formula.shares / formula.shares.sum()
    liquid = np.maximum(shares - basis(formula.keys).solids_by_ingredient(formula.shares, SKIN_C), 0)
    felt = [(mass, item) for mass, item in zip(liquid, items, strict=True) if item.feel_weight and item.sink_minutes]
    total = float(sum(mass for mass, _ in felt))
    if total <= 0:
        return None
    weight = float(sum(mass * (item.feel_weight or 0) for mass, item in felt)) / total
    sink = float(sum(mass * (item.sink_minutes or 0) for mass, item in felt)) / total
    powder = 100 * float(sum(share for share, item in zip(shares, items, strict=True) if item.group == "powder"))
    greasiness = max(DRIEST, weight - DRYING_PER_PERCENT * powder)
    words = f"{_word(WEIGHTS, weight).capitalize()}, {_word(FINISHES, greasiness)} finish, {_word(SINKS, sink)}."
    if "lip_gloss" in kind.suits:
        castor = float(sum(share for share, item in zip(shares, items, strict=True) if item.key == "castor_oil"))
        words += " High shine that clings." if castor >= 0.45 else " Some shine, slips off sooner."
    figures = f"weight {weight:.1f} of 5, greasiness {greasiness:.1f} of 5, {sink:.0f} minutes to sink in"
    return Feel(weight, sink, greasiness, words, figures)


def _word(scale: tuple[tuple[float, str], ...], value: float) -> str:
    return next(word for top, word in scale if value < top)


def scent(formula: Formula) -> str:
    """What the base smells of by itself, with a word when a chosen scent will fight it."""
    strong = [
        (line.ingredient.name, line.ingredient.aroma.split(",")[0])
        for line in formula.expanded.lines
        if line.share and STRONG in line.ingredient.aroma
    ]
    if not strong:
        return ""
    told = " and ".join(f"{smell.removeprefix('strong ')} ({name.lower()})" for name, smell in strong)
    chosen = [library().ingredient(k).name.lower() for k in formula.keys if k in library().aromatics]
    if chosen:
        return f"The base smells of {told}: it will fight {' and '.join(chosen)}. Refined butter has no smell."
    return f"The base smells of {told}."


@dataclass(frozen=True)
class Part:
    """What one line gives to the structure, 0 to 1 of it, and what one percent more of it would
    do to the firmness, in points, the others giving way in proportion."""

    structure: float
    slope: float


def why(formula: Formula, temp_c: float, overrun: float = 0.0) -> dict[str, Part]:
    """Per line its part in the structure at a temperature and its slope."""
    compiled, shares = basis(formula.keys), formula.shares / formula.shares.sum()
    given = compiled.solids_by_ingredient(shares, temp_c, compiled.strength_per_gram)
    total = float(given.sum())
    more = shares[None, :] * (1 - 0.01) + np.eye(len(shares)) * 0.01
    found: Array = compiled.state(np.vstack([shares, more]), np.array([temp_c]), overrun).firmness[:, 0]
    return {
        key: Part(float(given[i]) / total if total > 1e-9 else 0.0, float(found[i + 1] - found[0]))
        for i, key in enumerate(formula.keys)
    }
