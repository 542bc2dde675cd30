"""What pages show of formulas: shelves of tins, the studio's answer, what a version changed."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

from django.db.models import Prefetch, Q, QuerySet
from rapidfuzz import fuzz, process

from balmcore.advice.feel import Feel, Part, feel, scent, why
from balmcore.advice.safety import Caution, cautions
from balmcore.advice.verdict import Verdict, judge
from balmcore.composition import Formula as Composition
from balmcore.composition import base_share, percent_text
from balmcore.design.triangle import survey
from balmcore.making.cost import Price
from balmcore.making.scaling import in_pot
from balmcore.physics.firmness import SKIN_C, WINDOW_C, predict, word
from balmcore.tables import ROLES, Ingredient, Kind, School, library
from formulas.models import Formula, Line, Version
from formulas.services import starting_point
from formulas.studio import State, Typed
from formulas.tools import Tool, changes, cost_text
from pantry.queries import prices
from workshop.models import Preferences
from workshop.pictures import triangle
from workshop.pictures.curve import Curve, curve
from workshop.pictures.tin import Tin, tin

BAR = 26.0  # width of a whole bar
LONGEST_TRAIL = 8
ROLE_NAMES = {"wax": "Wax", "butter": "Butter", "oil": "Oil", "extra": "Extras"}


@dataclass(frozen=True)
class Jar:
    """A formula on the shelf: its current version as a tin."""

    version: Version
    tin: Tin
    word: str

    @property
    def formula(self) -> Formula:
        """The formula itself."""
        return self.version.formula


def jar(version: Version) -> Jar:
    """A version as it stands on the shelf; its lines should be prefetched."""
    state = version.get_stage_display()
    return Jar(
        version,
        tin(version.core.role_shares(), version.firmness, state, str(version)),
        word(version.firmness),
    )


def with_lines(versions: QuerySet[Version]) -> QuerySet[Version]:
    """Versions with formula and lines in two queries."""
    return versions.select_related("formula").prefetch_related("lines")


def shelf(words: str = "", limit: int | None = None) -> list[Jar]:
    """Current versions, newest first; every word should be in name, note, kind or ingredient."""
    found = with_lines(Version.objects.filter(is_current=True)).order_by("-created", "-pk")
    for part in words.split()[:8]:
        kinds = [key for key, kind in library().kinds.items() if part.lower() in kind.name.lower()]
        keys = [key for key, item in library().ingredients.items() if part.lower() in item.name.lower()]
        found = found.filter(
            Q(formula__name__icontains=part)
            | Q(note__icontains=part)
            | Q(formula__kind_key__in=kinds)
            | Q(lines__ingredient_key__in=keys)
        )
    return [jar(version) for version in (found.distinct()[:limit] if limit else found.distinct())]


@dataclass(frozen=True)
class Starter:
    """A kind to begin from, with the tin of its starting point."""

    kind: Kind
    tin: Tin
    window: str


def starters() -> list[Starter]:
    """Every kind with its starting point."""
    found = []
    for kind in library().kinds.values():
        composition = starting_point(kind)
        firmness = predict(composition, kind.overrun).firmness_at(WINDOW_C)
        window = f"{kind.firm_low:g} to {kind.firm_high:g}"
        found.append(Starter(kind, tin(composition.role_shares(), firmness, "draft", kind.name), window))
    return found


@dataclass(frozen=True)
class SchoolStarter:
    """A school to begin from: its tin, and what the model says of it cold and hot."""

    school: School
    tin: Tin
    cool: str
    hot: str


def schools(prefs: Preferences) -> list[SchoolStarter]:
    """Every school with its firmness in the maker's cool room and hot pocket."""
    found = []
    for school in library().schools.values():
        prediction = predict(starting_point(school))
        firmness = prediction.firmness_at(WINDOW_C)
        cool, hot = (
            f"{prediction.firmness_at(temp):.0f} {prediction.word_at(temp)}"
            for temp in (prefs.cool_room_c, prefs.hot_pocket_c)
        )
        picture = tin(prediction.formula.role_shares(), firmness, "draft", school.name)
        found.append(SchoolStarter(school, picture, cool, hot))
    return found


