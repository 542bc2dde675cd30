"""Pages of the batches app: plan, sheet, weigh."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from batches import ladders, planning, queries, services, weighing
from batches.models import Batch
from formulas.models import Version
from pantry.queries import containers
from workshop.services import preferences
from workshop.web import Fields, Request


@require_GET
def listing(request: Request) -> HttpResponse:
    """All batches, newest first."""
    return render(request, "batches/list.html", {"batches": queries.listed()})


def plan(request: Request) -> HttpResponse:
    """Containers and counts for a version; each change answers with the form's own fragment."""
    number = Fields(request.POST or request.GET).whole("version")
    version = get_object_or_404(Version.objects.select_related("formula"), pk=number)
    prefs, vessels = preferences(), containers()
    if request.method == "POST":
        form = planning.read(Fields(request.POST), version, prefs, vessels)
        if form.plan and "save" in request.POST:
            batch = services.plan(version, form.plan)
            return redirect("batches:sheet", batch.pk)
    else:
        form = planning.fresh(version, prefs, vessels)
    template = "batches/_plan.html" if request.htmx else "batches/plan.html"
    refused = "save" in request.POST
    context = {
        "version": version,
        "planning": form,
        "containers": planning.by_suit(version, vessels),
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
    context = {"account": queries.account(batch, preferences()), "batch": batch, "shown": queries.shown(batch)}
    return render(request, "batches/sheet.html", context)


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
