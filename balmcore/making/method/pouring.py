"""How a batch ends: poured and cooled, or chilled and whipped, then filled, capped and labelled."""

from collections.abc import Iterator
from dataclasses import replace

from balmcore.display import figure
from balmcore.errors import Problem
from balmcore.making.method.dividing import divided
from balmcore.making.method.heating import ON_A_TRAY
from balmcore.making.method.temperatures import poured_wrong
from balmcore.making.pot import MELTED, Stage
from balmcore.making.scaling import Filling, sinkhole_ml
from balmcore.making.steps import Setup, Step, along, pitcher_course
from balmcore.making.whippers import whipper_of
from balmcore.physics.cooling import COOLING_METHODS, CoolDown, Leg, graining
from balmcore.tables import Ingredient
from balmcore.wording import as_sentence, in_sentence, listed, minutes_text

DENT, TOO_HARD = 50.0, 70.0  # firmness at which a finger dents it, and above which it will not whip
# Seconds to fill one piece of a kind of container.
SECONDS = {"tube": 15.0, "tin": 8.0, "jar": 10.0, "mould": 8.0, "gloss": 30.0, "roller": 25.0, "pot": 8.0}
SECONDS_OTHERWISE = 10.0  # a piece of a container that none is told of
REWARM_MIN, POWDERS_MIN = 4.0, 4.0  # usual with a bath that is warm, a sieve
NEARLY_COLD_K = 2.0  # from a refrigerator's own temperature, which is never quite reached
TOO_SOFT = (
    "It stays too soft to dent even in a refrigerator: it takes up little air and soon lets it go again. More butter, "
    "or less oil. "
)
COLD_WHIP_MORE_MIN = 5.0  # what was never melted is stiffer
COLD = ("refrigerator", "freezer")
SEEN_ML = 0.1  # a hollow smaller than this is not worth a second pour
TOP_UP_MIN, TOP_UP_EACH_MIN = 1.0, 0.1  # to warm the rest, and for each piece: usual


def poured(setup: Setup, before: Step, window: float | None, number: int, cooled: CoolDown) -> Iterator[Step]:
    """Pouring what is in the pitcher: all of it, or that of round ``number``."""
    many, setup = setup.rounds, setup.one_round
    kinds = [setup.vessels.containers_by_key[piece.key].kind for piece in setup.pieces]
    each = [setup.pace.piece_s.get(kind) or SECONDS.get(kind, SECONDS_OTHERWISE) for kind in kinds]
    needed = sum(seconds * piece.count for seconds, piece in zip(each, setup.pieces, strict=True)) / 60
    count, about = setup.count, "About " if many > 1 else ""
    rewarms, told = (
        0,
        f"{about}{'1 piece takes' if count == 1 else f'{count} pieces take'} about {minutes_text(needed)}",
    )
    if window is not None and needed > window > 0:
        rewarms = int(needed / window)
        after = max(1, int(count * window / needed))
        told += f"; the pitcher sets in {minutes_text(window)}: warm it again after every {after} pieces"
    elif window is not None:
        told += f"; the pitcher stays pourable for {minutes_text(window)}"
    start = setup.handling.pour_c if before.ends_c is None else min(before.ends_c, setup.handling.pour_c)
    course = pitcher_course(setup, start, "counter", stirred=False)
    held_back = _held_back_g(setup)
    if setup.portions:
        taken = float(sum(portion.base_g for portion in setup.portions))
        kept = [held_back * many * float(portion.base_g) / taken for portion in setup.portions]
        yield from divided(setup, needed / count, kept)
        return
    too_hot, said = poured_wrong(setup)
    tubes = any(vessel.kind == "tube" for vessel in setup.vessels.containers_by_key.values())
    if held_back:
        short = f"about {setup.mass(held_back)} in all stay warm {setup.heat.keeps} to top up with"
        told += f". Pour each a little short: {short}"
    first = cooled.legs[0].place if cooled.legs else None
    cold = first.key if first and first.key in COLD else ""
    if number < many:
        if cold and first:
            told += f". They stand in the {in_sentence(first.name)} from now on"
        if held_back and cooled.set_min is not None:
            told += f". Their skin forms after {minutes_text(cooled.set_min)}: top them up then, while the next melts"
    yield along(
        Step(
            "pour",
            "Pour",
            f"Pour at {setup.temp(setup.handling.pour_c)}. {told}."
            + (" Tubes may be overfilled a little and scraped instead." if tubes and held_back else ""),
            "Between too hot, which leaves sinkholes, and too cool, which sets in the spout.",
            needed + REWARM_MIN * rewarms,
            at="stove" if rewarms else "",
            left_at=cold if number < many else "",
            caution=f"{said} {ON_A_TRAY}".strip(),
            aim="pour at",
            aim_c=setup.handling.pour_c,
            too_hot=too_hot,
        ),
        course,
    )


