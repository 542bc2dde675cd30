"""Pages of the bench: the step that is next, what is done at it, what the instruments say."""

from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.timezone import localdate
from django.views.decorators.http import require_POST, require_safe

import batches.fitness
import batches.safety
from balmcore.errors import Problem
from balmcore.making.bench.steps import Task
from balmcore.making.weighing import WeightQuestion
from batches.clock.days import settle
from batches.hooks import pour_address
from batches.models import Batch
from bench import example as examples
from bench import record, services
from bench.doing import calling_off
from bench.models import BenchRun
from bench.rehearsal import runs
from bench.rehearsal import simulator as rehearsing
from bench.state import Bench, carried_on, open_bench
from bench.steps import account, actions, forms, rescuing
from bench.steps import live as live_readings
from bench.weights import correcting
from bench.weights import weigh_sheet as weigh_sheets
from bench.weights.reading import weight_g
from instruments import services as instruments
from workshop.files import photos
from workshop.web import Fields, Request

GONE = "This batch is no longer there: it was called off on another page."


def _address(bench: Bench, name: str = "") -> str:
    """Where the bench is, or what is done at it; a rehearsal has addresses of its own."""
    if bench.run.is_rehearsal:
        name = f"rehearsal_{name}" if name else "rehearsal"
    return reverse(f"bench:{name or 'bench'}", args=[bench.batch.pk])


def _open(request: Request, pk: int, is_rehearsal: bool, at: str = "") -> Bench:
    """The bench of a batch as this workshop has it."""
    return open_bench(pk, is_rehearsal, request.tables, request.prefs, request.experience, at)


def _page(
    request: Request,
    bench: Bench,
    said: str = "",
    status: int = 200,
    typed: Fields | None = None,
    doubted: str = "",
    asked: WeightQuestion | None = None,
) -> HttpResponse:
    view = bench.here
    context: dict[str, Any] = {
        "bench": bench,
        "view": view,
        "step": view.step,
        "batch": bench.batch,
        "is_rehearsal": bench.run.is_rehearsal,
        "address": _address(bench),
        "do": _address(bench, "do"),
        "live": _address(bench, "live"),
        "rescue_at": _address(bench, "rescue"),
        "zero_at": _address(bench, "zero"),
        "melt_timeline": live_readings.keep(bench).melt_timeline,
        "readings": instruments.readings(),
        "warned": batches.safety.batch_warnings(bench.batch, request.tables, request.prefs),
        "unfit": batches.fitness.unfit_of(bench.batch, request.tables),
        "said": said,
        "doubted": doubted,
        "asked": asked,
        "doing": typed.text("do", 20) if typed else "",
        "source": actions.source_here(bench),
        "chosen_lot": _chosen_lot(bench, typed),
        "over": actions.over_poured(bench),
        "last": record.last_of(bench.standing, request.tables, request.prefs.show),
        "results": actions.results(bench),
        "missing": forms.missing(bench),
        "unaccounted": forms.unaccounted(bench),
        "account": account.told(bench),
        "surplus": account.surplus(bench),
        "pour_address": next(iter(pour_address.ask(bench.batch)), "") if bench.is_logged else "",
        "speeds": rehearsing.SPEEDS,
        "reads_others": bench.run.is_rehearsal and rehearsing.reads_others(),
        "typed": typed.text("grams", 80) if typed and not typed.text("weighing", 200) else "",
        "typed_lighter": typed.text("lighter", 80) if typed else "",
        "reached": rescuing.reached(bench),
        "rescuing": rescuing.read(typed or Fields(QueryDict()), bench),
        "thumbs": actions.THUMBS,
        "rods": actions.RODS,
        "correctable": None if bench.is_logged else actions.weighed_g(bench),
        "weights": record.weights_at(bench.standing, view.step.key, request.prefs.show),
        "photos": record.photos_of(bench.standing),
    }
    if view.step.task is Task.FILL:
        context["rows"] = forms.rows(bench, view, typed)
    template = "bench/_bench.html" if request.htmx else "bench/bench.html"
    return render(request, template, context, status=status)


def _chosen_lot(bench: Bench, typed: Fields | None) -> int | None:
    """The lot chosen for the line of the step shown: as posted, or as it was."""
    line = bench.batch.line_of(bench.here.step.slot)
    return typed.whole("lot") if typed and "lot" in typed else line.lot_id if line else None


