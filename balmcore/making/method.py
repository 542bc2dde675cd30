"""The method of one batch: what to do in what order, how hot, how long, and why."""

from collections.abc import Iterator

import numpy as np

from balmcore.errors import Problem
from balmcore.making.finishing import cold_whipped, poured, whipped
from balmcore.making.steps import BURNS, Bench, Into, Method, Step, along, flat, pitcher_course
from balmcore.physics.cooling import SCHOOLS, cool_down
from balmcore.physics.firmness import clear_alone
from balmcore.physics.grain import HELD_MINUTES, readiness
from balmcore.physics.thermal import Course
from balmcore.tables import Ingredient
from balmcore.wording import listed

MELT_ABOVE_CLEAR_K = 5.0
ADD_ABOVE_SET_K = 6.0
ADD_AT_LEAST_C = 45.0
COMFORT_C = 50.0  # above this scent is lost as quickly as it is stirred in
WARM_ROOM_C, COLD_ROOM_C = 25.0, 16.0
GRAINS_FROM = 0.1  # a formula readier to grain than this is held clear for longer
PREPARE_MIN, WATER_OFF_MIN = 15.0, 20.0
FOLLOW_UPS = ((1, "a day"), (3, "three days"), (14, "two weeks"), (91, "three months"))


def method(bench: Bench) -> Method:
    """The method for a bench. Raises :class:`Problem` for a school that cannot make this."""
    if bench.school not in SCHOOLS:
        raise Problem("Choose how it cools.", "school")
    bench.formula.require_mass()
    if bench.school == "cold_whip":
        return Method((_prepare(bench), _weigh(bench), *cold_whipped(bench)), None, None)
    window = _window(bench)
    steps = [_prepare(bench), _weigh(bench), *_heat(bench)]
    if bench.is_whipped:
        return Method((*steps, *whipped(bench, steps[-1])), None, window)
    cooled = cool_down(bench.prediction, bench.largest_body, bench.pour_c, bench.room_c, bench.school, bench.melt)
    return Method((*steps, *poured(bench, steps[-1], window, cooled)), cooled, window)


def _window(bench: Bench) -> float | None:
    """Minutes from pouring temperature until the unstirred pitcher sets, None when it never does."""
    set_c = bench.prediction.set_c
    if set_c is None:
        return None
    return pitcher_course(bench, bench.pour_c, "counter", stirred=False).minutes_to(set_c)


def melt_to(bench: Bench) -> float:
    """How hot the melt has to become: 5 K above clear and as hot as it is poured, but never above
    what its ingredients stand."""
    clear = bench.prediction.clear_c
    wanted = bench.room_c if clear is None else clear + MELT_ABOVE_CLEAR_K
    if clear is not None and clear > bench.room_c:
        # Hot enough, too, for what follows: the last things and the pour.
        wanted = max(wanted, add_at(bench) if bench.items("cool") else 0.0, 0.0 if bench.is_whipped else bench.pour_c)
    return min(wanted, _limit(bench)[0])


def _limit(bench: Bench) -> tuple[float, str]:
    """The lowest damage limit in the pot, and whose it is."""
    limits = [
        (leaf.damage_c, item.name)
        for item in bench.items("water", "wax", "butter", "oil")
        for leaf, _ in item.parts
        if leaf.damage_c
    ]
    return min(limits, default=(90.0, "the melt"))


def add_at(bench: Bench) -> float:
    """Where antioxidant and scent go in: the higher of 45 degrees C and 6 K above setting, and
    not below the pouring temperature, as the melt is poured next and not heated again."""
    set_c = bench.prediction.set_c
    lowest = max(ADD_AT_LEAST_C, bench.pour_c if set_c is None or not bench.is_whipped else 0.0)
    return lowest if set_c is None else max(lowest, set_c + ADD_ABOVE_SET_K)


def _prepare(bench: Bench) -> Step:
    words = ["Clear and wipe the bench; tools, pitcher and containers clean, sanitised and bone dry."]
    if any(vessel.kind == "jar" for vessel in bench.vessels.values()) and not bench.is_whipped:
        words.append("Stand glass jars somewhere warm, so that the hot melt does not crack them.")
    if any(leaf.role == "butter" for item in bench.items("butter") for leaf, _ in item.parts):
        words.append("Smell the butters: what smells of crayons or old nuts is rancid and stays out.")
    if bench.room_c >= WARM_ROOM_C:
        words.append("In this warm room it sets slowly: make space in the cold before you begin.")
    elif bench.room_c <= COLD_ROOM_C:
        words.append("In this cold room it sets fast: warm the containers and line them up within reach.")
    return Step(
        "prepare",
        "Make ready",
        " ".join(words),
        "One drop of water or a dirty spoon is where mould begins; nothing here is preserved.",
        PREPARE_MIN,
        caution="Gloves and goggles. Keep one pot for wax. " + BURNS,
    )


def _weigh(bench: Bench) -> Step:
    late = bench.items("cool")
    text = "Weigh into the pitcher in the order of the pot, tared between lines; write down what the scale says."
    if late:
        names = listed([item.name for item in late])
        text += f" Weigh {names} into a small glass of {'their' if len(late) > 1 else 'its'} own and cover it."
    reason = "What was really weighed decides the firmness, so the record follows the scale and not the plan."
    return Step("weigh", "Weigh", text, reason, 2.0 + len(bench.formula.lines))


