"""The studio's tool that swaps: what goes, what comes, what takes up the rest, and two offers."""

from collections.abc import Sequence
from dataclasses import dataclass

from balmcore.design.substitution import stand_ins, substitute
from balmcore.errors import Problem
from balmcore.recipes.words.picking import picked
from balmcore.tables import Ingredient, Kind, Role
from formulas.studio.offers import Offer, offered
from formulas.studio.state import State
from formulas.studio.wishing import WishForm
from pantry.queries import prices
from workshop.models import Preferences
from workshop.web import Fields

FILLER = "sunflower_oil_ho"
SHOWN = 8


@dataclass(frozen=True)
class SwapTool:
    """The tool as it stands, with what can be chosen in each of its fields; ``into`` is a name, ``stand_ins`` are the
    likeliest of all that can be typed there."""

    name = "swap"
    out: str
    into: str
    filler: str
    wish: WishForm
    problems: dict[str, str]
    lines: tuple[Ingredient, ...] = ()
    stand_ins: tuple[Ingredient, ...] = ()
    fillers: tuple[Ingredient, ...] = ()
    sentence: str = ""
    offers: tuple[Offer, ...] = ()


def swap(data: Fields, state: State, kind: Kind, prefs: Preferences) -> SwapTool:
    """The tool for the state as it is now."""
    composition, tables = state.composition, state.tables
    wish = state.wish
    problems = {"wish": wish.problem} if wish.problem else {}
    shares = {line.ingredient: line.share for line in composition.lines}
    lines = tuple(item for item in shares if shares[item] and item.role != Role.EXTRA)
    out = _chosen(data.text("swap_out"), lines)
    if out is None:
        return SwapTool("", "", "", wish, {"out": "There is no wax, butter or oil to swap."})
    taken = [item.key for item in lines if item != out]
    amount = float(shares[out] / composition.total)
    near = tuple(stand_ins(out, tables, wish.wishes, taken, SHOWN, amount))
    into, typed = next(iter(near), None), data.text("swap_in", 120).strip()
    if typed:
        try:
            into = tables.ingredient(picked(typed, tables, roles=(Role.WAX, Role.BUTTER, Role.OIL)))
            if into == out or not wish.wishes.allow(into):
                against = "what is taken out" if into == out else "against your wishes"
                raise Problem(f"{into.name} is {against}: choose another.")
        except Problem as problem:
            problems["in"] = problem.sentence
            return SwapTool(out.key, typed, "", wish, problems, lines, near)
    oils = sorted((i for i in lines if i.group == "liquid_oil" and i not in (out, into)), key=lambda i: -shares[i])
    spare = tables.ingredient("olive_oil" if FILLER in (out.key, into and into.key) else FILLER)
    fillers = tuple(oils if spare in oils else [*oils, spare])
    filler = _chosen(data.text("swap_filler"), fillers) or spare
    if into is None:
        problems["in"] = "The wishes leave nothing that could stand in."
        return SwapTool(out.key, "", filler.key, wish, problems, lines, near, fillers)
    found, known = substitute(composition, out.key, into, filler), prices()
    offers = (
        offered("One for one", composition, found.one_for_one, kind, known, prefs),
        offered("Matched", composition, found.matched, kind, known, prefs),
    )
    return SwapTool(out.key, into.name, filler.key, wish, problems, lines, near, fillers, found.sentence, offers)


def _chosen(key: str, items: Sequence[Ingredient]) -> Ingredient | None:
    """The item of a key, if it is one of them; else the first of them, or none."""
    return next((item for item in items if item.key == key), next(iter(items), None))
