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
from balmcore.composition import Formula, pack, percent_text
from balmcore.design.substitution import stand_ins, swap
from balmcore.design.target import Want, reach
from balmcore.errors import Problem
from balmcore.making.cost import Price, per_gram
from balmcore.physics.firmness import WINDOW_C, predict, word
from balmcore.tables import Ingredient, Kind, library
from formulas.studio import State
from pantry.models import LEFTOVER
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
    formula: Formula
    packed: str
    firmness: float
    word: str
    changes: tuple[Change, ...]
    comes_with: tuple[str, ...]


@dataclass(frozen=True)
class Reach:
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
class Swap:
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


Tool = Reach | Swap


def opened(data: Fields, state: State, kind: Kind, prefs: Preferences) -> Tool | None:
    """The tool that is open in the form, with its offers for the state as it is now."""
    if not state.formula.total or state.tool not in _TOOLS:
        return None
    return _TOOLS[state.tool](data, state, kind, prefs)


def _reach(data: Fields, state: State, kind: Kind, prefs: Preferences) -> Reach:
    show, reading = prefs.show, Reading()
    problems = reading.problems
    chosen = library().kinds.get(data.text("reach_kind"), kind)
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
    made = Reach(chosen.key, low, high, hold, at, vegan, without, cheaper, problems)
    if cheaper and not any(line.key in known for line in state.formula.lines):
        problems["cheaper"] = "No price is known of any of these: receive a lot with what you paid for it."
    if values[0] is None or values[1] is None:
        problems.setdefault("low", "From which firmness to which?")
    if (values[2] is None) != (values[3] is None):
        problems.setdefault("at", "A hold needs both: a firmness and the temperature up to which it is kept.")
    if problems or values[0] is None or values[1] is None:
        return made
    limits = most_scent(state.formula, state.audience, state.area, prefs.school)
    want = Want(
        values[0],
        values[1],
        values[2],
        values[3],
        overrun=chosen.overrun,
        vegan=vegan,
        without=_words(without),
        most=tuple((key, float(share)) for key, share in limits.items()),
        prices=tuple((key, float(price.each)) for key, price in known.items() if not key.startswith(LEFTOVER)),
        cheaper=cheaper,
    )
    try:
        ended = reach(state.formula, want, show)
    except Problem as problem:
        problems["low"] = problem.sentence
        return made
    told = f"{ended.firmness:.0f} at {show.temp_text(WINDOW_C)}"
    if ended.hold_firmness is not None and want.hold_temp_c is not None:
        told += f", {ended.hold_firmness:.0f} at {show.temp_text(want.hold_temp_c)}"
    sentence = f"Reached: {told}." if ended.met else f"{ended.reason} The nearest is {told}."
    name = ("For less" if cheaper else "The least change") if ended.met else "The nearest"
    offer = _offer(name, state.formula, ended.formula, chosen.overrun)
    costs = [cost_text(formula, known, prefs) for formula in (state.formula, ended.formula)]
    if all(costs) and costs[0] != costs[1]:
        offer = replace(offer, comes_with=(*offer.comes_with, f"100 g cost {costs[1]} instead of {costs[0]}."))
    return Reach(chosen.key, low, high, hold, at, vegan, without, cheaper, problems, sentence, ended.met, (offer,))


def _swap(data: Fields, state: State, kind: Kind, prefs: Preferences) -> Swap:
    formula, problems = state.formula, dict[str, str]()
    vegan, without = bool(data.text("swap_vegan")), data.text("swap_without", 200)
    lines = tuple(line.ingredient for line in formula.lines if line.share and line.ingredient.role != "extra")
    keys = [item.key for item in lines]
    out = _chosen(data.text("swap_out"), lines)
    if not out:
        return Swap("", "", "", vegan, without, {"out": "There is no wax, butter or oil to swap."}, (), (), ())
    near = tuple(stand_ins(out, vegan, _words(without), [key for key in keys if key != out], limit=8))
    into = _chosen(data.text("swap_in"), near)
    shares = {line.key: line.share for line in formula.lines}
    oils = [item for item in lines if item.group == "liquid_oil" and item.key not in (out, into)]
    oils.sort(key=lambda item: -shares[item.key])
    spare = library().ingredient(FILLER if FILLER not in (out, into) else "olive_oil")
    fillers = tuple(oils if spare in oils else [*oils, spare])
    filler = _chosen(data.text("swap_filler"), fillers)
    if not into:
        problems["in"] = "The wishes leave nothing that could stand in."
        return Swap(out, "", filler, vegan, without, problems, lines, near, fillers)
    found = swap(formula, out, into, filler)
    offers = (
        _offer("One for one", formula, found.one_for_one, kind.overrun),
        _offer("Matched", formula, found.matched, kind.overrun),
    )
    return Swap(out, into, filler, vegan, without, problems, lines, near, fillers, found.sentence, offers)


def _chosen(key: str, items: Sequence[Ingredient]) -> str:
    """The key, if it is one of the items; else the first of them, or nothing."""
    return key if any(item.key == key for item in items) else next((item.key for item in items), "")


_TOOLS: dict[str, Callable[[Fields, State, Kind, Preferences], Tool]] = {"reach": _reach, "swap": _swap}


def _words(text: str) -> tuple[str, ...]:
    """``coconut, nuts`` as words; what makers call nuts are the tables' tree nuts."""
    return tuple(word.strip().lower() for word in text.replace(";", ",").split(",") if word.strip())


def _offer(name: str, before: Formula, after: Formula, overrun: float) -> Offer:
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


def cost_text(formula: Formula, known: Mapping[str, Price], prefs: Preferences) -> str:
    """``1.49 €`` for 100 g, empty while a price is missing."""
    total = formula.total
    each = per_gram({line.key: line.share / total for line in formula.lines}, known) if total else None
    return "" if each is None else f"{each * 100:.2f} {prefs.currency}"


def changes(before: Formula, after: Formula) -> tuple[Change, ...]:
    """Line by line what differs between two compositions."""
    old, new = ({line.key: line.share for line in formula.lines if line.share} for formula in (before, after))
    return tuple(
        Change(
            library().ingredient(key).name,
            percent_text(old[key]) if key in old else "",
            percent_text(new[key]) if key in new else "",
        )
        for key in dict.fromkeys([*new, *old])
        if old.get(key) != new.get(key)
    )


def _comes_with(before: Formula, after: Formula) -> tuple[str, ...]:
    """Allergens that come and go, and how long it keeps, where that changes."""
    told = []
    old, new = ({a for line in f.lines if line.share for a in line.ingredient.allergens} for f in (before, after))
    if new - old:
        told.append("Brings " + ", ".join(sorted(new - old)) + ".")
    if old - new:
        told.append("No longer holds " + ", ".join(sorted(old - new)) + ".")
    lives = [shortest(formula) for formula in (before, after)]
    if lives[0] and lives[1] and lives[0].shelf_months != lives[1].shelf_months:
        told.append(
            f"Keeps {lives[1].shelf_months:g} months instead of {lives[0].shelf_months:g}: "
            f"{lives[1].name.lower()} turns first."
        )
    return tuple(told)