def _heat(bench: Bench) -> Iterator[Step]:
    wet, powders, late = bench.items("water"), bench.items("powder"), bench.items("cool")
    start_c = bench.room_c
    if wet:
        yield Step(
            "water_off",
            "Drive the water off",
            f"Warm {listed([item.name for item in wet])} with the oils, before any wax, until no bubble rises.",
            "Water that is shut in by wax cannot leave any more; it spoils the balm or spits when it is hot.",
            WATER_OFF_MIN,
            at="stove",
            caution="Spirit vapour burns: no flame, open window. What still holds water needs a preservative system "
            "that Calm Tin does not design.",
        )
    hot = melt_to(bench)
    if hot > start_c + 1:
        course = pitcher_course(bench, start_c, "water_bath", stirred=False)
        yield _melting(bench, course, hot)
        held = HELD_MINUTES if readiness(bench.formula) > GRAINS_FROM else 3.0
        yield Step(
            "clear",
            "Clear test",
            f"Stir, look through it against the light: clear, no streaks, no haze. Keep it so for {held:.0f} minutes. "
            "A drop on a cold plate shows how firm it will be.",
            "Cloudy means something is still solid."
            + (" Butters that may grain forget their old crystals only when held clear." if held > 3 else ""),
            held,
            at="stove",
            caution=f"Not above {bench.temp(_limit(bench)[0])}: {_limit(bench)[1].lower()} suffers.",
            minutes=np.array([0.0, held]),
            temps_c=np.array([hot, hot]),
        )
    warm = max(hot, start_c)
    if powders and not bench.is_whipped:
        yield flat(
            Step(
                "powders",
                "Powders",
                f"Off the heat. Stir in {listed([item.name for item in powders])} through a sieve until they "
                "vanish, and stir again whenever you pour.",
                "Powder sinks: what is not kept moving is all in the last tin.",
                3.0,
            ),
            warm,
        )
    goal = add_at(bench) if late or bench.is_whipped else bench.pour_c
    if warm > goal + 0.5:
        course = pitcher_course(bench, warm, "counter", stirred=True)
        yield along(
            Step(
                "cool",
                "A little cooler",
                f"Off the heat, stirring now and then, down to {bench.temp(goal)}.",
                "Cool enough to keep scent and antioxidant, warm enough that nothing sets around them."
                if late
                else "Poured too hot it shrinks into a sinkhole; poured too cool it sets in folds.",
                course.minutes_to(goal) or 0.0,
                hands=False,
            ),
            course,
        )
    if late:
        yield flat(_additions(bench, late, goal), min(warm, goal))


def _melting(bench: Bench, course: Course, hot: float) -> Step:
    most, whose = _limit(bench)
    into = []
    for item in bench.items("wax", "butter", "oil"):
        clear = clear_alone(item.key)
        damage = min((leaf.damage_c for leaf, _ in item.parts if leaf.damage_c), default=None)
        into.append(
            Into(
                item.name,
                "liquid already" if clear is None or clear <= bench.room_c else f"alone molten at {bench.temp(clear)}",
                f"never above {bench.temp(damage)}" if damage else "",
            )
        )
    clear = bench.prediction.clear_c
    together = "" if clear is None else f"Together they are clear from {bench.temp(clear)}. "
    caution = BURNS
    if clear is not None and clear + MELT_ABOVE_CLEAR_K > most:
        caution = f"It is clear only from {bench.temp(clear)}, and {whose.lower()} suffers above {bench.temp(most)}: "
        caution += f"melt the rest first and add {whose.lower()} at the end, for as short as you can. " + BURNS
    return along(
        Step(
            "melt",
            "Melt",
            f"Water bath, low heat, in this order, each when the last has melted. {together}"
            f"Bring it to {bench.temp(hot)}.",
            "Hardest first: so the butters are not cooked while the wax catches up.",
            course.minutes_to(hot) or float(course.minutes[-1]),
            at="stove",
            caution=caution,
            into=tuple(into),
        ),
        course,
    )


def _additions(bench: Bench, late: list[Ingredient], goal: float) -> Step:
    text = f"At {bench.temp(goal)} stir in {listed([item.name for item in late])}, half a minute each."
    scents = [item for item in late if item.group == "aromatic"]
    flashing = [item for item in scents if item.flash_c is not None and item.flash_c < goal]
    caution = ""
    if flashing:
        told = listed([f"{item.name} ({bench.temp(item.flash_c or 0)})" for item in flashing])
        caution = (
            f"This melt sets so warm that it must still be {bench.temp(goal)}, above the flash point of {told}: away "
            "from the stove, no flame or spark near, lid on at once. Or take a wax that sets cooler."
        )
    elif scents and goal > COMFORT_C:
        caution = (
            f"This melt sets at {bench.temp(bench.prediction.set_c or goal)}, so the scent goes in warmer than it "
            f"likes ({bench.temp(COMFORT_C)}): some is lost. Stir it in quickly, cover, pour at once."
        )
    reason = "Too hot and they fly off; too cool and the melt sets around them."
    return Step("add", "Off the heat: the last things", text, reason, 1.0 + 0.5 * len(late), caution=caution)