def after_pouring(setup: Setup, cooled: CoolDown) -> Iterator[Step]:
    """Cooling, topping up the pieces of the last pitcher, capping, rest."""
    last = setup if setup.portions else setup.one_round
    yield from _cooling_steps(setup, cooled, last.count if _held_back_g(setup) else 0)
    moulds = any(vessel.kind == "mould" for vessel in setup.vessels.containers_by_key.values())
    yield Step(
        "finish",
        "Unmould, cap and label" if moulds else "Cap and label",
        "When it is back at room temperature and dry.",
        "A lid on a warm piece sweats, and the drops spoil it.",
        2.0 + 0.5 * setup.count,
    )
    yield _rest()


def _hollow_ml(setup: Setup, filling: Filling) -> float:
    """How much the top of one piece sinks in, in millilitres."""
    return sinkhole_ml(setup.prediction, filling.capacity_ml * filling.fill)


def _held_back_g(setup: Setup) -> float:
    """Grams that fill the hollows of all pieces; 0 where they are too small to see."""
    hollows = [(_hollow_ml(setup, filling), filling.count) for filling in setup.vessels.fillings]
    if max(hollow for hollow, _ in hollows) < SEEN_ML:
        return 0.0
    return sum(hollow * count for hollow, count in hollows) / setup.prediction.ml_per_g(
        setup.handling.pour_c, is_melt=True
    )


def _parted(cooled: CoolDown) -> Iterator[tuple[Leg, bool]]:
    """Every stay of a piece, the one in which its skin forms cut there; True for one that ends with a skin."""
    for leg in cooled.legs:
        if cooled.set_min is None or not leg.start < cooled.set_min <= leg.end:
            yield leg, False
            continue
        yield replace(leg, end=cooled.set_min), True
        if cooled.set_min < leg.end:
            yield replace(leg, start=cooled.set_min), False


def _cooling_steps(setup: Setup, cooled: CoolDown, topped_up: int) -> Iterator[Step]:
    """The stays of a piece, with the topping up of so many between where its skin forms."""
    parts = _parted(cooled) if topped_up else ((leg, False) for leg in cooled.legs)
    for number, (leg, skins) in enumerate(parts):
        inside = (cooled.minutes >= leg.start) & (cooled.minutes <= leg.end)
        first, ends = number == 0, float(cooled.temps_c[inside][-1])
        cold = leg.place.key in COLD
        text = f"{leg.place.name} for {minutes_text(leg.end - leg.start)}"
        if setup.stays_liquid and not cold:
            text += (
                f". This room is warmer than where it sets, {setup.temp(setup.prediction.set_c or 0)}: it stays liquid."
            )
        elif skins or (first and not cold):
            text += f"{', level and uncovered' if cold else ''}. Leave it alone until a skin forms; below it is liquid."
        elif cold:
            text += ", level and uncovered, until firm."
        elif leg.end < cooled.label_min or ends > setup.handling.room_c:
            text += ", until it is firm and at room temperature."
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
            aim="skin at" if skins else "firm at" if cold else "down to" if ends > setup.handling.room_c else "up to",
            aim_c=ends,
            asks=False,
            minutes=cooled.minutes[inside] - leg.start,
            temps_c=cooled.temps_c[inside],
        )
        if skins:
            yield _top_up(setup, topped_up, leg)


def _top_up(setup: Setup, count: int, leg: Leg) -> Step:
    hollow = max(_hollow_ml(setup, filling) for filling in setup.vessels.fillings)
    too_hot, said = poured_wrong(setup)
    return Step(
        "top_up",
        "Top up",
        f"Now, while it is liquid below its skin: the middle dips, by up to {figure(hollow, 1)} mL in the largest "
        f"piece. Warm {'what is left in each jug' if setup.portions else 'the rest'} to "
        f"{setup.temp(setup.handling.pour_c)}, break the skin where it dips, and fill each up "
        "to its weight.",
        "The melt shrinks as it sets. A hollow filled when all is cold stays a patch that lifts off.",
        TOP_UP_MIN + TOP_UP_EACH_MIN * count,
        at=leg.place.key if leg.place.key in COLD else "",
        caution=said,
        aim="top up at",
        aim_c=setup.handling.pour_c,
        too_hot=too_hot,
    )


