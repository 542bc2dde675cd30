"""What happens to the pot on the stove and just off it: water driven off, melted, held clear, powders
stirred in, cooled a little, and the last things added."""

from collections.abc import Collection, Iterable, Iterator
from dataclasses import replace

from balmcore.errors import Problem
from balmcore.making.method.temperatures import (
    NEAR_K,
    SHORT_OF_BATH_K,
    add_at,
    adding_min,
    before_delicate,
    clear_of_pot,
    delicate_at,
    last_things_at,
    limit,
    melt_to,
    must_forget,
    seeds_at,
    set_to,
    suffers,
)
from balmcore.making.pot import (
    MELTED,
    STAGES,
    Stage,
    heat_limit,
    part_of,
)
from balmcore.making.steps import (
    BURNS,
    HARDEST_FIRST,
    IN_ORDER,
    PotEntry,
    Setup,
    Step,
    along,
    between,
    flat,
    pitcher_course,
    warming_course,
)
from balmcore.physics.firmness import clear_alone
from balmcore.physics.grain import HELD_ABOVE_CLEAR_K, HELD_MINUTES, MELTING_METHODS, SEEDED
from balmcore.physics.thermal import Course
from balmcore.physics.ways_of_heating import BATH
from balmcore.tables import Ingredient
from balmcore.wording import as_sentence, in_sentence, listed

COMFORT_C = 50.0  # above this scent is lost as quickly as it is stirred in
# Usual at a stove; each maker's own pace corrects the whole.
WATER_OFF_C = 85.0  # water leaves briskly and a simmering bath still warms it; our figure
WATER_OFF_G_MIN = 13.0  # of water that a simmering bath drives off in a minute, from some 500 W; our figure
# Spirit evaporates by itself in a dish; more at a time fills a kitchen with vapour (our figures).
MOST_SPIRIT_G, SPIRIT_OFF_MIN, SPIRIT_OFF_G_MIN = 50.0, 60.0, 0.5
STILL_WET = "What still holds water needs a preservative system that Calm Tin does not design."
CRYSTALS, CRYSTALS_MIN = ("menthol", "camphor"), 5.0  # which dissolve slowly, and how long that takes: usual
WATER_OFF_MIN, CLEAR_MIN, POWDERS_MIN, SEEDS_MIN = 20.0, 3.0, 3.0, 3.0
ON_A_TRAY = "Containers on a tray, not in the hand."
COOL_FIRST = "cool_first"  # the key of the step before what is delicate
FELT_K = 1.0  # a melt that cold oil cools by less is not worth a word


def heated(setup: Setup) -> Iterator[Step]:
    """The steps from the cold pot to what is poured or chilled."""
    warm = melt_to(setup)
    if setup.handling.melting == SEEDED:
        warm = seeds_at(setup)
        yield _melting(setup, warming_course(setup, setup.handling.room_c, set_to(setup)), warm)
        yield _seeds(setup, warm)
    elif warm > setup.handling.room_c + 1:
        yield _melting(setup, warming_course(setup, setup.handling.room_c, set_to(setup)), warm)
        yield _clear(setup, warm)
    elif setup.items(*MELTED):
        yield _mixed(setup)
    warm = max(warm, setup.handling.room_c)
    if setup.items(Stage.POWDER) and not setup.is_whipped:
        yield _powders(setup, warm)
    yield from _off_the_heat(setup, warm)


