"""What the studio answers to a state: lines with what each does, pictures, verdict, cautions."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from balmcore.advice.caution import Caution, by_gravity
from balmcore.advice.feel import Scale, feel, scent
from balmcore.advice.safety import cautions
from balmcore.advice.shelf_life import Life, life
from balmcore.advice.structure import Contribution, contributions
from balmcore.advice.verdict import Verdict, judge
from balmcore.composition import Composition, base_share, percent_text
from balmcore.design.glance import marks, scales, unmarked
from balmcore.design.meant import against
from balmcore.design.triangle import place_of, survey
from balmcore.display import figure
from balmcore.physics.firmness import SKIN_C, WINDOW_C, Prediction, predict, word
from balmcore.tables import ROLES, Kind, Role
from balmcore.trials.telling import wide_band
from formulas.hooks import judged_pours
from formulas.models import Version
from formulas.studio.state import LineInput, State
from formulas.studio.tools import Tool
from formulas.studio.trail import LONGEST, Trail
from workshop.models import Preferences
from workshop.pictures import triangle
from workshop.pictures.curve import Curve, curve
from workshop.pictures.tin import Tin, tin

BAR = 26.0  # width of a whole bar
ROLE_NAMES = {Role.WAX: "Wax", Role.BUTTER: "Butter", Role.OIL: "Oil", Role.EXTRA: "Extras"}


@dataclass(frozen=True)
class Row:
    """A line with what it gives to the structure: a bar of 0 to ``BAR`` and the points that one
    percent more of it would bring, as text; empty while there is nothing to reckon with."""

    typed: LineInput
    text: str
    bar: float = 0.0
    slope: str = ""
    told: str = ""


@dataclass(frozen=True)
class Group:
    """The lines of one role with their sum."""

    role: str
    name: str
    rows: tuple[Row, ...]
    percent: str
    is_held: bool


@dataclass(frozen=True)
class Answer:
    """All that the studio shows of a state: lines by role, total, pictures, verdict, cautions.

    The second half is empty for a formula with nothing in it.
    """

    state: State
    groups: tuple[Group, ...]
    total: str
    gap: str
    base: str
    changed: bool
    waiting: str
    tin: Tin
    verdict: Verdict | None = None
    said: tuple[str, ...] = ()
    sigma: float = 0.0
    wide: str = ""
    curve: Curve | None = None
    map: triangle.Map | None = None
    cautions: tuple[Caution, ...] = ()
    facts: tuple[Caution, ...] = ()
    scales: tuple[Scale, ...] = ()
    scent: str = ""
    boils_away: str = ""
    keeping: Life | None = None
    why_at: tuple[tuple[str, str], ...] = ()
    tool: Tool | None = None


def answer(state: State, trail: Trail, kind: Kind, prefs: Preferences, tool: Tool | None = None) -> Answer:
    """What the studio says to a state at the end of a trail; the offers of an open tool are drawn beside it."""
    version, composition = trail.version, state.composition
    gap = composition.total - 1
    changed = [line[:2] for line in composition.lines] != [line[:2] for line in trail.begun_from.lines]
    base = Answer(
        state=state,
        groups=(),
        total=percent_text(composition.total, 2),
        gap=f"{percent_text(abs(gap), 2)} % {'over' if gap > 0 else 'short'}" if gap else "",
        base=_base_words(composition, state.of),
        changed=changed or bool(state.problems) or _is_meant_anew(state, version),
        waiting="Nothing to weigh yet: add an ingredient.",
        tin=tin(composition.role_shares(), None, "draft", version.formula.name),
    )
    if composition.total <= 0:
        return replace(base, groups=_groups(state, {}))
    prediction, offers = predict(composition, kind.overrun), tool.offers if tool else ()
    others = [(offer.name, predict(offer.composition, kind.overrun)) for offer in offers]
    prediction.look_up((WINDOW_C, SKIN_C, *prefs.rooms))
    verdict = judge(prediction, kind, prefs.show)
    drawn = curve(prediction, kind, prefs.show, prefs.rooms, others, told=marks(prediction, verdict, prefs.show))
    found = by_gravity(
        (
            *cautions(composition, state.to_wearer(prefs.scent_policy)),
            *against(composition, state.meant, kind, state.tables, prefs.show, state.wish.wishes.only),
        )
    )
    places = {
        "": ("the window's", WINDOW_C),
        "cool": ("a cool room's", prefs.cool_room_c),
        "warm": ("a warm room's", prefs.warm_room_c),
        "skin": ("skin", SKIN_C),
        "pocket": ("a hot pocket's", prefs.hot_pocket_c),
    }
    why_c = places.get(state.why_at, places[""])[1]
    stage = "draft" if changed else version.get_stage_display()
    return replace(
        base,
        waiting=_waiting(state.lines),
        verdict=verdict,
        said=_said(prediction, verdict),
        sigma=prediction.sigma,
        wide=wide_band(composition),
        curve=drawn,
        map=_map(composition, state, trail, kind, prefs, [offer.composition for offer in offers]),
        tin=tin(composition.role_shares(), verdict.firmness, stage, version.formula.name),
        cautions=tuple(caution for caution in found if not caution.is_fact),
        facts=tuple(caution for caution in found if caution.is_fact),
        groups=_groups(state, contributions(composition, why_c, kind.overrun)),
        scales=scales(prediction, verdict, feel(composition, kind)),
        scent=scent(composition),
        boils_away=_boils_away(composition, kind.overrun),
        keeping=life(composition),
        why_at=tuple((key, f"{name}, {prefs.show.temp_text(temp)}") for key, (name, temp) in places.items()),
        tool=tool,
    )


def _is_meant_anew(state: State, version: Version) -> bool:
    """Whether it is meant for something else than the version that is stored."""
    return bool(version.pk) and (state.meant, state.of) != (version.meant, version.percent_of)


def _said(prediction: Prediction, verdict: Verdict) -> tuple[str, ...]:
    """What is wrong, and what has no mark on the curve."""
    wrong = [verdict.hold] if verdict.hold_c is not None and not verdict.holds else []
    return (*wrong, *unmarked(prediction, verdict), *([verdict.bleed] if verdict.bleed else []))


def _boils_away(composition: Composition, overrun: float) -> str:
    """What leaves before the wax goes in, and what is left of it then; empty where nothing leaves. The
    percentages of the studio are of what is weighed in."""
    left = composition.without_volatiles
    gone = 1 - left.total / composition.total
    if not gone or not left.total:
        return ""
    firmness = predict(left, overrun).firmness_at(WINDOW_C)
    return (
        f"{percent_text(round(gone, 3))} % of it boils away before the wax goes in: what is then poured is "
        f"{firmness:.0f}, {word(firmness)}."
    )


def _map(
    composition: Composition,
    state: State,
    trail: Trail,
    kind: Kind,
    prefs: Preferences,
    others: Sequence[Composition],
) -> triangle.Map:
    """The triangle with earlier versions, judged pours and offers in it."""
    poured = [pour for pours in judged_pours.ask(trail.version, state.tables, prefs) for pour in pours][-LONGEST:]
    taken = [place_of(each) for each in (*others, *(it for _, it in trail.stops), *(it for it, _ in poured))]
    surveyed = survey(composition, (kind.firm_low, kind.firm_high), kind.hold, kind.overrun, taken)
    return triangle.picture(surveyed, others, trail.stops, poured, kind, prefs.show)


def _base_words(composition: Composition, of: str) -> str:
    """What the total means while percentages are of the base."""
    base = base_share(composition)
    if of != "base" or base <= 0:
        return ""
    over = max(composition.total - base, base * 0)
    extras = percent_text(round(over / base, 4), 2)
    return f"of the base, and {extras} % extras on top"


def _groups(state: State, parts: Mapping[str, Contribution]) -> tuple[Group, ...]:
    return tuple(_group(role, state, parts) for role in ROLES)


def _group(role: Role, state: State, parts: Mapping[str, Contribution]) -> Group:
    own = [typed for typed in state.lines if typed.ingredient.role == role]
    total = Composition(tuple(typed.line for typed in own)).total
    rows = tuple(_row(typed, state, parts.get(typed.line.key)) for typed in own)
    return Group(role, ROLE_NAMES[role], rows, percent_text(total, 2), role in state.held)


def _row(typed: LineInput, state: State, part: Contribution | None) -> Row:
    text = state.text_of(typed)
    other = "" if state.of == "whole" else f"{percent_text(round(typed.line.share, 4), 2)} % of the whole. "
    if part is None:
        return Row(typed, text)
    slope = figure(part.slope, 1, signed=True)
    told = f"{other}{part.structure * 100:.0f} % of the structure; one percent more of it: {slope} points"
    small = slope if state.of == "whole" else percent_text(round(typed.line.share, 4), 1)
    return Row(typed, text, BAR * part.structure, small, told)


def _waiting(lines: Iterable[LineInput]) -> str:
    names = [typed.ingredient.name for typed in lines if typed.problem]
    return f"The picture waits for {', '.join(names)}; it shows the formula before." if names else ""
