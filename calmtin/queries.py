"""What the first page says: what is under way, and the next thing to do."""

from dataclasses import dataclass

from django.urls import reverse
from django.utils import timezone

import batches.queries
import formulas.queries
import pantry.queries
import pours.queries
from batches.clock import said
from batches.models import Batch
from formulas.models import Formula
from formulas.queries import Jar
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
    jars: tuple[Jar, ...]
    starters: tuple[formulas.queries.Starter, ...]


FIRST_KINDS = ("soft_salve", "pot_salve", "lip_balm_pot")


def under_way(limit: int = 6) -> Home:
    """Batches to weigh or pour, pours to test or judge, and the formulas last worked on."""
    empty = not Formula.objects.exists()
    tasks: list[Task] = []
    for row in pantry.queries.due(timezone.localdate()):
        what = "Strain it" if row.kind == Preparation.Kind.INFUSION else "Render it"
        why = f"Due since {row.ready_on:%-d %B}"
        tasks.append(Task(None, what, row.name, why, reverse("pantry:finish", args=[row.pk])))
    for batch in batches.queries.open_batches(limit):
        tasks.append(_batch_task(batch))
    for pour in pours.queries.open_pours(limit):
        what = "Test and judge" if pour.measured is None else "Decide: keep, change or drop"
        why = f"Poured {pour.poured_on:%-d %B}"
        jar = formulas.queries.jar(pour.batch.version)
        tasks.append(Task(jar.tin, what, _named(jar), why, reverse("pours:pour", args=[pour.pk])))
    starters = tuple(s for s in formulas.queries.starters() if s.kind.key in FIRST_KINDS) if empty else ()
    return Home(empty, tuple(tasks[:limit]), tuple(formulas.queries.shelf(limit=8)), starters)


def _batch_task(batch: Batch) -> Task:
    jar = formulas.queries.jar(batch.version)
    if batch.is_weighed:
        address = reverse("pours:record", args=[batch.pk])
        return Task(jar.tin, "Pour and record", _named(jar), "Everything is weighed", address)
    why = "Weighing has begun" if batch.is_begun else f"Planned {batch.created:%-d %B}"
    if batch.starts_at and not batch.is_begun:
        why = said(batch.starts_at)
    return Task(jar.tin, "Weigh", _named(jar), why, reverse("batches:weigh", args=[batch.pk]))


def _named(jar: Jar) -> str:
    return f"{jar.formula.name}, version {jar.version.number}"
