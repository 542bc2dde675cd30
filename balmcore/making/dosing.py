"""Lines too small for the scale: drops, a larger batch, or a pre-dilution."""

from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal

from balmcore.composition import Composition
from balmcore.making.scaling import COARSE
from balmcore.tables import Ingredient, Role

STRENGTHS = (5, 10, 20, 50, 100)
SURE_STEPS = 20  # a weight of so many scale steps is off by 2.5 % at most


@dataclass(frozen=True)
class Dilution:
    """One part in ``strength`` of a carrier: grams of each to mix, of the mix to take, and of the
    carrier to leave out of the batch in return."""

    carrier: Ingredient
    strength: int
    pure_g: Decimal
    carrier_g: Decimal
    take_g: Decimal
    less_g: Decimal


@dataclass(frozen=True)
class Dosing:
    """Ways to dose a line that the scale cannot weigh well; None where a way is not open.

    ``drops`` by the oil's own count, ``larger_g`` the batch from which on the scale suffices.
    """

    key: str
    grams: Decimal
    drops: int | None
    drops_per_ml: float | None
    larger_g: Decimal
    dilution: Dilution | None


def dosing(composition: Composition, key: str, total_g: Decimal, resolution_g: Decimal) -> Dosing:
    """The ways open for one line of a batch of ``total_g``."""
    line = next(line for line in composition.lines if line.key == key)
    item, share = line.ingredient, line.share / composition.total
    grams = share * total_g
    drops = None
    if item.drops_per_ml:
        drops = round(float(grams) / item.density_g_ml * item.drops_per_ml) or None
    # Half a step is the most by which rounding is off.
    least = resolution_g / 2 / Decimal(str(COARSE))
    larger = (least / share / resolution_g).to_integral_value(ROUND_CEILING) * resolution_g
    return Dosing(
        key, grams, drops, item.drops_per_ml, larger, _dilution(composition, item, grams, total_g, resolution_g)
    )


def _dilution(
    composition: Composition, item: Ingredient, grams: Decimal, total_g: Decimal, step: Decimal
) -> Dilution | None:
    """A dilution in the batch's own greatest liquid oil, so that nothing foreign comes in."""
    if item.is_powder:
        return None
    oils = [line for line in composition.lines if line.ingredient.role == Role.OIL and line.ingredient != item]
    carrier = max(oils, key=lambda line: line.share, default=None)
    if carrier is None or grams <= 0:
        return None
    room = carrier.share / composition.total * total_g
    for strength in STRENGTHS:
        take = (grams * strength / step).to_integral_value() * step
        less = take - grams
        if take >= SURE_STEPS * step and less <= room:
            pure = max(SURE_STEPS * step, (grams / step).to_integral_value(ROUND_CEILING) * step)
            less = (less / step).to_integral_value() * step
            return Dilution(carrier.ingredient, strength, pure, pure * (strength - 1), take, less)
    return None
