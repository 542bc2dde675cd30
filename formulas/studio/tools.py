"""The studio's two tools: ask for a firmness, and swap an ingredient.

A tool reads its own fields of the studio's form and makes offers: whole compositions with
what they change. An offer takes effect only when the maker accepts it, and then only in the
form; nothing is stored before a save.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from balmcore import units
from balmcore.advice.safety import most_scent
from balmcore.advice.shelf_life import shortest
from balmcore.composition import Composition, pack, percent_text
from balmcore.design.substitution import stand_ins, substitute
from balmcore.design.target import Target, reformulate
from balmcore.errors import Problem
from balmcore.making.cost import Price, per_gram
from balmcore.physics.firmness import WINDOW_C, predict, word
from balmcore.tables import Ingredient, Kind, Role
from formulas.studio.state import State
from pantry.queries import prices
from workshop.models import Preferences
from workshop.web import Fields, Reading

FILLER = "sunflower_oil_ho"


@dataclass(frozen=True)
class Change:
    """What an offer does to one line, in percent; empty for not there."""

    name: str
    before: str
    after: str


@dataclass(frozen=True)
class Offer:
    """A composition to accept: its firmness, what it changes line by line, and what comes with it."""

    name: str
    composition: Composition
    packed: str
    firmness: float
    word: str
    changes: tuple[Change, ...]
    comes_with: tuple[str, ...]


@dataclass(frozen=True)
class ReachTool:
    """The tool that asks for a firmness: its fields as typed, the offer, and how it ended."""

    name = "reach"
    kind_key: str
    low: str
    high: str
    hold: str
    at: str
    vegan: bool
    without: str
    cheaper: bool
    problems: dict[str, str]
    sentence: str = ""
    met: bool = False
    offers: tuple[Offer, ...] = ()


@dataclass(frozen=True)
class SwapTool:
    """The tool that swaps: what goes, what comes, what takes up the rest, and two offers."""

    name = "swap"
    out: str
    into: str
    filler: str
    vegan: bool
    without: str
    problems: dict[str, str]
    lines: tuple[Ingredient, ...]
    stand_ins: tuple[Ingredient, ...]
    fillers: tuple[Ingredient, ...]
    sentence: str = ""
    offers: tuple[Offer, ...] = ()


Tool = ReachTool | SwapTool


def opened(data: Fields, state: State, kind: Kind, prefs: Preferences) -> Tool | None:
    """The tool that is open in the form, with its offers for the state as it is now."""
    if not state.composition.total or state.tool not in _TOOLS:
        return None
    return _TOOLS[state.tool](data, state, kind, prefs)


def _reach(data: Fields, state: State, kind: Kind, prefs: Preferences) -> ReachTool:
    show, reading = prefs.show, Reading()
    problems = reading.problems
    chosen = state.tables.kinds.get(data.text("reach_kind"), kind)
    # A kind newly chosen brings its own window; otherwise what was typed stands.
    own = chosen.key != data.text("reach_was")
    hold_temp = None if chosen.hold_temp_c is None else show.temp_text(chosen.hold_temp_c)
    low = f"{chosen.firm_low:g}" if own else data.text("reach_low", 40)
    high = f"{chosen.firm_high:g}" if own else data.text("reach_high", 40)
    hold = ("" if chosen.hold_firmness is None else f"{chosen.hold_firmness:g}") if own else data.text("reach_hold", 40)
    at = (hold_temp or "") if own else data.text("reach_at", 40)
    vegan, without = bool(data.text("reach_vegan")), data.text("reach_without", 200)
    cheaper, known = bool(data.text("reach_cheaper")), prices()

    def read(name: str, text: str, how: Callable[[str], float]) -> float | None:
        return reading.value(name, lambda: how(text) if text.strip() else None, None)

    values = (
        read("low", low, lambda text: float(units.number(text))),
        read("high", high, lambda text: float(units.number(text))),
        read("hold", hold, lambda text: float(units.number(text))),
        read("at", at, lambda text: units.temp_c(text, prefs.temp_unit)),
    )
    made = ReachTool(chosen.key, low, high, hold, at, vegan, without, cheaper, problems)
    if cheaper and not any(line.key in known for line in state.composition.lines):
        problems["cheaper"] = "No price is known of any of these: receive a lot with what you paid for it."
    if values[0] is None or values[1] is None:
        problems.setdefault("low", "From which firmness to which?")
    if (values[2] is None) != (values[3] is None):
        problems.setdefault("at", "A hold needs both: a firmness and the temperature up to which it is kept.")
    if problems or values[0] is None or values[1] is None:
        return made
    limits = most_scent(state.composition, state.audience, state.area, prefs.scent_policy)
    # What is left of a melt was paid for by its pieces: it is not for less that one takes more of it.
    rests = {item.key for item in state.composition.ingredients if item.made_of}
    target = Target(
        values[0],
        values[1],
        values[2],
        values[3],
        overrun=chosen.overrun,
        vegan=vegan,
        without=_words(without),
        most=tuple((key, float(share)) for key, share in limits.items()),
        prices=tuple((key, float(price.each)) for key, price in known.items() if key not in rests),
        cheaper=cheaper,
    )
    try:
        ended = reformulate(state.composition, target, state.tables, show)
    except Problem as problem:
        problems["low"] = problem.sentence
        return made
    told = f"{ended.firmness:.0f} at {show.temp_text(WINDOW_C)}"
    if ended.hold_firmness is not None and target.hold_temp_c is not None:
        told += f", {ended.hold_firmness:.0f} at {show.temp_text(target.hold_temp_c)}"
    sentence = f"Reached: {told}." if ended.success else f"{ended.message} The nearest is {told}."
    name = ("For less" if cheaper else "The least change") if ended.success else "The nearest"
    offer = _offer(name, state.composition, ended.composition, chosen.overrun)
    costs = [cost_text(each, known, prefs) for each in (state.composition, ended.composition)]
    if all(costs) and costs[0] != costs[1]:
        offer = replace(offer, comes_with=(*offer.comes_with, f"100 g cost {costs[1]} instead of {costs[0]}."))
    return ReachTool(
        chosen.key, low, high, hold, at, vegan, without, cheaper, problems, sentence, ended.success, (offer,)
    )


def _swap(data: Fields, state: State, kind: Kind, prefs: Preferences) -> SwapTool:
    composition, problems = state.composition, dict[str, str]()
    vegan, without = bool(data.text("swap_vegan")), data.text("swap_without", 200)
    lines = tuple(line.ingredient for line in composition.lines if line.share and line.ingredient.role != Role.EXTRA)
    keys = [item.key for item in lines]
    out = _chosen(data.text("swap_out"), lines)
    if not out:
        return SwapTool("", "", "", vegan, without, {"out": "There is no wax, butter or oil to swap."}, (), (), ())
    tables = state.tables
    taken = [key for key in keys if key != out]
    near = tuple(stand_ins(tables.ingredient(out), tables, vegan, _words(without), taken, limit=8))
    into = _chosen(data.text("swap_in"), near)
    shares = {line.key: line.share for line in composition.lines}
    oils = [item for item in lines if item.group == "liquid_oil" and item.key not in (out, into)]
    oils.sort(key=lambda item: -shares[item.key])
    spare = tables.ingredient(FILLER if FILLER not in (out, into) else "olive_oil")
    fillers = tuple(oils if spare in oils else [*oils, spare])
    filler = _chosen(data.text("swap_filler"), fillers)
    if not into:
        problems["in"] = "The wishes leave nothing that could stand in."
        return SwapTool(out, "", filler, vegan, without, problems, lines, near, fillers)
    found = substitute(composition, out, tables.ingredient(into), tables.ingredient(filler))
    offers = (
        _offer("One for one", composition, found.one_for_one, kind.overrun),
        _offer("Matched", composition, found.matched, kind.overrun),
    )
    return SwapTool(out, into, filler, vegan, without, problems, lines, near, fillers, found.sentence, offers)


def _chosen(key: str, items: Sequence[Ingredient]) -> str:
    """The key, if it is one of the items; else the first of them, or nothing."""
    return key if any(item.key == key for item in items) else next((item.key for item in items), "")


_TOOLS: dict[str, Callable[[Fields, State, Kind, Preferences], Tool]] = {"reach": _reach, "swap": _swap}


def _words(text: str) -> tuple[str, ...]:
    """``coconut, nuts`` as words; what makers call nuts are the tables' tree nuts."""
    return tuple(word.strip().lower() for word in text.replace(";", ",").split(",") if word.strip())


