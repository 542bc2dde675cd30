"""Ways of heating a melt: schools too, each with its course and its cautions.

A water bath is our default. A slow cooker or a wax melter holds its own warmth by a thermostat; a microwave heats
butters and oils from within, in short bursts. A flame, or a pot straight on the plate, is none of them.
"""

import math
from dataclasses import dataclass

import numpy as np

from balmcore.composition import Composition
from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.physics.melting import bath_c, melting
from balmcore.physics.thermal import Body, Course, Melt
from balmcore.tables import Role

BATH, THERMOSTAT, MICROWAVE, DIRECT = "bath", "thermostat", "microwave", "direct"
COOKER_C = 95.0  # what a cooker on low or a wax melter comes to at most; usual
# A warm wall all round, through a pot or liner, and no water to carry the heat: half as quick as a bath (our figure).
COOKER_PART, COOKER_WARM_UP_MIN = 0.5, 15.0
# Of a kitchen microwave at half power fat takes up a part only; twenty seconds on, forty of stirring (our figures).
ABSORBED_W, BURST_S, STIRRED_S = 250.0, 20.0, 40.0
LEAST_MICROWAVED_G = 30.0  # less is scalding before a burst is over; our figure
HOTTEST_BURST_C = 80.0  # a burst is stopped well before anything smokes
TICK_S = 10.0


@dataclass(frozen=True)
class HeatingMethod:
    """One way of heating: its name, why one takes it, what is to be minded beside what hot wax asks for anyway, how it
    ``warms`` the pot in the words of a step, how it ``keeps`` one warm that waits, what its ``course`` is like, and
    whether it goes on ``by_itself`` under somebody's eyes."""

    key: str
    name: str
    reason: str
    caution: str
    warms: str
    keeps: str
    course: str = ""
    by_itself: bool = True


HEATING_METHODS = {
    method.key: method
    for method in (
        HeatingMethod(
            BATH,
            "Water bath",
            "Our default: water cannot be hotter than it boils, so nothing in it scorches, and it needs no device.",
            "",
            "Water bath at {hot}, low heat",
            "on the bath",
            " The bath itself takes ten minutes to warm, and lumps melt slowly until they swim.",
        ),
        HeatingMethod(
            THERMOSTAT,
            "Slow cooker or wax melter",
            "A warm wall all round and no water near the melt; slower than a bath, and it holds by itself.",
            "A thermostat can fail and cook on: look at the thermometer, do not leave it alone, and set it no higher "
            "than the step says.",
            "Cooker or melter on low, at {hot}, lid on while lumps are left",
            "in the cooker",
            " Its wall takes a quarter of an hour to warm, and lumps melt slowly until they swim.",
        ),
        HeatingMethod(
            MICROWAVE,
            "Microwave, in bursts",
            "Quick for butters and oils without wax: twenty seconds at half power, stirred between.",
            "A microwave heats in spots: what looks solid can be scalding inside, and boil up when it is stirred. Use "
            "short bursts, a cloth round the pitcher and nothing metal. Stir and measure after each.",
            "Microwave at half power, twenty seconds at a time, stirred and measured between",
            "warmed again in short bursts",
            by_itself=False,
        ),
    )
}
REFUSED = (
    "Straight on the plate or over a flame the bottom is far hotter than any thermometer in it says: wax smokes, and "
    "burns like oil. Use a water bath, or a cooker with a thermostat."
)
DIRECT_NAME = "Straight on the plate, or a flame"


def require_heating(key: str, composition: Composition, grams: float) -> HeatingMethod:
    """The way of that key, for so many grams of a composition. Raises :class:`Problem` for one that is dangerous with
    it, and why."""
    if key == DIRECT:
        raise Problem(REFUSED, "heating")
    if key not in HEATING_METHODS:
        raise Problem("Choose how it is heated.", "heating")
    if key == MICROWAVE:
        if grams < LEAST_MICROWAVED_G:
            raise Problem(
                f"A microwave can't heat less than {mass_words(LEAST_MICROWAVED_G)} safely: it is scalding before the "
                "first burst is over. Use a water bath.",
                "heating",
            )
        held = [line for line in composition.expanded.lines if line.share]
        if waxes := [line.ingredient.name for line in held if line.ingredient.role == Role.WAX]:
            raise Problem(
                f"{waxes[0]} takes up little in a microwave and hides spots that are far too hot: a water bath, or a "
                "cooker with a thermostat.",
                "heating",
            )
        if wet := [line.ingredient.name for line in held if line.ingredient.water_bearing]:
            raise Problem(
                f"{wet[0]} brings water and perhaps spirit, which boil up and burn in a closed oven: drive them off in "
                "a water bath.",
                "heating",
            )
    return HEATING_METHODS[key]


def hottest_c(key: str, composition: Composition) -> float:
    """How hot a way of heating can make a melt, in degrees C."""
    return {BATH: bath_c(composition), THERMOSTAT: COOKER_C}.get(key, HOTTEST_BURST_C)


def heating_course(key: str, melt: Melt, body: Body, start_c: float, around_c: float) -> Course:
    """How a cold charge warms by a way of heating that is kept at ``around_c``. Raises :class:`Problem` for a body
    without mass, surface or volume."""
    if key == MICROWAVE:
        return _bursts(melt, body, start_c)
    if key == THERMOSTAT:
        return melting(melt, body, start_c, around_c, COOKER_WARM_UP_MIN, COOKER_PART)
    return melting(melt, body, start_c, around_c)


def _bursts(melt: Melt, body: Body, start_c: float) -> Course:
    """Heat taken up within, in bursts with stirring between, told as its mean."""
    table, enthalpy = melt.table
    watts = ABSORBED_W * BURST_S / (BURST_S + STIRRED_S)
    first, last = (float(np.interp(each, table, enthalpy)) for each in (start_c, HOTTEST_BURST_C))
    ticks = max(1, math.ceil((last - first) * body.mass_g / (watts * TICK_S)))
    heat = np.linspace(first, max(first, last), ticks + 1)
    return Course.without_lag(np.interp(heat, enthalpy, table), np.arange(ticks + 1) * TICK_S / 60)
