"""What scale and thermometer say at the step that is shown, as a page polls it four times a second.

What a step needs is kept from when its page was drawn, so that a poll reads one row and one small file.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from functools import lru_cache
from typing import Any

from django.utils import timezone

from balmcore.composition import Array
from balmcore.display import Display
from balmcore.errors import Problem
from balmcore.making.bench.live import NEAR_STEPS, pan, sets_in, suffering, warming, weighing
from balmcore.making.bench.steps import BenchStep, Task, is_same_vessel
from balmcore.making.steps import Setup
from balmcore.wording import minutes_text
from bench.models import BenchRun, stamp
from bench.state import Bench, open_bench
from bench.steps import forms
from instruments import services as instruments
from instruments.readings import Reading, now
from workshop.pictures.graph import Graph, graph
from workshop.web import Fields, Request

SEEN_MIN = 20.0  # of the thermometer's course are drawn
TALL = (400.0, 170.0)
HURRY_MIN = 5.0
NEAR_ZERO_STEPS = 3  # of a scale that shows next to nothing, nothing is said to be taken off
BEGINS = "It begins at nothing once it stands still: do not pour yet."
SAME_STEPS = Decimal("1.05")


@dataclass(frozen=True)
class Shown:
    """What a poll needs of the step shown."""

    task: Task
    target_g: Decimal | None
    resolution_g: Decimal
    minutes: Array | None
    temps_c: Array | None
    aim_c: float | None
    set_c: float | None
    begun_at: datetime
    speed: int
    melt_timeline: Graph | None
    show: Display
    weighing: str
    vessel: str
    setup: Setup
    step: BenchStep


def shown(bench: Bench) -> Shown:
    """The step of a bench as its polls need it."""
    step, view = bench.here.step, bench.here
    target = view.left_g if step.is_weighing and view.left_g else None
    course = step.course if step.course is not None and step.course.minutes.size else None
    return Shown(
        step.task,
        target,
        bench.batch.resolution_g,
        course.minutes if course else None,
        course.temps_c if course else None,
        step.aim_c,
        # A piece is meant to set where it cools.
        bench.setup.prediction.set_c if course is None or course.asks else None,
        bench.begun_at,
        bench.run.speed,
        melt_timeline_of(bench),
        bench.prefs.show,
        bench.weighing if step.is_weighing else "",
        step.vessel,
        bench.setup,
        step,
    )


def melt_timeline_of(bench: Bench) -> Graph | None:
    """The melt's predicted course at the step shown, for the thermometer to be drawn over."""
    step = bench.here.step
    if step.course is None or not step.course.minutes.size or step.length <= 0:
        return None
    show, set_c = bench.prefs.show, bench.setup.prediction.set_c
    points = zip(step.course.minutes.tolist(), step.course.temps_c.tolist(), strict=True)
    levels = [] if step.aim_c is None else [(show.in_temp(step.aim_c), show.temp_text(step.aim_c))]
    if set_c is not None and step.aim_c is not None and abs(set_c - step.aim_c) > 4:
        levels.append((show.in_temp(set_c), f"sets at {show.temp_text(set_c)}"))
    every = next((n for n in (1, 2, 5, 10, 20, 30, 60, 120) if step.length / n <= 4), 240)
    return graph(
        [[(minute, show.in_temp(temp)) for minute, temp in points]],
        (0.0, step.length * 1.15),
        (show.in_temp(0.0), show.in_temp(100.0)),
        [(float(minute), f"{minute} min") for minute in range(0, int(step.length * 1.15) + 1, every)],
        [(show.in_temp(temp), f"{show.temp_number(temp)}°") for temp in (0, 25, 50, 75, 100)],
        f"{step.title}: predicted, and what the thermometer shows",
        levels=levels,
        size=TALL,
    )


@lru_cache(maxsize=64)
def _kept(batch: int, is_rehearsal: bool, stamp: str, step: str, show: Display) -> list[Shown]:
    """Where what a step needs is kept: an empty list until it is filled."""
    return []


def keep(bench: Bench) -> Shown:
    """The step of a bench as its polls need it, kept for them."""
    kept = _kept(bench.batch.pk, bench.run.is_rehearsal, bench.stamp, bench.here.step.key, bench.prefs.show)
    if not kept:
        kept.append(shown(bench))
    return kept[0]


