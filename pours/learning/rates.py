"""The maker's own rates of grain, sinkholes and bloom, by butter and way of cooling; and what is usual here."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache

from balmcore.composition import Composition
from balmcore.physics.cooling import COOLING_METHODS
from balmcore.physics.grain import HELD, MELTING_METHODS
from balmcore.tables import Role, Tables
from balmcore.trials.rates import Middle, Rate, middle
from balmcore.wording import in_sentence
from formulas.models import Line
from pours.models import Check, Pour, cooled_by
from workshop.models import Preferences

FAULTS = ("grain", "sinkholes", "bloom", "sweating")
SEEN = (Check.Sight.SOME, Check.Sight.MUCH)
LEAST_BUTTER = 0.1  # of the formula: less does not make its grain
NO_BUTTER = ""


@dataclass(frozen=True)
class Handled:
    """The rates of one butter, or of no butter, by one way of cooling and of melting."""

    butter: str
    cooling: str
    melting: str
    rates: dict[str, Rate]


def faults_seen(checks: Iterable[Check]) -> dict[str, bool]:
    """What was looked for in the checks of a pour, and whether it was there in any."""
    found: dict[str, bool] = {}
    for check in checks:
        for fault in FAULTS:
            if said := getattr(check, fault):
                found[fault] = found.get(fault, False) or said in SEEN
    return found


def handling_rates(tables: Tables, prefs: Preferences) -> tuple[Handled, ...]:
    """Rates of all pours somebody looked at; counted once as long as nothing new was seen."""
    return _handling_rates(prefs.records_revision, tables) if prefs.records_revision else ()


@lru_cache(maxsize=4)
def _handling_rates(stamp: int, tables: Tables) -> tuple[Handled, ...]:
    checks = Check.objects.standing().exclude(grain="", sinkholes="", bloom="", sweating="")
    columns = (
        "pour",
        "pour__cooling",
        *(f"pour__batch__{name}" for name in ("cooling", "melting", "version")),
        *FAULTS,
    )
    seen: dict[tuple[int, str, str, int], dict[str, bool]] = defaultdict(dict)
    for pour, stood, planned, melting, version, *said in checks.values_list(*columns):
        of = seen[pour, cooled_by(stood, planned), melting, version]
        for fault, word in zip(FAULTS, said, strict=True):
            if word:
                of[fault] = of.get(fault, False) or word in SEEN
    leading = leading_butters({version for *_, version in seen}, tables)
    counted: dict[tuple[str, str, str], dict[str, list[bool]]] = defaultdict(lambda: defaultdict(list))
    for (_, cooling, melting, version), found in seen.items():
        for fault, was in found.items():
            counted[leading.get(version, NO_BUTTER), cooling, melting][fault].append(was)
    return tuple(
        Handled(butter, cooling, melting, {fault: Rate(sum(each), len(each)) for fault, each in faults.items()})
        for (butter, cooling, melting), faults in sorted(counted.items())
    )


def leading_butters(versions: Iterable[int], tables: Tables) -> dict[int, str]:
    """The butter there is most of in each of some versions; versions with hardly any are left out."""
    found: dict[int, tuple[float, str]] = {}
    for version, key, share in Line.objects.filter(version__in=versions).values_list(
        "version", "ingredient_key", "share"
    ):
        item = tables.ingredients.get(key)
        if item and item.role == Role.BUTTER and share >= LEAST_BUTTER:
            found[version] = max(found.get(version, (0.0, "")), (float(share), key))
    return {version: key for version, (_, key) in found.items()}


def leading_butter(composition: Composition) -> str:
    """The butter there is most of, empty where there is hardly any."""
    least = LEAST_BUTTER * float(composition.total)
    butters = [line for line in composition.lines if line.ingredient.role == Role.BUTTER and float(line.share) >= least]
    return max(butters, key=lambda line: line.share).key if butters else NO_BUTTER


def own_grain(composition: Composition, tables: Tables, prefs: Preferences) -> dict[str, Rate]:
    """How often pours with this composition's leading butter grained, by way of cooling, with how far it was melted
    before it where that is another than our default."""
    butter = leading_butter(composition)
    return {
        row.cooling if row.melting == HELD else f"{row.melting} {row.cooling}": row.rates["grain"]
        for row in (handling_rates(tables, prefs) if butter else ())
        if row.butter == butter and "grain" in row.rates and row.cooling in COOLING_METHODS
    }


def best_cooling(rates: Mapping[str, Rate], usual: str) -> str:
    """The way of cooling that this maker's pours speak for against the usual one; empty where they do not."""
    against = rates.get(usual)
    if against is None:
        return ""
    better = [key for key, rate in rates.items() if key in COOLING_METHODS and rate.is_below(against)]
    return min(better, key=lambda key: rates[key].cases / rates[key].of, default="")


