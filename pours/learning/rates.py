"""The maker's own rates of grain, sinkholes and bloom, by butter and way of cooling; and what is usual here."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from balmcore.composition import Composition
from balmcore.physics.cooling import COOLING_METHODS
from balmcore.tables import Role, Tables
from balmcore.trials.rates import Middle, Rate, middle
from balmcore.wording import in_sentence
from formulas.models import Line
from pours.models import Check, Pour, cooled_by

FAULTS = ("grain", "sinkholes", "bloom", "sweating")
SEEN = (Check.Sight.SOME, Check.Sight.MUCH)
LEAST_BUTTER = 0.1  # of the formula: less does not make its grain
NO_BUTTER = ""


@dataclass(frozen=True)
class Handled:
    """The rates of one butter, or of no butter, by one way of cooling."""

    butter: str
    cooling: str
    rates: dict[str, Rate]


def faults_seen(checks: Iterable[Check]) -> dict[str, bool]:
    """What was looked for in the checks of a pour, and whether it was there in any."""
    found: dict[str, bool] = {}
    for check in checks:
        for fault in FAULTS:
            if said := getattr(check, fault):
                found[fault] = found.get(fault, False) or said in SEEN
    return found


def handling_rates(tables: Tables, butters: Iterable[str] | None = None) -> tuple[Handled, ...]:
    """Rates of all pours somebody looked at or, with ``butters``, of those led by one of them. Three queries."""
    checks = Check.objects.exclude(aside=Check.Aside.MISTAKE).exclude(grain="", sinkholes="", bloom="", sweating="")
    columns = ("pour", "pour__cooling", "pour__batch__cooling", "pour__batch__version", *FAULTS)
    seen: dict[tuple[int, str, int], dict[str, bool]] = defaultdict(dict)
    for pour, stood, planned, version, *said in checks.values_list(*columns):
        of = seen[pour, cooled_by(stood, planned), version]
        for fault, word in zip(FAULTS, said, strict=True):
            if word:
                of[fault] = of.get(fault, False) or word in SEEN
    leading = leading_butters({version for _, _, version in seen}, tables)
    wanted = None if butters is None else set(butters)
    counted: dict[tuple[str, str], dict[str, list[bool]]] = defaultdict(lambda: defaultdict(list))
    for (_, cooling, version), found in seen.items():
        butter = leading.get(version, NO_BUTTER)
        if wanted is None or butter in wanted:
            for fault, was in found.items():
                counted[butter, cooling][fault].append(was)
    return tuple(
        Handled(butter, cooling, {fault: Rate(sum(each), len(each)) for fault, each in faults.items()})
        for (butter, cooling), faults in sorted(counted.items())
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
    butters = [line for line in composition.lines if line.ingredient.role == Role.BUTTER and line.share >= LEAST_BUTTER]
    return max(butters, key=lambda line: line.share).key if butters else NO_BUTTER


def own_grain(composition: Composition, tables: Tables) -> dict[str, Rate]:
    """How often pours with this composition's leading butter grained, by way of cooling."""
    butter = leading_butter(composition)
    if not butter:
        return {}
    rows = handling_rates(tables, [butter])
    return {row.cooling: row.rates["grain"] for row in rows if "grain" in row.rates}


def best_cooling(rates: dict[str, Rate], usual: str) -> str:
    """The way of cooling that this maker's pours speak for against the usual one; empty where they do not."""
    against = rates.get(usual)
    if against is None:
        return ""
    better = [key for key, rate in rates.items() if key in COOLING_METHODS and rate.is_below(against)]
    return min(better, key=lambda key: rates[key].cases / rates[key].of, default="")


def grain_told(composition: Composition, rate: Rate) -> str:
    """``grain in 3 of 4 of your own with shea butter``."""
    names = {line.key: line.ingredient.name for line in composition.lines}
    return f"grain in {rate} of your own pours with {in_sentence(names[leading_butter(composition)])}"


@dataclass(frozen=True)
class Usual:
    """What is usual at this bench, each None before there are four cases: grams that stay in a jug, and by
    container the grams of a piece."""

    stayed_g: Middle | None
    pieces_g: tuple[tuple[str, Middle], ...]


def usual() -> Usual:
    """Medians and quartiles of what stayed behind and of the pieces."""
    stayed = Pour.objects.filter(rest_g__isnull=False).values_list("rest_g", flat=True)
    pieces: dict[str, list[float]] = defaultdict(list)
    for name, grams in Pour.objects.filter(pieces__isnull=False).values_list("pieces__name", "pieces__mass_g"):
        pieces[name].append(float(grams))
    found = [(name, known) for name, each in sorted(pieces.items()) if (known := middle(each))]
    return Usual(middle([float(grams) for grams in stayed if grams is not None]), tuple(found))
