"""The trail of a formula: the version that the studio began from, and what went before it.

It is read at every key that is pressed, and the ORM takes several times as long to write these queries as SQLite to
answer them: each is written once, and asked with its parameters in the order in which it holds them.
"""

from dataclasses import dataclass
from functools import cache

from django.db.models import F, QuerySet
from django.http import Http404
from django.shortcuts import get_object_or_404

from balmcore.composition import Composition
from balmcore.tables import Tables
from formulas.models import Formula, Line, Version, composed

LONGEST = 8


@dataclass(frozen=True)
class Trail:
    """The ``version`` begun from, and ``stops``: number and composition of those before it and its own, the oldest
    first."""

    version: Version
    stops: tuple[tuple[int, Composition], ...]

    @property
    def begun_from(self) -> Composition:
        """What the version consists of."""
        return self.stops[-1][1]


def trail_of(formula: int, number: int, tables: Tables) -> Trail:
    """The trail up to a version of a formula, or to the current one where there is none so low. Raises 404 for a
    formula that is not there."""
    own = next(iter(Formula.objects.raw(_formula(), (formula,))), None)
    if own is None:
        raise Http404
    up_to = next(iter(Version.objects.raw(_version(), (formula, number))), None)
    version = up_to or get_object_or_404(own.versions, is_current=True)
    version.formula = own
    stops: dict[int, list[Line]] = {}
    for line in Line.objects.raw(_lines(), (formula, version.number)):
        stops.setdefault(vars(line)["number"], []).append(line)
    stops.setdefault(version.number, [])
    return Trail(version, tuple((number, composed(lines, tables)) for number, lines in stops.items()))


@cache
def _formula() -> str:
    """A formula by its key."""
    return _written(Formula.objects.filter(pk=0))


@cache
def _version() -> str:
    """The last version of a formula up to a number."""
    return _written(Version.objects.filter(formula=0).up_to(0)[:1])


@cache
def _lines() -> str:
    """The lines of the last versions of a formula up to a number, each with the number of its version."""
    last = Version.objects.filter(formula=0).up_to(0)[:LONGEST]
    lines = Line.objects.filter(version__in=last.values("pk")).annotate(number=F("version__number"))
    return _written(lines.order_by("number", "position"))


def _written(rows: QuerySet[Formula] | QuerySet[Version] | QuerySet[Line]) -> str:
    return rows.query.sql_with_params()[0]
