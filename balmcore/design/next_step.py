"""The next thing to try with a formula: one suggestion with its reason, from what its pours said.

What can hurt comes first, then what spoils, then grain, then firmness, then the feel. A suggestion
is never more than that; where it is a change of the composition, the target solver works it out.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal
from enum import StrEnum

from balmcore.advice.verdict import judge_hold
from balmcore.composition import Composition, Line, set_shares
from balmcore.design.target import Target, reformulate
from balmcore.display import CELSIUS, Display, figure
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import ROLES, Ingredient, Kind, Tables
from balmcore.trials.rates import FEWEST_TO_GO_BY, Rate
from balmcore.wording import in_sentence, listed

TWICE = 2  # cases: once is chance
QUICKER = {"counter": "rest_then_cold", "rest_then_cold": "cold", "cold": "freezer"}
COOLED_IN = {
    "rest_then_cold": "refrigerated when a skin has formed",
    "cold": "refrigerated at once",
    "freezer": "frozen",
}
RICH_SHARE, DRIER_BY = Decimal("0.05"), 1.0  # of a rich oil, moved to a dry one; graded so much drier
NEVER = Rate(0, 0)  # nothing was looked at
FAR_OFF = 10.0  # points from the plan: more than a press test and the model differ by
INSTEAD, GREASY = ("instead", "rather", "prefer"), ("greas", "oily")
DRAGGING = 0.25  # how far up the window to aim when it drags


class Try(StrEnum):
    """What is suggested."""

    ASK = "ask"
    FRESHER = "fresher"
    COOLING = "cooling"
    HOLD = "hold"
    FIRMER = "firmer"
    SOFTER = "softer"
    DRIER = "drier"
    SMOOTHER = "smoother"
    TOP_UP = "top_up"
    WISHED = "wished"


@dataclass(frozen=True)
class Told:
    """What the pours of one version said: the mean of its press tests and thumb grades at 21 degrees with one
    sigma, how often each fault was seen among the pours somebody looked at, how it was cooled, and what its wearers
    said in their own words; ``own_grain`` how often this maker's pours with its butter grained, by way of cooling."""

    tests: int = 0
    firmness: float = 0.0
    sigma: float = 0.0
    cooling: str = ""
    grain: Rate = NEVER
    sinkholes: Rate = NEVER
    rancid: Rate = NEVER
    greasy: Rate = NEVER
    dragged: Rate = NEVER
    reacted: Rate = NEVER
    wishes: tuple[str, ...] = ()
    own_grain: Mapping[str, Rate] = field(default_factory=dict)

    @property
    def times(self) -> str:
        """How often it was tested, in words."""
        return "once" if self.tests == 1 else f"in the mean of {self.tests} tests"


@dataclass(frozen=True)
class Suggestion:
    """One thing to try: what in a word, the sentence, its reason, and a changed composition or a way of
    cooling where there is one."""

    what: Try
    sentence: str
    why: str
    composition: Composition | None = None
    cooling: str = ""

    @property
    def is_of_the_melt(self) -> bool:
        """True where the pieces themselves could be melted again and put right."""
        return self.what in (Try.FIRMER, Try.SOFTER, Try.HOLD, Try.COOLING)


def next_step(
    composition: Composition, kind: Kind, told: Told, tables: Tables, show: Display = CELSIUS
) -> Suggestion | None:
    """What to try next, None when nothing speaks against how it is."""
    return (
        hurting(told)
        or _wished(composition, kind, told, tables, show)
        or _grain(told)
        or _firmness(composition, kind, told, tables, show)
        or _as_planned(composition, kind, told, tables, show)
        or _feel(composition, kind, told, tables, show)
        or _sinkholes(told)
    )


