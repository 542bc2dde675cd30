"""How a batch ends: poured and cooled, or chilled and whipped, then filled, capped and labelled."""

from collections.abc import Iterator

from balmcore.errors import Problem
from balmcore.making.scaling import Stage, sinkhole_ml
from balmcore.making.steps import Setup, Step, along, pitcher_course
from balmcore.physics.cooling import COOLING_METHODS, CoolDown, graining
from balmcore.physics.thermal import places
from balmcore.wording import in_sentence, listed, minutes_text

DENT, TOO_HARD = 50.0, 70.0  # firmness at which a finger dents it, and above which it will not whip
# Seconds to fill one piece of a kind of container.
SECONDS = {"tube": 15.0, "tin": 8.0, "jar": 10.0, "mould": 8.0, "gloss": 30.0, "roller": 25.0, "pot": 8.0}
SECONDS_OTHERWISE = 10.0
WHIP_MIN, REWARM_MIN = 15.0, 4.0


def poured(setup: Setup, before: Step, window: float | None, cooled: CoolDown) -> Iterator[Step]:
    """Pouring, cooling by the method chosen, capping."""
    each = [SECONDS.get(setup.vessels[piece.key].kind, SECONDS_OTHERWISE) for piece in setup.pieces]
    needed = sum(seconds * piece.count for seconds, piece in zip(each, setup.pieces, strict=True)) / 60
    count = sum(piece.count for piece in setup.pieces)
    rewarms, told = 0, f"{count} piece{'' if count == 1 else 's'} take about {minutes_text(needed)}"
    if window is not None and needed > window > 0:
        rewarms = int(needed / window)
        after = max(1, int(count * window / needed))
        told += f"; the pitcher sets in {minutes_text(window)}: warm it again after every {after} pieces"
    elif window is not None:
        told += f"; the pitcher stays pourable for {minutes_text(window)}"
    start = setup.pour_c if before.ends_c is None else min(before.ends_c, setup.pour_c)
    course = pitcher_course(setup, start, "counter", stirred=False)
    tubes = any(vessel.kind == "tube" for vessel in setup.vessels.values())
    yield along(
        Step(
            "pour",
            "Pour",
            f"Pour at {setup.temp(setup.pour_c)}. {told}."
            + (" Overfill tubes a little and scrape, or keep some to top up." if tubes else ""),
            "Between too hot, which leaves sinkholes, and too cool, which sets in the spout.",
            needed + REWARM_MIN * rewarms,
            at="stove" if rewarms else "",
            caution="Containers on a tray, not in the hand.",
        ),
        course,
    )
    yield from _cooling_steps(setup, cooled)
    hollow = max(sinkhole_ml(setup.prediction.set_c, f.capacity_ml * f.fill) for f in setup.fillings)
    moulds = any(vessel.kind == "mould" for vessel in setup.vessels.values())
    yield Step(
        "finish",
        "Unmould, cap and label" if moulds else "Cap and label",
        f"When it is back at room temperature and dry. The top sinks by up to {hollow:.1f} mL in the largest piece as "
        "it sets: fill a hollow with the rest while that is still warm.",
        "A lid on a warm piece sweats, and the drops spoil it.",
        2.0 + 0.5 * count,
    )
    yield _rest()


def _cooling_steps(setup: Setup, cooled: CoolDown) -> Iterator[Step]:
    for number, leg in enumerate(cooled.legs):
        inside = (cooled.minutes >= leg.start) & (cooled.minutes <= leg.end)
        first = number == 0
        cold = leg.place.key in ("refrigerator", "freezer")
        text = f"{leg.place.name} for {minutes_text(leg.end - leg.start)}"
        if cold:
            text += f", level and uncovered, until firm ({setup.temp(float(cooled.temps_c[inside][-1]))})."
        elif first:
            text += ". Leave it alone until a skin has formed; the rest sets below it."
        else:
            text += ", until it is no colder than the room. Wipe nothing: let the dew go by itself."
        yield Step(
            f"cool_{leg.place.key}_{number}",
            f"Cooling: {in_sentence(leg.place.name)}",
            text,
            f"{cooled.method.reason} {graining(cooled)}",
            leg.end - leg.start,
            hands=False,
            at=leg.place.key if cold else "",
            minutes=cooled.minutes[inside] - leg.start,
            temps_c=cooled.temps_c[inside],
        )


def whipped(setup: Setup, before: Step) -> Iterator[Step]:
    """Chilling to the dent, whipping, filling. Raises :class:`Problem` for what stays too soft."""
    start = setup.room_c if before.ends_c is None else before.ends_c
    dent = setup.prediction.hold_c(DENT)
    if dent is None or dent <= places(setup.room_c)["refrigerator"].temp_c:
        raise Problem("It stays too soft to whip even in a refrigerator: more butter, or less oil.", "cooling")
    course = pitcher_course(setup, start, "refrigerator", stirred=False)
    hard, ready = setup.prediction.hold_c(TOO_HARD), course.minutes_to(dent)
    wait = ready or 0.0
    late = course.minutes_to(hard) if hard is not None else None
    room = "" if late is None else f" You have {minutes_text(late - wait)} before it is too hard."
    yield along(
        Step(
            "chill",
            "Chill until a finger dents it",
            f"Bowl in the refrigerator for about {minutes_text(wait)}, to {setup.temp(dent)}; "
            f"look every ten minutes.{room}",
            "Too warm it holds no air, too cold it breaks into crumbs.",
            wait,
            hands=False,
            at="refrigerator",
        ),
        course,
    )
    powders = setup.items(Stage.POWDER)
    yield Step(
        "whip",
        "Whip",
        "Start slow, scrape down, ten to twenty minutes, until soft peaks stand and it has taken "
        f"{setup.overrun * 100:.0f} % more room."
        + (f" {listed([item.name for item in powders]).capitalize()} in small spoonfuls meanwhile." if powders else ""),
        "Air makes it light; beaten on past soft peaks it lets the oil go again.",
        WHIP_MIN,
    )
    yield from _filled_cold(setup)


def _filled_cold(setup: Setup) -> Iterator[Step]:
    count = sum(piece.count for piece in setup.pieces)
    yield Step(
        "fill",
        "Fill, cap and label",
        "Pipe or spoon it in without gaps, knock each jar on a cloth, cap and label.",
        "Hollows are where it dries and yellows first.",
        3.0 + 1.0 * count,
    )
    yield _rest()


def cold_whipped(setup: Setup) -> Iterator[Step]:
    """Whipped from butter that was never melted. Raises :class:`Problem` for a composition with wax."""
    waxes = setup.items(Stage.WAX)
    if waxes:
        raise Problem(f"{waxes[0].name} has to be melted: whipping cold is for butters and oils alone.", "cooling")
    yield Step(
        "whip",
        "Whip cold",
        f"Cut the butters small, let them stand at {setup.temp(setup.room_c)} until a finger dents them, beat them "
        "alone until pale, then the oils by the spoon, scent last; ten to twenty minutes to soft peaks.",
        COOLING_METHODS["cold_whip"].reason,
        WHIP_MIN + 5,
        caution="Made cold it goes hard again within days: make little, use it soon.",
    )
    yield from _filled_cold(setup)


def _rest() -> Step:
    return Step(
        "rest",
        "Let it rest",
        "A day before any test: press or thumb it at the same room temperature, and write it down.",
        "Crystals go on growing for a day; a test before that reads soft.",
        0.0,
        hands=False,
    )
