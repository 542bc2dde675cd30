"""How warm the pot is at each step: hot enough to be clear, cool enough for what is in it.

No step is colder than what is in the pot by then is clear, nor hotter than any of it stands; where
nothing fits, what suffers is named, and by how much.
"""

from collections.abc import Iterable

import numpy as np

from balmcore.errors import Problem
from balmcore.making.pot import (
    MELT_ABOVE_CLEAR_K,
    MELTED,
    STAGES,
    SURELY_CLEAR_K,
    Stage,
    coldest_c,
    heat_limit,
    part_of,
    stands,
)
from balmcore.making.steps import Setup, pitcher_course
from balmcore.physics.firmness import predict
from balmcore.physics.grain import HELD_ABOVE_CLEAR_K, SEEDED, readiness
from balmcore.physics.ways_of_heating import THERMOSTAT, hottest_c
from balmcore.tables import Ingredient
from balmcore.wording import as_sentence

COOLER_K = 5.0  # between the clear melt and the last things
ADD_ABOVE_SET_K = 6.0  # what is stirred in does not set where it falls
ADD_AT_LEAST_C = 45.0  # scents and vitamins mix in below which they do not
SHORT_OF_BATH_K = 3.0  # a melt never quite comes to its bath's temperature
GRAINS_FROM = 0.1  # a formula readier to grain than this is held clear for longer
SEEDS_LEFT, LEAST_TO_SEED = 0.1, 0.05  # of the solids at 20 degrees; of the whole
NEAR_K = 0.5  # no step of its own for less


def clear_of_pot(setup: Setup) -> float | None:
    """Where what is melted together is clear, before anything goes in off the heat; None where nothing has to melt."""
    melted = part_of(setup.left, setup.items(Stage.WATER, *MELTED))
    return predict(melted).clear_c if melted.total else None


def melt_to(setup: Setup) -> float:
    """How hot the melt has to become: 5 K above clear, hotter by as much than what follows it, and
    20 K above clear where butters would remember their crystals; not above what its ingredients
    stand, but surely clear in any case."""
    clear = clear_of_pot(setup)
    if clear is None or clear <= setup.handling.room_c:
        return min(setup.handling.room_c if clear is None else clear + MELT_ABOVE_CLEAR_K, limit(setup)[0])
    wanted = [clear + MELT_ABOVE_CLEAR_K]
    if not setup.is_whipped:
        wanted.append(setup.handling.pour_c)
    if setup.items(Stage.COOL):
        wanted.append(last_things_at(setup) + COOLER_K)
    if must_forget(setup):
        wanted.append(clear + HELD_ABOVE_CLEAR_K)
    return max(min(max(wanted), limit(setup)[0]), clear + SURELY_CLEAR_K)


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


def limit(setup: Setup, *also: Stage) -> tuple[float, str]:
    """The lowest damage limit of what is melted together, and whose it is; that of its way of heating where that is
    lower. With other stages, of what goes in at them as well."""
    items = setup.items(Stage.WATER, *MELTED, *also)
    limits = [(most, item.name) for item in items if (most := heat_limit(item)) is not None]
    return min([*limits, (hottest_c(setup.handling.heating, setup.left) - SHORT_OF_BATH_K, "the melt")])


def set_to(setup: Setup) -> float:
    """How hot the bath is kept, or the thermostat set: a cooker, whose wall nothing cools, no hotter than what is in it
    stands."""
    own = hottest_c(setup.handling.heating, setup.left)
    if setup.handling.heating != THERMOSTAT:
        return own
    return min([own, *(most for item in setup.items(*MELTED) if (most := heat_limit(item)) is not None)])


def coldest_of_pot(setup: Setup) -> float | None:
    """How cold the melt may be just before the last things go in: surely clear with them and without."""
    whole = coldest_c(setup.left)
    before = part_of(setup.left, setup.items(*(stage for stage in STAGES if stage is not Stage.COOL)))
    clear = predict(before).clear_c if before.total else None
    return whole if whole is None or clear is None else max(whole, clear + SURELY_CLEAR_K)