def hurting(told: Told) -> Suggestion | None:
    """What of it may hurt somebody, which comes before anything else; None where nothing does."""
    if told.reacted.cases:
        return Suggestion(
            Try.ASK,
            "Give no more of it away before you know what it was; who reacted asks a doctor or a pharmacist.",
            f"Somebody reacted: {told.reacted} wearers.",
        )
    if told.rancid.cases:
        return Suggestion(
            Try.FRESHER,
            "Make it again with a fresher lot of the oil that keeps least, and look at the other tins of this batch.",
            f"It smelled of old oil in {told.rancid} pours.",
        )
    return None


def _wished(composition: Composition, kind: Kind, told: Told, tables: Tables, show: Display) -> Suggestion | None:
    """What somebody who wore it asked for, and exactly that: another scent instead, and a drier oil where it was too
    greasy."""
    for words in reversed(told.wishes):
        text, changed, said = words.casefold(), composition, []
        if swapped := _scent_instead(text, composition, tables):
            changed, old, new = swapped
            said.append(f"{new.name} for {in_sentence(old.name)}, as much of it")
        if said and any(word in text for word in GREASY):
            drier = _drier(changed, kind, told, tables, show)
            if drier is not None:
                said.append(f"{in_sentence(_moved(changed, drier))}: a drier oil for half of the richest")
                changed = drier
        if said:
            return Suggestion(Try.WISHED, f"{'; '.join(said)}.", f"Wished by who wore it: “{words.strip()}”.", changed)
    return None


def _scent_instead(
    text: str, composition: Composition, tables: Tables
) -> tuple[Composition, Ingredient, Ingredient] | None:
    """A composition with the scent that is asked for instead of one that is in it; None where that is not said."""
    if not any(word in text for word in INSTEAD):
        return None
    named = [item for item in tables.ingredients.values() if item.aromatic and _short_name(item) in text]
    inside = [line for line in composition.lines if line.ingredient.aromatic and line.share and not line.locked]
    there = {line.ingredient for line in inside}
    wanted = max((item for item in named if item not in there), key=lambda item: len(item.name), default=None)
    old = [line for line in inside if line.ingredient in named] or inside
    if wanted is None or len(old) != 1:
        return None
    lines = (Line(wanted, line.share) if line is old[0] else line for line in composition.lines)
    return Composition(tuple(lines)), old[0].ingredient, wanted


def _short_name(item: Ingredient) -> str:
    """What people call it: ``rosemary`` of “Rosemary, cineole type”."""
    return item.name.casefold().split(",")[0].split(" (")[0].strip()


def _grain(told: Told) -> Suggestion | None:
    """A quicker way of cooling, by all of the maker's own figures: not one that did no better for them."""
    if not told.grain.cases:
        return None
    why = f"Grain in {told.grain} pours"
    once = " Once proves little, and costs little to try." if told.grain.cases < TWICE else ""
    now = told.own_grain.get(told.cooling, NEVER)
    now = now if now.of > told.grain.of else told.grain
    known = {key: told.own_grain.get(key, NEVER) for key in _quicker(told.cooling)}
    sure = [key for key, rate in known.items() if rate.is_below(now, len(known))]
    # Not one that did no better; of one that nothing says anything of, it is said.
    open_ways = [key for key, rate in known.items() if rate.of < FEWEST_TO_GO_BY or rate.share < now.share]
    if sure or open_ways:
        way = min(sure or open_ways[:1], key=lambda key: known[key].share)
        if known[way].of >= FEWEST_TO_GO_BY:
            own = f"; cooled so, {known[way]} of yours with this butter grained, as it is now {now}"
            own += "" if sure else ", which is little to go by"
        else:
            own = f"; your own pours say nothing yet of {COOLED_IN[way]}" if now.of >= FEWEST_TO_GO_BY else ""
        return Suggestion(
            Try.COOLING,
            f"Cool it quicker: {COOLED_IN[way]}.",
            f"{why}, and slow cooling lets the grains grow{own}.{once}",
            cooling=way,
        )
    if known:
        tried = listed([f"{COOLED_IN[key]} {rate}" for key, rate in known.items()])
        although = f", and no quicker way did better for you: {tried} of yours grained"
    else:
        although = " although it was cooled quickly"
    return Suggestion(
        Try.HOLD,
        "Hold the melt for a quarter of an hour at 20 degrees above where it clears, so that it forgets its crystals.",
        f"{why}{although}.{once}",
    )


