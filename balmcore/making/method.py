"""The method of one batch: what to do in what order, how hot, how long, and why."""

from collections.abc import Iterator

import numpy as np

from balmcore.errors import Problem
from balmcore.making.finishing import cold_whipped, poured, whipped
from balmcore.making.scaling import Stage
from balmcore.making.steps import BURNS, Method, PotEntry, Setup, Step, along, flat, pitcher_course
from balmcore.physics.cooling import COOLING_METHODS, cool_down
from balmcore.physics.firmness import clear_alone
from balmcore.physics.grain import HELD_MINUTES, readiness
from balmcore.physics.thermal import Course
from balmcore.tables import Ingredient, Role
from balmcore.wording import in_sentence, listed

MELT_ABOVE_CLEAR_K = 5.0
ADD_ABOVE_SET_K = 6.0
ADD_AT_LEAST_C = 45.0
COMFORT_C = 50.0  # above this scent is lost as quickly as it is stirred in
WARM_ROOM_C, COLD_ROOM_C = 25.0, 16.0
GRAINS_FROM = 0.1  # a formula readier to grain than this is held clear for longer
PREPARE_MIN, WATER_OFF_MIN = 15.0, 20.0
FOLLOW_UPS = ((1, "a day"), (3, "three days"), (14, "two weeks"), (91, "three months"))


def method_for(setup: Setup) -> Method:
    """The method for a setup. Raises :class:`Problem` for a way of cooling that cannot make this."""
    if setup.cooling not in COOLING_METHODS:
        raise Problem("Choose how it cools.", "cooling")
    setup.composition.require_mass()
    if setup.cooling == "cold_whip":
        return Method((_prepare(setup), _weigh(setup), *cold_whipped(setup)), None, None)
    window = _window(setup)
    steps = [_prepare(setup), _weigh(setup), *_heat(setup)]
    if setup.is_whipped:
        return Method((*steps, *whipped(setup, steps[-1])), None, window)
    cooled = cool_down(setup.prediction, setup.largest_body, setup.pour_c, setup.room_c, setup.cooling, setup.melt)
    return Method((*steps, *poured(setup, steps[-1], window, cooled)), cooled, window)


def _window(setup: Setup) -> float | None:
    """Minutes from pouring temperature until the unstirred pitcher sets, None when it never does."""
    set_c = setup.prediction.set_c
    if set_c is None:
        return None
    return pitcher_course(setup, setup.pour_c, "counter", stirred=False).minutes_to(set_c)


def melt_to(setup: Setup) -> float:
    """How hot the melt has to become: 5 K above clear and as hot as it is poured, but never above
    what its ingredients stand."""
    clear = setup.prediction.clear_c
    wanted = setup.room_c if clear is None else clear + MELT_ABOVE_CLEAR_K
    if clear is not None and clear > setup.room_c:
        # Hot enough, too, for what follows: the last things and the pour.
        wanted = max(
            wanted, add_at(setup) if setup.items(Stage.COOL) else 0.0, 0.0 if setup.is_whipped else setup.pour_c
        )
    return min(wanted, _limit(setup)[0])


def _limit(setup: Setup) -> tuple[float, str]:
    """The lowest damage limit in the pot, and whose it is."""
    limits = [
        (leaf.damage_c, item.name)
        for item in setup.items(Stage.WATER, Stage.WAX, Stage.BUTTER, Stage.OIL)
        for leaf, _ in item.parts
        if leaf.damage_c
    ]
    return min(limits, default=(90.0, "the melt"))


def add_at(setup: Setup) -> float:
    """Where antioxidant and scent go in: the higher of 45 degrees C and 6 K above setting, and
    not below the pouring temperature, as the melt is poured next and not heated again."""
    set_c = setup.prediction.set_c
    lowest = max(ADD_AT_LEAST_C, setup.pour_c if set_c is None or not setup.is_whipped else 0.0)
    return lowest if set_c is None else max(lowest, set_c + ADD_ABOVE_SET_K)


def _prepare(setup: Setup) -> Step:
    words = ["Clear and wipe the bench; tools, pitcher and containers clean, sanitised and bone dry."]
    if any(vessel.kind == "jar" for vessel in setup.vessels.values()) and not setup.is_whipped:
        words.append("Stand glass jars somewhere warm, so that the hot melt does not crack them.")
    if any(leaf.role == Role.BUTTER for item in setup.items(Stage.BUTTER) for leaf, _ in item.parts):
        words.append("Smell the butters: what smells of crayons or old nuts is rancid and stays out.")
    if setup.room_c >= WARM_ROOM_C:
        words.append("In this warm room it sets slowly: make space in the cold before you begin.")
    elif setup.room_c <= COLD_ROOM_C:
        words.append("In this cold room it sets fast: warm the containers and line them up within reach.")
    return Step(
        "prepare",
        "Make ready",
        " ".join(words),
        "One drop of water or a dirty spoon is where mould begins; nothing here is preserved.",
        PREPARE_MIN,
        caution="Gloves and goggles. Keep one pot for wax. " + BURNS,
    )