def water_off(setup: Setup) -> Iterator[Step]:
    """Weighing and warming what bears water, with the oils and before any wax; nothing where nothing does."""
    wet = setup.items(Stage.WATER)
    if not wet:
        return
    first = setup.items(Stage.WATER, Stage.OIL)
    names = listed([item.name for item in first])
    yield Step(
        "weigh_wet",
        "Weigh what gives water off",
        f"Weigh {names} into a small pot of {'their' if len(first) > 1 else 'its'} own, tared between lines, and write "
        "down what the pot weighs with them.",
        "What boils away has to leave before there is any wax in the pot.",
        1.0 + len(first),
    )
    leaving = setup.total_g - setup.left_g
    oils = " with the oils" if len(first) > len(wet) else ""
    they = listed([item.name for item in wet])
    weighed = (
        f"until no bubble rises and the weight no longer falls. Weigh the pot again: it should be "
        f"{setup.mass(leaving)} lighter. Too little gone: give it longer. Too much gone: make up with oil."
    )
    reason = (
        "Water that is shut in by wax cannot leave any more; it spoils the balm or spits when it is hot. What "
        "evaporates is no longer in the pot: grams, firmness and label count what is left."
    )
    if spirit := [item for item in wet if item.has_spirit]:
        yield _spirit_off(setup, spirit, f"{they}{oils}", weighed, reason, leaving, first)
        return
    hot = min([WATER_OFF_C, *(most for item in first if (most := heat_limit(item)) is not None)])
    yield Step(
        "water_off",
        "Drive the water off",
        f"Before any wax: warm {they}{oils} in a water bath, to {setup.temp(hot)}, {weighed}",
        reason,
        max(WATER_OFF_MIN, leaving / WATER_OFF_G_MIN),
        at="stove",
        alone=True,
        caution=f"Its gums, and glycerin where there is any, stay in the balm. {STILL_WET}",
        aim="warm to",
        aim_c=hot,
        adds=_keys(first),
    )


def _spirit_off(
    setup: Setup,
    spirit: list[Ingredient],
    what: str,
    weighed: str,
    reason: str,
    leaving: float,
    first: list[Ingredient],
) -> Step:
    """Letting spirit evaporate, far from whatever could light it. Raises :class:`Problem` for more than may evaporate
    at a time."""
    shares = sum(float(line.share) for line in setup.composition.lines if line.ingredient in spirit)
    grams = setup.total_g * shares / float(setup.composition.total)
    if grams > MOST_SPIRIT_G:
        raise Problem(
            f"This batch would evaporate {setup.mass(grams)} of spirit, and its vapour can catch fire or explode. "
            f"Evaporate at most {setup.mass(MOST_SPIRIT_G)} at a time: make a smaller batch, or use less "
            f"{in_sentence(spirit[0].name)}.",
            "grams",
        )
    return Step(
        "water_off",
        "Let the spirit evaporate",
        f"Before any wax: let {what} stand open in a wide dish, unheated or over a bowl of hot water that was carried "
        f"away from the stove, {weighed}",
        reason,
        max(SPIRIT_OFF_MIN, leaving / SPIRIT_OFF_G_MIN),
        hands=False,
        watched=True,
        caution="Spirit vapour catches fire. No flame, hot plate, thermostat or electric switch in the room, and the "
        f"window open. {STILL_WET}",
        adds=_keys(first),
    )


def _keys(items: Iterable[Ingredient]) -> tuple[str, ...]:
    return tuple(item.key for item in items)


def _mixed(setup: Setup) -> Step:
    there = setup.items(*MELTED)
    return Step(
        "mix",
        "Stir together",
        f"All of it is liquid at {setup.temp(setup.handling.room_c)}: stir until it is even and clear.",
        "Nothing has to melt, and what is not heated keeps best.",
        CLEAR_MIN,
        adds=_keys(there),
    )


def _melting(setup: Setup, course: Course, hot: float) -> Step:
    there = setup.items(*MELTED)
    clear = clear_of_pot(setup)
    together = "" if clear is None else f"Together they are clear from {setup.temp(clear)}. "
    too_hot, said = suffers(setup, setup.items(Stage.WATER, *MELTED), hot)
    wet = "the pot that gave its water off, then " if setup.items(Stage.WATER) else ""
    bath, heat = set_to(setup), setup.heat
    if heat.key == BATH and hot > bath - SHORT_OF_BATH_K + NEAR_K:
        said += (
            f" A water bath comes to {setup.temp(bath)} at most: a wax melter or an oil bath with a thermostat, "
            "never a bare flame."
        )
    return along(
        Step(
            "melt",
            "Melt",
            f"{heat.warms.format(hot=setup.temp(bath))}; {wet}{IN_ORDER}. "
            f"Stir as soon as it can be stirred. {together}Bring it to {setup.temp(hot)}.",
            f"{HARDEST_FIRST} {heat.reason}{heat.course}",
            (course.minutes_to(hot) or float(course.minutes[-1])) * setup.pace.heating.get(heat.key, 1.0),
            hands=not heat.by_itself,
            watched=heat.by_itself,
            at="stove" if heat.key == BATH else "",
            caution=" ".join(part for part in (said, heat.caution, BURNS) if part),
            into=tuple(_entry(setup, item, hot) for item in there),
            aim="melt to",
            aim_c=hot,
            adds=_keys(there),
            too_hot=too_hot,
        ),
        course,
    )


