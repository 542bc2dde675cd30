"""One pour to record or change."""

from copy import copy

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_safe

import batches.safety
import batches.showing.sheet
from balmcore.errors import Problem
from batches.fitness import Unfit, require_fit, unfit_of
from batches.hooks import pour_address
from batches.models import Batch, BatchFinish
from bench.record import record_of
from bench.steps.forms import light_ones
from pours import comparing, queries, services
from pours.forms import PourForm
from pours.hooks import look_address, parts_of_pour, suggestion_for, urgent, ways_of_pour
from pours.models import Pour
from workshop.web import Fields, Request


def record(request: Request, batch_pk: int) -> HttpResponse:
    """Record the pour of a batch, or of one finish of it: each is poured once."""
    batch = get_object_or_404(Batch.objects.for_page(), pk=batch_pk)
    finishes = list(batch.finishes.all())
    number = Fields(request.GET).whole("finish")
    finish = next((row for row in finishes if row.pk == number), None)
    if finish is None and finishes:
        return redirect(next(iter(pour_address.ask(batch))))
    # Recorded in another tab meanwhile: what was typed here is shown beside what stands.
    stored = Pour.objects.filter(batch=batch, finish=finish).for_page().first()
    if stored and request.method != "POST":
        return redirect("pours:pour", stored.pk)
    return _page(request, batch, stored, finish)


def pour(request: Request, pk: int) -> HttpResponse:
    """One pour: predicted against measured, and everything about it to change."""
    found = get_object_or_404(Pour.objects.for_page(), pk=pk)
    return _page(request, found.batch, found, found.finish)


@require_safe
def shown(request: Request, pk: int) -> HttpResponse:
    """What a pour shows beside its like, and what to try next: a search, for which its own page does not wait."""
    found = get_object_or_404(Pour.objects.for_page(), pk=pk)
    context = {
        "pour": found,
        "batch": found.batch,
        "shown": comparing.alike(found, request.tables, request.prefs.show),
        "suggestion": suggestion_for(found.batch.version, request.tables, request.prefs.show),
    }
    return render(request, "pours/_shown.html" if request.htmx else "pours/shown.html", context)


def _light(stored: Pour, form: PourForm, request: Request) -> list[str]:
    """Its pieces that hold less than they were to hold, as the bench marks them."""
    filled = [(piece.name, piece.mass_g) for piece in stored.pieces.all()]
    net_g = {name: float(grams) for name, grams in form.net_g.items()}
    return light_ones(filled, net_g, float(stored.batch.resolution_g), request.prefs.show)


def _page(request: Request, batch: Batch, stored: Pour | None, finish: BatchFinish | None) -> HttpResponse:
    form = PourForm(
        request.POST or None,
        instance=copy(stored),
        batch=batch,
        tables=request.tables,
        prefs=request.prefs,
        finish=finish,
    )
    status = 200
    beside: list[tuple[str, str]] = []
    if request.method == "POST":
        status = 400
        if form.is_valid():
            try:
                if stored is None:
                    require_fit(batch, request.tables)
                number = Fields(request.POST).whole("revision") or 0
                saved = (
                    services.record_pour(batch, form.filled, request.tables)
                    if stored is None
                    else services.change_pour(stored, form.filled, request.tables, number)
                )
            except Unfit as refusal:
                form.add_error(None, refusal.sentence)
            except services.StalePour as refusal:
                form.add_error(None, refusal.sentence)
                status = 409
                stored = Pour.objects.filter(batch=batch, finish=finish).for_page().first()
                beside = form.beside(stored) if stored else []
            except Problem as refusal:
                form.add_error(refusal.where if refusal.where in form.fields else None, refusal.sentence)
            else:
                messages.success(request, "The pour is written down.")
                return redirect("pours:pour", saved.pk)
    context = {
        "form": form,
        "batch": batch,
        "finish": finish,
        "siblings": queries.siblings(batch),
        "warned": batches.safety.batch_warnings(batch, request.tables, request.prefs),
        "unfit": unfit_of(batch, request.tables),
        "beside": beside,
        "made": record_of(batch, request.tables, request.prefs.show),
        "pour": stored,
        "detail": queries.pour_detail(stored, request.tables) if stored else None,
        "light": _light(stored, form, request) if stored else [],
        "urgent": next((part for part in urgent.ask(batch.version) if part), None) if stored else None,
        "usual": request.experience,
        "parts": parts_of_pour.ask() if stored else (),
        "look_address": next(iter(look_address.ask(stored)), "") if stored else "",
        "ways_on": ways_of_pour.ask(stored) if stored else (),
        "totals": batches.showing.sheet.totals(batch, request.tables, request.prefs),
        "is_weighed": batch.is_weighed,
    }
    return render(request, "pours/pour.html", context, status=status)