def _offer(name: str, before: Composition, after: Composition, overrun: float) -> Offer:
    firmness = predict(after, overrun).firmness_at(WINDOW_C)
    return Offer(
        name,
        after,
        pack((line.key, line.share) for line in after.lines),
        firmness,
        word(firmness),
        changes(before, after),
        _comes_with(before, after),
    )


def cost_text(composition: Composition, known: Mapping[str, Price], prefs: Preferences) -> str:
    """``1.49 €`` for 100 g, empty while a price is missing."""
    total = composition.total
    each = per_gram({line.key: line.share / total for line in composition.lines}, known) if total else None
    return "" if each is None else f"{each * 100:.2f} {prefs.currency}"


def changes(before: Composition, after: Composition) -> tuple[Change, ...]:
    """Line by line what differs between two compositions."""
    old, new = ({line.ingredient: line.share for line in each.lines if line.share} for each in (before, after))
    return tuple(
        Change(
            item.name,
            percent_text(old[item]) if item in old else "",
            percent_text(new[item]) if item in new else "",
        )
        for item in dict.fromkeys([*new, *old])
        if old.get(item) != new.get(item)
    )


def _comes_with(before: Composition, after: Composition) -> tuple[str, ...]:
    """Allergens that come and go, and how long it keeps, where that changes."""
    told = []
    old, new = ({a for line in f.lines if line.share for a in line.ingredient.allergens} for f in (before, after))
    if new - old:
        told.append("Brings " + ", ".join(sorted(new - old)) + ".")
    if old - new:
        told.append("No longer holds " + ", ".join(sorted(old - new)) + ".")
    lives = [shortest(each) for each in (before, after)]
    if lives[0] and lives[1] and lives[0].shelf_months != lives[1].shelf_months:
        told.append(
            f"Keeps {lives[1].shelf_months:g} months instead of {lives[0].shelf_months:g}: "
            f"{lives[1].name.lower()} turns first."
        )
    return tuple(told)
