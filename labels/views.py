"""The label maker: a label as it will be cut, and its sheet as a PDF."""

from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.http import HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from balmcore.display import mass_words
from balmcore.errors import Problem
from balmcore.labels.layout import Layout, lay_out
from balmcore.labels.sheets import preview, print_labels
from balmcore.labels.sizes import suiting
from balmcore.tables import Container
from batches.fitness import require_fit, unfit_of
from batches.safety import MIN_REASON_LENGTH
from labels import services
from labels.content import CAUTIONS, Content, Words, content_of, vessel_of
from labels.forms import LabelForm, of_sheet, usual
from labels.models import Sheet
from pantry.queries import containers
from pours.models import Pour
from workshop.web import Fields, Request


def _pour(pk: int) -> Pour:
    return get_object_or_404(Pour.objects.for_label(), pk=pk)


def form_of(request: Request, pour: Pour, data: QueryDict, containers_by_key: Mapping[str, Container]) -> LabelForm:
    """The form as asked for or, where nothing was, with what is usual."""
    vessel = vessel_of(pour, containers_by_key)
    chosen = suiting(vessel).get(Fields(data).text("size")) if vessel else None
    text, maker = services.text_of(pour.batch.version.formula), services.maker()
    first: dict[str, Any] = usual(text, maker, request.prefs.paper, vessel, pour.pieces_made, chosen)
    sheet = Sheet.objects.filter(pk=Fields(data).whole("sheet") or 0).first()
    if sheet is not None:
        first |= of_sheet(sheet)
    blank = LabelForm(prefs=request.prefs)
    shown = {name: blank.fields[name].prepare_value(value) for name, value in first.items()}
    given = {name: data[name] for name in blank.fields if name in data}
    # A size or a sheet that was chosen stands over what the fields held before.
    over = set()
    if chosen is not None:
        over |= {"shape", "width", "height", *of_sheet(Sheet(columns=1, rows=1, left_mm=0, top_mm=0))} - {"paper"}
    if sheet is not None:
        over |= set(of_sheet(sheet))
    return LabelForm(
        {**shown, **{name: value for name, value in given.items() if name not in over}}, prefs=request.prefs
    )


def _content(request: Request, pour: Pour, form: LabelForm, containers_by_key: Mapping[str, Container]) -> Content:
    data = form.cleaned_data
    said = {name: data[name] for name in ("maker", "address", "use", "names", "dates", "has_code") if name in data}
    words = Words(**said, net_g=float(data["net"]) if data.get("net") else None)
    return content_of(
        pour,
        words,
        request.tables,
        request.prefs.scent_policy,
        timezone.localdate(),
        containers_by_key,
        request.prefs.show,
    )


def require_net(content: Content) -> None:
    """Raises :class:`Problem` where more is declared than there is."""
    if content.declares_too_much:
        told = mass_words(content.lightest_g or 0)
        raise Problem(f"The lightest piece holds {told}: a label never declares more than there is.", "net")


def _require_answered(form: LabelForm, content: Content) -> None:
    """Raises :class:`Problem` where a word promises too much and nobody said why it may, and where more is declared
    than there is."""
    require_net(content)
    if content.claims and len(form.cleaned_data["claims_why"].strip()) < MIN_REASON_LENGTH:
        raise Problem("Change the words marked below, or say why your rules allow them: until then nothing is printed.")


def _laid_out(form: LabelForm, content: Content) -> Layout:
    """The label fitted. Raises :class:`Problem` where it cannot be."""
    return lay_out(form.size, content.blocks(form.cleaned_data["side"]), content.code)


def _require_cautions(form: LabelForm, layout: Layout) -> None:
    """Raises :class:`Problem` where what its wearer must know has no room, and nobody said where it goes instead."""
    if CAUTIONS in layout.left_out and len(form.cleaned_data["beside"].strip()) < MIN_REASON_LENGTH:
        raise Problem(
            "The cautions have no room on this label. Take a back label or a larger size, or say below where they go "
            "instead: until then nothing is printed."
        )


