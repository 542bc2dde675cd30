"""What happens to the pot on the stove and just off it: water driven off, melted, held clear, powders
stirred in, cooled a little, and the last things added."""

from collections.abc import Iterator

import numpy as np

from balmcore.errors import Problem
from balmcore.making.scaling import Stage
from balmcore.making.steps import BURNS, PotEntry, Setup, Step, along, bath_course, flat, pitcher_course
from balmcore.physics.firmness import clear_alone
from balmcore.physics.grain import HELD_ABOVE_CLEAR_K, HELD_MINUTES, MELTING_METHODS, SEEDED, readiness
from balmcore.physics.melting import bath_c
from balmcore.physics.thermal import Course
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence, listed

MELT_ABOVE_CLEAR_K = 5.0  # so that the last crystals go too (docs/model.md)
COOLER_K = 5.0  # between the clear melt and the last things
ADD_ABOVE_SET_K = 6.0  # what is stirred in does not set where it falls
ADD_AT_LEAST_C = 45.0  # scents and vitamins mix in below which they do not
COMFORT_C = 50.0  # above this scent is lost as quickly as it is stirred in
SHORT_OF_BATH_K = 3.0  # a melt never quite comes to its bath's temperature
GRAINS_FROM = 0.1  # a formula readier to grain than this is held clear for longer
# Usual at a stove; each maker's own pace corrects the whole.
WATER_OFF_C = 85.0  # water leaves briskly and a simmering bath still warms it; our figure
WATER_OFF_MIN, CLEAR_MIN, POWDERS_MIN, SEEDS_MIN = 20.0, 3.0, 3.0, 3.0
SEEDS_LEFT, LEAST_TO_SEED = 0.1, 0.05  # of the solids at 20 degrees; of the whole
NEAR_K = 0.5  # no step of its own for less


def heated(setup: Setup) -> Iterator[Step]:
    """The steps from the cold pot to what is poured or chilled."""
    warm = melt_to(setup)
    if setup.handling.melting == SEEDED:
        warm = seeds_at(setup)
        yield _melting(setup, bath_course(setup, setup.handling.room_c), warm)
        yield _seeds(setup, warm)
    elif warm > setup.handling.room_c + 1:
        yield _melting(setup, bath_course(setup, setup.handling.room_c), warm)
        yield _clear(setup, warm)
    warm = max(warm, setup.handling.room_c)
    powders = setup.items(Stage.POWDER)
    if powders and not setup.is_whipped:
        yield _powders(powders, warm)
    yield from _off_the_heat(setup, warm)


def melt_to(setup: Setup) -> float:
    """How hot the melt has to become: 5 K above clear, hotter by as much than what follows it, and
    20 K above clear where butters would remember their crystals; but never above what its
    ingredients stand."""
    clear = setup.prediction.clear_c
    if clear is None or clear <= setup.handling.room_c:
        return min(setup.handling.room_c if clear is None else clear + MELT_ABOVE_CLEAR_K, limit(setup)[0])
    wanted = [clear + MELT_ABOVE_CLEAR_K]
    if not setup.is_whipped:
        wanted.append(setup.handling.pour_c)
    if setup.items(Stage.COOL):
        wanted.append(last_things_at(setup) + COOLER_K)
    if must_forget(setup):
        wanted.append(clear + HELD_ABOVE_CLEAR_K)
    return min(max(wanted), limit(setup)[0])


def seeds_at(setup: Setup) -> float:
    """How warm a melt is with the last lumps in it: where a tenth of what is solid at 20 degrees C is left.

    Raises :class:`Problem` where wax has to melt through, where nothing is left to melt, and where it would be
    poured so hot that the seeds go.
    """
    waxes = [item.name for item in setup.items(Stage.WAX)]
    if waxes:
        sentence = f"{waxes[0]} has to melt through, and butter melts before it: to melt in part is for butters alone."
        raise Problem(sentence, "melting")
    temps = np.arange(setup.handling.room_c, 80.0, 0.1)
    solid = setup.prediction.curve([20.0, *temps]).solid_share[0]
    there = np.flatnonzero(solid[1:] >= SEEDS_LEFT * solid[0])
    if solid[0] < LEAST_TO_SEED or not there.size:
        raise Problem("Nothing of it is solid here that could stay as seeds: melt it clear.", "melting")
    found = float(temps[there[-1]])
    if setup.handling.pour_c > found + NEAR_K:
        told = setup.temp(found)
        raise Problem(
            f"Its last lumps melt at {told}, and poured hotter it has no seeds: pour it at {told}.", "melting"
        )
    return found


