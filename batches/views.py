"""Pages of the batches app: plan, sheet, method."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse, HttpResponseBase, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_safe

from balmcore.errors import Problem
from balmcore.making.method.temperatures import GRAINS_FROM
from balmcore.making.scaling import by_suit, pitchers
from balmcore.making.whippers import WHIPPERS
from balmcore.physics.cooling import COOLING_METHODS
from balmcore.physics.grain import MELTING_METHODS, readiness
from balmcore.physics.ways_of_heating import DIRECT, DIRECT_NAME, HEATING_METHODS
from batches import fitness, safety, services
from batches.clock.calendar import calendar
from batches.clock.days import after_it
from batches.forms import ladder as ladder_form
from batches.forms import plan as plan_form
from batches.forms import schedule
from batches.forms.again import last_batch
from batches.forms.computing import Context
from batches.hooks import (
    bench_links,
    calendar_days,
    ladder_tests,
    pour_address,
)
from batches.models import DEFAULT_PITCHER, Batch
from batches.showing import lists, queries
from batches.showing import sheet as sheets
from batches.supply.shopping import shopping
from formulas.models import Version
from formulas.queries import formula_card
from formulas.recipes.asking import asked_of
from formulas.recipes.services import size_of
from pantry.models import Preparation
from pantry.queries import containers
from workshop.files.sheets import sheet_response
from workshop.web import Fields, Request


@require_safe
def export(request: Request, kind: str) -> HttpResponseBase:
    """All batches, for a spreadsheet."""
    show = request.prefs.show
    return sheet_response("batches", lists.header(show), lists.rows(show), kind, show)


@require_safe
def batch_list(request: Request) -> HttpResponse:
    """The plan: what is to come and when, and what was poured."""
    asked = Fields(request.GET)
    words = asked.text("q")
    agenda = queries.agenda(request.tables, asked.text("coming"), asked.text("poured"), words)
    return render(request, "batches/list.html", {"agenda": agenda, "q": words})


def plan(request: Request) -> HttpResponse:
    """Containers and counts for a version; each change answers with the form's own fragment."""
    fields = Fields(request.POST or request.GET)
    versions = Version.objects.with_lines()
    version = get_object_or_404(versions, pk=fields.whole("version"))
    about = Context.of(version, request.prefs, request.tables, containers(), request.experience)
    like = last_batch(version) if request.method == "GET" and "cooling" not in request.GET else None
    if (number := fields.whole("like")) is not None and request.method == "GET":
        like = get_object_or_404(Batch.objects.for_page(), pk=number, version__formula=version.formula_id)
    size = None if request.method == "POST" or like else size_of(version)
    if request.method == "POST":
        form = plan_form.read(fields, about)
    else:
        is_asked = number is not None
        form = (
            plan_form.again(about, like, is_asked) if like else plan_form.fresh(about, fields.text("cooling", 30), size)
        )
    asked, known = asked_of(version), bool(fields.text("known_doubts"))
    if "save" in request.POST and asked.on_amounts and not known:
        form = form.with_error(
            Problem("Answer what the recipe left open, or say that it is right as it stands.", "doubts")
        )
    elif form.plan and form.scaled and form.can_be_planned and "save" in request.POST:
        try:
            batch = services.plan_batch(
                version,
                about.composition,
                form.plan,
                form.scaled,
                form.schedule,
                request.prefs.scent_policy,
                form.typed.text("override_reason"),
            )
        except Problem as problem:
            form = form.with_error(problem)
        else:
            return redirect(batch)
    template = "batches/_plan.html" if request.htmx else "batches/plan.html"
    refused = "save" in request.POST
    context = {
        "version": version,
        "kind": about.kind,
        "planning": form,
        "containers": by_suit(about.kind, about.containers),
        "pitchers": pitchers(about.containers),
        "cooling_methods": COOLING_METHODS.values(),
        "whens": Batch.When.choices,
        "melting_methods": MELTING_METHODS.values()
        if readiness(about.composition.without_volatiles) > GRAINS_FROM
        else (),
        "heating_methods": [*((method.key, method.name) for method in HEATING_METHODS.values()), (DIRECT, DIRECT_NAME)],
        "heat": HEATING_METHODS.get(form.typed.text("heating")),
        "whippers": [(whipper.key, whipper.name) for whipper in WHIPPERS.values()],
        "own_cooling": request.experience.cooling_sentences(about.composition),
        "best_cooling": request.experience.best_cooling(about.composition),
        "own_loss": request.experience.usual_loss(form.typed.text("pitcher") or DEFAULT_PITCHER, about.kind.key),
        "refused": refused,
        "asked": asked,
        "of_recipe": size is not None,
        "like": like,
        "known_doubts": known,
        "warned": services.plan_warnings(version, about.composition, form.scaled, request.tables, request.prefs),
    }
    return render(request, template, context, status=400 if refused else 200)