def _quicker(cooling: str) -> Iterator[str]:
    """The ways of cooling that are quicker than one, the nearest first."""
    while cooling in QUICKER:
        cooling = QUICKER[cooling]
        yield cooling


def _firmness(composition: Composition, kind: Kind, told: Told, tables: Tables, show: Display) -> Suggestion | None:
    if not told.tests:
        return None
    low, high = kind.firm_low, kind.firm_high
    gap = low - told.firmness if told.firmness < low else told.firmness - high
    if gap <= told.sigma / 2 or gap <= 0:
        return None
    side = "softer" if told.firmness < low else "firmer"
    what = Try.FIRMER if side == "softer" else Try.SOFTER
    # The middle of the window or, where that is out of reach, just inside it.
    inside = (high - low) / 6
    for aim in ((low + high) / 2, low + inside if side == "softer" else high - inside):
        changed = _at(composition, kind, aim, _off(composition, kind, told), tables, show)
        if changed is not None:
            break
    window = f"the {figure(low)} to {figure(high)} of a {in_sentence(kind.name)}"
    why = f"It came out at {told.firmness:.0f} {told.times}: {side} than {window}."
    if changed is None:
        return Suggestion(what, f"Aim {what}: no change within its locks reaches it.", why)
    short = _short_of_heat(composition, changed, kind, told, show)
    return Suggestion(what, f"{_moved(composition, changed)}, for about {aim:.0f}.{short}", why, changed)


def _as_planned(composition: Composition, kind: Kind, told: Told, tables: Tables, show: Display) -> Suggestion | None:
    """What brings one that came out far from its plan to what was planned, although its kind bears both."""
    off = _off(composition, kind, told)
    if abs(off) <= max(FAR_OFF, told.sigma):
        return None
    planned = told.firmness - off
    side, what = ("softer", Try.FIRMER) if off < 0 else ("firmer", Try.SOFTER)
    why = f"It came out at {told.firmness:.0f} {told.times}, {abs(off):.0f} points {side} than planned."
    changed = _at(composition, kind, planned, off, tables, show)
    if changed is None:
        return Suggestion(what, f"Aim {what}: no change within its locks reaches {planned:.0f}.", why)
    return Suggestion(what, f"{_moved(composition, changed)}, for the {planned:.0f} that was planned.", why, changed)


def _off(composition: Composition, kind: Kind, told: Told) -> float:
    """By how much its own tests are off the model; nothing where there are none. A change leaves it as it is."""
    return told.firmness - predict(composition, kind.overrun).firmness_at(WINDOW_C) if told.tests else 0.0


def _at(
    composition: Composition, kind: Kind, aim: float, off: float, tables: Tables, show: Display
) -> Composition | None:
    """The simplest change that brings it to a firmness, its own tests ``off`` the model, and holds in heat where one
    can; None where there is none."""
    half = max(2.0, (kind.firm_high - kind.firm_low) / 8)
    low = max(0.0, aim - off - half)
    hold = None if kind.hold_firmness is None else max(0.0, kind.hold_firmness - off)
    target = Target(low, max(low + 1, aim - off + half), hold, kind.hold_temp_c, kind.overrun)
    try:
        found = reformulate(composition, target, tables, show)
        if not found.success and hold is not None:
            found = reformulate(composition, replace(target, hold_firmness=None, hold_temp_c=None), tables, show)
    except Problem:
        return None
    return found.composition if found.success else None


def _short_of_heat(before: Composition, changed: Composition, kind: Kind, told: Told, show: Display) -> str:
    """What a change leaves wanting in heat, to be said behind it; nothing where it holds as its kind should."""
    if kind.hold_firmness is None:
        return ""
    asked = replace(kind, hold_firmness=max(0.0, kind.hold_firmness - _off(before, kind, told)))
    sentence, holds = judge_hold(predict(changed, kind.overrun), asked, show)
    return "" if holds else f" {sentence}"


