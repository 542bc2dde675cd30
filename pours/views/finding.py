"""The log, its looks and its lists; pours side by side; what was made from a lot; a card to print."""

from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.timezone import localdate
from django.views.decorators.http import require_POST, require_safe

from balmcore.days import read_day
from balmcore.display import YEAR_FIRST
from balmcore.errors import Problem
from balmcore.trials.comparison import MOST
from formulas.models import Formula
from pantry.models import Lot
from pantry.queries import name_of
from pours import comparing, queries
from pours import year as years
from pours.finding import lists, saved_filters
from pours.finding.log import log as find
from pours.finding.log import read_filters
from pours.hooks import pages_of_log, suggestion_for
from pours.models import Pour
from pours.tracing import trace
from workshop.files.sheets import sheet_response
from workshop.forms.days import day_within
from workshop.web import Fields, Request


@require_safe
def log(request: Request) -> HttpResponse:
    """All pours as tins, narrowed by what a maker remembers of one."""
    template = "pours/_log.html" if request.htmx else "pours/log.html"
    context = {
        "log": find(Fields(request.GET), request.tables),
        "kinds": request.tables.kinds.values(),
        "verdicts": Pour.Verdict.choices,
        "pages": pages_of_log.ask(),
        "query": saved_filters.plain_query(request.GET),
    }
    return render(request, template, context)


@require_safe
def export(request: Request, kind: str) -> HttpResponseBase:
    """The pours of the log, as it is narrowed, for a spreadsheet."""
    filters, _ = read_filters(Fields(request.GET), request.tables)
    show = request.prefs.show
    return sheet_response("pours", lists.header(show), lists.rows(filters, request.tables, show), kind, show)


@require_POST
def save_filter(request: Request) -> HttpResponse:
    """Keep how the log is narrowed by a name."""
    data = Fields(request.POST)
    try:
        look = saved_filters.keep(data.text("name", 200), data.text("query", 2000))
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect(f"{reverse('pours:log')}?{saved_filters.clean(data.text('query', 2000))}")
    messages.success(request, f"{look.name} is kept.")
    return redirect(f"{reverse('pours:log')}?{look.query}")


@require_POST
def forget_filter(request: Request, pk: int) -> HttpResponse:
    """Take a kept look away."""
    saved_filters.forget(pk)
    return redirect("pours:log")


@require_safe
def compare(request: Request) -> HttpResponse:
    """Two to six pours side by side."""
    try:
        pours = comparing.chosen(Fields(request.GET).wholes("pour"))
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect("pours:log")
    latest = max(pours, key=lambda pour: (pour.poured_on, pour.pk))
    context = {
        "comparison": comparing.comparison(pours, request.tables, request.prefs.show),
        "version": latest.batch.version,
        "suggestion": suggestion_for(latest.batch.version, request.tables, request.prefs.show),
    }
    return render(request, "pours/compare.html", context)


@require_safe
def year(request: Request, pk: int) -> HttpResponse:
    """A formula's year as one picture, from which a few pours are taken side by side."""
    formula, data = get_object_or_404(Formula, pk=pk), Fields(request.GET)
    picked, address = data.wholes("pour"), reverse("pours:year", args=[pk])
    try:
        until = day_within(read_day(data.text("until", 20), YEAR_FIRST, "until"), "until")
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect(address)
    if len(picked) > MOST:
        messages.error(request, "Six pours fit side by side: put one back before another is taken.")
    found = years.year(formula, request.tables, until or years.last_day(formula, localdate()), picked, address)
    taken = urlencode([("pour", number) for number in found.picked])
    context = {
        "year": found,
        "earlier": f"{address}?until={found.earlier}&{taken}",
        "later": f"{address}?until={found.later}&{taken}",
    }
    return render(request, "pours/year.html", context)


@require_safe
def made_from(request: Request, pk: int) -> HttpResponse:
    """Every pour and piece made from one lot."""
    lot = get_object_or_404(Lot, pk=pk)
    return render(
        request,
        "pours/made_from.html",
        {"trace": trace(lot, request.tables), "name": name_of(lot.item_key, request.tables), "section": "pantry"},
    )


@require_safe
def card(request: Request, pk: int) -> HttpResponse:
    """One pour on one sheet of paper."""
    pour = get_object_or_404(Pour.objects.for_page(), pk=pk)
    context = {
        "pour": pour,
        "batch": pour.batch,
        "detail": queries.pour_detail(pour, request.tables),
        "lines": queries.shares_of(pour, request.tables),
    }
    return render(request, "pours/card.html", context)
