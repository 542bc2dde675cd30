"""What the first page says: what is under way, and the next thing to do."""

from dataclasses import dataclass

from django.urls import reverse
from django.utils import timezone

import formulas.queries
import pantry.queries
import pours.queries
from balmcore.tables import Tables
from batches.datetimes import format_datetime
from batches.models import Batch
from formulas.models import Formula
from formulas.queries import FormulaCard, formula_card
from pantry.models import Preparation
from workshop.pictures.tin import Tin


@dataclass(frozen=True)
class Task:
    """One thing to do next: what, about which tin, and where."""

    tin: Tin | None
    what: str
    about: str
    why: str
    address: str


@dataclass(frozen=True)
class Home:
    """The first page. ``is_empty`` for a new workshop."""

    is_empty: bool
    tasks: tuple[Task, ...]
    cards: tuple[FormulaCard, ...]
    kinds: tuple[formulas.queries.KindStart, ...]


FIRST_KINDS = ("soft_salve", "pot_salve", "lip_balm_pot")


def under_way(tables: Tables, limit: int = 6) -> Home:
    """Batches to weigh or pour, pours to test or judge, and the formulas last worked on."""
    empty = not Formula.objects.exists()
    tasks: list[Task] = []
    for row in pantry.queries.due(timezone.localdate()):
        what = "Strain it" if row.kind == Preparation.Kind.INFUSION else "Render it"
        why = f"Due since {row.ready_on:%-d %B}"
        tasks.append(Task(None, what, row.name, why, reverse("pantry:finish", args=[row.pk])))
    for batch in Batch.objects.unpoured().by_time().for_page()[:limit]:
        tasks.append(_batch_task(batch, tables))
    for pour in pours.queries.open_pours(limit):
        what = "Test and judge" if pour.measured is None else "Decide: keep, change or drop"
        why = f"Poured {pour.poured_on:%-d %B}"
        card = formula_card(pour.batch.version, tables)
        tasks.append(Task(card.tin, what, _named(card), why, reverse("pours:pour", args=[pour.pk])))
    kinds = tuple(s for s in formulas.queries.kind_starts(tables) if s.kind.key in FIRST_KINDS) if empty else ()
    return Home(empty, tuple(tasks[:limit]), tuple(formulas.queries.formula_list(tables, limit=8)), kinds)


def _batch_task(batch: Batch, tables: Tables) -> Task:
    card = formula_card(batch.version, tables)
    if batch.is_weighed:
        address = reverse("pours:record", args=[batch.pk])
        return Task(card.tin, "Pour and record", _named(card), "Everything is weighed", address)
    why = "Weighing has begun" if batch.state == Batch.State.WEIGHING else f"Planned {batch.created:%-d %B}"
    if batch.starts_at and batch.state != Batch.State.WEIGHING:
        why = format_datetime(batch.starts_at)
    return Task(card.tin, "Weigh", _named(card), why, reverse("batches:weigh", args=[batch.pk]))


def _named(card: FormulaCard) -> str:
    return f"{card.formula.name}, version {card.version.number}"
