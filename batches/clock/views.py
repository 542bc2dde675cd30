"""A day's batches on one page: laid out together, looked at, and kept."""

from datetime import date, timedelta

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone

from balmcore.days import read_day
from balmcore.display import spoken
from balmcore.errors import Problem
from batches.clock.datetimes import parse_datetime
from batches.clock.days import Laid, keep_day, propose_day
from batches.clock.lanes import lanes
from batches.clock.scheduling import Schedule, of_day
from batches.models import Batch
from batches.showing.queries import MOST_CHOSEN
from workshop.forms.days import day_within
from workshop.web import Fields, Request

BEGINS = "09:00"


def day(request: Request) -> HttpResponse:
    """The batches of a day; ``lay`` proposes times for the chosen ones, ``keep`` keeps those that were shown."""
    data = Fields(request.POST or request.GET)
    problem, laid = "", list[Laid]()
    try:
        on = day_within(read_day(data.text("on", 40), spoken().dates, "on"), "on") or _next_day()
    except Problem as refusal:
        on, problem = timezone.localdate(), refusal.sentence
    there = of_day(on)
    waiting = list(Batch.objects.filter(state=Batch.State.PLANNED, starts_at=None).for_list()[:MOST_CHOSEN])
    chosen = set(data.wholes("batch")) if request.method == "POST" else {batch.pk for batch in there or waiting[:6]}
    at = data.text("at", 20) or BEGINS
    if request.method == "POST" and not problem:
        try:
            laid = _laid(request, on, at, chosen)
            if "keep" in request.POST and data.text("seen", 2000) != _seen(laid):
                raise Problem("These are other times than those that were shown: look at them once more.")
            if "keep" in request.POST:
                keep_day(laid, request.tables, request.experience)
                messages.success(request, f"{len(laid)} batches have their time on {spoken().day(on)}.")
                return redirect(f"{reverse('batches:day')}?on={on.isoformat()}")
        except Problem as refusal:
            problem = refusal.sentence
    context = {
        "on": on,
        "before": on - timedelta(days=1),
        "after": on + timedelta(days=1),
        "at": at,
        "there": there,
        "waiting": waiting,
        "chosen": chosen,
        "laid": laid,
        "seen": _seen(laid),
        "problem": problem,
        "picture": lanes(laid or [_standing(batch) for batch in there], request.prefs.room),
        "room": request.prefs,
    }
    return render(request, "batches/day.html", context, status=400 if problem else 200)


def _laid(request: Request, on: date, at: str, chosen: set[int]) -> list[Laid]:
    begins, _ = parse_datetime(f"{on.isoformat()} {at}", timezone.now())
    batches = list(Batch.objects.for_page().filter(pk__in=chosen).order_by("pk"))
    return propose_day(batches, begins, request.tables, request.experience)


def _standing(batch: Batch) -> Laid:
    """A batch with the place that it has."""
    assert batch.starts_at is not None
    return Laid(batch, Schedule(batch.starts_at, batch.length_min, tuple(batch.uses), "", batch.is_made_ready))


def _seen(laid: list[Laid]) -> str:
    """What a proposal came to, so that only what was looked at is kept."""
    return " ".join(f"{each.batch.pk}@{each.schedule.start.isoformat()}" for each in laid)


def _next_day() -> date:
    """The next day that has batches, or today."""
    first = Batch.objects.on_clock().filter(starts_at__gte=timezone.now()).order_by("starts_at").first()
    return timezone.localdate(first.starts_at) if first else timezone.localdate()