def _short(share: Decimal | float) -> str:
    return figure(share * 100, 1)


def _moved(before: Composition, after: Composition) -> str:
    """What moves most, up and down: ``Beeswax from 14 to 17 %, sunflower oil from 47.5 to 44.5 %``."""
    items = dict.fromkeys((*before.ingredients, *after.ingredients))
    moves = sorted(items, key=lambda item: -abs(after.share_of(item.key) - before.share_of(item.key)))[:2]
    moves.sort(key=lambda item: ROLES.index(item.role))
    told = [
        f"{item.name} from {_short(before.share_of(item.key))} to {_short(after.share_of(item.key))} %"
        for item in moves
    ]
    return f"{told[0]}, {in_sentence(told[1])}" if len(told) > 1 else told[0]


def _feel(composition: Composition, kind: Kind, told: Told, tables: Tables, show: Display) -> Suggestion | None:
    if told.greasy.cases >= TWICE and (changed := _drier(composition, kind, told, tables, show)):
        why = f"{told.greasy} wearers called it greasy."
        short = _short_of_heat(composition, changed, kind, told, show)
        sentence = f"{_moved(composition, changed)}: a drier oil for half of the richest.{short}"
        return Suggestion(Try.DRIER, sentence, why, changed)
    if told.dragged.cases >= TWICE:
        aim = kind.firm_low + (kind.firm_high - kind.firm_low) * DRAGGING
        changed = _at(composition, kind, aim, _off(composition, kind, told), tables, show)
        why = f"It dragged for {told.dragged} wearers."
        if changed is not None:
            short = _short_of_heat(composition, changed, kind, told, show)
            sentence = f"{_moved(composition, changed)}, to the soft side of its window.{short}"
            return Suggestion(Try.SMOOTHER, sentence, why, changed)
    return None


def _drier(composition: Composition, kind: Kind, told: Told, tables: Tables, show: Display) -> Composition | None:
    """Half of the richest liquid oil given to the driest one of the formula or, where it has no drier one, of the
    tables; then brought back to the firmness it had."""
    oils = [line for line in composition.lines if line.ingredient.group == "liquid_oil" and not line.locked]
    rich = max(
        (line for line in oils if line.share >= RICH_SHARE),
        key=lambda line: line.ingredient.feel_weight or 0,
        default=None,
    )
    if rich is None:
        return None
    dry = _driest(rich, [line.ingredient for line in oils]) or _driest(rich, list(tables.ingredients.values()))
    if dry is None:
        return None
    half = (rich.share / 2).quantize(Decimal("0.0001"))
    shares = {rich.key: rich.share - half, dry.key: composition.share_of(dry.key) + half}
    off = _off(composition, kind, told)
    had = predict(composition, kind.overrun).firmness_at(WINDOW_C) + off
    if dry.key not in composition.keys:
        composition = Composition((*composition.lines, Line(dry, Decimal(0))))
    changed = set_shares(composition, shares, follow=False)
    aim = min(max(had, kind.firm_low + 2), kind.firm_high - 2)
    return _at(changed, kind, aim, off, tables, show) or changed


def _driest(rich: Line, items: list[Ingredient]) -> Ingredient | None:
    most = (rich.ingredient.feel_weight or 0) - DRIER_BY
    drier = [item for item in items if item.group == "liquid_oil" and 0 < (item.feel_weight or 0) <= most]
    return min(drier, key=lambda item: (item.feel_weight or 0, item.key), default=None)


def _sinkholes(told: Told) -> Suggestion | None:
    if told.sinkholes.cases < TWICE:
        return None
    return Suggestion(
        Try.TOP_UP,
        "Keep a spoonful of the melt warm and top the pieces up when a skin has formed; pour a few degrees cooler.",
        f"Sinkholes in {told.sinkholes} pours.",
    )
