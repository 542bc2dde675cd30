"""The method of one batch: what to do in what order, how hot, how long, and why."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import lru_cache

from balmcore.composition import Composition
from balmcore.display import CELSIUS, Display, spoken
from balmcore.errors import Problem
from balmcore.making.method.dividing import glasses
from balmcore.making.method.flash import with_flash_points
from balmcore.making.method.heating import heated, water_off
from balmcore.making.method.pouring import after_pouring, cold_whipped, poured, whipped
from balmcore.making.method.rounds import each_pitcher, in_rounds, rounds_told
from balmcore.making.pot import Stage, pour_temperature
from balmcore.making.scaling import Filling, by_suit, filled_density, usual_pitcher
from balmcore.making.steps import BURNS, Handling, Method, Setup, Step, Vessels, pitcher_course
from balmcore.making.whippers import whipper_of
from balmcore.physics.cooling import COOLING_METHODS, DEFAULT, WHIPPED, cool_down
from balmcore.physics.grain import MELTING_METHODS
from balmcore.physics.ways_of_heating import require_heating
from balmcore.tables import Container, Kind, Role
from balmcore.wording import listed

WARM_ROOM_C, COLD_ROOM_C = 25.0, 16.0  # from which, and up to which, a room is worth a word
PREPARE_MIN = 15.0  # tins out, scale on, table covered: usual
READY_MIN = 5.0  # on a bench where an earlier batch was made: wipe out, next tins out; our figure
SET_OUT_MIN, FEW_PIECES = 0.1, 12  # for each piece more than these: six seconds to wipe it and stand it out
WEIGH_KG_MIN = 1.0  # for each kilogram after the first: scooped, cut and tared again
# Graining shows within two weeks, bloom and age by the season.
FOLLOW_UPS = ((1, "a day"), (3, "three days"), (14, "two weeks"), (91, "three months"))


def usual_setup(
    composition: Composition,
    kind: Kind,
    grams: float,
    containers: Mapping[str, Container],
    room_c: float,
    show: Display = CELSIUS,
) -> Setup:
    """So many grams made as is usual: in as many containers that suit the kind as they fill, in the smallest pitcher
    that holds them."""
    pour_c = pour_temperature(composition, room_c=room_c)
    density = filled_density(composition.without_volatiles, pour_c, kind.overrun)
    chosen = by_suit(kind, containers)[0]
    one = Filling(chosen.key, chosen.capacity_ml, chosen.fill, 1)
    filling = replace(one, count=max(1, round(grams / one.grams(density))))
    pitcher = usual_pitcher(containers, grams / (density * (1 + kind.overrun)), kind.overrun)
    handling = Handling(pour_c, kind.overrun, room_c, WHIPPED if kind.overrun else DEFAULT)
    return Setup(composition, kind, grams, Vessels((filling,), {chosen.key: chosen}, pitcher), handling, show=show)


def method_for(setup: Setup) -> Method:
    """The method for a setup. Raises :class:`Problem` for a way of cooling that cannot make this."""
    return _method(setup, spoken())


@lru_cache(maxsize=32)  # a bench asks for its method at every look, and twice when something is done
def _method(setup: Setup, _spoken: Display) -> Method:
    if setup.handling.cooling not in COOLING_METHODS:
        raise Problem("Choose how it cools.", "cooling")
    if setup.handling.melting not in MELTING_METHODS:
        raise Problem("Choose how far it is melted.", "melting")
    setup.composition.require_mass()
    require_heating(setup.handling.heating, setup.composition, setup.one_round.total_g)
    if setup.is_whipped:
        whipper_of(setup.handling.whipper)
    if setup.handling.cooling == "cold_whip":
        return _checked(setup, Method((_prepare(setup), _weigh(setup), *cold_whipped(setup)), None, None))
    window = _window(setup.one_round)
    steps = [_prepare(setup), *water_off(setup), _weigh(setup)]
    if setup.is_whipped:
        steps += in_rounds(setup, lambda _: heated(setup.one_round))
        return _checked(setup, Method((*steps, *whipped(setup, steps[-1])), None, window))
    cooled = cool_down(
        setup.prediction,
        setup.largest_body,
        setup.handling.pour_c,
        setup.handling.room_c,
        setup.handling.cooling,
        setup.melt,
        setup.is_held,
        setup.count,
    )

    def one(number: int) -> Iterator[Step]:
        """The pot of one round, from cold until it is poured: what becomes several things waits for the others."""
        found = list(heated(setup.one_round))
        yield from found
        if number == setup.rounds or not setup.portions:
            yield from poured(setup, found[-1], window, number, cooled)

    steps += in_rounds(setup, one)
    return _checked(setup, Method((*steps, *after_pouring(setup, cooled)), cooled, window))


def _checked(setup: Setup, method: Method) -> Method:
    """A method whose every step was held against the flash points of what is in it."""
    return replace(method, steps=tuple(with_flash_points(setup, method.steps)))


def _window(setup: Setup) -> float | None:
    """Minutes from pouring temperature until the unstirred pitcher sets, None when it never does."""
    set_c = setup.prediction.set_c
    if set_c is None:
        return None
    return pitcher_course(setup, setup.handling.pour_c, "counter", stirred=False).minutes_to(set_c)


def _prepare(setup: Setup) -> Step:
    words = ["Clear and wipe the bench; tools, pitcher and containers clean, sanitised and bone dry."]
    length = PREPARE_MIN
    if setup.is_made_ready:
        words = [
            "The bench is ready from the batch before: wipe pitcher and tools out while they are warm, wash, "
            "sanitise and dry them; the next containers out, clean and dry."
        ]
        length = READY_MIN
    if any(vessel.kind == "jar" for vessel in setup.vessels.containers_by_key.values()) and not setup.is_whipped:
        words.append("Stand glass jars somewhere warm, so that the hot melt does not crack them.")
    if any(leaf.role == Role.BUTTER for item in setup.items(Stage.BUTTER) for leaf, _ in item.parts):
        words.append("Smell the butters: what smells of crayons or old nuts is rancid and stays out.")
    if setup.handling.room_c >= WARM_ROOM_C:
        words.append("In this warm room it sets slowly: make space in the cold before you begin.")
    elif setup.handling.room_c <= COLD_ROOM_C:
        words.append("In this cold room it sets fast: warm the containers and line them up within reach.")
    return Step(
        "prepare",
        "Make ready",
        " ".join(words),
        "One drop of water or a dirty spoon is where mould begins; nothing here is preserved.",
        length + SET_OUT_MIN * max(0, setup.count - FEW_PIECES),
        caution="Gloves and goggles. Keep one pot for wax. " + BURNS,
    )


def _weigh(setup: Setup) -> Step:
    late, lines = setup.items(Stage.DELICATE, Stage.COOL), len(setup.composition.lines)
    text = "Weigh into the pitcher in the order of the pot, tared between lines; write down what the scale says."
    if setup.items(Stage.WATER):
        done = setup.items(Stage.WATER, Stage.OIL)
        text += " What gave its water off goes in from its own pot, all of it: wipe that out with the butters."
        lines -= len(done)
    if late:
        text += f" Weigh {listed([item.name for item in late])} into small glasses of their own and cover them."
    if own := glasses(setup):
        text += f" {own}"
        lines += sum(not one.drops for portion in setup.portions for one in portion.finish.add)
    if told := rounds_told(setup):
        text += f" {told} {each_pitcher(setup)}"
    reason = "What was really weighed decides the firmness, so the record follows the scale and not the plan."
    length = 2.0 + lines * setup.rounds + WEIGH_KG_MIN * max(0.0, setup.total_g / 1000 - 1)
    return Step("weigh", "Weigh", text, reason, length)