def whipped(setup: Setup, before: Step) -> Iterator[Step]:
    """Chilling to the dent, whipping, filling; what stays too soft for a dent is chilled as far as it goes."""
    start = setup.handling.room_c if before.ends_c is None else before.ends_c
    course = pitcher_course(setup.one_round, start, "refrigerator", stirred=False)
    firmness = setup.prediction.lagging(course.temps_c, course.lags_k)
    wait, soft = course.first_minute(firmness - DENT), ""
    if wait is None:
        wait = course.minutes_to(float(course.temps_c[-1]) + NEARLY_COLD_K) or float(course.minutes[-1])
        soft = TOO_SOFT
    dent = course.temp_at(wait)
    bowl = "Bowl" if setup.rounds == 1 else f"All {setup.rounds} bowls"
    late = course.first_minute(firmness - TOO_HARD)
    hard = "" if late is None else f": from {setup.temp(course.temp_at(late))} it is too hard"
    yield along(
        Step(
            "chill",
            "Chill as far as it goes" if soft else "Chill until a finger dents it",
            f"{soft}{bowl} in the refrigerator for about {minutes_text(wait)}, to {setup.temp(dent)}; scrape down what "
            "sets at the wall, and go by the dent.",
            f"Too warm it holds no air, too cold it breaks into crumbs{hard}.",
            wait,
            hands=False,
            at="refrigerator",
            aim="chill to",
            aim_c=dent,
            asks=False,
        ),
        course,
    )
    whipper = whipper_of(setup.handling.whipper)
    yield Step(
        "whip",
        "Whip",
        f"{whipper.name}. {whipper.advice}, and it has taken {setup.handling.overrun * 100:.0f} % more room."
        + (f" One bowl after another, {setup.rounds} in all." if setup.rounds > 1 else ""),
        "Air makes it light; beaten on past soft peaks it lets the oil go again.",
        setup.whip_min * setup.rounds,
    )
    if powders := setup.items(Stage.POWDER):
        yield _powders_in(powders)
    yield from _filled_cold(setup)


def _filled_cold(setup: Setup) -> Iterator[Step]:
    count = setup.count
    if setup.portions:
        yield from divided(setup, 1.0, [0.0] * len(setup.portions))
        yield _rest()
        return
    yield Step(
        "fill",
        "Fill, cap and label",
        "Pipe or spoon it in without gaps, knock each jar on a cloth, cap and label.",
        "Hollows are where it dries and yellows first.",
        3.0 + 1.0 * count,
    )
    yield _rest()


def cold_whipped(setup: Setup) -> Iterator[Step]:
    """Whipped from butter that was never melted. Raises :class:`Problem` for a composition with wax, or
    with water, which only heat drives off."""
    if waxes := setup.items(Stage.WAX):
        raise Problem(f"{waxes[0].name} has to be melted: whipping cold is for butters and oils alone.", "cooling")
    if wet := [item for item in setup.items(*Stage) if item.water_bearing and not item.made_of]:
        sentence = (
            f"{wet[0].name} brings water, which nothing drives off cold: leave it out, or melt what gives it off."
        )
        raise Problem(sentence, "cooling")
    yield Step(
        "whip",
        "Whip cold",
        f"Cut the butters small, let them stand at {setup.temp(setup.handling.room_c)} until a finger dents them, beat "
        "them alone until pale, then the oils by the spoon; ten to twenty minutes to soft peaks.",
        COOLING_METHODS["cold_whip"].reason,
        (setup.whip_min + COLD_WHIP_MORE_MIN) * setup.rounds,
        caution="Made cold it goes hard again within days: make little, use it soon.",
        adds=tuple(item.key for item in setup.items(*MELTED, Stage.DELICATE)),
        aim="butters at",
        aim_c=setup.handling.room_c,
    )
    if powders := setup.items(Stage.POWDER):
        yield _powders_in(powders)
    if late := setup.items(Stage.COOL):
        yield Step(
            "add",
            "The last things",
            f"{as_sentence(listed([item.name for item in late]))} dripped all over it, half a minute each, beaten in.",
            "Scent last: it flies off while one beats.",
            1.0 + 0.5 * len(late),
            adds=tuple(item.key for item in late),
        )
    yield from _filled_cold(setup)


def _powders_in(powders: list[Ingredient]) -> Step:
    return Step(
        "powders",
        "Powders",
        f"{as_sentence(listed([item.name for item in powders]))} by half spoons through a sieve, each beaten in "
        "slowly and scraped down.",
        "All at once it clumps, and flies.",
        POWDERS_MIN,
        adds=tuple(item.key for item in powders),
    )


def _rest() -> Step:
    return Step(
        "rest",
        "Let it rest",
        "A day before any test: press or thumb it at the same room temperature, and write it down.",
        "Crystals go on growing for a day; a test before that reads soft.",
        0.0,
        hands=False,
    )
