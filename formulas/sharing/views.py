"""Pages of handing on: the file, the card, and reading a file."""

import json
from decimal import Decimal

from django.contrib import messages
from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_safe

from balmcore import units
from balmcore.errors import Problem
from balmcore.labels.card import Card
from balmcore.labels.card import card as card_of
from balmcore.labels.card_pdf import print_card
from balmcore.tables import Tables
from formulas.models import Version
from formulas.sharing.files import MOST_BYTES, FilePreview, make_of_file, read_file, to_file
from formulas.sharing.sheets import HEADER, read_sheet, to_rows
from pantry.queries import containers
from workshop.files.sheets import sheet_response
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


def _card(request: Request, version: Version) -> tuple[Card, str, str]:
    """A version's card for the grams asked for, those as text, and what is wrong with them."""
    prefs, formula, said = request.prefs, version.formula, ""
    text = Fields(request.GET).text("grams", 40) or prefs.show.mass_text(USUAL_G)
    try:
        grams = units.mass_g(text, prefs.mass_unit, prefs.kitchen, where="grams")
        if not grams:
            raise Problem("Say of how much: 100 g, or 8 oz.")
    except Problem as problem:
        grams, said = USUAL_G, problem.sentence
    kind, composition = formula.to_kind(request.tables), version.to_composition(request.tables)
    meant = f"Meant to be {version.meant.words}." if version.meant.words else ""
    found = card_of(
        f"{formula.name}, version {version.number}",
        " ".join(part for part in (f"{kind.name}.", meant, version.note) if part),
        composition,
        kind,
        grams,
        containers(),
        formula.to_wearer(prefs.scent_policy),
        prefs.cool_room_c,
        prefs.show,
        version.against(composition, request.tables, prefs.show),
    )
    return found, text, said


@require_safe
def card(request: Request, pk: int, number: int) -> HttpResponse:
    """A version on one sheet, in percent and in grams of so much."""
    version = _version(pk, number)
    found, text, said = _card(request, version)
    return render(request, "formulas/card.html", {"version": version, "card": found, "text": text, "said": said})


@require_safe
def card_pdf(request: Request, pk: int, number: int) -> HttpResponse:
    """The card as a PDF, on the maker's paper."""
    found, _, said = _card(request, _version(pk, number))
    if said:
        messages.error(request, said)
        return redirect("formulas:card", pk, number)
    answer = HttpResponse(print_card(found, request.prefs.paper), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="card-{pk}-v{number}.pdf"'
    return answer


@require_safe
def formula_sheet(request: Request, pk: int, number: int, kind: str) -> HttpResponseBase:
    """A version's lines for a spreadsheet."""
    rows = to_rows(_version(pk, number), request.tables.plain)
    return sheet_response(f"formula-{pk}-v{number}", HEADER, rows, kind, request.prefs.show)


def _as_text(content: bytes, tables: Tables) -> str:
    """What was sent as the text of a formula's file; a spreadsheet is made into one. Raises :class:`Problem`."""
    text = content.decode("utf-8-sig", "replace")
    return text if text.lstrip().startswith("{") else json.dumps(read_sheet(content, tables), ensure_ascii=False)


def read(request: Request) -> HttpResponse:
    """Read a formula's file: first what it would bring, then making it."""
    seen: FilePreview | None = None
    text, said = (request.POST.get("text") or "")[: MOST_BYTES + 1], ""
    if request.method == "POST":
        sent = request.FILES.get("file")
        try:
            if sent is not None:
                text = _as_text(sent.read(MOST_BYTES + 1), request.tables.plain)
            seen = read_file(text, request.tables.plain)
            if "make" in request.POST:
                formula = make_of_file(seen)
                messages.success(request, f"{formula.name} is among your formulas.")
                return redirect("formulas:studio", formula.pk)
        except Problem as problem:
            said = problem.sentence
    context = {"seen": seen, "text": text, "said": said}
    return render(request, "formulas/read_file.html", context, status=400 if said else 200)
