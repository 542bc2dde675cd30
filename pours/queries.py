"""What pages show of pours: the log as tins with its filters, and one pour in full."""

from collections.abc import Mapping
from dataclasses import dataclass

from django.core.paginator import Page, Paginator
from django.db.models import Prefetch, QuerySet

from balmcore.physics.firmness import WINDOW_C, word
from balmcore.tables import Tables
from balmcore.trials.press import Measured, compare
from batches.models import Batch, BatchFinish
from batches.points import unfit_among
from formulas.models import Formula, Version
from pours.models import Pour
from workshop.pictures.ruler import Ruler, ruler
from workshop.pictures.tin import Tin, tin

PER_PAGE = 24


@dataclass(frozen=True)
class Filters:
    """How the log is narrowed; None and empty strings narrow nothing."""

    formula: int | None = None
    kind: str = ""
    verdict: str = ""
    words: str = ""

    @property
    def is_set(self) -> bool:
        """True when anything is narrowed."""
        return any((self.formula, self.kind, self.verdict, self.words))


@dataclass(frozen=True)
class Card:
    """A pour in the log: its tin (of what was weighed), and measured beside predicted."""

    pour: Pour
    tin: Tin
    word: str
    unfit: str = ""

    @property
    def at_c(self) -> float:
        """The temperature that its figures are for."""
        return WINDOW_C if self.pour.test_c is None else self.pour.test_c

    @property
    def version(self) -> Version:
        """The version it was poured from."""
        return self.pour.batch.version


def for_list(pours: QuerySet[Pour]) -> QuerySet[Pour]:
    """Pours with what a card needs, in a fixed number of queries."""
    return pours.select_related("finish").prefetch_related(
        Prefetch("batch", Batch.objects.for_list().prefetch_related("version__lines"))
    )


def for_page(pours: QuerySet[Pour]) -> QuerySet[Pour]:
    """Pours with everything their own page needs, in a fixed number of queries."""
    return pours.select_related("rest_lot", "finish").prefetch_related(
        "pieces", Prefetch("batch", Batch.objects.for_page())
    )


def open_pours(limit: int) -> QuerySet[Pour]:
    """Pours not judged yet, newest first."""
    return for_list(Pour.objects.filter(verdict=""))[:limit]


def card(pour: Pour, tables: Tables, unfit: Mapping[int, str] | None = None) -> Card:
    """A pour as a tin: measured firmness in the centre, or the predicted one before a test; ``unfit``
    are batches not fit to use."""
    firmness = pour.measured if pour.measured is not None else pour.predicted
    shares = pour.to_composition(tables).role_shares()
    state = "judged" if pour.verdict else "poured"
    picture = tin(shares, firmness, state, str(pour.batch.version))
    return Card(pour, picture, word(firmness), (unfit or {}).get(pour.batch_id, ""))


@dataclass(frozen=True)
class Log:
    """One page of the log."""

    cards: tuple[Card, ...]
    page: Page
    filters: Filters
    formulas: QuerySet[Formula]


def log(filters: Filters, page: str, tables: Tables) -> Log:
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
    for part in filters.words.split()[:8]:
        found = found.filter(notes__icontains=part)
    paged = Paginator(for_list(found), PER_PAGE).get_page(page)
    unfit = unfit_among([pour.batch for pour in paged.object_list], tables)
    return Log(
        tuple(card(pour, tables, unfit) for pour in paged.object_list), paged, filters, Formula.objects.order_by("name")
    )


def siblings(batch: Batch) -> list[tuple[BatchFinish, Pour | None]]:
    """The finishes of a batch with their pours, None for one that is not recorded yet."""
    finishes = list(batch.finishes.all())
    known = {pour.finish_id: pour for pour in Pour.objects.filter(batch=batch)} if finishes else {}
    return [(finish, known.get(finish.pk)) for finish in finishes]


@dataclass(frozen=True)
class PourDetail:
    """One pour in full: the ruler of predicted and measured, and what to make of it."""

    card: Card
    ruler: Ruler
    sentence: str
    at_c: float


def pour_detail(pour: Pour, tables: Tables) -> PourDetail:
    """Predicted against measured for one pour."""
    measured = (
        None if pour.measured is None or pour.measured_sigma is None else Measured(pour.measured, pour.measured_sigma)
    )
    return PourDetail(
        card(pour, tables),
        ruler(pour.predicted, pour.predicted_sigma, (measured.firmness, measured.sigma) if measured else None),
        compare(pour.predicted, pour.predicted_sigma, measured)
        if measured
        else "No test yet: press or thumb it after a day.",
        pour.test_c if pour.test_c is not None else WINDOW_C,
    )
