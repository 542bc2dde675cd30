"""How it feels: weight, sink-in and finish on skin.

Each liquid and soft ingredient has a weight from 1 (dry) to 5 (rich) and a time to sink in;
the mixture's are weighted by mass over what is liquid at skin heat. Powders take 0.15 off the
greasiness per percent, to a floor of 1. Shine is of thick oils that lie on the skin; what clings
is those and the film that wax leaves (our figures, see docs/model.md).
"""

from dataclasses import dataclass

import numpy as np

from balmcore.composition import Composition
from balmcore.display import figure
from balmcore.physics.basis import basis
from balmcore.physics.firmness import SKIN_C
from balmcore.tables import Kind, Role

DRYING_PER_PERCENT = 0.15  # off the greasiness for a percent of starch (docs/model.md, Feel)
DRIEST = 1.0  # the floor of the scale of richness
STRONG = "strong"
MOST = 5.0  # the end of the scales of richness, shine and cling
THICK, THICK_GROUPS = ("castor_oil",), ("lanolin", "mineral")  # that lie on the skin as a film
THICK_FULL, WAX_FULL = 0.9, 0.5  # shares at which shine and cling are full
SHINES = 3.0  # and clings: from here a gloss is one
SLOWEST_MIN = 90.0  # the end of the scale of minutes to sink in
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
class Scale:
    """One matter between its two ends: ``place`` is from 0 at ``low`` to 1 at ``high``, ``told`` the same in words."""

    key: str
    low: str
    high: str
    place: float
    told: str

    @property
    def x(self) -> float:
        """Where it stands on a line of 4 to 60."""
        return round(4 + 56 * self.place, 1)


@dataclass(frozen=True)
class Feel:
    """Figures and words. ``weight``, ``greasiness``, ``shine`` and ``cling`` 1 to 5, ``sink_minutes``; None of it
    when nothing is liquid on skin."""

    weight: float
    sink_minutes: float
    greasiness: float
    sentence: str
    figures: str
    shine: float = DRIEST
    cling: float = DRIEST

    @property
    def scales(self) -> tuple[Scale, ...]:
        """What can be drawn of it, for every kind."""
        rich = f"{_word(WEIGHTS, self.weight).capitalize()}, {_word(FINISHES, self.greasiness)} finish"
        shines = "High" if self.shine >= SHINES else "Little" if self.shine < 2 else "Some"
        stays = "Stays long" if self.cling >= SHINES else "Wears off soon" if self.cling < 2 else "Stays a while"
        return (
            Scale("rich", "dry", "rich", _between(self.greasiness), f"{rich}: {_of_five(self.greasiness)}."),
            Scale(
                "sink",
                "sinks in",
                "stays on",
                min(self.sink_minutes / SLOWEST_MIN, 1.0),
                f"{_word(SINKS, self.sink_minutes).capitalize()}: about {self.sink_minutes:.0f} minutes.",
            ),
            Scale("shine", "matt", "shiny", _between(self.shine), f"{shines} shine: {_of_five(self.shine)}."),
            Scale("cling", "slips off", "clings", _between(self.cling), f"{stays}: {_of_five(self.cling)}."),
        )


def _between(figure_of_five: float) -> float:
    return (figure_of_five - DRIEST) / (MOST - DRIEST)


def _of_five(value: float) -> str:
    return f"{figure(value, 1)} of 5"


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
    thick = float(
        sum(share for share, item in zip(shares, items, strict=True) if item.key in THICK or item.group in THICK_GROUPS)
    )
    wax = float(sum(share for share, item in zip(shares, items, strict=True) if item.role == Role.WAX))
    shine = _full(thick / THICK_FULL) - DRYING_PER_PERCENT * powder
    cling = _full(thick / THICK_FULL + wax / WAX_FULL)
    if "lip_gloss" in kind.suits:
        words += " High shine that clings." if shine >= SHINES else " Some shine, slips off sooner."
    figures = f"weight {figure(weight, 1)} of 5, greasiness {figure(greasiness, 1)} of 5, {sink:.0f} minutes to sink in"
    return Feel(weight, sink, greasiness, words, figures, max(DRIEST, shine), cling)


def _full(part: float) -> float:
    """A part of what is full, on the scale from 1 to 5."""
    return DRIEST + (MOST - DRIEST) * min(part, 1.0)


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
