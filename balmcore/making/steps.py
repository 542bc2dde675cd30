"""What a batch is made of, with and where, and the steps it is made in.

Steps follow each other. Each knows whether it needs the maker's hands, what it occupies
(stove, refrigerator, freezer) and how warm the melt is meanwhile, so that the clock, the timeline
and the calendar all come from the same list.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from balmcore.composition import Array, Composition
from balmcore.display import CELSIUS, Display
from balmcore.making.portions import Portion
from balmcore.making.pot import Stage, pot_order, stages, usual_stage
from balmcore.making.scaling import Filling, Piece, filled_density, pieces_of
from balmcore.making.whippers import HAND, whipper_of
from balmcore.physics.cooling import CoolDown, body_of
from balmcore.physics.firmness import Prediction, predict
from balmcore.physics.grain import HELD
from balmcore.physics.thermal import Body, Course, Melt, places
from balmcore.physics.ways_of_heating import BATH, HEATING_METHODS, HeatingMethod, heating_course
from balmcore.tables import Container, Ingredient, Kind

BURNS = (
    "Melt in a water bath, never over a flame. Hot wax burns skin. If wax catches fire, turn off the heat and cover it "
    "with a lid. Never use water."
)
FINISH = "finish_"  # before the number of a finish, in the key of its step
AGAIN = "~"  # between the key of a step and the number of its pitcher, for all pitchers but the last
# Weighed apart, each goes in as it can melt; weighed into one pot it melts together.
IN_ORDER = "in this order, each when the last has melted"
HARDEST_FIRST = "Hardest first: so the butters are not cooked while the wax catches up."
MELTS_TOGETHER = "It melts together, no hotter than the most delicate of it bears."
MELT_FILL, WHIPPED_FILL = 0.75, 0.9  # of a pitcher that can be carried, of a bowl that is whipped in
NOTHING: Array = np.zeros(0)  # the course of a step that has none


@dataclass(frozen=True)
class Pace:
    """How fast a bench is: seconds to fill a piece by the kind of its container, where it has shown, and how many
    times as long as reckoned it takes to melt, by each way of heating that has shown; minutes to whip, by each
    whipper."""

    piece_s: Mapping[str, float] = field(default_factory=dict, hash=False)
    heating: Mapping[str, float] = field(default_factory=dict, hash=False)
    whip_min: Mapping[str, float] = field(default_factory=dict, hash=False)


USUAL_PACE = Pace()


@dataclass(frozen=True)
class Vessels:
    """What a melt is poured from and into: fillings, their containers by key, which are compared and not hashed, and
    the pitcher."""

    fillings: tuple[Filling, ...]
    containers_by_key: dict[str, Container] = field(hash=False)
    pitcher: Container


@dataclass(frozen=True)
class Handling:
    """How a melt is handled: at which temperature it is poured, how much it gains by whipping, the room, the way of
    cooling, how far it is melted, by what it is heated, and what whips it."""

    pour_c: float
    overrun: float
    room_c: float
    cooling: str
    melting: str = HELD
    heating: str = BATH
    whipper: str = HAND


@dataclass(frozen=True)
class Setup:
    """What a method is worked out for: a planned batch and the room it is made in.

    ``composition`` and ``total_g`` are as weighed in; ``portions`` are the finishes that the melt is divided into, none
    where it is one thing; ``pace`` is how fast this bench is; ``is_made_ready`` where an earlier batch of the day
    left the bench ready. Equal ones have one method.
    """

    composition: Composition
    kind: Kind
    total_g: float
    vessels: Vessels
    handling: Handling
    portions: tuple[Portion, ...] = ()
    pace: Pace = USUAL_PACE
    show: Display = CELSIUS
    is_made_ready: bool = False

    def handled(self, **changes: Any) -> "Setup":
        """The same handled in another way: ``cooling="freezer"``."""
        return replace(self, handling=replace(self.handling, **changes))

    @property
    def is_held(self) -> bool:
        """True when its melt is held clear where its butters ask for it."""
        return self.handling.melting == HELD

    @property
    def heat(self) -> HeatingMethod:
        """By what it is heated."""
        return HEATING_METHODS[self.handling.heating]

    @property
    def whip_min(self) -> float:
        """Minutes that its whipper takes: as this bench has shown, or as is usual."""
        whipper = whipper_of(self.handling.whipper)
        return self.pace.whip_min.get(whipper.key, whipper.minutes)

    @property
    def left(self) -> Composition:
        """What is in the pot once water and spirit were driven off."""
        return self.composition.without_volatiles

    @property
    def left_g(self) -> float:
        """Grams of that."""
        return self.total_g * float(self.left.total / self.composition.total)

    @property
    def count(self) -> int:
        """How many pieces are filled."""
        return sum(filling.count for filling in self.vessels.fillings)

    @cached_property
    def rounds(self) -> int:
        """How many pitchers it takes, one after another: one where it goes in to the brim, else as many as are three
        quarters full, or nearly full once air is in it."""
        melt_ml, room_ml = self.left_g / self.prediction.density_g_ml, self.vessels.pitcher.capacity_ml
        air = 1 + self.handling.overrun
        return 1 if melt_ml * air <= room_ml else math.ceil(melt_ml / (room_ml * min(MELT_FILL, WHIPPED_FILL / air)))

    @cached_property
    def one_round(self) -> "Setup":
        """What one of its pitchers holds, and as many pieces as that fills."""
        if self.rounds == 1:
            return self
        fillings = tuple(
            replace(filling, count=max(1, round(filling.count / self.rounds))) for filling in self.vessels.fillings
        )
        return replace(self, total_g=self.total_g / self.rounds, vessels=replace(self.vessels, fillings=fillings))

    @cached_property
    def pieces(self) -> tuple[Piece, ...]:
        """What each filled container holds."""
        return pieces_of(self.vessels.fillings, filled_density(self.left, self.handling.pour_c, self.handling.overrun))

    @cached_property
    def prediction(self) -> Prediction:
        """What the melt will be like, before any whipping."""
        return predict(self.left)

    @cached_property
    def melt(self) -> Melt:
        """The melt as something that stores heat."""
        return Melt(self.left)

    @cached_property
    def largest_body(self) -> Body:
        """The piece that holds most, which cools last."""
        density = self.prediction.density_g_ml
        biggest = max(self.vessels.fillings, key=lambda filling: filling.grams(density))
        return body_of(self.vessels.containers_by_key[biggest.key], biggest.grams(density), density)

    @property
    def stays_liquid(self) -> bool:
        """True where the room is warmer than where it sets."""
        set_c = self.prediction.set_c
        return set_c is not None and set_c <= self.handling.room_c

    @property
    def is_whipped(self) -> bool:
        """True when air is beaten in."""
        return self.handling.overrun > 0

    def temp(self, celsius: float) -> str:
        """A temperature in the maker's unit."""
        return self.show.temp_text(celsius)

    def gap(self, kelvin: float) -> str:
        """A difference of temperatures in the maker's unit, "9 °C"."""
        return self.show.temp_gap(kelvin)

    def mass(self, grams: float) -> str:
        """A mass in the maker's unit."""
        return self.show.mass_text(grams)

    def items(self, *wanted: Stage) -> list[Ingredient]:
        """The ingredients of some stages in the order of the pot."""
        there = {line.ingredient for line in self.composition.lines if line.share}
        return [item for item in pot_order(self.composition) if item in there and self.stage_of(item) in wanted]

    def stage_of(self, item: Ingredient) -> Stage:
        """When an ingredient goes into the pot: as it would by itself, for one that is not of the base."""
        return stages(self.composition).get(item) or usual_stage(item)


