"""The highest that the scale showed since somebody began to press: what a press test asks for."""

from dataclasses import dataclass

from instruments.models import Instrument
from instruments.readings import now
from instruments.services import readings

LONGEST_S = 20.0


@dataclass(frozen=True)
class Peak:
    """What the scale shows now and showed at most, in grams; None where it does not speak, with what is
    wrong. ``since`` is the moment from which it is held."""

    now_g: float | None
    peak_g: float | None
    since: float
    problem: str = ""


def peak(since: float | None) -> Peak | None:
    """The peak since a moment, by default from now on; None without a scale. No more than some twenty seconds
    are remembered."""
    reading = readings().get(Instrument.Kind.SCALE)
    moment = now()
    if reading is None:
        return None
    start = moment if since is None else max(since, moment - LONGEST_S)
    if problem := reading.trouble(moment):
        return Peak(None, None, start, problem)
    seen = [value for at, value in reading.seen if at >= start]
    if reading.value is not None and reading.at >= start:
        seen.append(reading.value)
    return Peak(reading.value, max(seen, default=None), start)