def _entry(setup: Setup, item: Ingredient, hot: float) -> PotEntry:
    clear, most = clear_alone(item), heat_limit(item)
    return PotEntry(
        item.name,
        "liquid already" if clear is None or clear <= setup.handling.room_c else f"alone molten at {setup.temp(clear)}",
        _bears(setup, most, hot) if most else "",
    )


def _bears(setup: Setup, most: float, hot: float) -> str:
    """How warm something may become, where the pot is brought to ``hot``: what is asked for is not forbidden."""
    is_same = setup.temp(most) == setup.temp(hot)
    return f"bears {setup.temp(most)} and no more" if is_same else f"never above {setup.temp(most)}"


def _clear(setup: Setup, hot: float) -> Step:
    most, whose = limit(setup)
    too_hot, said = suffers(setup, setup.items(Stage.WATER, *MELTED), hot, is_told=True)
    held = HELD_MINUTES if must_forget(setup) else CLEAR_MIN
    reason = "Cloudy means something is still solid."
    if held > CLEAR_MIN:
        reason += (
            " Butters that may grain forget their old crystals only when they are held well above clear. Some makers "
            "do the opposite and take the pot off while a few lumps are left, as seeds: the plan knows both schools, "
            "and your own pours tell you which suits your butter."
        )
        clear = clear_of_pot(setup)
        if clear is not None and hot < clear + HELD_ABOVE_CLEAR_K - NEAR_K:
            surer = setup.temp(clear + HELD_ABOVE_CLEAR_K)
            reason += f" {surer} would be surer; {in_sentence(whose)} does not bear it."
    return flat(
        Step(
            "clear",
            "Clear test",
            f"Stir, look through it against the light: clear, no streaks, no haze. Keep it at {setup.temp(hot)} for "
            f"{held:.0f} minutes. A drop on a cold plate shows how firm it will be.",
            reason,
            held,
            hands=held <= CLEAR_MIN,
            watched=held > CLEAR_MIN,
            at="stove",
            caution=said or as_sentence(f"{whose}: {_bears(setup, most, hot)}"),
            aim="hold at",
            aim_c=hot,
            too_hot=too_hot,
        ),
        hot,
    )


def _seeds(setup: Setup, warm: float) -> Step:
    return flat(
        Step(
            "seeds",
            "Off the heat with lumps left",
            f"Take it off the bath while lumps the size of a lentil are left, at about {setup.temp(warm)}, and stir "
            "until no lump is to be seen. It stays a little cloudy. Pour at once.",
            MELTING_METHODS[SEEDED].reason,
            SEEDS_MIN,
            aim="stir at",
            aim_c=warm,
        ),
        warm,
    )


def _powders(setup: Setup, warm: float) -> Step:
    powders = setup.items(Stage.POWDER)
    too_hot, said = suffers(setup, setup.items(Stage.WATER, *MELTED, Stage.POWDER), warm)
    return flat(
        Step(
            "powders",
            "Powders",
            f"Off the heat. Stir in {listed([item.name for item in powders])} through a sieve until they vanish, and "
            "stir again whenever you pour.",
            "Powder sinks: what is not kept moving is all in the last tin.",
            POWDERS_MIN,
            caution=said,
            aim="stir in at",
            aim_c=warm,
            adds=_keys(powders),
            too_hot=too_hot,
        ),
        warm,
    )


