"""Labels of several pours on one sheet, each as many as are wanted, in one print."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_safe

from balmcore import units
from balmcore.errors import Problem
from balmcore.labels.layout import Layout, lay_out
from balmcore.labels.sheets import preview, print_labels
from balmcore.labels.sizes import suiting
from batches.fitness import require_fit
from batches.safety import MIN_REASON_LENGTH
from labels import services
from labels.content import CAUTIONS, Content, Words, content_of, vessel_of
from labels.forms import MOST_COUNT, LabelForm
from labels.models import LabelText, Sheet
from labels.views import form_of, require_net, sheet_answer
from pantry.queries import containers
from pieces.accounts import remaining
from pours.models import Pour
from workshop.web import Fields, Request

MOST_POURS = 24


@dataclass(frozen=True)
class Row:
    """The labels of one pour: what they say, how many are wanted as typed, where cautions go that have no room, and
    what is in the way of printing them."""

    pour: Pour
    content: Content
    count: str
    beside: str = ""
    layout: Layout | None = None
    problem: str = ""
    wanted: int = 0

    @property
    def asks_beside(self) -> bool:
        """True where the cautions have no room."""
        return self.layout is not None and CAUTIONS in self.layout.left_out


def _chosen(request: Request) -> list[Pour]:
    asked = Fields(request.GET).wholes("pour")[:MOST_POURS]
    found = Pour.objects.for_label().in_bulk(asked)
    return [found[pk] for pk in dict.fromkeys(asked) if pk in found]


def _rows(request: Request, pours: Sequence[Pour], form: LabelForm) -> list[Row]:
    """Each pour by what is kept for its formula, on the size that all of them share."""
    containers_by_key, today = containers(), timezone.localdate()
    texts, maker = services.texts_of({pour.batch.version.formula_id for pour in pours}), services.maker()
    data, rows = Fields(request.GET), []
    left = {each.pour.pk: each.left for each in remaining(pours)}
    for pour in pours:
        text = texts.get(pour.batch.version.formula_id, LabelText())
        words = Words(maker.name, maker.address, text.use, text.names, None, text.dates, text.has_code)
        content = content_of(
            pour, words, request.tables, request.prefs.scent_policy, today, containers_by_key, request.prefs.show
        )
        typed = data.text(f"count-{pour.pk}", 20)
        row = Row(pour, content, typed or str(max(left[pour.pk], 0)), data.text(f"beside-{pour.pk}", 200))
        rows.append(_judged(request, row, text, form))
    return rows


def _judged(request: Request, row: Row, text: LabelText, form: LabelForm) -> Row:
    """A row with its label fitted, and why it cannot be printed where it cannot."""
    try:
        wanted = units.count(row.count, MOST_COUNT) if row.count.strip() not in ("", "0") else 0
        row = replace(row, wanted=wanted)
        if form.is_valid():
            row = replace(
                row, layout=lay_out(form.size, row.content.blocks(form.cleaned_data["side"]), row.content.code)
            )
        if wanted:
            require_fit(row.pour.batch, request.tables)
            _require_said(row, text)
    except Problem as problem:
        return replace(row, problem=problem.sentence)
    return row


def _require_said(row: Row, text: LabelText) -> None:
    """Raises :class:`Problem` for words that promise too much, more declared than there is, and cautions without a
    place, as a label of its own does."""
    require_net(row.content)
    if row.content.claims and len(text.claims_why.strip()) < MIN_REASON_LENGTH:
        raise Problem("Its words promise too much: change them, or say why they may be said, on its own labels' page.")
    if row.asks_beside and len(row.beside.strip()) < MIN_REASON_LENGTH:
        raise Problem("The cautions have no room: take a larger size, or say where they go instead.")


@require_safe
def several(request: Request) -> HttpResponse:
    """The labels of some pours on one sheet, with what is in the way of each."""
    pours = _chosen(request)
    if not pours:
        messages.error(request, "Tick the pours whose labels are to be printed.")
        return redirect("pieces:index")
    vessel = vessel_of(pours[0], containers())
    form = form_of(request, pours[0], request.GET, containers())
    rows, said, sheet = _rows(request, pours, form), "", None
    wanted = sum(row.wanted for row in rows)
    try:
        if form.is_valid() and wanted:
            sheet = preview(form.grid, form.size, form.cleaned_data["start"], wanted)
    except Problem as problem:
        said = problem.sentence
    context = {
        "rows": rows,
        "form": form,
        "sheet": sheet,
        "said": said,
        "wanted": wanted,
        "sizes": suiting(vessel) if vessel else {},
        "sheets": Sheet.objects.all(),
    }
    template = "pieces/_several.html" if request.htmx else "pieces/several.html"
    return render(request, template, context)


@require_safe
def several_pdf(request: Request) -> HttpResponse:
    """The sheet of several pours as a PDF."""
    pours = _chosen(request)
    try:
        if not pours:
            raise Problem("Tick the pours whose labels are to be printed.")
        form = form_of(request, pours[0], request.GET, containers())
        if not form.is_valid():
            raise Problem("Look at the fields marked on this page.")
        layouts: list[Layout] = []
        for row in _rows(request, pours, form):
            if row.problem:
                raise Problem(f"{row.pour.name}, batch {row.pour.batch_id}: {row.problem}")
            layouts += [row.layout] * row.wanted if row.layout else []
        printed = print_labels(layouts, form.grid, form.cleaned_data["start"])
    except Problem as problem:
        messages.error(request, problem.sentence)
        return redirect(f"{reverse('pieces:several')}?{request.GET.urlencode()}")
    return sheet_answer(printed, "labels")
