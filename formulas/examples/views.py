"""The pages of the examples: the studio with a salve that is not stored, and making it one's own."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from balmcore.errors import Problem
from formulas import services
from formulas.examples import salve
from formulas.studio import state as studio_state
from formulas.views import studio_page
from workshop.web import Fields, Request


@require_safe
def studio(request: Request) -> HttpResponse:
    """The example as it begins."""
    trail = salve.salve(request.tables)
    version, formula = trail.version, trail.version.formula
    state = studio_state.opened(
        trail.begun_from, request.tables, formula.audience, formula.area, version.pk, version.number
    )
    return studio_page(request, formula, state, "formulas/studio.html", trail)


@require_POST
def studio_update(request: Request) -> HttpResponse:
    """One action in the example's studio."""
    trail = salve.salve(request.tables)
    state = studio_state.respond(Fields(request.POST), request.tables)
    return studio_page(request, trail.version.formula, state, "formulas/_studio.html", trail)


@require_POST
def keep(request: Request) -> HttpResponse:
    """The example, as it was played with, as a formula of the maker's own."""
    trail = salve.salve(request.tables)
    example = trail.version.formula
    state = studio_state.settled(Fields(request.POST), request.tables)
    try:
        if state.problems:
            raise Problem("Not kept yet: " + state.problems[0])
        kind = example.to_kind(request.tables)
        formula = services.begin_formula(salve.NAME, kind, state.composition, "Begun from the example.")
    except Problem as problem:
        state = studio_state.with_error(state, problem.sentence)
        return studio_page(request, example, state, "formulas/studio.html", trail, status=400)
    messages.success(request, f"{formula.name} is yours now: everything you change from here on is kept by you.")
    return redirect("formulas:studio", formula.pk)
