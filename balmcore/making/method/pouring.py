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
COLD_WHIP_MORE_MIN = 5.0  # what was never melted is stiffer
SEEN_ML = 0.1  # a hollow smaller than this is not worth a second pour
TOP_UP_MIN, TOP_UP_EACH_MIN = 1.0, 0.1  # to warm the rest, and for each piece: usual


def pouring_steps(setup: Setup, before: Step, window: float | None, cooled: CoolDown) -> Iterator[Step]:
    """Pouring, cooling by the method chosen, capping."""
    kinds = [setup.vessels.containers_by_key[piece.key].kind for piece in setup.pieces]
    each = [setup.pace.piece_s.get(kind) or SECONDS.get(kind, SECONDS_OTHERWISE) for kind in kinds]
    needed = sum(seconds * piece.count for seconds, piece in zip(each, setup.pieces, strict=True)) / 60
    count = sum(piece.count for piece in setup.pieces)
    rewarms, told = 0, f"{'1 piece takes' if count == 1 else f'{count} pieces take'} about {minutes_text(needed)}"
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
        kept = [held_back * float(portion.base_g) / taken for portion in setup.portions]
        yield from divided(setup, needed / count, kept)
        yield from _after_pouring(setup, cooled, count if held_back else 0)
        return
    too_hot, said = poured_wrong(setup)
    tubes = any(vessel.kind == "tube" for vessel in setup.vessels.containers_by_key.values())
    if held_back:
        short = f"about {setup.mass(held_back)} in all stay warm {setup.heat.keeps} to top up with"
        told += f". Pour each a little short: {short}"
    yield along(
        Step(
            "pour",
            "Pour",
            f"Pour at {setup.temp(setup.handling.pour_c)}. {told}."
            + (" Tubes may be overfilled a little and scraped instead." if tubes and held_back else ""),
            "Between too hot, which leaves sinkholes, and too cool, which sets in the spout.",
            needed + REWARM_MIN * rewarms,
            at="stove" if rewarms else "",
            caution=f"{said} {ON_A_TRAY}".strip(),
            aim="pour at",
            aim_c=setup.handling.pour_c,
            too_hot=too_hot,
        ),
        course,
    )
    yield from _after_pouring(setup, cooled, count if held_back else 0)


def _after_pouring(setup: Setup, cooled: CoolDown, topped_up: int) -> Iterator[Step]:
    """Cooling, topping so many pieces up, capping, rest."""
    count = sum(piece.count for piece in setup.pieces)
    yield from _cooling_steps(setup, cooled, topped_up)
    moulds = any(vessel.kind == "mould" for vessel in setup.vessels.containers_by_key.values())
    yield Step(
        "finish",
        "Unmould, cap and label" if moulds else "Cap and label",
        "When it is back at room temperature and dry.",
        "A lid on a warm piece sweats, and the drops spoil it.",
        2.0 + 0.5 * count,
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
        cold = leg.place.key in ("refrigerator", "freezer")
        text = f"{leg.place.name} for {minutes_text(leg.end - leg.start)}"
        if skins or (first and not cold):
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
        at=leg.place.key if leg.place.key in ("refrigerator", "freezer") else "",
        caution=said,
        aim="top up at",
        aim_c=setup.handling.pour_c,
        too_hot=too_hot,
    )


def whipped(setup: Setup, before: Step) -> Iterator[Step]:
    """Chilling to the dent, whipping, filling. Raises :class:`Problem` for what stays too soft."""
    start = setup.handling.room_c if before.ends_c is None else before.ends_c
    course = pitcher_course(setup, start, "refrigerator", stirred=False)
    firmness = setup.prediction.lagging(course.temps_c, course.lags_k)
    wait = course.first_minute(firmness - DENT)
    if wait is None:
        raise Problem("It stays too soft to whip even in a refrigerator: more butter, or less oil.", "cooling")
    dent = course.temp_at(wait)
    late = course.first_minute(firmness - TOO_HARD)
    hard = "" if late is None else f": from {setup.temp(course.temp_at(late))} it is too hard"
    yield along(
        Step(
            "chill",
            "Chill until a finger dents it",
            f"Bowl in the refrigerator for about {minutes_text(wait)}, to {setup.temp(dent)}; scrape down what sets at "
            "the wall, and go by the dent.",
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
        f"{whipper.name}. {whipper.advice}, and it has taken {setup.handling.overrun * 100:.0f} % more room.",
        "Air makes it light; beaten on past soft peaks it lets the oil go again.",
        setup.whip_min,
    )
    if powders := setup.items(Stage.POWDER):
        yield _powders_in(powders)
    yield from _filled_cold(setup)


def _filled_cold(setup: Setup) -> Iterator[Step]:
    count = sum(piece.count for piece in setup.pieces)
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
    if wet := setup.items(Stage.WATER):
        raise Problem(f"{wet[0].name} brings water, and only heat drives it off: melt it, or leave it out.", "cooling")
    yield Step(
        "whip",
        "Whip cold",
        f"Cut the butters small, let them stand at {setup.temp(setup.handling.room_c)} until a finger dents them, beat "
        "them alone until pale, then the oils by the spoon; ten to twenty minutes to soft peaks.",
        COOLING_METHODS["cold_whip"].reason,
        setup.whip_min + COLD_WHIP_MORE_MIN,
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