def stamp_of(batch: int, is_rehearsal: bool) -> str:
    """How far a bench is by now: one row. Empty when it is gone."""
    row = BenchRun.objects.filter(batch=batch, is_rehearsal=is_rehearsal)
    return next((stamp(*told) for told in row.values_list("begun", "revision")), "")


def poll(request: Request, batch: int, is_rehearsal: bool, stamp: str, step: str) -> Shown:
    """What is kept of a step; worked out anew when this process never drew it."""
    kept = _kept(batch, is_rehearsal, stamp, step, request.prefs.show)
    return (
        kept[0]
        if kept
        else keep(open_bench(batch, is_rehearsal, request.tables, request.prefs, request.experience, step))
    )


def answer(at: Shown, readings: Mapping[str, Reading]) -> dict[str, Any]:
    """What the page puts in its places: words, numbers, the bar's part, the trail's points."""
    moment = now()
    found: dict[str, Any] = {}
    if (scale := readings.get("scale")) is not None:
        found["scale"] = _scale(at, scale, moment)
    if (probe := readings.get("thermometer")) is not None:
        found["thermometer"] = _thermometer(at, probe, moment)
    return found


def _scale(at: Shown, reading: Reading, moment: float) -> dict[str, Any]:
    problem = reading.trouble(moment)
    if problem or reading.value is None:
        return {"problem": problem or "It says nothing that is understood."}
    grams = Decimal(str(round(reading.value, 4)))
    said: dict[str, Any] = {
        "number": at.show.mass_number(grams),
        "steady": reading.is_steady,
        "grams": at.show.figure(grams, 4),
    }
    if at.target_g is not None:
        stands = weighing(grams, at.target_g, at.resolution_g, at.show)
        said |= {"filled": round(stands.filled, 3), "words": stands.words, "over": stands.is_over}
        said["there"] = stands.is_there and reading.is_steady
        # What an empty pan may show by itself is not accepted by itself.
        said["by_itself"] = at.target_g > NEAR_STEPS * at.resolution_g
    if at.weighing:
        said |= _pan(at, reading, grams)
    return said


def _pan(at: Shown, reading: Reading, grams: Decimal) -> dict[str, Any]:
    """Whether what the scale shows can be taken, and what is asked about it first."""
    has_begun = reading.weighing == at.weighing
    if reading.asked_at != (wanted := instruments.weighing_asked()).at and wanted.name == at.weighing:
        return {"waits": BEGINS, "words": BEGINS, "number": "–", "there": False}
    is_known = has_begun and not reading.came_at_once
    is_counted = has_begun and reading.is_counted
    is_known = is_known and not is_counted
    found = pan(grams, at.target_g, at.resolution_g, reading.is_steady, is_known, at.vessel, at.show, is_counted)
    said: dict[str, Any] = {"waits": found.waits, "asks": found.asks, "counts": found.can_count}
    if found.waits or found.asks:
        said["there"] = False
    if found.asks:  # what stands there is no part of the line until that is said
        said |= {"filled": 0.0, "words": "", "over": False}
    if found.begins:  # what is poured before it has begun would be no part of it
        said |= {"begins": True, "number": "–", "words": BEGINS, "there": False, "filled": 0.0, "over": False}
    if has_begun and reading.zero_g > float(at.resolution_g) * NEAR_ZERO_STEPS:
        said["zero"] = f"{at.show.mass_text(reading.zero_g)} stood on it and are taken off"
    return said


class Moved(Problem):
    """The scale moved, or fell silent, as its figure was accepted: it is taken once it stands still again."""


def taken_from(bench: Bench, data: Fields, readings: Mapping[str, Reading]) -> float | None:
    """What the scale itself shows, None while it moves or says nothing. A weight that is said to come from it, at rest,
    must be what still stands on it. Raises :class:`Problem`, :class:`Moved` where waiting ends it."""
    if not data.text("weighing", 200):
        return steady_raw(readings)
    grams = forms.grams(data.text("grams", 80), bench)
    reading = readings.get("scale")
    step = bench.batch.resolution_g
    if reading is None or reading.value is None or reading.trouble(now()):
        raise Moved("The scale fell silent as it was accepted: type what it shows.", "grams")
    if reading.weighing != bench.weighing or reading.came_at_once:
        raise Problem("Say first what stands on the scale: nothing was written down.", "grams")
    if abs(Decimal(str(reading.value)) - grams) > step * SAME_STEPS:
        raise Moved("The scale moved as it was accepted: nothing was written down yet.", "grams")
    return reading.zero_g + float(grams)


