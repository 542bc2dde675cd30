"""The next thing to try with a version, from all that its pours said; and doing it."""

from collections.abc import Iterable, Mapping
from statistics import fmean

from balmcore.composition import Composition
from balmcore.design.next_step import Suggestion, Told, hurting, next_step
from balmcore.display import Display
from balmcore.tables import Tables
from balmcore.trials.press import PRESS_SIGMA
from balmcore.trials.rates import Rate
from formulas.models import Version
from formulas.services import save_version
from learning.experience import experience_of
from pours.faults import faults_seen
from pours.models import Check, Pour, WearTest
from workshop.services import preferences

MOST_TOLD = 40  # pours of one version, the newest: what older ones said is an old story
OILY, DRAGS = 4, 2  # grades from which, and up to which, a wearer called it so


def told_by(pours: Iterable[Pour], own_grain: Mapping[str, Rate] | None = None) -> Told:
    """What the pours of one version said, taken together: read with checks and wear tests; ``own_grain`` is how often
    those with its butter grained, by way of cooling."""
    rows = sorted(pours, key=lambda pour: (pour.poured_on, pour.pk))
    # Grain goes by how it is cooled now: what was cooled otherwise is a story that has ended.
    now = rows[-1].cooled_by if rows else ""
    checks = [check for pour in rows for check in pour.standing]
    worn = [test for pour in rows for test in pour.wear_tests.all()]
    tests, firmness, sigma = _firmness_of(checks)
    return Told(
        tests,
        firmness,
        sigma,
        now,
        _rate_of("grain", [pour for pour in rows if pour.cooled_by == now]),
        _rate_of("sinkholes", rows),
        _rate(check.age == Check.Age.RANCID for check in checks if check.age),
        _rate(test.grease >= OILY for test in worn if test.grease is not None),
        _rate(test.glide <= DRAGS for test in worn if test.glide is not None),
        _rate(test.reacted for test in worn),
        tuple(test.said for test in sorted(worn, key=lambda test: (test.worn_on, test.pk)) if test.said.strip()),
        own_grain or {},
    )


def _firmness_of(checks: Iterable[Check]) -> tuple[int, float, float]:
    """How many of some checks teach a firmness, their mean, and its sigma."""
    firmness, sigmas = [], []
    for check in checks:
        if check.firmness is not None and not check.exclusion:
            firmness.append(check.firmness)
            sigmas.append(check.measured_sigma or PRESS_SIGMA)
    if not firmness:
        return 0, 0.0, 0.0
    return len(firmness), fmean(firmness), fmean(sigmas) / len(sigmas) ** 0.5


def _rate_of(fault: str, pours: Iterable[Pour]) -> Rate:
    """How often a fault was seen, of the pours in which somebody looked for it."""
    seen = (faults_seen(pour.standing) for pour in pours)
    return _rate(found[fault] for found in seen if fault in found)


def _rate(cases: Iterable[bool]) -> Rate:
    known = list(cases)
    return Rate(sum(known), len(known))


def to_try(version: Version, tables: Tables, show: Display) -> Suggestion | None:
    """What to try after the pours of a version; None where it has none, where a newer version stands in its
    place, or where nothing speaks against it."""
    if not version.is_current:
        return None
    rows = Pour.objects.filter(batch__version=version)
    newest = rows.order_by("-poured_on", "-pk").select_related("batch")[:MOST_TOLD]
    pours = list(newest.prefetch_related("checks", "wear_tests"))
    if not pours:
        return None
    kind = version.formula.to_kind(tables)
    # Its own tests say how far it is off, so the model alone is what they are held against.
    composition = version.to_composition(tables.plain)
    own_grain = experience_of(tables, preferences()).grain_of(composition)
    return next_step(composition, kind, told_by(pours, own_grain), tables.plain, show)


def what_may_hurt(version: Version) -> Suggestion | None:
    """What of the pours of a version may hurt somebody; None where nothing does. Two short queries, as a page waits."""
    worn = WearTest.objects.filter(pour__batch__version=version).values_list("reaction", flat=True)
    smelled = Check.objects.standing().filter(pour__batch__version=version).exclude(age="")
    return hurting(
        Told(
            reacted=_rate(reaction != WearTest.Reaction.NONE for reaction in worn),
            rancid=_rate(age == Check.Age.RANCID for age in smelled.values_list("age", flat=True)),
        )
    )


def make_next(version: Version, tables: Tables, suggestion: Suggestion) -> Version:
    """The suggested change as the next version of the formula, with its reason for a note."""
    changed: Composition = suggestion.composition or version.to_composition(tables)
    plain = Composition.of({line.key: line.share for line in changed.lines}, tables)
    current = version.formula.versions.get(is_current=True)
    note = f"{suggestion.sentence} {suggestion.why}"
    return save_version(version.formula, plain, seen=current.pk, made_from=version.number, note=note)