def _off_the_heat(setup: Setup, warm: float) -> Iterator[Step]:
    """Cooling on the counter, what is delicate and the last things on the way, down to where it is poured or chilled.

    One stirred course from the heat, or from what is delicate, to the pour: the last things go in so much above
    pouring as is lost while they are stirred in.
    """
    late = setup.items(Stage.COOL)
    end = add_at(setup) if setup.is_whipped else setup.handling.pour_c
    if setup.items(Stage.DELICATE):
        goal = min(warm, delicate_at(setup))
        before, glass = before_delicate(setup, warm, goal)
        if before < warm - NEAR_K:
            course = pitcher_course(setup, warm, "counter", stirred=True)
            reason = "Cooler before what cannot stand the melt goes in, and still clear."
            cooler = _cooler(setup, course, (0.0, course.minutes_to(before) or 0.0), reason, MELTED)
            yield replace(cooler, key=COOL_FIRST)
        yield _delicate(setup, before, glass, goal)
        warm = goal
    course = pitcher_course(setup, warm, "counter", stirred=True)
    reached = course.minutes_to(min(end, warm)) or 0.0
    now = 0.0
    if late:
        length, goal = adding_min(setup), min(warm, last_things_at(setup))
        begin = course.minutes_to(goal) or 0.0
        if goal < warm - NEAR_K:
            reason = "Cool enough to keep scent and antioxidant, warm enough that nothing sets around them."
            yield _cooler(setup, course, (now, begin), reason, (*MELTED, Stage.DELICATE))
            now = begin
        yield along(_additions(setup, late, goal, length), course, now)
        now += length
    if course.temp_at(now) > end + NEAR_K and not setup.is_whipped:
        reason = "Poured too hot it shrinks into a sinkhole; poured too cool it sets in folds."
        yield _cooler(setup, course, (now, reached), reason, (*MELTED, Stage.DELICATE, Stage.COOL))


def _delicate(setup: Setup, before: float, glass: float, goal: float) -> Step:
    """What cannot stand the melt, stirred in off the heat: warmed so far before that the whole comes to ``goal``."""
    items = setup.items(Stage.DELICATE)
    cold = float(part_of(setup.left, items).total / setup.left.total)
    names = listed([item.name for item in items])
    own, them = ("glasses of their own", "them") if len(items) > 1 else ("a glass of its own", "it")
    too_hot, said = suffers(setup, setup.items(Stage.WATER, *MELTED, Stage.POWDER, Stage.DELICATE), goal)
    stirred = f"stir in {names}"
    if (goal - setup.handling.room_c) * cold > FELT_K and glass > setup.handling.room_c + FELT_K:
        stirred = f"warm {names} to {setup.temp(glass)} in {own}, and stir {them} in"
    steps = f"Off the heat, {stirred} slowly: together they come to {setup.temp(goal)}"
    return between(
        Step(
            "delicate",
            "Off the heat: what cannot stand the melt",
            f"{steps}, and stay clear. Where it clouds, warm it for a moment, no longer.",
            f"{as_sentence(names)} would suffer in the melt, which is clear only from "
            f"{setup.temp(clear_of_pot(setup) or goal)}; a few minutes at the end cost the least.",
            1.0 + 0.5 * len(items),
            caution=said,
            aim="stir in at",
            aim_c=goal,
            adds=_keys(items),
            too_hot=too_hot,
        ),
        before,
        goal,
    )


def _cooler(setup: Setup, course: Course, between: tuple[float, float], reason: str, there: Collection[Stage]) -> Step:
    """Off the heat for so many minutes of a course, with what is in the pot by then."""
    start, end = between
    goal = course.temp_at(end)
    too_hot, said = suffers(setup, setup.items(*there), goal, is_told=True)
    return along(
        Step(
            "cool" if start == 0 else "cool_to_pour",
            "A little cooler",
            f"Off the heat, stirring now and then, down to {setup.temp(goal)}.",
            reason,
            end - start,
            hands=False,
            caution=said,
            aim="cool to",
            aim_c=goal,
            too_hot=too_hot,
        ),
        course,
        start,
    )


def _additions(setup: Setup, late: list[Ingredient], goal: float, length: float) -> Step:
    text = f"At {setup.temp(goal)} stir in {listed([item.name for item in late])}, half a minute each."
    scents = [item for item in late if item.group == "aromatic"]
    crystals = [item for item in late if item.key in CRYSTALS]
    if crystals:
        names = listed([item.name for item in crystals])
        text += f" Dissolve {names} first, in a little of the warm oil with a lid on, until no crystal is left."
        length += CRYSTALS_MIN
    too_hot, caution = suffers(setup, setup.items(*STAGES), goal, is_told=True)
    if scents and goal > COMFORT_C:
        caution += (
            f" This melt sets at {setup.temp(setup.prediction.set_c or goal)}, so the scent goes in warmer than it "
            f"likes ({setup.temp(COMFORT_C)}): some is lost. Stir it in quickly, cover, pour at once."
        )
    return Step(
        "add",
        "Off the heat: the last things",
        text,
        "Too hot and they fly off; too cool and the melt sets around them.",
        length,
        caution=caution.strip(),
        aim="stir in at",
        aim_c=goal,
        adds=_keys(late),
        too_hot=too_hot,
    )
