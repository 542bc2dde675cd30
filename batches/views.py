"""Pages of the batches app: plan, sheet, weigh."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from balmcore.errors import Problem
from balmcore.physics.cooling import SCHOOLS
from batches import ladders, planning, queries, services, times, weighing
from batches.calendar import calendar
from batches.filling import by_suit, pitchers
from batches.models import Batch
from batches.shopping import shopping
from formulas.models import Version
from pantry.models import Preparation
from pantry.queries import containers
from workshop.services import preferences
from workshop.web import Fields, Request


@require_GET
def listing(request: Request) -> HttpResponse:
    """The plan: what is to come and when, and what was poured."""
    return render(request, "batches/list.html", {"agenda": queries.agenda()})


def plan(request: Request) -> HttpResponse:
    """Containers and counts for a version; each change answers with the form's own fragment."""
    number = Fields(request.POST or request.GET).whole("version")
    version = get_object_or_404(Version.objects.select_related("formula"), pk=number)
    prefs, vessels = preferences(), containers()
    if request.method == "POST":
        form = planning.read(Fields(request.POST), version, prefs, vessels)
        if form.plan and form.can_be_planned and "save" in request.POST:
            try:
                batch = services.plan(version, form.plan, form.start)
            except Problem as problem:
                form = form.told(problem)
            else:
                return redirect("batches:sheet", batch.pk)
    else:
        form = planning.fresh(version, prefs, vessels)
    template = "batches/_plan.html" if request.htmx else "batches/plan.html"
    refused = "save" in request.POST
    context = {
        "version": version,
        "planning": form,
        "containers": by_suit(version, vessels),
        "pitchers": pitchers(vessels),
        "schools": SCHOOLS.values(),
        "whens": Batch.When.choices,
        "refused": refused,
    }
    return render(request, template, context, status=400 if refused else 200)


def ladder(request: Request) -> HttpResponse:
    """Test cups with more and less of one ingredient; each can be planned as a batch."""
    fields = Fields(request.POST or request.GET)
    version = get_object_or_404(Version.objects.select_related("formula"), pk=fields.whole("version"))
    prefs = preferences()
    form = ladders.read(fields, version, prefs)
    rung = fields.whole("rung")
    if form.ladder and rung is not None:
        batch = services.plan_rung(version, form.ladder, rung, prefs.resolution_g)
        return redirect("batches:sheet", batch.pk)
    template = "batches/_ladder.html" if request.htmx else "batches/ladder.html"
    return render(request, template, {"version": version, "form": form}, status=400 if rung is not None else 200)


def _batch(pk: int) -> Batch:
    return get_object_or_404(queries.full(Batch.objects.all()), pk=pk)


@require_GET
def sheet(request: Request, pk: int) -> HttpResponse:
    """The batch in grams, and the weigh sheet to print."""
    batch = _batch(pk)
    prefs = preferences()
    context = {
        "account": queries.account(batch, prefs),
        "batch": batch,
        "shown": queries.shown(batch),
        "clock": times.clock_of(batch, prefs)[1],
    }
    return render(request, "batches/sheet.html", context)


def method(request: Request, pk: int) -> HttpResponse:
    """The batch step by step on the clock, its ways of cooling and its cost; a time can be given."""
    batch, prefs = _batch(pk), preferences()
    typed, said = None, ""
    if request.method == "POST":
        typed = times.typed(Fields(request.POST))
        try:
            note = times.move(typed, batch)
        except Problem as problem:
            said = problem.sentence
        else:
            where = "on the clock" if typed.when else "off the clock"
            messages.success(request, f"It is {where}. {note}".strip())
            return redirect("batches:method", pk)
    context = {
        **vars(times.stored(batch, prefs, typed, said)),
        "batch": batch,
        "shown": queries.shown(batch),
        "schools": SCHOOLS.values(),
        "whens": Batch.When.choices,
    }
    return render(request, "batches/method.html", context, status=400 if said else 200)


@require_GET
def shopping_list(request: Request) -> HttpResponse:
    """What chosen batches need and the stock lacks."""
    chosen = [int(pk) for pk in Fields(request.GET).texts("batch") if pk.isascii() and pk.isdigit() and len(pk) < 16]
    batches = list(queries.full(Batch.objects.filter(pk__in=chosen[: queries.MOST_LISTED])))
    return render(request, "batches/shopping.html", {"list": shopping(batches)})


@require_GET
def calendar_file(request: Request, pk: int | None = None) -> HttpResponse:
    """One batch, or all to come with the preparations, as a calendar file."""
    batches = [_batch(pk)] if pk else list(queries.full(Batch.objects.filter(pour=None, starts_at__isnull=False)))
    rows = [] if pk else list(Preparation.objects.filter(finished_on=None))
    response = HttpResponse(calendar(batches, rows, preferences()), content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{f"batch-{pk}" if pk else "calm-tin"}.ics"'
    return response


def weigh(request: Request, pk: int) -> HttpResponse:
    """The bench: every weight is written down as soon as it is typed."""
    prefs = preferences()
    typed, problems, other = (
        weighing.take(Fields(request.POST), _batch(pk), prefs) if request.method == "POST" else ({}, {}, {})
    )
    if "poured" in request.POST and not problems and not other:
        return redirect("pours:record", pk)
    batch = _batch(pk)
    context = {"account": queries.account(batch, prefs, typed, problems, other), "batch": batch, "moved": bool(other)}
    template = "batches/_weigh.html" if request.htmx else "batches/weigh.html"
    return render(request, template, context)


@require_POST
def call_off(request: Request, pk: int) -> HttpResponse:
    """Take a planned batch back."""
    services.call_off(_batch(pk))
    messages.success(request, "The batch is called off.")
    return redirect("batches:list")