@require_safe
def label(request: Request, pk: int) -> HttpResponse:
    """A label as it will be cut, with what did not fit and what is to be looked at."""
    pour, containers_by_key = _pour(pk), containers()
    form = form_of(request, pour, request.GET, containers_by_key)
    is_valid = form.is_valid()
    content = _content(request, pour, form, containers_by_key)
    layout, sheet, said = None, None, ""
    try:
        if is_valid:
            layout = _laid_out(form, content)
            sheet = preview(form.grid, form.size, form.cleaned_data["start"], form.cleaned_data["count"])
            _require_answered(form, content)
            _require_cautions(form, layout)
    except Problem as problem:
        said = problem.sentence
    vessel = vessel_of(pour, containers_by_key)
    context = {
        "pour": pour, "form": form, "content": content, "layout": layout, "said": said,
        "sizes": suiting(vessel) if vessel else {}, "sheets": Sheet.objects.all(), "sheet": sheet,
        "finishes": pour.batch.pours.count(), "batch": pour.batch, "unfit": unfit_of(pour.batch, request.tables),
    }  # fmt: skip
    template = "labels/_label.html" if request.htmx else "labels/label.html"
    return render(request, template, context)


def _labels(
    request: Request, pour: Pour, form: LabelForm, containers_by_key: Mapping[str, Container], outlines: bool
) -> list[Layout]:
    """The labels to print: of this pour as many as are asked for, a sheet of outlines, or of every pour of its batch as
    many as it has pieces. Raises :class:`Problem`."""
    whole = "whole" in request.GET and not outlines
    pours = Pour.objects.for_label().filter(batch=pour.batch_id).order_by("pk") if whole else [pour]
    found: list[Layout] = []
    for each in pours:
        content = _content(request, each, form, containers_by_key)
        _require_answered(form, content)
        if not outlines:
            require_fit(each.batch, request.tables)
        count = each.pieces_made if whole else form.grid.per_sheet if outlines else form.cleaned_data["count"]
        layout = _laid_out(form, content)
        if not outlines:
            _require_cautions(form, layout)
        found += [layout] * count
    return found


@require_safe
def sheet_pdf(request: Request, pk: int) -> HttpResponse:
    """The sheet as a PDF, or only where its labels are cut."""
    pour, containers_by_key = _pour(pk), containers()
    form = form_of(request, pour, request.GET, containers_by_key)
    try:
        if not form.is_valid():
            raise Problem("Look at the fields marked on the label's page.")
        outlines = "outlines" in request.GET
        layouts = _labels(request, pour, form, containers_by_key, outlines)
        printed = print_labels(layouts, form.grid, 1 if outlines else form.cleaned_data["start"], outlines)
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect(f"{reverse('labels:label', args=[pk])}?{request.GET.urlencode()}")
    return sheet_answer(printed, "outlines" if outlines else f"labels-batch-{pour.batch_id}")


def sheet_answer(printed: bytes, name: str) -> HttpResponse:
    """A printed sheet under a name."""
    answer = HttpResponse(printed, content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{name}.pdf"'
    return answer


@require_POST
def keep(request: Request, pk: int) -> HttpResponse:
    """Keep what the labels of this formula say and, with a name, the sheet."""
    pour = _pour(pk)
    form = form_of(request, pour, request.POST, containers())
    if not form.is_valid():
        messages.error(request, "Not kept yet: look at the fields marked below.")
    else:
        services.keep(pour.batch.version.formula, form.cleaned_data)
        messages.success(request, "The words of this label are kept for its formula.")
        if name := Fields(request.POST).text("sheet_name", 200):
            try:
                sheet = services.keep_sheet(name, form.cleaned_data)
                messages.success(request, f"The sheet “{sheet}” is kept.")
            except Problem as problem:
                messages.error(request, problem.sentence)
    asked = request.POST.copy()
    for name in ("csrfmiddlewaretoken", "sheet_name"):
        asked.pop(name, None)
    return redirect(f"{reverse('labels:label', args=[pk])}?{asked.urlencode()}")
