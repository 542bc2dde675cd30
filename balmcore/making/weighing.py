"""Whether a weight that was typed is what was meant: asked before anything is written.

A weight is asked about where it is under half or over one and a half times what is still wanted (a small one only where
it is more than five steps of the scale off, too), where its unit is not the maker's, and where no lot holds it. The
question names the slip that is likely: another unit, a factor of ten, two digits swapped.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from itertools import pairwise

from balmcore.display import OUNCE_G, Display

LEAST, MOST = Decimal("0.5"), Decimal("1.5")  # of what is still wanted: beyond these a weight is asked about
FEW_STEPS = 5  # of the scale, by which a small weight may differ
NEAR = Decimal("0.2")  # of what is wanted: a slip that is undone lands as near as this
UNIT_G = {"g": Decimal(1), "oz": Decimal(str(OUNCE_G))}
_NUMBER, _WORD = re.compile(r"\d+(?:[.,]\d+)?"), re.compile(r"[^\W\d_]+")
_METRIC = frozenset({"g", "gr", "gm", "gram", "grams", "kg", "mg", "kilo", "kilos"})
_OUNCES = frozenset({"oz", "ozs", "ounce", "ounces", "lb", "lbs", "pound", "pounds"})
_COUNTED = frozenset({"drop", "drops"})  # of a scent, whatever the maker weighs in


@dataclass(frozen=True)
class WeightQuestion:
    """What to ask about a weight: the question, and the grams of the likely slip undone, None where none is likely."""

    text: str
    suggest_g: Decimal | None = None


def weight_question(
    typed: str, grams: Decimal, wanted_g: Decimal, resolution_g: Decimal, available_g: Decimal | None, show: Display
) -> WeightQuestion | None:
    """What to ask about a weight of so many grams, of which ``wanted_g`` are still to be weighed; ``available_g`` is
    what the lots that may be drawn hold, None where no lots are kept. None where there is nothing to ask."""
    own = _METRIC if show.mass == "g" else _OUNCES
    is_foreign = any(word not in own | _COUNTED for word in _WORD.findall(typed.lower()))
    is_odd = wanted_g > 0 and not LEAST * wanted_g <= grams <= MOST * wanted_g
    is_odd = is_odd and abs(grams - wanted_g) > FEW_STEPS * resolution_g
    is_short = available_g is not None and grams > available_g
    if not (is_foreign or is_odd or is_short) or grams <= 0:
        return None
    said = show.mass_text(grams)
    if is_odd or is_foreign:
        slips = _slips(typed, grams, show) if wanted_g > 0 else iter(())
        near = (slip for slip in slips if abs(slip - wanted_g) <= NEAR * wanted_g)
        suggest = next((slip for slip in near if show.mass_text(slip) != said), None)
        wanted = f"and {show.mass_text(wanted_g)} are still to be weighed" if wanted_g > 0 else "and nothing is missing"
        if suggest is not None:
            return WeightQuestion(
                f"“{typed.strip()}” is {said}, {wanted}. Did you mean {show.mass_text(suggest)}?", suggest
            )
        if is_odd:
            return WeightQuestion(f"“{typed.strip()}” is {said}, {wanted}. Is that what the scale shows?")
    if is_short:
        there = show.mass_text(max(available_g or Decimal(0), Decimal(0)))
        return WeightQuestion(f"{said} is more than the lots for this batch hold: {there}. Is that what you took?")
    return WeightQuestion(f"“{typed.strip()}” is {said}. Your unit is {show.mass}: is that right?")


def _slips(typed: str, grams: Decimal, show: Display) -> Iterator[Decimal]:
    """What was meant, by each slip that hands make: the maker's unit, a factor of ten, two digits swapped."""
    found = _NUMBER.search(typed)
    try:
        number = Decimal(found.group().replace(",", ".")) if found else None
    except InvalidOperation:
        number = None
    per_unit = UNIT_G[show.mass]
    if number is not None:
        yield number * per_unit
    yield from (grams * factor for factor in (Decimal(10), Decimal("0.1"), Decimal(100), Decimal("0.01")))
    if number is not None and found:
        yield from (number * per_unit * factor for factor in (Decimal(10), Decimal("0.1")))
        digits = found.group().replace(",", ".")
        places = [n for n, each in enumerate(digits) if each.isdigit()]
        for one, other in pairwise(places):
            swapped = list(digits)
            swapped[one], swapped[other] = swapped[other], swapped[one]
            yield Decimal("".join(swapped)) * (grams / number if number else 1)