@dataclass(frozen=True)
class PotEntry:
    """One ingredient on its way into the pot: when it is molten, and what it must not exceed."""

    name: str
    needs: str
    limit: str


@dataclass(frozen=True)
class Step:
    """One step. ``hands`` is whether it needs the maker's hands, ``watched`` whether somebody has to stay in the room
    though it does not; ``at`` is what it occupies, and ``alone`` that nothing else may be there. ``round`` is which of
    several pitchers it is about, 0 for all of them; ``left_at`` is where its pieces are left from its end on.

    ``aim_c`` is the one temperature the step is about and ``aim`` says what for ("pour at"), the same
    wherever the step is shown; ``asks`` is False where it is what happens as the melt is left to set.
    ``adds`` are the keys of what goes into the pot at it, ``too_hot`` of what suffers at its temperature;
    the caution says so. ``flash_c`` is the lowest flash point of what is in the melt, None without a scent, and
    ``flash`` the caution where the step is warmer than that. ``minutes`` and ``temps_c`` (N,) are the melt's course
    during the step; empty when there is no melt to speak of.
    """

    key: str
    title: str
    text: str
    reason: str
    length: float
    hands: bool = True
    at: str = ""
    watched: bool = False
    alone: bool = False
    round: int = 0
    left_at: str = ""
    caution: str = ""
    into: tuple[PotEntry, ...] = ()
    aim: str = ""
    aim_c: float = 0.0
    asks: bool = True
    adds: tuple[str, ...] = ()
    too_hot: tuple[str, ...] = ()
    flash_c: float | None = None
    flash: str = ""
    minutes: Array = field(default_factory=lambda: NOTHING)
    temps_c: Array = field(default_factory=lambda: NOTHING)

    @property
    def base_key(self) -> str:
        """Its key, whichever of several pitchers it is about."""
        return self.key.partition(AGAIN)[0]

    @property
    def ends_c(self) -> float | None:
        """How warm the melt is at the end of it, None where there is no melt."""
        return float(self.temps_c[-1]) if self.temps_c.size else None


