"""What pages show of formulas: cards with their tins, what to begin from, what a version changed."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import groupby

from django.db.models import Prefetch, Q

from balmcore.advice.feel import feel
from balmcore.advice.verdict import judge
from balmcore.composition import Composition
from balmcore.display import figure
from balmcore.making.cost import Price
from balmcore.physics.firmness import WINDOW_C, predict, word
from balmcore.tables import Kind, Starter, Tables
from formulas.hooks import NO_POURS, PoursOfVersion, pours_among
from formulas.models import Formula, Version
from formulas.services import starting_point
from formulas.studio.offers import changes, cost_text
from pantry.queries import prices
from workshop.models import Preferences
from workshop.pictures.tin import Tin, tin


@dataclass(frozen=True)
class FormulaCard:
    """A formula on the shelf: its current version as a tin."""

    version: Version
    kind: Kind
    tin: Tin
    word: str
    firmness: float

    @property
    def formula(self) -> Formula:
        """The formula itself."""
        return self.version.formula


def formula_card(version: Version, tables: Tables) -> FormulaCard:
    """A version as it stands on the shelf; its lines should be prefetched."""
    state, firmness = version.get_stage_display(), firmness_of(version, tables)
    return FormulaCard(
        version,
        version.formula.to_kind(tables),
        tin(version.to_composition(tables).role_shares(), firmness, state, str(version)),
        word(firmness),
        firmness,
    )


def firmness_of(version: Version, tables: Tables) -> float:
    """The firmness of a version in the window, by the maker's own tests where these are gone by. Its lines should be
    prefetched."""
    composition = version.to_composition(tables)
    return predict(composition, version.formula.to_kind(tables).overrun).firmness_at(WINDOW_C)


def formula_list(tables: Tables, words: str = "", limit: int | None = None, is_away: bool = False) -> list[FormulaCard]:
    """Current versions, newest first; every word should be in name, note, kind or ingredient. Those put away by
    themselves."""
    found = Version.objects.current().with_lines().order_by("-created", "-pk")
    found = found.filter(formula__put_away__isnull=not is_away)
    for part in words.split()[:8]:
        kinds = [key for key, kind in tables.kinds.items() if part.lower() in kind.name.lower()]
        keys = [key for key, item in tables.ingredients.items() if part.lower() in item.name.lower()]
        found = found.filter(
            Q(formula__name__icontains=part)
            | Q(note__icontains=part)
            | Q(formula__kind_key__in=kinds)
            | Q(lines__ingredient_key__in=keys)
        )
    return [formula_card(version, tables) for version in (found.distinct()[:limit] if limit else found.distinct())]


@dataclass(frozen=True)
class KindStart:
    """A kind to begin from, with the tin of its starting point."""

    kind: Kind
    tin: Tin
    window: str


def kind_starts(tables: Tables) -> list[KindStart]:
    """Every kind with its starting point."""
    found = []
    for kind in tables.kinds.values():
        composition = starting_point(kind, tables)
        firmness = predict(composition, kind.overrun).firmness_at(WINDOW_C)
        window = f"{figure(kind.firm_low)} to {figure(kind.firm_high)}"
        found.append(KindStart(kind, tin(composition.role_shares(), firmness, "draft", kind.name), window))
    return found


@dataclass(frozen=True)
class StarterStart:
    """A starter to begin from: its tin, and what the model says of it cold and hot."""

    starter: Starter
    tin: Tin
    cool: str
    hot: str


def starter_starts(tables: Tables, prefs: Preferences) -> list[StarterStart]:
    """Every starter with its firmness in the maker's cool room and hot pocket."""
    found = []
    for starter in tables.starters.values():
        prediction = predict(starting_point(starter, tables))
        firmness = prediction.firmness_at(WINDOW_C)
        cool, hot = (
            f"{prediction.firmness_at(temp):.0f} {prediction.word_at(temp)}"
            for temp in (prefs.cool_room_c, prefs.hot_pocket_c)
        )
        picture = tin(prediction.composition.role_shares(), firmness, "draft", starter.name)
        found.append(StarterStart(starter, picture, cool, hot))
    return found


@dataclass(frozen=True)
class VersionStep:
    """A version in the history: its tin, what the model says of it, its pours, and line by line what it
    changed from its source."""

    card: FormulaCard
    changes: tuple[str, ...]
    moved: tuple[str, ...]
    verdict: str
    pours: PoursOfVersion


@dataclass(frozen=True)
class Folded:
    """Versions beside one another of which nothing was poured: how many, and the numbers of the first and the last."""

    count: int
    first: int
    last: int


def history(
    formula: Formula, tables: Tables, prefs: Preferences, is_unfolded: bool = True
) -> list[VersionStep | Folded]:
    """All versions, newest first, each with what it changed from the one it was made from. Folded, those that were
    never poured stand together as one line, but for the current one, the first and one by itself."""
    every = list(Version.objects.filter(formula=formula).order_by("-number"))
    poured = pours_among([version.pk for version in every], tables)
    runs = [
        (matters, list(run))
        for matters, run in groupby(every, lambda version: is_unfolded or _matters(version, poured))
    ]
    # Of those that stand together as a line nothing more is read.
    told = [version.pk for matters, run in runs if matters or len(run) == 1 for version in run]
    lines = Prefetch("made_from", Version.objects.select_related("formula").prefetch_related("lines"))
    versions = Version.objects.filter(pk__in=told).with_lines().prefetch_related(lines).in_bulk()
    compared = [each for version in versions.values() for each in (version, version.made_from) if each]
    known = prices({line.ingredient_key for version in compared for line in version.lines.all()})
    found: list[VersionStep | Folded] = []
    for matters, run in runs:
        if matters or len(run) == 1:
            shown = (versions[version.pk] for version in run)
            found += [_step(each, tables, known, prefs, poured.get(each.pk, NO_POURS)) for each in shown]
        else:
            found.append(Folded(len(run), run[-1].number, run[0].number))
    return found


def _matters(version: Version, poured: Mapping[int, PoursOfVersion]) -> bool:
    return version.is_current or version.number == 1 or version.stage >= Version.Stage.POURED or version.pk in poured


def _step(
    version: Version, tables: Tables, known: Mapping[str, Price], prefs: Preferences, poured: PoursOfVersion
) -> VersionStep:
    before, composition = version.made_from, version.to_composition(tables)
    kind = version.formula.to_kind(tables)
    return VersionStep(
        formula_card(version, tables),
        tuple(_changes(before.to_composition(tables), composition)) if before else (),
        tuple(_moved(before, version, tables, known, prefs)) if before else (),
        judge(predict(composition, kind.overrun), kind, prefs.show).headline,
        poured,
    )


def _moved(old: Version, new: Version, tables: Tables, known: Mapping[str, Price], prefs: Preferences) -> Iterable[str]:
    """What a version moved beside its lines: firmness, cost at today's prices, feel."""
    kind = new.formula.to_kind(tables)
    compositions = [version.to_composition(tables) for version in (old, new)]
    before, now = (firmness_of(version, tables) for version in (old, new))
    yield f"Firmness {before:.0f} → {now:.0f}{' by your tests' if tables.are_taught else ''}."
    costs = [cost_text(each, known, prefs) for each in compositions]
    if all(costs) and costs[0] != costs[1]:
        yield f"{prefs.show.price_mass} cost {costs[0]} → {costs[1]}."
    felt = [feel(each, kind) for each in compositions]
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