def add_at(setup: Setup) -> float:
    """Where antioxidant and scent go in: the higher of 45 degrees C and 6 K above setting, surely
    clear, and not below the pouring temperature, as the melt is poured next and not heated again."""
    set_c, coldest = setup.prediction.set_c, coldest_of_pot(setup)
    lowest = ADD_AT_LEAST_C if setup.is_whipped and set_c is not None else max(ADD_AT_LEAST_C, setup.handling.pour_c)
    return lowest if set_c is None or coldest is None else max(lowest, set_c + ADD_ABOVE_SET_K, coldest)


def delicate_at(setup: Setup) -> float:
    """How warm the melt is once what cannot stand its heat is stirred in: the most that all of that stands, but surely
    clear and above setting."""
    limits = [most for item in setup.items(Stage.DELICATE) if (most := heat_limit(item)) is not None]
    return max(min(limits), coldest_of_pot(setup) or setup.handling.room_c)


def last_things_at(setup: Setup) -> float:
    """How warm the melt is when the last things go in: so much above :func:`add_at`, where it is poured
    next, as it loses while they are stirred in. A small melt loses much. Not hotter than what is in it stands, where
    it can still be poured then."""
    lowest = add_at(setup)
    if setup.is_whipped:
        return lowest
    course = pitcher_course(setup, max(limit(setup)[0], lowest), "counter", stirred=True)
    poured = course.minutes_to(setup.handling.pour_c)
    wanted = lowest if poured is None else max(lowest, course.temp_at(max(0.0, poured - adding_min(setup))))
    most = limit(setup, Stage.DELICATE, Stage.COOL)[0]
    return max(min(wanted, most), setup.handling.pour_c, coldest_of_pot(setup) or 0.0)


def adding_min(setup: Setup) -> float:
    """Minutes that it takes to stir the last things in."""
    return 1.0 + 0.5 * len(setup.items(Stage.COOL))


def before_delicate(setup: Setup, warm: float, goal: float) -> tuple[float, float]:
    """How warm the pot is, and what cannot stand it, in a glass of its own, so that together they come to ``goal``: the
    glass as cool as the pot can make up for."""
    items = setup.items(Stage.DELICATE)
    cold = float(part_of(setup.left, items).total / setup.left.total)
    before = min(warm, max(goal, (clear_of_pot(setup) or goal) + SURELY_CLEAR_K))
    most = min(most for item in items if (most := heat_limit(item)) is not None)
    if (glass := goal - (before - goal) * (1 - cold) / cold) > most:
        before = min(warm, goal + (goal - most) * cold / (1 - cold))
        glass = goal - (before - goal) * (1 - cold) / cold
    return before, max(setup.handling.room_c, glass)


def suffers(
    setup: Setup, items: Iterable[Ingredient], temp_c: float, is_told: bool = False
) -> tuple[tuple[str, ...], str]:
    """What of some things does not stand a temperature: their keys, and what is said of it, with what to do about it
    where it was not told before."""
    found = [item for item in items if not stands(item, temp_c)]
    said = [
        f"{as_sentence(item.name)} suffers above {setup.temp(most)}, and this is {setup.gap(temp_c - most)} hotter."
        for item in found
        if (most := heat_limit(item)) is not None
    ]
    if said and not is_told:
        said.append("Colder, the melt would set. Keep it short, take a wax that melts lower, or leave it out.")
    return tuple(item.key for item in found), " ".join(said)


def poured_wrong(setup: Setup) -> tuple[tuple[str, ...], str]:
    """The keys of what suffers at the temperature that was chosen for pouring, and what is to be said of that: of what
    is no melt there, too."""
    pour_c, clear = setup.handling.pour_c, setup.prediction.clear_c
    too_hot, said = suffers(setup, setup.items(*STAGES), pour_c, is_told=True)
    if clear is not None and pour_c < clear - NEAR_K and setup.handling.melting != SEEDED:
        said += (
            f" It is clear only from {setup.temp(clear)}, {setup.gap(clear - pour_c)} above this: poured so cold it "
            "comes in lumps. Pour it hotter."
        )
    return too_hot, said.strip()