def must_forget(setup: Setup) -> bool:
    """True when its butters would grain round crystals that were merely clear, and it is held for that."""
    return setup.is_held and readiness(setup.left) > GRAINS_FROM


def limit(setup: Setup) -> tuple[float, str]:
    """The lowest damage limit in the pot, and whose it is; the bath's own where that is lower."""
    limits = [
        (leaf.damage_c, item.name)
        for item in setup.items(Stage.WATER, Stage.WAX, Stage.BUTTER, Stage.OIL)
        for leaf, _ in item.parts
        if leaf.damage_c
    ]
    return min([*limits, (bath_c(setup.left) - SHORT_OF_BATH_K, "the melt")])


def add_at(setup: Setup) -> float:
    """Where antioxidant and scent go in: the higher of 45 degrees C and 6 K above setting, and
    not below the pouring temperature, as the melt is poured next and not heated again."""
    set_c = setup.prediction.set_c
    lowest = ADD_AT_LEAST_C if setup.is_whipped and set_c is not None else max(ADD_AT_LEAST_C, setup.handling.pour_c)
    return lowest if set_c is None else max(lowest, set_c + ADD_ABOVE_SET_K)


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
    hot = min([WATER_OFF_C, *(leaf.damage_c for item in first for leaf, _ in item.parts if leaf.damage_c)])
    oils = " with the oils" if len(first) > len(wet) else ""
    unsure = [item.name for item in wet if not item.volatile]
    weighed = f"Weigh the pot again: it should be {setup.mass(leaving)} lighter. " if leaving else ""
    if unsure:
        weighed += f"How much leaves {listed(unsure)} is not known, and not counted: weigh the pot, write it down. "
    yield Step(
        "water_off",
        "Drive the water off",
        f"Before any wax: warm {listed([item.name for item in wet])}{oils} in a water bath, to {setup.temp(hot)}, "
        f"until no bubble rises and the weight no longer falls. {weighed}"
        "Too little gone: keep it warm for longer. Too much gone: make up with oil.",
        "Water that is shut in by wax cannot leave any more; it spoils the balm or spits when it is hot. What boils "
        "away is no longer in the pot: grams, firmness and label count what is left.",
        WATER_OFF_MIN,
        at="stove",
        caution="Spirit vapour burns: an electric plate, no flame, nothing else warm beside it, open window. What "
        "still holds water needs a preservative system that Calm Tin does not design.",
    )


def _melting(setup: Setup, course: Course, hot: float) -> Step:
    most, whose = limit(setup)
    into = [_entry(setup, item) for item in setup.items(Stage.WAX, Stage.BUTTER, Stage.OIL)]
    clear = setup.prediction.clear_c
    together = "" if clear is None else f"Together they are clear from {setup.temp(clear)}. "
    caution = BURNS
    if clear is not None and clear + MELT_ABOVE_CLEAR_K > most:
        caution = (
            f"It is clear only from {setup.temp(clear)}, and {in_sentence(whose)} suffers above {setup.temp(most)}: "
            f"melt the rest first and add {in_sentence(whose)} at the end, for as short as you can. {BURNS}"
        )
    wet = "the pot that gave its water off, then " if setup.items(Stage.WATER) else ""
    return along(
        Step(
            "melt",
            "Melt",
            f"Water bath at {setup.temp(bath_c(setup.left))}, low heat; {wet}in this order, each when the last has "
            f"melted. Stir as soon as it can be stirred. {together}Bring it to {setup.temp(hot)}.",
            "Hardest first: so the butters are not cooked while the wax catches up. The bath itself takes ten minutes "
            "to warm, and lumps melt slowly until they swim.",
            (course.minutes_to(hot) or float(course.minutes[-1])) * setup.pace.heating,
            at="stove",
            caution=caution,
            into=tuple(into),
            aim="melt to",
            aim_c=hot,
        ),
        course,
    )


def _entry(setup: Setup, item: Ingredient) -> PotEntry:
    clear = clear_alone(item)
    damage = min((leaf.damage_c for leaf, _ in item.parts if leaf.damage_c), default=None)
    return PotEntry(
        item.name,
        "liquid already" if clear is None or clear <= setup.handling.room_c else f"alone molten at {setup.temp(clear)}",
        f"never above {setup.temp(damage)}" if damage else "",
    )


