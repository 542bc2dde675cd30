"""Pages of the pours app: the log, and one pour to record or change."""

from copy import copy

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_safe

import batches.queries
import batches.safety
from batches.models import Batch, BatchFinish
from batches.points import pour_address, unfit_among
from bench.record import record_of
from pantry.models import Lot
from pantry.queries import name_of
from pours import queries, services
from pours.forms import PourForm
from pours.lessons import lessons
from pours.models import Pour
from pours.tracing import trace
from workshop.web import Fields, Request


@require_safe
def log(request: Request) -> HttpResponse:
    """All pours as tins, narrowed by formula, kind, verdict and words in the notes."""
    query = Fields(request.GET)
    filters = queries.Filters(query.whole("formula"), *(query.text(name) for name in ("kind", "verdict", "q")))
    template = "pours/_log.html" if request.htmx else "pours/log.html"
    context = {
        "log": queries.log(filters, query.text("page"), request.tables),
        "kinds": request.tables.kinds.values(),
        "verdicts": Pour.Verdict.choices,
    }
    return render(request, template, context)


@require_safe
def learned(request: Request) -> HttpResponse:
    """What the tests of all pours teach: predicted, corrected and measured."""
    return render(request, "pours/learned.html", {"lessons": lessons(request.tables)})


@require_safe
def made_from(request: Request, pk: int) -> HttpResponse:
    """Every pour and piece made from one lot."""
    lot = get_object_or_404(Lot, pk=pk)
    return render(
        request,
        "pours/made_from.html",
        {"trace": trace(lot, request.tables), "name": name_of(lot.item_key, request.tables), "section": "pantry"},
    )


def record(request: Request, batch_pk: int) -> HttpResponse:
    """Record the pour of a batch, or of one finish of it: each is poured once."""
    batch = get_object_or_404(Batch.objects.for_page(), pk=batch_pk)
    finishes = list(batch.finishes.all())
    number = Fields(request.GET).whole("finish")
    finish = next((row for row in finishes if row.pk == number), None)
    if finish is None and finishes:
        return redirect(next(iter(pour_address.ask(batch))))
    # Recorded in another tab meanwhile: what was typed here is shown beside what stands.
    stored = queries.for_page(Pour.objects.filter(batch=batch, finish=finish)).first()
    if stored and request.method != "POST":
        return redirect("pours:pour", stored.pk)
    return _page(request, batch, stored, finish)


def pour(request: Request, pk: int) -> HttpResponse:
    """One pour: predicted against measured, and everything about it to change."""
    found = get_object_or_404(queries.for_page(Pour.objects.all()), pk=pk)
    return _page(request, found.batch, found, found.finish)


def _page(request: Request, batch: Batch, stored: Pour | None, finish: BatchFinish | None) -> HttpResponse:
    form = PourForm(
        request.POST or None,
        instance=copy(stored),
        batch=batch,
        prefs=request.prefs,
        finish=finish,
    )
    status = 200
    beside: list[tuple[str, str]] = []
    if request.method == "POST":
        status = 400
        if form.is_valid():
            try:
                number = Fields(request.POST).whole("revision") or 0
                saved = services.record_pour(
                    batch,
                    request.tables,
                    stored,
                    form.columns,
                    form.test,
                    form.measured,
                    form.pieces,
                    number,
                    keep_rest=form.keep_rest,
                    finish=finish,
                )
            except services.StalePour as refusal:
                form.add_error(None, refusal.sentence)
                status = 409
                stored = queries.for_page(Pour.objects.filter(batch=batch, finish=finish)).first()
                beside = form.beside(stored) if stored else []
            else:
                messages.success(request, "The pour is written down.")
                return redirect("pours:pour", saved.pk)
    context = {
        "form": form,
        "batch": batch,
        "finish": finish,
        "siblings": queries.siblings(batch),
        "warned": batches.safety.warned_of(batch, request.tables, request.prefs.scent_policy),
        "unfit": unfit_among([batch], request.tables).get(batch.pk, ""),
        "beside": beside,
        "made": record_of(batch, request.prefs.show),
        "pour": stored,
        "detail": queries.pour_detail(stored, request.tables) if stored else None,
        "account": batches.queries.account(batch, request.tables, request.prefs),
        "is_weighed": batch.is_weighed,
    }
    return render(request, "pours/pour.html", context, status=status)