def ladder(request: Request) -> HttpResponse:
    """Test cups with more and less of one ingredient; each can be planned as a batch."""
    fields = Fields(request.POST or request.GET)
    version = get_object_or_404(Version.objects.with_lines(), pk=fields.whole("version"))
    form = ladder_form.read(fields, version, request.tables, request.prefs)
    rung = fields.whole("rung")
    if form.ladder and rung is not None:
        kind = version.formula.to_kind(request.tables)
        return redirect(services.plan_rung(version, kind, form.ladder, rung, request.prefs.resolution_g))
    template = "batches/_ladder.html" if request.htmx else "batches/ladder.html"
    context = {"version": version, "form": form, "tests": next(iter(ladder_tests.ask(version)), "")}
    return render(request, template, context, status=400 if rung is not None else 200)


def _batch(pk: int) -> Batch:
    return get_object_or_404(Batch.objects.for_page(), pk=pk)


def _about(request: Request, batch: Batch) -> dict[str, Any]:
    """What every page of one batch shows."""
    return {
        "batch": batch,
        "card": queries.batch_card(batch, request.tables),
        "warned": safety.batch_warnings(batch, request.tables, request.prefs),
        "pour_address": next(iter(pour_address.ask(batch)), ""),
        "bench": next(iter(bench_links.ask(batch)), None),
        "unfit": fitness.unfit_of(batch, request.tables),
        "asked": asked_of(batch.version),
    }


@require_safe
def sheet(request: Request, pk: int) -> HttpResponse:
    """The batch in grams, and the weigh sheet to print."""
    batch = _batch(pk)
    clock = schedule.clock_of(batch, request.tables, request.prefs, request.experience)[1]
    context = {
        **_about(request, batch),
        "kind": batch.to_kind(request.tables),
        "version_tin": formula_card(batch.version, request.tables).tin,
        "rows": sheets.sheet_rows(batch, request.tables, request.prefs),
        "totals": sheets.totals(batch, request.tables, request.prefs),
        "clock": clock,
        "drift": schedule.drift(batch, clock),
    }
    return render(request, "batches/sheet.html", context)


def method(request: Request, pk: int) -> HttpResponse:
    """The batch step by step on the clock, its ways of cooling and its cost; a time can be given."""
    batch = _batch(pk)
    typed, said = None, ""
    if request.method == "POST":
        typed = schedule.read(Fields(request.POST))
        try:
            carries = bool(request.POST.get("carry"))
            note = schedule.reschedule(typed, batch, request.tables, request.experience, carries)
        except Problem as problem:
            said = problem.sentence
        else:
            where = "on the clock" if typed.when else "off the clock"
            messages.success(request, f"It is {where}. {note}".strip())
            return redirect("batches:method", pk)
    context = {
        **vars(schedule.stored(batch, request.tables, request.prefs, request.experience, typed, said)),
        **_about(request, batch),
        "cooling_methods": COOLING_METHODS.values(),
        "own_cooling": request.experience.cooling_sentences(batch.to_composition(request.tables)),
        "whens": Batch.When.choices,
        "after_it": after_it(batch),
        "carries": bool(request.POST.get("carry")),
    }
    return render(request, "batches/method.html", context, status=400 if said else 200)


@require_safe
def shopping_list(request: Request) -> HttpResponse:
    """What chosen batches need and the stock lacks."""
    chosen = Fields(request.GET).wholes("batch")
    batches = list(Batch.objects.for_page().filter(pk__in=chosen[: queries.MOST_CHOSEN]))
    return render(request, "batches/shopping.html", {"list": shopping(batches, request.tables)})


@require_safe
def calendar_file(request: Request, pk: int | None = None) -> HttpResponse:
    """One batch, or all to come with the preparations, as a calendar file."""
    batches = [_batch(pk)] if pk else list(Batch.objects.on_clock().for_page())
    rows = [] if pk else list(Preparation.objects.filter(finished_on=None))
    days = [] if pk else [day for answer in calendar_days.ask() for day in answer]
    root = request.build_absolute_uri("/").rstrip("/")
    content = calendar(
        batches, rows, request.tables, request.prefs, request.experience, [(day, root + day.address) for day in days]
    )
    response = HttpResponse(content, content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{f"batch-{pk}" if pk else "calm-tin"}.ics"'
    return response


def know(request: Request, pk: int) -> HttpResponse:
    """Say that one knows what is not to be used of a batch, before it goes on all the same."""
    batch = _batch(pk)
    back = (request.POST or request.GET).get("back", "")
    if not back.startswith("/") or not url_has_allowed_host_and_scheme(back, {request.get_host()}):
        back = batch.get_absolute_url()
    if request.method == "POST":
        fitness.know(batch, request.tables)
        return HttpResponseRedirect(back)
    context = {"batch": batch, "unfit": fitness.unfit_of(batch, request.tables), "back": back}
    return render(request, "batches/know.html", context)