def pick(text: str, limit: int = 8) -> list[Ingredient]:
    """Ingredients whose name or INCI name holds the text; when none does, the nearest names."""
    items = [item for item in library().ingredients.values() if item.key != "aroma"]
    wanted = " ".join(text.lower().split())[:80]
    if not wanted:
        return []
    held = [item for item in items if wanted in f"{item.name} {item.inci}".lower()]
    if held:
        return sorted(held, key=lambda item: (not item.name.lower().startswith(wanted), item.role, item.name))[:limit]
    names = {item.key: item.name.lower() for item in items}
    near = process.extract(wanted, names, scorer=fuzz.WRatio, limit=limit, score_cutoff=70)
    return [library().ingredient(key) for _, _, key in near]


@dataclass(frozen=True)
class Row:
    """A line with what it gives to the structure: a bar of 0 to ``BAR`` and the points that one
    percent more of it would bring, as text; empty while there is nothing to reckon with."""

    typed: Typed
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
    rooms: tuple[tuple[str, float, str], ...] = ()
    sigma: float = 0.0
    curve: Curve | None = None
    map: triangle.Map | None = None
    cautions: tuple[Caution, ...] = ()
    feel: Feel | None = None
    scent: str = ""
    why_at: tuple[tuple[str, str], ...] = ()
    tool: Tool | None = None


def answer(state: State, version: Version, kind: Kind, prefs: Preferences, tool: Tool | None = None) -> Answer:
    """What the studio says to a state that started from ``version``; the offers of an open tool
    are drawn beside it."""
    formula = state.formula
    gap = formula.total - 1
    changed = [line[:2] for line in formula.lines] != [line[:2] for line in version.core.lines]
    base = Answer(
        state=state,
        groups=tuple(_group(role, state, {}) for role in ROLES),
        total=percent_text(formula.total, 2),
        gap=f"{percent_text(abs(gap), 2)} % {'over' if gap > 0 else 'short'}" if gap else "",
        base=_base_words(formula, state.of),
        changed=changed or bool(state.problems),
        waiting="Nothing to weigh yet: add an ingredient.",
        tin=tin(formula.role_shares(), None, "draft", version.formula.name),
    )
    if formula.total <= 0:
        return base
    prediction = predict(formula, kind.overrun)
    verdict = judge(prediction, kind, prefs.show)
    offers = tool.offers if tool else ()
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
        rooms=tuple(
            (f"{name}, {prefs.show.temp_text(temp)}", prediction.firmness_at(temp), prediction.word_at(temp))
            for name, temp in zip(("Cool room", "Warm room", "Hot pocket"), prefs.rooms, strict=True)
        ),
        sigma=prediction.sigma,
        curve=curve(
            prediction,
            kind,
            prefs.show,
            prefs.rooms,
            [(offer.name, predict(offer.formula, kind.overrun)) for offer in offers],
        ),
        map=triangle.picture(
            survey(formula, (kind.firm_low, kind.firm_high), kind.hold, kind.overrun),
            [offer.formula for offer in offers],
            _trail(version),
            _poured(version),
            kind,
            prefs.show,
        ),
        tin=tin(formula.role_shares(), verdict.firmness, stage, version.formula.name),
        cautions=cautions(formula, state.audience, state.area, prefs.school),
        groups=tuple(_group(role, state, why(formula, why_c, kind.overrun)) for role in ROLES),
        feel=feel(formula, kind),
        scent=scent(formula),
        why_at=tuple((key, f"{name}, {prefs.show.temp_text(temp)}") for key, (name, temp) in places.items()),
        tool=tool,
    )


def _trail(version: Version) -> list[tuple[int, Composition]]:
    """The versions up to this one, the oldest first: number and composition."""
    lines = Line.objects.filter(
        version__formula=version.formula_id,
        version__number__gt=version.number - LONGEST_TRAIL,
        version__number__lte=version.number,
    ).order_by("version__number", "position")
    found: dict[int, dict[str, Decimal]] = {}
    for number, key, share in lines.values_list("version__number", "ingredient_key", "share"):
        found.setdefault(number, {})[key] = share
    return [(number, Composition.of(shares)) for number, shares in found.items()]


# Batches and pours hang on a version from above; only the names of the relations are known here.
_POURED = [f"batches__{name}" for name in ("pk", "pour__verdict", "pour__measured", "pour__predicted")]
_IN_POT = [f"batches__lines__{name}" for name in ("ingredient_key", "actual_g", "target_g")]