def _refused(request: Request, bench: Bench, problem: Problem, typed: Fields) -> HttpResponse:
    """The page with why not or what is asked, and what was typed; whether waiting ends it."""
    if isinstance(problem, actions.Doubtful):
        return _page(request, bench, doubted=problem.sentence, status=400)
    if isinstance(problem, actions.UnlikelyWeight):
        return _page(request, bench, status=400, typed=typed, asked=problem.question)
    page = _page(request, bench, problem.sentence, 400, typed)
    if isinstance(problem, live_readings.Moved):
        page["Retry-After"] = "1"
    return page


@require_safe
def example(request: Request) -> HttpResponse:
    """A melt rescued, to try it on; nothing is stored."""
    shown = examples.read(Fields(request.GET), request.tables, request.prefs)
    kind = request.tables.kind(examples.KIND)
    return render(request, "bench/example.html", {"example": shown, "kind": kind})


@require_safe
def bench(request: Request, pk: int, is_rehearsal: bool) -> HttpResponse:
    """The step that is next, or the one asked for."""
    at = Fields(request.GET).text("step", 120)
    return _page(request, _open(request, pk, is_rehearsal, at))


@require_POST
def do(request: Request, pk: int, is_rehearsal: bool) -> HttpResponse:
    """Something is done at the step shown; what cannot be is said, and nothing typed is lost."""
    data = Fields(request.POST)
    at = data.text("step", 120)
    before = _open(request, pk, is_rehearsal, at)
    readings = instruments.readings()
    command = services.StepCommand(before, data.whole("after") or 0, live_readings.temp_now(readings))
    try:
        if before.here.step.key != at:
            raise services.StaleStep("That step is not one of this batch any more. Here is how it stands.")
        if data.text("do", 20) in actions.MAKING and not is_rehearsal:
            batches.fitness.require_fit(before.batch, request.tables)
        raw_g = live_readings.taken_from(before, data, readings)
        sent = request.FILES.get("photo")
        led_to = services.photograph(command, sent).step if sent else actions.act(data.text("do", 20), command, data)
    except services.StaleStep as problem:
        fresh = _open(request, pk, is_rehearsal)
        return _page(request, fresh, problem.sentence, 409)
    except Problem as problem:
        return _refused(request, _open(request, pk, is_rehearsal, at), problem, data)
    after = _after(request, before, command, led_to, data.text("do", 20))
    if is_rehearsal and after.here.step.key != at:
        rehearsing.follow(after)
    elif data.text("do", 20) in actions.WEIGHED:
        live_readings.begin_next(after, before.here.step, raw_g)
    elif after.weighing != before.weighing:
        live_readings.begin_again(after, before, readings)
    if request.htmx:
        return _page(request, after)
    return redirect(f"{_address(after)}?{urlencode({'step': led_to})}" if led_to else _address(after))


def _after(request: Request, before: Bench, command: services.StepCommand, led_to: str, done: str) -> Bench:
    """The bench once something was done, read again only where it has to be."""
    is_rehearsal = before.run.is_rehearsal
    if done in actions.CARRIED_ON and not is_rehearsal:
        return carried_on(before, command.written, led_to)
    return _open(request, before.batch.pk, is_rehearsal, led_to)


@require_safe
def live(request: Request, pk: int, is_rehearsal: bool) -> HttpResponse:
    """What the instruments say, and how far the bench is by now."""
    data = Fields(request.GET)
    stamp, step = data.text("stamp", 40), data.text("step", 120)
    newest = live_readings.stamp_of(pk, is_rehearsal)
    if newest and newest != stamp:
        return JsonResponse({"stamp": newest})
    try:
        at = live_readings.poll(request, pk, is_rehearsal, stamp, step)
    except Http404:
        return JsonResponse({"gone": GONE}, status=404)
    return JsonResponse({"stamp": stamp, **live_readings.answer(at, instruments.readings())})


@require_POST
def zero(request: Request, pk: int, is_rehearsal: bool) -> HttpResponse:
    """What stands on the scale counts as nothing from now on or, where its maker says so, counts."""
    data = Fields(request.POST)
    found = _open(request, pk, is_rehearsal, data.text("step", 120))
    is_counted, by_itself = bool(data.text("counts", 5)), bool(data.text("by_itself", 5))
    readings = instruments.readings()
    if by_itself and not live_readings.begins_by_itself(found, readings):
        return HttpResponse(status=204)
    raw_g = live_readings.steady_raw(readings)
    instruments.begin_weighing(found.weighing, None if is_counted else raw_g, is_counted, not by_itself)
    return HttpResponse(status=204)