def begin_next(bench: Bench, before: BenchStep, raw_g: float | None) -> None:
    """Let the next weighing begin at what stands on the scale now, where that is known: surely where it is in the same
    vessel, else until another one comes."""
    step = bench.here.step
    if step.is_weighing and raw_g is not None:
        instruments.begin_weighing(bench.weighing, raw_g, is_sure=is_same_vessel(before, step))


def begin_again(bench: Bench, before: Bench, readings: Mapping[str, Reading]) -> None:
    """Let the weighing that took another's place go on from where that one stood, where nothing was poured since: of an
    empty pan nobody said that the vessel stands on it."""
    reading, raw_g = readings.get("scale"), steady_raw(readings)
    old, new = before.here.step, bench.here.step
    if reading is None or raw_g is None or not (old.is_weighing and new.is_weighing and is_same_vessel(old, new)):
        return
    # What was asked for a moment ago counts, though the scale may not have been read since.
    wanted = instruments.weighing_asked()
    zero_g = reading.zero_g if wanted.name != before.weighing or wanted.raw_g is None else wanted.raw_g
    stood_g = reading.zero_g if reading.weighing == before.weighing else zero_g
    nothing = float(NEAR_STEPS * bench.batch.resolution_g)
    if abs(raw_g - stood_g) <= nothing:
        instruments.begin_weighing(bench.weighing, raw_g, is_sure=zero_g > nothing)


def begins_by_itself(bench: Bench, readings: Mapping[str, Reading]) -> bool:
    """Whether the weighing of a bench can begin without a word: not twice, as two devices may look on, and not once
    something was poured."""
    reading = readings.get("scale")
    if reading is None or reading.value is None or reading.trouble(now()) or reading.weighing == bench.weighing:
        return False
    return "begins" in _pan(keep(bench), reading, Decimal(str(round(reading.value, 4))))


def steady_raw(readings: Mapping[str, Reading]) -> float | None:
    """What the scale itself shows, None while it moves or says nothing."""
    reading = readings.get("scale")
    if reading is None or reading.value is None or reading.trouble(now()) or not reading.is_steady:
        return None
    return reading.value + reading.zero_g


def _thermometer(at: Shown, reading: Reading, moment: float) -> dict[str, Any]:
    problem = reading.trouble(moment)
    if problem or reading.value is None:
        return {"problem": problem or "It says nothing that is understood."}
    said: dict[str, Any] = {"number": at.show.temp_text(reading.value, 1), "sentence": ""}
    if reading.is_stuck(moment) and at.task is Task.WARM:
        said["problem"] = "It has shown the very same for minutes: is its tip in the melt?"
    said["hot"] = suffering(at.setup, at.step, reading.value) if at.step.aim_c is not None else ""
    elapsed = (timezone.now() - at.begun_at).total_seconds()
    # The seconds of the readings' clock, as minutes of the melt's since the step began.
    seen = [
        (minute, value) for when, value in reading.seen if (minute := (elapsed - (moment - when)) / 60 * at.speed) >= 0
    ]
    if at.minutes is None or at.temps_c is None or at.aim_c is None:
        return said
    recent = [(minute, value) for minute, value in seen if minute >= seen[-1][0] - SEEN_MIN] or [(0.0, reading.value)]
    recent[-1] = (recent[-1][0], reading.value)
    stands = warming(at.minutes, at.temps_c, at.aim_c, recent, at.show, at.set_c)
    said["sentence"], said["there"] = said["hot"] or stands.sentence, stands.is_there and not said["hot"]
    left = sets_in(at.minutes, at.temps_c, reading.value, at.set_c, stands.pace)
    if at.task in (Task.FILL, Task.DO) and left is not None and 0 < left < HURRY_MIN:
        said["sentence"] = f"It will set in {minutes_text(left)}."
    if at.melt_timeline is not None:
        said["trail"] = at.melt_timeline.path([(minute, at.show.in_temp(value)) for minute, value in seen])
    return said


def temp_now(readings: Mapping[str, Reading]) -> float | None:
    """What the thermometer shows at this moment, None when it says nothing."""
    reading = readings.get("thermometer")
    return None if reading is None or reading.trouble(now()) else reading.value
