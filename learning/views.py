"""What pours teach: the page of it, reactions, the next thing to try, ladders."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

import batches.forms.ladder
from balmcore import units
from balmcore.days import read_day
from balmcore.errors import Problem
from balmcore.making.whippers import WHIPPERS
from balmcore.physics.ways_of_heating import HEATING_METHODS
from balmcore.trials.experience import NO_BUTTER
from formulas.models import Version
from formulas.services import StaleVersion
from learning import ladders, trying
from learning.lessons import lessons, supply
from learning.models import LadderTest
from learning.reactions import reactions
from workshop.web import Fields, Request


@require_safe
def learned(request: Request) -> HttpResponse:
    """What the tests and looks of all pours teach."""
    context = {
        "lessons": lessons(request.tables, request.prefs),
        "rates": [(_butter(row.butter, request), row) for row in request.experience.handling],
        "experience": request.experience,
        "bench": request.experience.bench,
        "heating": [(HEATING_METHODS[key].name, times) for key, times in request.experience.bench.heating.items()],
        "whip_min": [(WHIPPERS[key].name, each) for key, each in request.experience.bench.whip_min.items()],
        "whipping": [(WHIPPERS[key].name, gained) for key, gained in request.experience.bench.overrun.items()],
        "has_tests": bool(request.prefs.records_revision),
    }
    return render(request, "learning/learned.html", context)


@require_POST
def by_tests(request: Request) -> HttpResponse:
    """Go by the maker's own tests, or by the plain model."""
    request.prefs.by_own_tests = bool(Fields(request.POST).text("by_tests"))
    request.prefs.save()  # the first thing that is ever set may be this
    said = "Every firmness is by your own tests." if request.prefs.by_own_tests else "The plain model is shown."
    messages.success(request, said)
    return redirect("learning:learned")


@require_POST
def supply_answer(request: Request) -> HttpResponse:
    """What the maker says of a change of material: it was then, there was none, or look again."""
    data = Fields(request.POST)
    said = data.text("say", 10)
    try:
        if said == "again":
            supply.forget()
            messages.success(request, "The tests speak for themselves again.")
        else:
            day = read_day(data.text("day", 40), request.prefs.show.dates)
            supply.answer(day, data.text("group", 60), said == "none", request.tables)
            told = "No change then: all tests count alike." if said == "none" else "Predictions go by what came after."
            messages.success(request, told)
    except Problem as problem:
        messages.error(request, problem.sentence)
    return redirect("learning:learned")


def _butter(key: str, request: Request) -> str:
    found = request.tables.ingredients.get(key)
    return "No butter to speak of" if key == NO_BUTTER else found.name if found else key


@require_safe
def reacted(request: Request) -> HttpResponse:
    """Reactions on skin, and what those pours have in common."""
    return render(request, "learning/reactions.html", {"found": reactions(request.tables)})


@require_POST
def try_next(request: Request, pk: int) -> HttpResponse:
    """The suggestion for a version as the next version of its formula."""
    version = get_object_or_404(Version.objects.with_lines(), pk=pk)
    suggestion = trying.to_try(version, request.tables, request.prefs.show)
    if suggestion is None or (suggestion.composition is None and not suggestion.cooling):
        messages.error(request, "There is no change to make of it any more: look at the pour again.")
        return redirect("formulas:versions", version.formula_id)
    if suggestion.composition is None:
        return redirect(f"{reverse('batches:plan')}?version={version.pk}&cooling={suggestion.cooling}")
    try:
        made = trying.make_next(version, request.tables, suggestion)
    except (Problem, StaleVersion) as problem:
        messages.error(request, problem.sentence)
        return redirect("formulas:versions", version.formula_id)
    messages.success(request, f"{made} is made, with its reason in the note.")
    return redirect("formulas:studio", version.formula_id)


@require_POST
def begin_ladder(request: Request, pk: int) -> HttpResponse:
    """Keep a ladder, to write down what its cups said."""
    version = get_object_or_404(Version.objects.with_lines(), pk=pk)
    form = batches.forms.ladder.read(Fields(request.POST), version, request.tables, request.prefs)
    if form.ladder is None:
        messages.error(request, next(iter(form.problems.values()), "This ladder cannot be made."))
        return redirect(f"{reverse('batches:ladder')}?version={version.pk}")
    cup_g = form.cleaned_data["cup"]
    return redirect("learning:ladder", ladders.begin_ladder(version, form.ladder, cup_g).pk)


def ladder(request: Request, pk: int) -> HttpResponse:
    """The cups of a ladder, what the scale said of each, and the share for the firmness wanted."""
    test = get_object_or_404(LadderTest.objects.select_related("version__formula").prefetch_related("cups"), pk=pk)
    whole = test.version.formula.to_kind(request.tables)
    kind = ladders.as_pressed(whole)
    data = Fields(request.POST if request.method == "POST" else request.GET)
    step = float(request.prefs.resolution_g)
    made = ladders.cups_of(test, request.tables, request.prefs.resolution_g)
    rows = ladders.cup_rows(test, made, data if request.method == "POST" else None, request.prefs)
    if request.method == "POST" and not any(row.problem for row in rows):
        try:
            ladders.record_cups(test, made, rows, step)
        except ladders.CupProblem as refusal:
            rows = ladders.with_problem(rows, refusal)
        else:
            messages.success(request, "The cups are written down.")
            return redirect("learning:ladder", test.pk)
    found = ladders.fitted(test, made, kind)
    picked, told, problem = None, "", ""
    wanted = data.text("want", 20) or f"{(kind.firm_low + kind.firm_high) / 2:.0f}"
    if found.fit is not None:
        try:
            picked, told = ladders.picked(test, found, float(units.number(wanted)))
        except Problem as refusal:
            problem = refusal.sentence
    context = {
        "test": test, "fitted": found, "rows": rows, "kind": kind, "want": wanted, "picked": picked, "told": told,
        "problem": problem, "rods": ladders.RODS, "whipped": whole if whole.overrun else None,
    }  # fmt: skip
    return render(request, "learning/ladder.html", context, status=400 if any(row.problem for row in rows) else 200)


@require_POST
def pick_share(request: Request, pk: int) -> HttpResponse:
    """The share for a firmness as the next version."""
    test = get_object_or_404(LadderTest.objects.select_related("version__formula").prefetch_related("cups"), pk=pk)
    kind = ladders.as_pressed(test.version.formula.to_kind(request.tables))
    made = ladders.cups_of(test, request.tables, request.prefs.resolution_g)
    try:
        wanted = float(units.number(Fields(request.POST).text("want", 20)))
        composition, told = ladders.picked(test, ladders.fitted(test, made, kind), wanted)
        version = ladders.make_version(test, composition, told, request.tables)
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect("learning:ladder", test.pk)
    messages.success(request, f"{version} is made. {told}")
    return redirect("formulas:studio", version.formula_id)
