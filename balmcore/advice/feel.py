"""How it feels: weight, sink-in and finish on skin.

Each liquid and soft ingredient has a weight from 1 (dry) to 5 (rich) and a time to sink in;
the mixture's are weighted by mass over what is liquid at skin heat. Powders take 0.15 off the
greasiness per percent, to a floor of 1.
"""

from dataclasses import dataclass

import numpy as np

from balmcore.composition import Composition
from balmcore.display import figure
from balmcore.physics.basis import basis
from balmcore.physics.firmness import SKIN_C
from balmcore.tables import Kind

DRYING_PER_PERCENT = 0.15  # off the greasiness for a percent of starch (docs/model.md, Feel)
DRIEST = 1.0  # the floor of the scale of richness
STRONG = "strong"
# Greasiness up to which a word holds.
WEIGHTS = ((2.0, "light"), (3.0, "medium"), (4.0, "rich"), (9.0, "heavy"))
# Richness from 1, dry, to 5, rich: our words for it.
FINISHES = ((1.8, "dry"), (2.8, "satin"), (3.8, "cushioned"), (9.0, "greasy"))
# Minutes to sink in: our words for them.
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


def feel(composition: Composition, kind: Kind) -> Feel | None:
    """How a composition feels on skin, None when nothing of it is liquid there."""
    composition = composition.expanded
    items = [line.ingredient for line in composition.lines]
    shares = composition.shares / composition.shares.sum()
    liquid = np.maximum(shares - basis(composition.ingredients).solids_by_ingredient(composition.shares, SKIN_C), 0)
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
    figures = f"weight {figure(weight, 1)} of 5, greasiness {figure(greasiness, 1)} of 5, {sink:.0f} minutes to sink in"
    return Feel(weight, sink, greasiness, words, figures)


def _word(scale: tuple[tuple[float, str], ...], value: float) -> str:
    return next(word for top, word in scale if value < top)


def scent(composition: Composition) -> str:
    """What the base smells of by itself, with a word when a chosen scent will fight it."""
    strong = [
        (line.ingredient.name, line.ingredient.aroma.split(",")[0])
        for line in composition.expanded.lines
        if line.share and STRONG in line.ingredient.aroma
    ]
    if not strong:
        return ""
    told = " and ".join(f"{smell.removeprefix('strong ')} ({name.lower()})" for name, smell in strong)
    chosen = [item.name.lower() for item in composition.ingredients if item.aromatic]
    if chosen:
        return f"The base smells of {told}: it will fight {' and '.join(chosen)}. Refined butter has no smell."
    return f"The base smells of {told}."