def _poured(version: Version) -> list[tuple[Composition, Tin]]:
    """The judged pours of a formula: what was really in each pot, and its tin."""
    judged = Version.objects.filter(formula=version.formula_id, batches__pour__verdict__gt="")
    pots: dict[tuple[Any, ...], list[tuple[Any, ...]]] = {}
    for row in judged.order_by("number", "batches__pk").values_list(*_POURED, *_IN_POT):
        pots.setdefault(row[: len(_POURED)], []).append(row[len(_POURED) :])
    found = []
    for (pk, verdict, measured, predicted), lines in pots.items():
        composition = in_pot(lines)
        firmness = predicted if measured is None else measured
        found.append((composition, tin(composition.role_shares(), firmness, "judged", f"Batch {pk}, {verdict}")))
    return found[-LONGEST_TRAIL:]


def _base_words(formula: Composition, of: str) -> str:
    """What the total means while percentages are of the base."""
    base = base_share(formula)
    if of != "base" or base <= 0:
        return ""
    extras = percent_text(round((formula.total - base) / base, 4), 2) if formula.total > base else "0.00"
    return f"of the base, and {extras} % extras on top"


def _group(role: str, state: State, parts: Mapping[str, Part]) -> Group:
    own = [typed for typed in state.lines if typed.ingredient.role == role]
    total = Composition(tuple(typed.line for typed in own)).total
    rows = tuple(_row(typed, state, parts.get(typed.line.key)) for typed in own)
    return Group(role, ROLE_NAMES[role], rows, percent_text(total, 2))


def _row(typed: Typed, state: State, part: Part | None) -> Row:
    text = state.text_of(typed)
    other = "" if state.of == "whole" else f"{percent_text(round(typed.line.share, 4), 2)} % of the whole. "
    if part is None:
        return Row(typed, text)
    told = f"{other}{part.structure * 100:.0f} % of the structure; one percent more of it: {part.slope:+.1f} points"
    small = f"{part.slope:+.1f}" if state.of == "whole" else percent_text(round(typed.line.share, 4), 1)
    return Row(typed, text, BAR * part.structure, small, told)


def _waiting(lines: Iterable[Typed]) -> str:
    names = [typed.ingredient.name for typed in lines if typed.problem]
    return f"The picture waits for {', '.join(names)}; it shows the formula before." if names else ""


@dataclass(frozen=True)
class Step:
    """A version in the history: its tin, and line by line what it changed from its source."""

    jar: Jar
    changes: tuple[str, ...]
    moved: tuple[str, ...]


def history(formula: Formula, prefs: Preferences) -> list[Step]:
    """All versions, newest first, each with what it changed from the one it was made from."""
    known = prices()
    lines = Prefetch("made_from", Version.objects.prefetch_related("lines"))
    versions = with_lines(Version.objects.filter(formula=formula)).prefetch_related(lines)
    return [
        Step(
            jar(version),
            tuple(_changes(version.made_from.core, version.core)) if version.made_from else (),
            tuple(_moved(version.made_from, version, known, prefs)) if version.made_from else (),
        )
        for version in versions
    ]


def _moved(old: Version, new: Version, known: Mapping[str, Price], prefs: Preferences) -> Iterable[str]:
    """What a version moved beside its lines: firmness, cost at today's prices, feel."""
    kind = new.formula.kind
    yield f"Firmness {old.firmness:.0f} → {new.firmness:.0f}."
    costs = [cost_text(version.core, known, prefs) for version in (old, new)]
    if all(costs) and costs[0] != costs[1]:
        yield f"100 g cost {costs[0]} → {costs[1]}."
    felt = [feel(version.core, kind) for version in (old, new)]
    if felt[0] and felt[1] and felt[0].sentence != felt[1].sentence:
        yield f"Feel, before: {felt[0].sentence} Now: {felt[1].sentence}"


def _changes(old: Composition, new: Composition) -> Iterable[str]:
    for change in changes(old, new):
        if not change.before:
            yield f"{change.name} new, {change.after} %"
        elif not change.after:
            yield f"{change.name} out, was {change.before} %"
        else:
            yield f"{change.name} {change.before} → {change.after} %"