@dataclass(frozen=True)
class Method:
    """All steps of a batch, and what is known of its cooling."""

    steps: tuple[Step, ...]
    cooled: CoolDown | None
    window_min: float | None

    @property
    def length(self) -> float:
        """Minutes from the first step to the last label."""
        return sum(step.length for step in self.steps)

    @property
    def hands_on(self) -> float:
        """Minutes of it that need the maker's hands."""
        return sum(step.length for step in self.steps if step.hands)

    def timed(self) -> Iterator[tuple[float, Step]]:
        """Every step with the minute at which it begins."""
        start = 0.0
        for step in self.steps:
            yield start, step
            start += step.length


def pitcher_course(setup: Setup, start_c: float, place: str, stirred: bool) -> Course:
    """How the melt in its pitcher comes towards the temperature of a place."""
    body = body_of(setup.vessels.pitcher, setup.left_g, setup.prediction.density_g_ml)
    return setup.melt.course(body, start_c, places(setup.handling.room_c)[place], stirred)


def warming_course(setup: Setup, start_c: float, around_c: float) -> Course:
    """How it melts in its pitcher by its way of heating, which is kept at ``around_c``."""
    body = body_of(setup.vessels.pitcher, setup.left_g, setup.prediction.density_g_ml, in_bath=True)
    return heating_course(setup.handling.heating, setup.melt, body, start_c, around_c)


def along(step: Step, course: Course, after: float = 0.0) -> Step:
    """The step with the part of a course that falls into its length, from ``after`` minutes on."""
    end = after + step.length
    keep = (course.minutes > after) & (course.minutes < end)
    minutes = np.concatenate([[after], course.minutes[keep], [end]])
    temps = np.concatenate([[course.temp_at(after)], course.temps_c[keep], [course.temp_at(end)]])
    return _with_course(step, minutes - after, temps)


def between(step: Step, first_c: float, last_c: float) -> Step:
    """The step with the melt going evenly from one temperature to another."""
    return _with_course(step, np.array([0.0, step.length]), np.array([first_c, last_c]))


def flat(step: Step, temp_c: float) -> Step:
    """The step with the melt at one temperature throughout."""
    return between(step, temp_c, temp_c)


def _with_course(step: Step, minutes: Array, temps_c: Array) -> Step:
    return replace(step, minutes=minutes, temps_c=temps_c)
