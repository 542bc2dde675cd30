"""Lines too small for the scale: drops, a larger batch, or a pre-dilution."""

from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal

from balmcore.composition import Composition
from balmcore.making.portions import Portion
from balmcore.making.scaling import COARSE
from balmcore.tables import Ingredient, Role

STRENGTHS = (5, 10, 20, 50, 100)  # percent of a dilution, weakest first: round figures to mix by
SURE_STEPS = 20  # a weight of so many scale steps is off by 2.5 % at most
FAIR_STEPS = 10  # and of so many by 5 %, which is where a word is worth it (COARSE)


@dataclass(frozen=True)
class Dilution:
    """One part in ``strength`` of a carrier, or of the melted base itself where that is None: grams of each
    to mix, of the mix to take, and of the carrier to leave out in return."""

    carrier: Ingredient | None
    strength: int
    pure_g: Decimal
    carrier_g: Decimal
    take_g: Decimal
    less_g: Decimal

    @property
    def more_g(self) -> Decimal:
        """Grams of the carrier that stay in what is left of the mix."""
        return self.carrier_g - self.less_g


@dataclass(frozen=True)
class Dosing:
    """Ways to dose a line that the scale cannot weigh well; None where a way is not open.

    ``drops`` by its own count or the usual one, ``larger_g`` the batch, or the finish, from which on the scale
    suffices.
    """

    key: str
    grams: Decimal
    drops: int | None
    drops_per_ml: float | None
    larger_g: Decimal
    dilution: Dilution | None
    name: str = ""


def dosing(composition: Composition, key: str, total_g: Decimal, resolution_g: Decimal) -> Dosing:
    """The ways open for one line of a batch of ``total_g``."""
    line = next(line for line in composition.lines if line.key == key)
    share = line.share / composition.total
    dilution = _in_oil(composition, line.ingredient, share * total_g, total_g, resolution_g)
    return _dosing(line.ingredient, share, total_g, resolution_g, dilution)


def dosing_in_finish(portion: Portion, key: str, resolution_g: Decimal) -> Dosing:
    """The ways open for what is added to one finish. It is diluted in the finish's own base, so that what it
    consists of stays as planned."""
    addition = next(addition for addition in portion.finish.add if addition.key == key)
    dilution = _in_base(addition.share * portion.total_g, portion.base_g, resolution_g)
    return _dosing(addition.ingredient, addition.share, portion.total_g, resolution_g, dilution)


def _dosing(item: Ingredient, share: Decimal, total_g: Decimal, step: Decimal, dilution: Dilution | None) -> Dosing:
    grams = share * total_g
    drops = None
    if item.drop_count:
        drops = round(float(grams) / item.density_g_ml * item.drop_count) or None
    # Half a step is the most by which rounding is off.
    least = step / 2 / Decimal(str(COARSE))
    larger = (least / share / step).to_integral_value(ROUND_CEILING) * step
    return Dosing(item.key, grams, drops, item.drop_count, larger, dilution, item.name)


def _in_oil(
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
    return _diluted(carrier.ingredient, grams, room, step, SURE_STEPS)


def _in_base(grams: Decimal, base_g: Decimal, step: Decimal) -> Dilution | None:
    """A dilution in the melted base, which is melted for it besides: no more of it than the finish itself takes."""
    found = _diluted(None, grams, base_g, step, FAIR_STEPS)
    return found if found and found.carrier_g <= base_g else None


def _diluted(carrier: Ingredient | None, grams: Decimal, room: Decimal, step: Decimal, least: int) -> Dilution | None:
    """The strongest of :data:`STRENGTHS` of which the scale can weigh what is taken, and of which there is room
    for; at least so many steps of what is diluted go into it. None where there is none."""
    for strength in STRENGTHS:
        take = (grams * strength / step).to_integral_value() * step
        less = take - grams
        if take >= SURE_STEPS * step and less <= room:
            pure = max(least * step, (grams / step).to_integral_value(ROUND_CEILING) * step)
            less = (less / step).to_integral_value() * step
            return Dilution(carrier, strength, pure, pure * (strength - 1), take, less)
    return None
