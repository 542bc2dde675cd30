"""Pages of handing on: the file, the card, and reading a file."""

import json
from decimal import Decimal

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_safe

from balmcore import units
from balmcore.advice.safety import cautions
from balmcore.errors import Problem
from balmcore.making.scaling import on_grid
from formulas.handing.files import MOST_BYTES, FilePreview, make_of_file, read_file, to_file
from formulas.models import Version
from workshop.web import Fields, Request

USUAL_G = Decimal(100)


def _version(pk: int, number: int) -> Version:
    return get_object_or_404(Version.objects.with_lines(), formula=pk, number=number)


@require_safe
def formula_file(request: Request, pk: int, number: int) -> HttpResponse:
    """A version as a file for another workshop."""
    version = _version(pk, number)
    text = json.dumps(to_file(version, request.tables.plain), ensure_ascii=False, indent=2)
    answer = HttpResponse(text, content_type="application/json; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="formula-{pk}-v{number}.json"'
    return answer


@require_safe
def card(request: Request, pk: int, number: int) -> HttpResponse:
    """A version on one sheet, in percent and in grams of so much."""
    version = _version(pk, number)
    prefs, said = request.prefs, ""
    text = Fields(request.GET).text("grams", 40) or prefs.show.mass_text(USUAL_G)
    try:
        grams = units.mass_g(text, prefs.mass_unit, prefs.kitchen)
        if grams <= 0:
            raise Problem("Say of how much: 100 g, or 8 oz.")
    except Problem as problem:
        grams, said = USUAL_G, problem.sentence
    composition = version.to_composition(request.tables)
    lines, _ = on_grid(composition, grams, prefs.resolution_g)
    formula = version.formula
    context = {
        "version": version,
        "kind": formula.to_kind(request.tables),
        "rows": [(line.ingredient, line.share, lines[line.key]) for line in composition.lines if line.share],
        "grams": grams,
        "text": text,
        "said": said,
        "cautions": cautions(composition, formula.audience, formula.area, prefs.scent_policy),
    }
    return render(request, "formulas/card.html", context)


def read(request: Request) -> HttpResponse:
    """Read a formula's file: first what it would bring, then making it."""
    seen: FilePreview | None = None
    text, said = (request.POST.get("text") or "")[: MOST_BYTES + 1], ""
    if request.method == "POST":
        sent = request.FILES.get("file")
        if sent is not None:
            text = sent.read(MOST_BYTES + 1).decode("utf-8-sig", "replace")
        try:
            seen = read_file(text, request.tables.plain)
            if "make" in request.POST:
                formula = make_of_file(seen)
                messages.success(request, f"{formula.name} is among your formulas.")
                return redirect("formulas:studio", formula.pk)
        except Problem as problem:
            said = problem.sentence
    context = {"seen": seen, "text": text, "said": said}
    return render(request, "formulas/read_file.html", context, status=400 if said else 200)
