"""What goes into the pot when, and how warm it may be there.

What cannot stand the melt of all else goes in off the heat, last, like scent: its damage limit lies
below 5 K above where the rest is clear. Where that is more than a third of the pot, what of it stands
the melt of the whole is melted with it after all: so much that is cold would set it.
"""

from collections.abc import Collection, Iterable, Mapping
from enum import StrEnum
from functools import lru_cache
from types import MappingProxyType

from balmcore.composition import Composition
from balmcore.physics.firmness import Prediction, clear_alone, predict
from balmcore.tables import Ingredient, Role

MELT_ABOVE_CLEAR_K = 5.0  # so that the last crystals go too (docs/model.md)
SURELY_CLEAR_K = 1.0  # the least above clear at which anything is done to a melt
# Lanolin is still thick where it sets: from such a share it is poured so much hotter (docs/model.md).
LANOLIN_FROM, LANOLIN_ABOVE_SET_K = 0.3, 15.0
POUR_ABOVE_SET_K = 8.0  # the pitcher stays pourable for some minutes (docs/model.md)
STIR_ABOVE_SET_K = 4.0  # the least above setting at which something is stirred in
STIRRING_COSTS_K = 2.0  # what a melt loses while the last things are stirred in: usual
UNSET_POUR_C = 21.0  # of what never sets, and no melt is poured colder
MUCH = 1 / 3  # of the pot, that is not stirred in at the end


class Stage(StrEnum):
    """When something goes into the pot, in that order."""

    WATER = "water"
    WAX = "wax"
    BUTTER = "butter"
    OIL = "oil"
    POWDER = "powder"
    DELICATE = "delicate"
    COOL = "cool"


STAGES = tuple(Stage)
MELTED = (Stage.WAX, Stage.BUTTER, Stage.OIL)


def usual_stage(item: Ingredient) -> Stage:
    """When it goes into the pot, whatever else is in there. What gives its water off goes first, before the wax,
    unless it was melted before; antioxidant, scent and what stays wet come last, off the heat."""
    if item.water_bearing and not item.made_of:
        return Stage.COOL if item.stays_wet else Stage.WATER
    if item.group in ("aromatic", "antioxidant", "preservative"):
        return Stage.COOL
    if item.is_powder:
        return Stage.POWDER
    return Stage.OIL if item.role == Role.EXTRA else Stage(item.role)


def heat_limit(item: Ingredient) -> float | None:
    """How hot it may become, in degrees C; None where nothing is known. In an earlier melt the scent and the
    antioxidant do not count: they were in the heat before."""
    parts = [leaf for leaf, _ in item.parts if leaf is item or usual_stage(leaf) is not Stage.COOL]
    return min((leaf.damage_c for leaf in parts if leaf.damage_c), default=None)


def stands(item: Ingredient, temp_c: float) -> bool:
    """True where it bears a temperature, as it is shown: to half a degree."""
    limit = heat_limit(item)
    return limit is None or temp_c < limit + 0.5


@lru_cache(maxsize=256)
def stages(composition: Composition) -> Mapping[Ingredient, Stage]:
    """When each ingredient of a composition goes into the pot."""
    found = {item: usual_stage(item) for item in composition.ingredients}
    found.update(dict.fromkeys(_delicate(composition, found), Stage.DELICATE))
    return MappingProxyType(found)


def _delicate(composition: Composition, usual: Mapping[Ingredient, Stage]) -> Collection[Ingredient]:
    melted = {line.ingredient: float(line.share) for line in composition.lines if line.share}
    melted = {item: share for item, share in melted.items() if usual[item] in MELTED}
    late: set[Ingredient] = set()
    while True:
        clear = predict(part_of(composition, melted.keys() - late)).clear_c if melted.keys() - late else None
        if clear is None:
            break
        more = {item for item in melted.keys() - late if (heat_limit(item) or 1e9) < clear + MELT_ABOVE_CLEAR_K}
        # What has to be molten to be stirred in at all stays with what melts it.
        more = {item for item in more if (clear_alone(item) or 0.0) < clear}
        if not more:
            break
        late |= more
    if late and (len(late) == len(melted) or sum(melted[item] for item in late) > MUCH * sum(melted.values())):
        clear = predict(part_of(composition, melted.keys())).clear_c or 0.0
        return () if len(late) == len(melted) else {item for item in late if not stands(item, clear + SURELY_CLEAR_K)}
    return late


def part_of(composition: Composition, items: Iterable[Ingredient]) -> Composition:
    """Some ingredients of a composition, in its shares."""
    wanted = set(items)
    return Composition(tuple(line for line in composition.lines if line.ingredient in wanted))


def pot_order(composition: Composition) -> tuple[Ingredient, ...]:
    """Ingredients in the order they go into the pot: hardest wax first, then butters by melting,
    oils, powders, and off the heat what is delicate, then antioxidant before scent, which flies off first.
    Where water has to be driven off, the oils are in that pot and come before the wax."""
    when = stages(composition)
    wet = any(line.share and when[line.ingredient] is Stage.WATER for line in composition.lines)
    order = sorted(STAGES, key=lambda stage: stage not in (Stage.WATER, Stage.OIL)) if wet else STAGES

    def place(item: Ingredient) -> tuple[int, bool, float, int]:
        late = item.group == "aromatic"
        return order.index(when[item]), late, -(clear_alone(item) or 0.0), composition.ingredients.index(item)

    return tuple(sorted(composition.ingredients, key=place))


def coldest_c(composition: Composition) -> float | None:
    """How cold a melt may be while something is still done to it: surely clear, and above setting. None for what never
    sets."""
    found = predict(composition)
    if found.clear_c is None or found.set_c is None:
        return None
    return max(found.clear_c + SURELY_CLEAR_K, found.set_c + STIR_ABOVE_SET_K)


def pour_temperature(composition: Composition, known: Prediction | None = None, room_c: float = UNSET_POUR_C) -> float:
    """Where to pour: 8 K above setting, 15 K with much lanolin, so that it flows into corners and still sets soon; no
    hotter than what is in it stands, and never below where it is clear, nor below the room. A blend that never sets is
    filled at room temperature. ``known`` is what was predicted of it already."""
    left = composition.without_volatiles
    found = known if known is not None and known.composition is left else predict(left)
    if found.set_c is None or found.clear_c is None:
        return max(UNSET_POUR_C, room_c)
    lanolin = sum(float(line.share) for line in left.expanded.lines if line.ingredient.group == "lanolin")
    above = LANOLIN_ABOVE_SET_K if lanolin > LANOLIN_FROM * float(left.total) else POUR_ABOVE_SET_K
    limits = [most for line in left.lines if line.share and (most := heat_limit(line.ingredient)) is not None]
    usual = min([found.set_c + above, *(most - STIRRING_COSTS_K for most in limits)])
    return max(UNSET_POUR_C, room_c, found.clear_c + SURELY_CLEAR_K, usual)