def _weigh(setup: Setup) -> Step:
    late = setup.items(Stage.COOL)
    text = "Weigh into the pitcher in the order of the pot, tared between lines; write down what the scale says."
    if late:
        names = listed([item.name for item in late])
        text += f" Weigh {names} into a small glass of {'their' if len(late) > 1 else 'its'} own and cover it."
    reason = "What was really weighed decides the firmness, so the record follows the scale and not the plan."
    return Step("weigh", "Weigh", text, reason, 2.0 + len(setup.composition.lines))


def _heat(setup: Setup) -> Iterator[Step]:
    wet, powders, late = setup.items(Stage.WATER), setup.items(Stage.POWDER), setup.items(Stage.COOL)
    start_c = setup.room_c
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
    hot = melt_to(setup)
    if hot > start_c + 1:
        course = pitcher_course(setup, start_c, "water_bath", stirred=False)
        yield _melting(setup, course, hot)
        held = HELD_MINUTES if readiness(setup.composition) > GRAINS_FROM else 3.0
        yield Step(
            "clear",
            "Clear test",
            f"Stir, look through it against the light: clear, no streaks, no haze. Keep it so for {held:.0f} minutes. "
            "A drop on a cold plate shows how firm it will be.",
            "Cloudy means something is still solid."
            + (" Butters that may grain forget their old crystals only when held clear." if held > 3 else ""),
            held,
            at="stove",
            caution=f"Not above {setup.temp(_limit(setup)[0])}: {in_sentence(_limit(setup)[1])} suffers.",
            minutes=np.array([0.0, held]),
            temps_c=np.array([hot, hot]),
        )
    warm = max(hot, start_c)
    if powders and not setup.is_whipped:
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
    goal = add_at(setup) if late or setup.is_whipped else setup.pour_c
    if warm > goal + 0.5:
        course = pitcher_course(setup, warm, "counter", stirred=True)
        yield along(
            Step(
                "cool",
                "A little cooler",
                f"Off the heat, stirring now and then, down to {setup.temp(goal)}.",
                "Cool enough to keep scent and antioxidant, warm enough that nothing sets around them."
                if late
                else "Poured too hot it shrinks into a sinkhole; poured too cool it sets in folds.",
                course.minutes_to(goal) or 0.0,
                hands=False,
            ),
            course,
        )
    if late:
        yield flat(_additions(setup, late, goal), min(warm, goal))


def _melting(setup: Setup, course: Course, hot: float) -> Step:
    most, whose = _limit(setup)
    into = []
    for item in setup.items(Stage.WAX, Stage.BUTTER, Stage.OIL):
        clear = clear_alone(item)
        damage = min((leaf.damage_c for leaf, _ in item.parts if leaf.damage_c), default=None)
        into.append(
            PotEntry(
                item.name,
                "liquid already" if clear is None or clear <= setup.room_c else f"alone molten at {setup.temp(clear)}",
                f"never above {setup.temp(damage)}" if damage else "",
            )
        )
    clear = setup.prediction.clear_c
    together = "" if clear is None else f"Together they are clear from {setup.temp(clear)}. "
    caution = BURNS
    if clear is not None and clear + MELT_ABOVE_CLEAR_K > most:
        caution = (
            f"It is clear only from {setup.temp(clear)}, and {in_sentence(whose)} suffers above {setup.temp(most)}: "
        )
        caution += f"melt the rest first and add {in_sentence(whose)} at the end, for as short as you can. " + BURNS
    return along(
        Step(
            "melt",
            "Melt",
            f"Water bath, low heat, in this order, each when the last has melted. {together}"
            f"Bring it to {setup.temp(hot)}.",
            "Hardest first: so the butters are not cooked while the wax catches up.",
            course.minutes_to(hot) or float(course.minutes[-1]),
            at="stove",
            caution=caution,
            into=tuple(into),
        ),
        course,
    )


def _additions(setup: Setup, late: list[Ingredient], goal: float) -> Step:
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
    reason = "Too hot and they fly off; too cool and the melt sets around them."
    return Step("add", "Off the heat: the last things", text, reason, 1.0 + 0.5 * len(late), caution=caution)
