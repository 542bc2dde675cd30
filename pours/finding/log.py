"""The log of pours, narrowed by what a maker remembers of one."""

from dataclasses import dataclass, fields
from datetime import date
from decimal import Decimal

from django.core.paginator import Page, Paginator
from django.db.models import Exists, F, OuterRef, Q, QuerySet, Subquery
from django.db.models.functions import Coalesce

from balmcore import units
from balmcore.composition import percent_text
from balmcore.days import read_day
from balmcore.display import spoken
from balmcore.recipes.words.picking import picked
from balmcore.tables import Tables
from batches.hooks import unfit_among
from batches.models import BatchLine
from formulas.models import Formula, Line
from pours.models import Check, Pour, PourQuerySet, SavedFilter, WearTest
from pours.queries import Card, card
from workshop.web import FieldReader, Fields

PER_PAGE, MOST_WORDS, MOST_FIRMNESS = 24, 8, 150


@dataclass(frozen=True)
class Filters:
    """How the log is narrowed; None and empty strings narrow nothing. Shares are 0 to 1 of the formula,
    firmness that of the last test at 21 degrees."""

    formula: int | None = None
    kind: str = ""
    verdict: str = ""
    words: str = ""
    ingredient: str = ""
    share_low: Decimal | None = None
    share_high: Decimal | None = None
    firm_low: Decimal | None = None
    firm_high: Decimal | None = None
    finish: str = ""
    since: date | None = None
    until: date | None = None

    @property
    def is_set(self) -> bool:
        """True when anything is narrowed."""
        return any(getattr(self, each.name) not in (None, "") for each in fields(self))

    @property
    def is_narrow(self) -> bool:
        """True when something is narrowed that stands behind "More"."""
        plain = {"formula", "kind", "verdict", "words"}
        return any(getattr(self, each.name) not in (None, "") for each in fields(self) if each.name not in plain)


def read_filters(query: Fields, tables: Tables) -> tuple[Filters, dict[str, str]]:
    """The filters of an address, and a sentence for each that was not understood and narrows nothing."""
    reading = FieldReader()

    def number(name: str, how: str) -> Decimal | None:
        text = query.text(name, 40).strip()
        if not text:
            return None
        return reading.value(name, lambda: units.share(text) if how == "share" else units.number(text), None)

    def day(name: str) -> date | None:
        return reading.value(name, lambda: read_day(query.text(name, 40), spoken().dates), None)

    held = query.text("ingredient", 120).strip()
    filters = Filters(
        query.whole("formula"),
        query.text("kind"),
        query.text("verdict"),
        query.text("q"),
        reading.value("ingredient", lambda: picked(held, tables) if held else "", ""),
        number("share_low", "share"),
        number("share_high", "share"),
        number("firm_low", "number"),
        number("firm_high", "number"),
        query.text("finish", 60),
        day("since"),
        day("until"),
    )
    return filters, reading.problems


def narrowed(filters: Filters, tables: Tables) -> PourQuerySet:
    """The pours that pass the filters, newest first."""
    found = Pour.objects.all()
    if filters.formula is not None:
        found = found.filter(batch__version__formula=filters.formula)
    if filters.kind in tables.kinds:
        found = found.filter(batch__version__formula__kind_key=filters.kind)
    if filters.verdict == "open":
        found = found.filter(verdict="")
    elif filters.verdict in Pour.Verdict.values and filters.verdict:
        found = found.filter(verdict=filters.verdict)
    if filters.finish:
        found = found.filter(finish__name__icontains=filters.finish)
    for part in filters.words.split()[:MOST_WORDS]:
        found = found.filter(_says(part))
    if filters.ingredient in tables.ingredients:
        found = found.filter(_holds(filters))
    if filters.firm_low is not None or filters.firm_high is not None:
        found = found.annotate(firmness=last_firmness())
    between = {
        "firmness__gte": filters.firm_low, "firmness__lte": filters.firm_high,
        "poured_on__gte": filters.since, "poured_on__lte": filters.until,
    }  # fmt: skip
    return found.filter(**{name: value for name, value in between.items() if value is not None})


def _says(part: str) -> Q:
    """A word anywhere in what was written of a pour."""
    own = Q(notes__icontains=part) | Q(batch__version__formula__name__icontains=part)
    checks = Check.objects.filter(pour=OuterRef("pk"), notes__icontains=part)
    wear = WearTest.objects.filter(pour=OuterRef("pk"), said__icontains=part)
    return own | Exists(checks) | Exists(wear)


def _holds(filters: Filters) -> Q:
    """An ingredient in the formula, between two shares of it; or added to the finish."""
    lines = Line.objects.filter(version=OuterRef("batch__version"), ingredient_key=filters.ingredient)
    if filters.share_low is not None:
        lines = lines.filter(share__gte=filters.share_low)
    if filters.share_high is not None:
        lines = lines.filter(share__lte=filters.share_high)
    if filters.share_low is not None or filters.share_high is not None:
        return Q(Exists(lines))
    added = BatchLine.objects.filter(finish=OuterRef("finish"), ingredient_key=filters.ingredient)
    return Q(Exists(lines)) | Q(Exists(added))


def last_firmness() -> Subquery:
    """The firmness of a pour's last counting test, at 21 degrees where that is known."""
    return Subquery(Check.objects.last_of("pk").values(at=Coalesce(F("firmness_21"), F("measured")))[:1])


@dataclass(frozen=True)
class Log:
    """One page of the log; ``problems`` are filters that were not understood."""

    cards: tuple[Card, ...]
    page: Page
    filters: Filters
    formulas: QuerySet[Formula]
    saved_filters: QuerySet[SavedFilter]
    ingredient: str
    problems: dict[str, str]

    @property
    def typed(self) -> dict[str, str]:
        """What stands in the fields of shares and of the ingredient."""
        shares = {"share_low": self.filters.share_low, "share_high": self.filters.share_high}
        typed = {name: "" if share is None else percent_text(share) for name, share in shares.items()}
        return typed | {"ingredient": self.ingredient}


def log(query: Fields, tables: Tables) -> Log:
    """The page of the log that an address asks for."""
    filters, problems = read_filters(query, tables)
    paged = Paginator(narrowed(filters, tables).for_list(), PER_PAGE).get_page(query.text("page"))
    unfit = unfit_among([pour.batch for pour in paged.object_list], tables)
    item = tables.ingredients.get(filters.ingredient)
    return Log(
        tuple(card(pour, tables, unfit) for pour in paged.object_list),
        paged,
        filters,
        Formula.objects.order_by("name"),
        SavedFilter.objects.all(),
        item.name if item else query.text("ingredient", 120),
        problems,
    )
