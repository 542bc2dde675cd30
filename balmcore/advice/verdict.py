"""Plain sentences about a prediction: what it is now, what it holds to, where it clears."""

from dataclasses import dataclass
from decimal import Decimal

from balmcore.display import Display
from balmcore.physics.firmness import SKIN_C, WINDOW_C, Prediction, structure_by_group, word
from balmcore.tables import Kind, Role
from balmcore.tables.correction import group_of
from balmcore.wording import in_sentence

BLEED_STRUCTURE = 0.03  # structuring solids below which oil is not held (docs/model.md)
BLEED_LIQUID = 0.80  # and the liquid that there has to be for it
WEAK_ALONE, WEAK_BELOW = "carnauba_wax", Decimal("0.1")  # under so much its gel weeps (docs/model.md)
LIPS, DRAGS_FROM = "lips", 70.0  # worn on lips, a stick drags from such a firmness at skin heat on (docs/model.md)
WARM_C = 30.0  # what sets below it stays liquid in some rooms
EDGE = 1  # a point from a border is no safe distance


@dataclass(frozen=True)
class Verdict:
    """A prediction judged for a kind, by the figures that are shown. ``fits`` when window and hold are both met.

    ``headline`` says whether it is what the kind asks for; the others explain one matter each. ``hold_c`` is the heat
    that ``hold`` names, None where it holds nothing or need not; ``holds`` whether that is what the kind asks for.
    """

    firmness: float
    word: str
    fits: bool
    headline: str
    hold: str
    clear: str
    set: str
    skin: str
    bleed: str
    hold_c: float | None = None
    holds: bool = True


def judge(prediction: Prediction, kind: Kind, show: Display, shift: float = 0.0) -> Verdict:
    """The verdict on a prediction for a kind, temperatures in the maker's unit; ``shift`` are the points that a drop of
    it was firmer than that."""
    firmness = max(0.0, prediction.firmness_at(WINDOW_C) + shift)
    hold_c, holds = _reached(prediction, kind, show, shift)
    shown, there = round(firmness), prediction.firmness_at(SKIN_C) + shift
    drags = kind.area == LIPS and round(there) > DRAGS_FROM
    if shown < kind.firm_low:
        headline = f"{_points(kind.firm_low - shown)} too soft for a {in_sentence(kind.name)}"
    elif shown > kind.firm_high:
        headline = f"{_points(shown - kind.firm_high)} too firm for a {in_sentence(kind.name)}"
    elif drags:
        headline = f"Drags: {there:.0f} on warm skin, {DRAGS_FROM:.0f} is the most for a {in_sentence(kind.name)}"
    elif not holds:
        headline = f"Right in a cool room, but too soft in heat for a {in_sentence(kind.name)}"
    else:
        headline = f"Right for a {in_sentence(kind.name)}{_edge(shown, kind)}"
    return Verdict(
        firmness=firmness,
        word=word(firmness),
        fits=kind.firm_low <= shown <= kind.firm_high and holds and not drags,
        headline=headline,
        hold=_hold(hold_c, holds, kind, show),
        clear=_clear(prediction, show),
        set=_set(prediction, show),
        skin=_skin(prediction, firmness),
        bleed=_bleed(prediction),
        hold_c=hold_c,
        holds=holds,
    )


def judge_hold(prediction: Prediction, kind: Kind, show: Display, shift: float = 0.0) -> tuple[str, bool]:
    """To what heat it holds its shape, in a sentence, and whether that is what the kind asks for."""
    held, is_met = _reached(prediction, kind, show, shift)
    return _hold(held, is_met, kind, show), is_met


def _hold(held: float | None, is_met: bool, kind: Kind, show: Display) -> str:
    if kind.hold_firmness is None or kind.hold_temp_c is None:
        return f"Nothing to hold: a {in_sentence(kind.name)} may flow."
    wanted = show.temp_text(kind.hold_temp_c)
    if held is None:
        return f"Does not hold its shape; a {in_sentence(kind.name)} should to {wanted}."
    if is_met:
        return f"Holds its shape to {show.temp_text(held)}."
    return f"Holds its shape to {show.temp_text(held)} only; {wanted} is wanted."


def _reached(prediction: Prediction, kind: Kind, show: Display, shift: float) -> tuple[float | None, bool]:
    """The heat in degrees C to which it is said to hold its shape, None for none, and whether that is enough."""
    if kind.hold_firmness is None or kind.hold_temp_c is None:
        return None, True
    held = prediction.hold_c(kind.hold_firmness - shift)
    if held is None or held < 0:
        return None, False
    # Rounded down: a promise of heat should not be a hair too high. What is reached as it is shown is reached.
    is_met = held >= kind.hold_temp_c or round(prediction.firmness_at(kind.hold_temp_c) + shift) >= kind.hold_firmness
    down = int(held) if show.temp == "C" else held - 0.28
    return (max(down, kind.hold_temp_c) if is_met else down), is_met


def _edge(shown: int, kind: Kind) -> str:
    """Where a firmness that is right lies within a point of a border."""
    if shown - kind.firm_low <= EDGE:
        return ", at its soft edge"
    return ", at its firm edge" if kind.firm_high - shown <= EDGE else ""


def _points(gap: float) -> str:
    whole = round(gap)
    return "Just" if whole < 1 else f"{whole} point{'' if whole == 1 else 's'}"


def _clear(prediction: Prediction, show: Display) -> str:
    if prediction.clear_c is None:
        return "Stays liquid and clear even in the cold."
    return f"The melt is clear from {show.temp_text(prediction.clear_c)}."


def _set(prediction: Prediction, show: Display) -> str:
    if prediction.set_c is None:
        return "It never sets."
    at = show.temp_text(prediction.set_c)
    liquid = f" In a room warmer than {at} it stays liquid." if prediction.set_c < WARM_C else ""
    return f"A skin forms at {at}: pour before.{liquid}"


def _skin(prediction: Prediction, firmness: float) -> str:
    """On skin: what is left at 33 degrees C, and how much of the firmness was given up."""
    there = prediction.firmness_at(SKIN_C)
    drop = firmness - there
    if there < 10:
        return "On skin it runs: it melts away at once." if firmness >= 10 else "On skin it runs, like an oil."
    if there < 35:
        return "On skin it gives up quickly and glides."
    if there < 55:
        return "On skin it glides with a little warmth." if drop >= 8 else "On skin it glides slowly, with some drag."
    return "On skin it drags: it softens little in warmth."


def _bleed(prediction: Prediction) -> str:
    if weeps := _weak_gel(prediction):
        return weeps
    state = prediction.in_window
    liquid = 1 - float(state.solid_share[0, 0])
    if float(state.structuring[0, 0]) < BLEED_STRUCTURE and liquid > BLEED_LIQUID:
        return "Free oil is likely to stand on it: too little structure for so much liquid."
    return ""


def _weak_gel(prediction: Prediction) -> str:
    """What is to be said of a wax that binds oil badly where little of it stands alone; empty where that is not so."""
    whole = prediction.composition.expanded
    waxes = [line for line in whole.lines if line.share and line.ingredient.role == Role.WAX]
    if [line.key for line in waxes] != [WEAK_ALONE] or waxes[0].share / whole.total >= WEAK_BELOW:
        return ""
    built = structure_by_group(whole, WINDOW_C, prediction.overrun)
    if built.get(group_of(waxes[0].ingredient) or "", 0.0) < 0.5:
        return ""
    return f"{waxes[0].ingredient.name} alone, under 10 %, sets to a weak gel that weeps: put another wax beside it."