def _clear(setup: Setup, hot: float) -> Step:
    most, whose = limit(setup)
    held = HELD_MINUTES if must_forget(setup) else CLEAR_MIN
    reason = "Cloudy means something is still solid."
    if held > CLEAR_MIN:
        reason += (
            " Butters that may grain forget their old crystals only when they are held well above clear. Some makers "
            "do the opposite and take the pot off while a few lumps are left, as seeds: the plan knows both schools, "
            "and your own pours tell you which suits your butter."
        )
        clear = setup.prediction.clear_c
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
            at="stove",
            caution=f"Not above {setup.temp(most)}: {in_sentence(whose)} suffers.",
            aim="hold at",
            aim_c=hot,
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


def _powders(powders: list[Ingredient], warm: float) -> Step:
    return flat(
        Step(
            "powders",
            "Powders",
            f"Off the heat. Stir in {listed([item.name for item in powders])} through a sieve until they vanish, and "
            "stir again whenever you pour.",
            "Powder sinks: what is not kept moving is all in the last tin.",
            POWDERS_MIN,
        ),
        warm,
    )


def last_things_at(setup: Setup) -> float:
    """How warm the melt is when the last things go in: so much above :func:`add_at`, where it is poured
    next, as it loses while they are stirred in. A small melt loses much."""
    if setup.is_whipped:
        return add_at(setup)
    course = pitcher_course(setup, limit(setup)[0], "counter", stirred=True)
    poured = course.minutes_to(setup.handling.pour_c)
    if poured is None:
        return add_at(setup)
    return max(add_at(setup), course.temp_at(max(0.0, poured - _adding_min(setup))))


def _adding_min(setup: Setup) -> float:
    return 1.0 + 0.5 * len(setup.items(Stage.COOL))


def _off_the_heat(setup: Setup, warm: float) -> Iterator[Step]:
    """Cooling on the counter, the last things on the way, down to where it is poured or chilled.

    One stirred course from the heat to the pour: the last things go in so much above pouring as is
    lost while they are stirred in.
    """
    late = setup.items(Stage.COOL)
    end = add_at(setup) if setup.is_whipped else setup.handling.pour_c
    course = pitcher_course(setup, warm, "counter", stirred=True)
    reached = course.minutes_to(min(end, warm)) or 0.0
    now = 0.0
    if late:
        length, goal = _adding_min(setup), min(warm, last_things_at(setup))
        begin = course.minutes_to(goal) or 0.0
        if goal < warm - NEAR_K:
            reason = "Cool enough to keep scent and antioxidant, warm enough that nothing sets around them."
            yield _cooler(setup, course, (now, begin), reason)
            now = begin
        yield along(_additions(setup, late, goal, length), course, now)
        now += length
    if course.temp_at(now) > end + NEAR_K and not setup.is_whipped:
        reason = "Poured too hot it shrinks into a sinkhole; poured too cool it sets in folds."
        yield _cooler(setup, course, (now, reached), reason)


def _cooler(setup: Setup, course: Course, between: tuple[float, float], reason: str) -> Step:
    start, end = between
    goal = course.temp_at(end)
    return along(
        Step(
            "cool" if start == 0 else "cool_to_pour",
            "A little cooler",
            f"Off the heat, stirring now and then, down to {setup.temp(goal)}.",
            reason,
            end - start,
            hands=False,
            aim="cool to",
            aim_c=goal,
        ),
        course,
        start,
    )


def _additions(setup: Setup, late: list[Ingredient], goal: float, length: float) -> Step:
    text = f"At {setup.temp(goal)} stir in {listed([item.name for item in late])}, half a minute each."
    scents = [item for item in late if item.group == "aromatic"]
    flashing = [item for item in scents if item.flash_c is not None and item.flash_c < goal]
    caution = ""
    if flashing:
        told = listed([f"{item.name} ({setup.temp(item.flash_c or 0)})" for item in flashing])
        caution = (
            f"This melt sets so warm that it must still be {setup.temp(goal)}, above the flash point of {told}: away "
            "from the stove, no flame or spark near, lid on at once. Or take a wax that sets cooler."
        )
    elif scents and goal > COMFORT_C:
        caution = (
            f"This melt sets at {setup.temp(setup.prediction.set_c or goal)}, so the scent goes in warmer than it "
            f"likes ({setup.temp(COMFORT_C)}): some is lost. Stir it in quickly, cover, pour at once."
        )
    return Step(
        "add",
        "Off the heat: the last things",
        text,
        "Too hot and they fly off; too cool and the melt sets around them.",
        length,
        caution=caution,
        aim="stir in at",
        aim_c=goal,
    )