def cooling_sentences(composition: Composition, rates: Mapping[str, Rate]) -> dict[str, str]:
    """A sentence for each way of cooling: ``Slowly on the counter: 3 of 4 of yours with shea butter grained``."""
    names = {line.key: line.ingredient.name for line in composition.lines}
    butter = in_sentence(names[leading_butter(composition)]) if rates else ""
    return {key: f"{_way_words(key)}: {rate.sentence} of yours with {butter} grained." for key, rate in rates.items()}


def _way_words(key: str) -> str:
    """A way of cooling in words, with that of melting before it where the key has one."""
    *melting, cooling = key.split(" ")
    told = COOLING_METHODS[cooling].name
    return f"{MELTING_METHODS[melting[0]].name}, then {in_sentence(told)}" if melting else told


@dataclass(frozen=True)
class Usual:
    """What is usual at this bench, each None before there are four cases: grams that stay in a jug, and by
    container the grams of a piece."""

    stayed_g: Middle | None
    pieces_g: tuple[tuple[str, Middle], ...]


@lru_cache(maxsize=4)
def _losses(stamp: int) -> dict[tuple[str, str], Middle]:
    """What stays in each pitcher by kind, and by any kind (empty), where four pours say so; counted once as long as
    nothing new was poured."""
    kept: dict[tuple[str, str], list[float]] = defaultdict(list)
    columns = ("batch__pitcher_key", "batch__version__formula__kind_key", "leftover_g")
    rows = Pour.objects.filter(leftover_g__isnull=False, finish=None).values_list(*columns)
    for vessel, kind, grams in rows if stamp else ():
        for key in ((vessel, kind), (vessel, "")):
            kept[key].append(float(grams or 0))
    return {key: found for key, each in kept.items() if (found := middle(each))}


def usual_loss(vessel: str, kind: str, prefs: Preferences) -> Middle | None:
    """What usually stays in a pitcher at this bench: of a kind or, where too few of it were poured, of any; None
    before four pours."""
    known = _losses(prefs.records_revision)
    return known.get((vessel, kind)) or known.get((vessel, ""))


def usual(prefs: Preferences) -> Usual:
    """Medians and quartiles of what stayed behind and of the pieces; counted once as long as nothing new was poured."""
    return _usual(prefs.records_revision) if prefs.records_revision else Usual(None, ())


@lru_cache(maxsize=2)
def _usual(stamp: int) -> Usual:
    stayed = Pour.objects.filter(leftover_g__isnull=False).values_list("leftover_g", flat=True)
    pieces: dict[str, list[float]] = defaultdict(list)
    for name, grams in Pour.objects.filter(pieces__isnull=False).values_list("pieces__name", "pieces__mass_g"):
        pieces[name].append(float(grams))
    found = [(name, known) for name, each in sorted(pieces.items()) if (known := middle(each))]
    return Usual(middle([float(grams) for grams in stayed if grams is not None]), tuple(found))
