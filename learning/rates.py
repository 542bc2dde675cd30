"""The maker's own rates of grain, sinkholes and bloom, by butter and way of cooling; and what is usual here."""

from collections import defaultdict
from collections.abc import Iterable

from django.db.models import QuerySet

from balmcore.tables import Role, Tables
from balmcore.trials.experience import LEAST_BUTTER, NO_BUTTER, HandlingRates
from balmcore.trials.rates import Middle, Rate, middle
from formulas.models import Line
from pours.faults import FAULTS, SEEN
from pours.models import Check, Pour, cooled_by


def handling_rates(tables: Tables) -> tuple[HandlingRates, ...]:
    """Rates of all pours somebody looked at, by butter and by ways of cooling and melting."""
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
        HandlingRates(butter, cooling, melting, {fault: Rate(sum(each), len(each)) for fault, each in faults.items()})
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


def usual_losses() -> dict[tuple[str, str], Middle]:
    """What stays in each pitcher by kind, of what is whipped by its whipper as well (``whipped_butter stand``), and by
    any kind (empty), where four pours say so."""
    kept: dict[tuple[str, str], list[float]] = defaultdict(list)
    columns = (
        "batch__pitcher_key",
        "batch__version__formula__kind_key",
        "batch__overrun",
        "batch__whipper",
        "leftover_g",
    )
    for pitcher, kind, air, whipper, grams in _stayed().filter(finish=None).values_list(*columns):
        for key in ((pitcher, kind), (pitcher, ""), *([(pitcher, f"{kind} {whipper}")] if air else ())):
            kept[key].append(float(grams or 0))
    return {key: found for key, each in kept.items() if (found := middle(each))}


def _stayed() -> QuerySet[Pour]:
    """The pours of which something stayed in the jug; what was kept on purpose is no loss."""
    return Pour.objects.filter(leftover_g__isnull=False, leftover_lot=None)


def usual_leftover() -> Middle | None:
    """What stays in a jug, of all pours; None before four."""
    stayed = _stayed().values_list("leftover_g", flat=True)
    return middle([float(grams) for grams in stayed if grams is not None])


def usual_pieces() -> tuple[tuple[str, Middle], ...]:
    """What a piece weighs, by the name of its container, where four say so."""
    pieces: dict[str, list[float]] = defaultdict(list)
    for name, grams in Pour.objects.filter(pieces__isnull=False).values_list("pieces__name", "pieces__mass_g"):
        pieces[name].append(float(grams))
    return tuple((name, known) for name, each in sorted(pieces.items()) if (known := middle(each)))
