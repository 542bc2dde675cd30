"""What is drawn of a prediction instead of said: marks on the scale of temperature, and how it feels."""

from dataclasses import dataclass

from balmcore.advice.feel import Feel, Scale
from balmcore.advice.verdict import Verdict
from balmcore.display import Display
from balmcore.making.pot import pour_temperature
from balmcore.physics.firmness import SKIN_C, Prediction

STIFFEST = 70.0  # what is left at skin heat of what drags all the way


@dataclass(frozen=True)
class Mark:
    """A named place: ``temp_c`` and, of a stretch, the hotter end ``until_c``; ``name`` as it is written beside it, and
    the ``sentence`` that explains it."""

    key: str
    name: str
    temp_c: float
    sentence: str
    until_c: float | None = None


def marks(prediction: Prediction, verdict: Verdict, show: Display) -> tuple[Mark, ...]:
    """The marks of a melt, the coldest first; what it does not do has none, and :func:`unmarked` says so."""
    found = []
    if verdict.hold_c is not None:
        found.append(Mark("hold", f"holds to {show.temp_text(verdict.hold_c)}", verdict.hold_c, verdict.hold))
    if prediction.set_c is not None:
        found.append(Mark("set", f"skin at {show.temp_text(prediction.set_c)}", prediction.set_c, verdict.set))
    if prediction.clear_c is not None:
        found.append(Mark("clear", f"clear {show.temp_text(prediction.clear_c)}", prediction.clear_c, verdict.clear))
    if prediction.set_c is not None and prediction.clear_c is not None:
        pour = pour_temperature(prediction.composition, prediction)
        low = min(prediction.set_c, pour)
        stretch = f"{show.temp_text(low)} and {show.temp_text(pour)}"
        sentence = f"Pour between {stretch}: below, a skin forms; hotter, it shrinks more and takes longer to set."
        found.append(Mark("pour", f"pour {show.in_temp(low):.0f}–{show.temp_text(pour)}", low, sentence, pour))
    return tuple(sorted(found, key=lambda mark: mark.temp_c))


def unmarked(prediction: Prediction, verdict: Verdict) -> tuple[str, ...]:
    """What has no place on the scale and is to be said in words: it never sets, it holds nothing."""
    return tuple(
        sentence
        for sentence, temp in (
            (verdict.hold, verdict.hold_c),
            (verdict.clear, prediction.clear_c),
            (verdict.set, prediction.set_c),
        )
        if temp is None
    )


def scales(prediction: Prediction, verdict: Verdict, felt: Feel | None) -> tuple[Scale, ...]:
    """How it goes onto the skin and what is left there, from one end to the other."""
    there = min(prediction.firmness_at(SKIN_C) / STIFFEST, 1.0)
    return (Scale("skin", "melts away", "drags", there, verdict.skin), *(felt.scales if felt else ()))