@require_safe
def rescue(request: Request, pk: int, is_rehearsal: bool) -> HttpResponse:
    """What could be put into the pot."""
    data = Fields(request.GET)
    found = _open(request, pk, is_rehearsal, data.text("step", 120))
    context = {
        "bench": found,
        "step": found.here.step,
        "rescuing": rescuing.read(data, found),
        "thumbs": actions.THUMBS,
        "rods": actions.RODS,
        "do": _address(found, "do"),
        "rescue_at": _address(found, "rescue"),
        "reached": rescuing.reached(found),
    }
    return render(request, "bench/_rescue.html", context)


def weigh(request: Request, pk: int) -> HttpResponse:
    """The weigh sheet: every weight is written down as soon as it is typed."""
    posted = request.method == "POST"
    read = (
        weigh_sheets.record(Fields(request.POST), pk, request.tables, request.prefs)
        if posted
        else weigh_sheets.fresh_inputs(pk, request.tables)
    )
    if "poured" in request.POST and not read.problems and not read.asked and not read.other:
        return redirect(next(iter(pour_address.ask(read.batch))))
    context = {
        "weigh": weigh_sheets.weigh_sheet(read, request.tables, request.prefs),
        "batch": read.batch,
        "warned": batches.safety.batch_warnings(read.batch, request.tables, request.prefs),
        "unfit": read.unfit,
        "moved": bool(read.other),
    }
    return render(request, "bench/_weigh.html" if request.htmx else "bench/weigh.html", context)


@require_POST
def correct(request: Request, pk: int) -> HttpResponse:
    """Correct a weight or a lot afterwards, also of a batch that was poured."""
    fields = Fields(request.POST)
    batch = get_object_or_404(Batch.objects.for_page(), pk=pk)
    correction = correcting.read(fields, batch, request.tables, request.prefs)
    messages.success(request, correcting.correct(batch, correction, request.tables))
    return redirect("batches:sheet", pk)


@require_POST
def call_off(request: Request, pk: int) -> HttpResponse:
    """Take a batch back that was not poured; where it is begun, what becomes of it is asked first."""
    batch = get_object_or_404(Batch.objects.for_page(), pk=pk)
    calling_off.require_open(batch)
    data, problem = Fields(request.POST), ""
    said = data.text("fate", 10)
    fate = calling_off.Fate(said) if said in set(calling_off.Fate) else None
    if fate or not calling_off.has_begun(batch):
        try:
            grams = data.text("grams", 40).strip()
            kept = calling_off.call_off(
                batch,
                fate or calling_off.Fate.BACK,
                request.tables,
                weight_g(grams, None, request.prefs) if grams else None,
            )
        except Problem as refusal:
            problem = refusal.sentence
        else:
            moved = settle(localdate(batch.starts_at), request.tables, request.experience) if batch.starts_at else ""
            messages.success(request, f"The batch is called off. {moved}".strip())
            return redirect("pantry:lot", kept.pk) if kept else redirect("batches:list")
    context = {
        "batch": batch,
        "fates": calling_off.fates(batch),
        "in_it": calling_off.in_it(batch, request.tables).total,
        "problem": problem,
        "typed": data.text("grams", 40),
    }
    return render(request, "bench/call_off.html", context, status=400 if problem else 200)


@require_safe
def photo(request: Request, name: str) -> HttpResponse:
    """A photograph, to whoever may see the workshop."""
    found = photos.path_of(name)
    if found is None:
        raise Http404
    answer = HttpResponse(found.read_bytes(), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=31536000"
    return answer


@require_POST
def rehearse(request: Request, pk: int) -> HttpResponse:
    """Begin a rehearsal of a batch at a speed."""
    batch = get_object_or_404(Batch, pk=pk)
    speed = Fields(request.POST).whole("speed") or 20
    if speed not in rehearsing.SPEEDS:
        raise Problem("Choose how fast the rehearsal runs.")
    runs.begin_rehearsal(batch, speed)
    if not rehearsing.begin(speed):
        messages.info(request, "No stand-in scale runs: type the numbers, or start Calm Tin with one.")
    return redirect("bench:rehearsal", pk)


@require_POST
def act(request: Request, pk: int) -> HttpResponse:
    """A hand at the stand-in's pan."""
    data = Fields(request.POST)
    found = _open(request, pk, True, data.text("step", 120))
    if not rehearsing.act(found, data.text("hand", 10)):
        raise Problem("No stand-in scale runs: type the number instead.")
    return HttpResponse(status=204)


@require_POST
def end(request: Request, pk: int) -> HttpResponse:
    """Forget a rehearsal."""
    runs.end_rehearsal(get_object_or_404(BenchRun, batch=pk, is_rehearsal=True))
    messages.success(request, "The rehearsal is over; nothing of it was written into stock or log.")
    return redirect("batches:method", pk)
