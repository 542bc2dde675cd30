"""The studio's tool that asks for a firmness: the fields as typed, up to three ways, and how it ended."""

from dataclasses import dataclass, replace

from django.db.models import F

from balmcore import units
from balmcore.advice.safety import most_scent
from balmcore.composition import Composition
from balmcore.design.from_stock import using_up
from balmcore.design.target import Target, TargetResult, reformulate
from balmcore.display import Display, figure
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C
from balmcore.tables import Kind, Role
from formulas.studio.offers import Offer, offered
from formulas.studio.state import State
from formulas.studio.wishing import WishForm
from pantry.hooks import with_unfit
from pantry.models import Lot
from pantry.queries import prices
from workshop.models import Preferences
from workshop.web import FieldReader, Fields

MOST_LOTS, USUAL_BATCH_G = 60, 500


@dataclass(frozen=True)
class ReachTool:
    """The tool as it stands: ``low`` to ``at`` as typed, a sentence for each field that cannot be used."""

    name = "reach"
    kind_key: str
    low: str
    high: str
    hold: str
    at: str
    cheaper: bool
    wish: WishForm
    problems: dict[str, str]
    lots: tuple[tuple[str, str], ...] = ()
    use_up: str = ""
    use_batch: str = ""
    sentence: str = ""
    met: bool = False
    offers: tuple[Offer, ...] = ()


def reach(data: Fields, state: State, kind: Kind, prefs: Preferences) -> ReachTool:
    """The tool for the state as it is now."""
    chosen = state.tables.kinds.get(data.text("reach_kind"), kind)
    tool = _as_typed(data, chosen, state, prefs.show)
    known = prices()
    if tool.cheaper and not any(line.key in known for line in state.composition.lines):
        tool.problems["cheaper"] = "No price is known of any of these: receive a lot with what you paid for it."
    window = _window(tool, prefs)
    if tool.problems or window is None:
        return tool
    # What is left of a melt was paid for by its pieces: it is not for less that one takes more of it.
    rests = {item.key for item in state.composition.ingredients if item.made_of}
    limits = most_scent(state.composition, state.to_wearer(prefs.scent_policy))
    target = replace(
        window,
        overrun=chosen.overrun,
        wishes=tool.wish.wishes,
        most=tuple((key, float(share)) for key, share in limits.items()),
        prices=tuple((key, float(price.each)) for key, price in known.items() if key not in rests),
        cheaper=tool.cheaper,
    )
    try:
        start = _using_up(state, tool, prefs)
        ended = reformulate(state.free(start), target, state.tables, prefs.show)
    except Problem as problem:
        tool.problems[problem.where if problem.where == "use_batch" else "low"] = problem.sentence
        return tool
    named = [(way.name, way.composition, way.warning) for way in ended.ways] or [("The nearest", ended.composition, "")]
    offers = tuple(offered(name, state.composition, after, chosen, known, prefs, said) for name, after, said in named)
    return replace(tool, sentence=_ended(ended, target, prefs.show), met=ended.success, offers=offers)


def _using_up(state: State, tool: ReachTool, prefs: Preferences) -> Composition:
    """The composition to begin from: with so much of a lot that a batch uses it up, where that is wished."""
    lot = Lot.objects.filter(pk=tool.use_up).first() if tool.use_up else None
    if lot is None:
        return state.composition
    try:
        batch = units.mass_g(tool.use_batch, prefs.mass_unit, prefs.kitchen)
    except Problem as problem:
        raise Problem(problem.sentence, "use_batch") from None
    return using_up(state.composition, state.tables.ingredient(lot.item_key), lot.left, batch)


def _lots(state: State, show: Display) -> list[tuple[str, str]]:
    """The lots of waxes, butters and oils that hold something, the first to expire first."""
    names = {key: item.name for key, item in state.tables.ingredients.items() if item.role != Role.EXTRA}
    lots = Lot.objects.filter(left__gt=0, is_container=False, item_key__in=names)
    found = with_unfit(lots.order_by(F("best_before").asc(nulls_last=True), "pk"))
    fit = [lot for lot in found if lot.is_fit][:MOST_LOTS]
    return [(str(lot.pk), f"{names[lot.item_key]}, {lot}: {show.mass_text(lot.left)}") for lot in fit]


def _as_typed(data: Fields, chosen: Kind, state: State, show: Display) -> ReachTool:
    """The fields. A kind newly chosen brings its own window; otherwise what was typed stands."""
    wish = state.wish
    problems = {"wish": wish.problem} if wish.problem else {}
    if chosen.key != data.text("reach_was"):
        hold = "" if chosen.hold_firmness is None else figure(chosen.hold_firmness)
        at = "" if chosen.hold_temp_c is None else show.temp_text(chosen.hold_temp_c)
        typed = (figure(chosen.firm_low), figure(chosen.firm_high), hold, at)
    else:
        low, high, hold, at = (data.text(f"reach_{name}", 40) for name in ("low", "high", "hold", "at"))
        typed = (low, high, hold, at)
    lots = tuple(_lots(state, show))
    wanted = data.text("use_up", 20)
    use_up = wanted if wanted in dict(lots) else ""
    batch = data.text("use_batch", 40) or show.mass_text(USUAL_BATCH_G)
    return ReachTool(chosen.key, *typed, bool(data.text("reach_cheaper")), wish, problems, lots, use_up, batch)


def _window(tool: ReachTool, prefs: Preferences) -> Target | None:
    """The window and the hold that were typed; what cannot be used is noted in the tool's problems."""
    reading = FieldReader()

    def number(name: str, text: str) -> float | None:
        return reading.value(name, lambda: float(units.number(text)) if text.strip() else None, None)

    low, high, hold = number("low", tool.low), number("high", tool.high), number("hold", tool.hold)
    at = reading.value("at", lambda: units.temp_c(tool.at, prefs.temp_unit) if tool.at.strip() else None, None)
    tool.problems.update(reading.problems)
    if low is None or high is None:
        tool.problems.setdefault("low", "From which firmness to which?")
        return None
    if (hold is None) != (at is None):
        tool.problems.setdefault("at", "A hold needs both: a firmness and the temperature up to which it is kept.")
    return Target(low, high, hold, at)


def asked_window(data: Fields, prefs: Preferences) -> tuple[float, float, float | None, float | None]:
    """The window and the hold as typed in the tool. Raises :class:`Problem`."""

    def number(name: str) -> float | None:
        text = data.text(f"reach_{name}", 40).strip()
        return float(units.number(text)) if text else None

    low, high, at = number("low"), number("high"), data.text("reach_at", 40).strip()
    if low is None or high is None:
        raise Problem("From which firmness to which?")
    return low, high, number("hold"), units.temp_c(at, prefs.temp_unit) if at else None


def _ended(ended: TargetResult, target: Target, show: Display) -> str:
    told = f"{ended.firmness:.0f} at {show.temp_text(WINDOW_C)}"
    if ended.hold_firmness is not None and target.hold_temp_c is not None:
        told += f", {ended.hold_firmness:.0f} at {show.temp_text(target.hold_temp_c)}"
    return f"Reached: {told}." if ended.success else f"{ended.message} The nearest is {told}."
