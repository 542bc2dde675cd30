"""What the first page says: the one thing to do next, what is due after it, and the shelf."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from itertools import islice

from django.urls import reverse
from django.utils import timezone

import batches.showing.queries
import formulas.queries
import pantry.queries
import pantry.services
import pours.queries
from balmcore.display import near_day_words
from balmcore.errors import Problem
from balmcore.tables import Tables
from balmcore.wording import as_sentence, in_sentence, listed
from batches.clock.datetimes import format_time
from batches.models import Batch
from batches.supply.shopping import shopping
from bench.models import Event
from formulas.models import Formula
from formulas.queries import FormulaCard
from pantry.models import Lot, Order, Preparation
from pieces.accounts import ending
from pours.models import FollowUp, Pour
from workshop.models import Preferences
from workshop.pictures.tin import Tin

MOST_OPEN, MOST_LOTS, MOST_NAMED, MOST_TASKS, ON_SHELF = 12, 4, 3, 9, 12
AHEAD_DAYS = 30
PIECES_AHEAD, PIECES_PAST = timedelta(days=14), timedelta(days=30)
TO_BUY = "Buy what is short"
BATCHES, LOOKS = "Batches", "Looks and verdicts"
FIRST_YEAR = 1900  # what was begun has a moment before it, and no day
FIRST_KINDS = ("soft_salve", "pot_salve", "lip_balm_pot")


@dataclass(frozen=True)
class Task:
    """One thing to do: what, about which tin, when it is due (None for any time), and where.

    ``when`` says the day and, where there is one, the hour; ``sort`` is the kind of thing it is about, ``tick`` what is
    sent to tick it off without doing more, empty where more has to be said.
    """

    tin: Tin | None
    what: str
    about: str
    when: str
    due: datetime | None
    address: str
    sort: str = ""
    tick: str = ""


@dataclass(frozen=True)
class Home:
    """The first page: ``next`` before the other ``tasks``. ``is_empty`` for a new workshop."""

    is_empty: bool
    next: Task | None
    tasks: tuple[Task, ...]
    more: int
    cards: tuple[FormulaCard, ...]
    kinds: tuple[formulas.queries.KindStart, ...]


def under_way(tables: Tables, prefs: Preferences) -> Home:
    """What is due by day and hour, and the formulas last worked on."""
    empty = not Formula.objects.exists()
    tasks, count = due_tasks(tables, prefs)
    kinds = tuple(s for s in formulas.queries.kind_starts(tables) if s.kind.key in FIRST_KINDS) if empty else ()
    cards = tuple(formulas.queries.formula_list(tables, limit=ON_SHELF))
    shown = tasks[: MOST_TASKS + 1]
    return Home(empty, tasks[0] if tasks else None, tuple(shown[1:]), count - len(shown), cards, kinds)


def due_tasks(tables: Tables, prefs: Preferences, most: int = MOST_OPEN) -> tuple[list[Task], int]:
    """What is due: what was begun, what today asks for, what is older, then what is still to come, by day and hour; at
    most so many of each sort. And how many things are due in all, listed or not."""
    open_batches = list(Batch.objects.unpoured().by_time().for_list()[:most])
    few = MOST_LOTS if most == MOST_OPEN else most
    looks = {row.pour_id: row for row in FollowUp.objects.due(timezone.localdate())}
    verdicts = [pk for pk in pours.queries.undecided() if pk not in looks]
    sorts: dict[str, Iterable[Task]] = {
        "Preparations": [*_preparations(timezone.localdate() + timedelta(days=AHEAD_DAYS)), *_herbs(few)],
        BATCHES: _batches(open_batches, tables),
        LOOKS: _pours(tables, dict(islice(looks.items(), most)), verdicts[:most]),
        "Pieces": _pieces(tables, few),
        "Lots": _lots(tables, prefs, few),
        "Orders": _orders(tables, few),
        "To buy": _shopping(open_batches, tables),
    }
    listed_by = {sort: [replace(task, sort=sort) for task in several] for sort, several in sorts.items()}
    tasks = sorted((task for several in listed_by.values() for task in several), key=_urgency)
    # a sort with room left in its list is all there, and need not be counted
    full = {sort for sort, several in listed_by.items() if len(several) >= (most if sort == BATCHES else few)}
    unlisted = sum(max(0, _how_many(sort) - len(listed_by[sort])) for sort in full - {LOOKS})
    return tasks, len(tasks) + unlisted + len(looks) + len(verdicts) - len(listed_by[LOOKS])


def _urgency(task: Task) -> tuple[int, datetime]:
    """What was begun comes first, then what is for today, what is older, what is to come, and what has no time."""
    never = datetime.max.replace(tzinfo=timezone.get_current_timezone()) - timedelta(days=2)
    if task.due is None:
        return 4, never
    if task.due.year < FIRST_YEAR:
        return 0, task.due
    gap = (timezone.localtime(task.due).date() - timezone.localdate()).days
    return (1 if gap == 0 else 2 if gap < 0 else 3), task.due


def _how_many(sort: str) -> int:
    """How many things of one sort are due."""
    today = timezone.localdate()
    soon = today + timedelta(days=AHEAD_DAYS)
    if sort == "Preparations":
        return pantry.queries.due(soon).count() + pantry.queries.unnamed_herbs().count()
    if sort == BATCHES:
        return Batch.objects.unpoured().count()
    if sort == "Pieces":
        return len(ending(today + PIECES_AHEAD, today - PIECES_PAST))
    if sort == "Lots":
        return pantry.queries.ending(soon).count()
    if sort == "Orders":
        return Order.objects.open().filter(comes_on__lte=today).count()
    return 1  # there is one list of what to buy


def _moment(day: date, hour: time = time.min) -> datetime:
    return timezone.make_aware(datetime.combine(day, hour))


def when_words(day: date, hour: str = "") -> str:
    """``today, 09:30``, ``since 20 November``, ``Sunday 29 November``."""
    gap = (day - timezone.localdate()).days
    near = {0: "today", 1: "tomorrow", -1: "since yesterday"}
    told = near.get(gap) or (f"since {near_day_words(day)}" if gap < 0 else f"{day:%A} {near_day_words(day)}")
    return f"{told}, {hour}" if hour and gap >= 0 else told


def _preparations(until: date) -> Iterator[Task]:
    for row in pantry.queries.due(until):
        what = "Strain it" if row.kind == Preparation.Kind.INFUSION else "Render it"
        address = reverse("pantry:finish", args=[row.pk])
        yield Task(None, what, row.name, when_words(row.ready_on), _moment(row.ready_on), address)


def _herbs(most: int) -> Iterator[Task]:
    """Infusions whose herb was never asked for: what it asks of who wears it depends on the answer."""
    begun = _moment(date.min + timedelta(days=1))
    for row in pantry.queries.unnamed_herbs()[:most]:
        yield Task(
            None,
            "Say which herb",
            row.name,
            "its cautions go by it",
            begun,
            f"{reverse('pantry:ingredient', args=[row.key])}#papers",
        )


def _batches(rows: Iterable[Batch], tables: Tables) -> Iterator[Task]:
    at_bench = set(Event.objects.at_steps().values_list("run__batch", flat=True))
    for batch in rows:
        card = batches.showing.queries.batch_card(batch, tables)
        about = f"{batch.version}, batch {batch.pk}: {card.pieces}"
        bench, begun = reverse("bench:bench", args=[batch.pk]), _moment(date.min + timedelta(days=2))
        if batch.pk in at_bench:
            yield Task(card.tin, "Go on at the bench", about, "it has begun", begun, bench)
        elif batch.is_weighed:
            address = reverse("pours:record", args=[batch.pk])
            yield Task(card.tin, "Pour and record", about, "everything is weighed", begun, address)
        elif batch.state == Batch.State.WEIGHING:
            scale = reverse("bench:weigh", args=[batch.pk])
            yield Task(card.tin, "Go on weighing", about, "weighing has begun", begun, scale)
        elif batch.starts_at:
            start = timezone.localtime(batch.starts_at)
            when = when_words(start.date(), format_time(batch.starts_at))
            yield Task(card.tin, "Make it", about, when, batch.starts_at, bench)
        else:
            yield Task(card.tin, "Make it", about, "no time yet", None, bench)


def _pours(tables: Tables, looks: Mapping[int, FollowUp], verdicts: Sequence[int]) -> Iterator[Task]:
    """Pours that are due to be looked at again, one look for each; and those that were tested and wait for a
    verdict."""
    today = timezone.localdate()
    rows = Pour.objects.filter(pk__in=[*looks, *verdicts]).for_tin()
    found = rows.in_bulk() if looks or verdicts else {}
    for pk in [*looks, *verdicts]:
        pour, row = found[pk], looks.get(pk)
        about = f"{pour.title}, poured {near_day_words(pour.poured_on)}"
        picture = pours.queries.card(pour, tables).tin
        if row is not None:
            address = f"{reverse('checks:check', args=[pk])}?follow_up={row.pk}"
            what, when = f"Look after {row.words}", when_words(row.due_on)
            yield Task(picture, what, about, when, _moment(row.due_on), address, tick=f"look-{row.pk}")
        else:
            what = "Decide: keep, change or drop"
            yield Task(picture, what, about, when_words(today), _moment(today), pour.get_absolute_url())


def _pieces(tables: Tables, most: int) -> Iterator[Task]:
    """Pieces still here that are near their best before, or were it not long ago."""
    today = timezone.localdate()
    for pour, left in ending(today + PIECES_AHEAD, today - PIECES_PAST)[:most]:
        assert pour.best_before is not None
        what = "Smell what is left" if pour.best_before < today else "Use up what is left"
        about = f"{pour.title}: {left} piece{'' if left == 1 else 's'}"
        when = f"best before {near_day_words(pour.best_before)}"
        address = reverse("pieces:pieces", args=[pour.pk])
        yield Task(pours.queries.card(pour, tables).tin, what, about, when, _moment(pour.best_before), address)


def _lots(tables: Tables, prefs: Preferences, most: int) -> Iterator[Task]:
    today = timezone.localdate()
    for lot in pantry.queries.ending(today + timedelta(days=AHEAD_DAYS))[:most]:
        assert lot.best_before is not None
        left = f"{lot.left.normalize():f} pieces" if lot.is_container else prefs.show.mass_text(lot.left)
        what = "Smell it, or throw it out" if lot.best_before < today else "Use it up"
        about = f"{pantry.queries.name_of(lot.item_key, tables)}, {lot}: {left}"
        when = f"best before {near_day_words(lot.best_before)}"
        tick = f"lot-{lot.pk}" if lot.is_past else ""
        address = reverse("pantry:lot", args=[lot.pk])
        yield Task(None, what, about, when, _moment(lot.best_before), address, tick=tick)


def _orders(tables: Tables, most: int) -> Iterator[Task]:
    """What should have come by now."""
    for order in Order.objects.open().filter(comes_on__lte=timezone.localdate())[:most]:
        assert order.comes_on is not None
        about = f"{pantry.queries.name_of(order.item_key, tables)}{f', {order.supplier}' if order.supplier else ''}"
        due = _moment(order.comes_on)
        yield Task(None, "Has it come?", about, when_words(order.comes_on), due, reverse("pantry:orders"))


def _shopping(rows: Sequence[Batch], tables: Tables) -> Iterator[Task]:
    wanted = shopping(rows, tables).wanted if rows else ()
    if wanted:
        names = [item.name for item in wanted[:MOST_NAMED]]
        more = f" and {len(wanted) - len(names)} more" if len(wanted) > len(names) else ""
        starts = [batch.starts_at for batch in rows if batch.starts_at]
        about = in_sentence(listed(names) if not more else ", ".join(in_sentence(name) for name in names))
        address = reverse("batches:shopping") + "?" + "&".join(f"batch={batch.pk}" for batch in rows)
        due = min(starts) if starts else None
        when = f"for {when_words(timezone.localtime(due).date())}" if due else "for what is planned"
        yield Task(None, TO_BUY, f"{about}{more}", when, due, address)


def tick_off(what: str) -> str:
    """Tick off a look that nobody took, or a lot that was smelled and is good; returns what to say. Raises
    :class:`Problem` for what cannot be ticked off."""
    sort, _, number = what.partition("-")
    pk = int(number) if number.isascii() and number.isdigit() and len(number) < 12 else 0
    if sort == "look" and (look := FollowUp.objects.filter(pk=pk).select_related("pour").first()):
        FollowUp.objects.filter(pk=look.pk).update(let_go=timezone.localdate())
        return f"{look.pour.title}: not looked at after {look.words}."
    lot = Lot.objects.filter(pk=pk).first() if sort == "lot" else None
    if lot is None:
        raise Problem("That is no longer due.")
    pantry.services.smell(lot)
    return as_sentence(f"{lot} was smelled, and is still good.")
