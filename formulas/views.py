"""Pages of the formulas app: the shelf, a new formula, the studio, versions."""

from django.contrib import messages
from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from balmcore.advice.wearers import AREAS, AUDIENCES
from balmcore.composition import Composition, normalise
from balmcore.design.meant import SEASONS, SKINS
from balmcore.design.wishes import wish_words
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, predict
from balmcore.tables import Kind
from balmcore.wording import listed
from formulas import comparison, lists, queries, services
from formulas import from_pantry as pantry_side
from formulas.forms import BeginForm, NameForm
from formulas.hooks import pages_of_formula, ways_in, ways_on
from formulas.models import Formula, Version
from formulas.recipes.asking import Asked, asked_of
from formulas.studio import reach, tools
from formulas.studio import state as studio_state
from formulas.studio.answer import answer
from formulas.studio.trail import Trail, trail_of
from workshop.files.sheets import sheet_response
from workshop.web import Fields, Request


@require_safe
def export(request: Request, kind: str) -> HttpResponseBase:
    """The formulas of the list, as it is narrowed, for a spreadsheet."""
    words = Fields(request.GET).text("q")
    return sheet_response(
        "formulas", lists.header(request.prefs.show), lists.rows(request.tables, words), kind, request.prefs.show
    )


@require_safe
def formula_list(request: Request) -> HttpResponse:
    """All formulas as tins, narrowed by words."""
    fields = Fields(request.GET)
    words, is_away = fields.text("q"), bool(fields.text("away"))
    template = "formulas/_list.html" if request.htmx else "formulas/list.html"
    context = {
        "cards": queries.formula_list(request.tables, words, is_away=is_away),
        "q": words,
        "is_away": is_away,
        "away": Formula.objects.filter(put_away__isnull=False).count(),
        "ways_in": ways_in.ask(),
    }
    return render(request, template, context)


def begin(request: Request) -> HttpResponse:
    """A new formula from a kind."""
    form = BeginForm(request.POST or None, tables=request.tables)
    if request.method == "POST" and form.is_valid():
        formula = services.begin_from(form.cleaned_data["name"], form.cleaned_data["kind"], request.tables)
        return redirect("formulas:studio", formula.pk)
    chosen = form.data.get("kind", request.GET.get("kind", ""))
    return render(
        request,
        "formulas/begin.html",
        {
            "form": form,
            "kinds": queries.kind_starts(request.tables),
            "starters": queries.starter_starts(request.tables, request.prefs),
            "chosen": chosen,
        },
    )


def from_pantry(request: Request) -> HttpResponse:
    """What the stock alone makes, kind by kind; one of them can be taken to the studio."""
    fields = Fields(request.POST)
    if request.method == "POST":
        kind = request.tables.kind(fields.text("kind"))
        composition = normalise(Composition.of(studio_state.unpack(fields.text("lines", 4000)), request.tables))
        formula = services.begin_formula(
            f"{kind.name} from the pantry", kind, composition, "From what was in stock that day."
        )
        return redirect("formulas:studio", formula.pk)
    return render(
        request, "formulas/from_pantry.html", {"found": pantry_side.from_pantry(request.tables, request.prefs)}
    )


def _page(
    request: Request,
    formula: Formula,
    state: studio_state.State,
    template: str,
    moved: Version | None = None,
    status: int = 200,
) -> HttpResponse:
    trail = trail_of(formula.pk, state.made_from, request.tables)
    return studio_page(request, formula, state, template, trail, moved, status)


def studio_page(
    request: Request,
    formula: Formula,
    state: studio_state.State,
    template: str,
    trail: Trail,
    moved: Version | None = None,
    status: int = 200,
) -> HttpResponse:
    """The studio with a state at the end of a trail; or an example's, where the formula is not stored."""
    version = trail.version
    is_example, own = not formula.pk, [formula.pk]
    kind = formula.to_kind(request.tables)
    tool = tools.opened(Fields(request.POST), state, kind, request.prefs)
    context = {
        "formula": formula,
        "version": version,
        "audiences": [(key, name) for key, (name, _) in AUDIENCES.items()],
        "areas": AREAS.items(),
        "skins": (("", "any skin"), *SKINS.items()),
        "seasons": (("", "all year"), *SEASONS.items()),
        "kind": kind,
        "answer": answer(state, trail, kind, request.prefs, tool),
        "own_grain": request.experience.grain_sentence(state.composition),
        "wish_words": lambda: wish_words(request.tables),
        "plain_firmness": _plain_firmness(state, kind, request),
        "ways_on": lambda: {name: address for answer in ways_on.ask(version) for name, address in answer.items()},
        "kinds": request.tables.kinds.values(),
        "moved": moved,
        "is_example": is_example,
        "asked": Asked() if is_example else asked_of(version),
        "try": reverse("formulas:example_update") if is_example else reverse("formulas:studio_update", args=own),
        "save_at": reverse("formulas:keep_example") if is_example else reverse("formulas:save", args=own),
    }
    return render(request, template, context, status=status)


def _plain_firmness(state: studio_state.State, kind: Kind, request: Request) -> float | None:
    """The firmness in the window by the model alone, where the others are by the maker's own tests."""
    if not request.tables.are_taught or state.composition.total <= 0:
        return None
    shares = {line.key: line.share for line in state.composition.lines}
    return predict(Composition.of(shares, request.tables.plain), kind.overrun).firmness_at(WINDOW_C)


@require_safe
def studio(request: Request, pk: int) -> HttpResponse:
    """The studio, opened at the current version or at ``?version=N``."""
    formula = get_object_or_404(Formula, pk=pk)
    current = formula.versions.get(is_current=True)
    number = Fields(request.GET).whole("version")
    version = current if number is None else get_object_or_404(formula.versions, number=number)
    state = studio_state.opened(
        version.to_composition(request.tables),
        request.tables,
        formula.audience,
        formula.area,
        current.pk,
        version.number,
        version.held_groups,
        version.meant,
        version.percent_of,
    )
    return _page(request, formula, state, "formulas/studio.html")


@require_POST
def studio_update(request: Request, pk: int) -> HttpResponse:
    """One action in the studio; answers with the studio's own fragment."""
    state = studio_state.respond(Fields(request.POST), request.tables)
    trail = trail_of(pk, state.made_from, request.tables)
    return studio_page(request, trail.version.formula, state, "formulas/_studio.html", trail)


@require_POST
def window(request: Request, pk: int) -> HttpResponse:
    """The window that was asked for as the formula's own, or its kind's again; the studio stays as typed."""
    formula, fields = get_object_or_404(Formula, pk=pk), Fields(request.POST)
    state = studio_state.settled(fields, request.tables)
    try:
        services.set_window(formula, reach.asked_window(fields, request.prefs) if fields.text("own") else None)
    except Problem as problem:
        state = studio_state.with_error(state, problem.sentence)
    return _page(request, formula, state, "formulas/_studio.html")


@require_POST
def save(request: Request, pk: int) -> HttpResponse:
    """The form as the next version; what cannot be saved is shown again as it was typed."""
    formula = get_object_or_404(Formula, pk=pk)
    state = studio_state.settled(Fields(request.POST), request.tables)
    formula.audience, formula.area = state.audience, state.area
    moved = None
    try:
        if state.problems:
            raise Problem("Not saved yet: " + state.problems[0])
        version = services.save_version(
            formula,
            state.composition,
            seen=state.seen,
            made_from=state.made_from,
            note=state.note[:500],
            keep_both=bool(request.POST.get("keep_both")),
            held=state.held,
            meant=state.meant,
            percent_of=state.of,
        )
    except services.StaleVersion as refusal:
        moved = refusal.current
    except Problem as problem:
        state = studio_state.with_error(state, problem.sentence)
    else:
        gone = [line.ingredient.name for line in state.composition.lines if not line.share]
        left_out = f" At nothing, and left out: {listed(gone)}." if gone else ""
        kept = "Noted with" if version.pk == state.seen else "Saved as"
        messages.success(request, f"{kept} version {version.number}.{left_out}")
        return redirect("formulas:studio", formula.pk)
    return _page(request, formula, state, "formulas/studio.html", moved, status=409 if moved else 400)


def versions(request: Request, pk: int) -> HttpResponse:
    """Every version with what it changed and why; the formula's name can be changed here."""
    formula = get_object_or_404(Formula, pk=pk)
    if request.method == "POST" and (away := Fields(request.POST).text("put_away")):
        services.put_away(formula, away == "yes")
        told = (
            "put away: it is found under Put away, and comes back from there"
            if formula.put_away
            else "back on the shelf"
        )
        messages.success(request, f"{formula.name} is {told}.")
        return redirect("formulas:versions", pk)
    if request.method == "POST" and (number := Fields(request.POST).whole("why_of")):
        version = get_object_or_404(formula.versions, number=number)
        services.note_why(version, Fields(request.POST).text("why", services.MOST_NOTE))
        messages.success(request, f"Noted with version {number}.")
        return redirect("formulas:versions", pk)
    form = NameForm(request.POST or None, instance=formula)
    if request.method == "POST" and form.is_valid():
        form.save()
        return redirect("formulas:versions", pk)
    if form.errors:
        formula.refresh_from_db()
    return render(
        request,
        "formulas/versions.html",
        {
            "formula": formula,
            "form": form,
            "steps": queries.history(formula, request.tables, request.prefs, "all" in request.GET),
            "is_taught": request.tables.are_taught,
            "pages": pages_of_formula.ask(formula),
        },
    )


@require_safe
def compare(request: Request, pk: int) -> HttpResponse:
    """Up to four versions, of this formula or others, side by side."""
    formula = get_object_or_404(Formula, pk=pk)
    asked = Fields(request.GET).wholes("v")[:12]
    everything = Version.objects.with_lines().order_by("formula__name", "-number")
    found = {version.pk: version for version in everything.filter(pk__in=asked)}
    chosen = [found[one] for one in dict.fromkeys(asked) if one in found][: comparison.MOST]
    chosen = chosen or list(everything.filter(formula=formula)[:2])
    slots = [version.pk for version in chosen] + [0] * (comparison.MOST - len(chosen))
    context = {
        "formula": formula,
        "comparison": comparison.compare(chosen, request.tables, request.prefs),
        "slots": slots,
        "choices": Version.objects.select_related("formula").order_by("formula__name", "-number")[:500],
    }
    return render(request, "formulas/compare.html", context)


@require_POST
def branch(request: Request, pk: int, number: int) -> HttpResponse:
    """A version as the beginning of a formula of its own."""
    version = get_object_or_404(Version.objects.select_related("formula"), formula=pk, number=number)
    twin = services.branch_formula(version, request.tables)
    messages.success(request, f"{twin.name} begins from version {number} of {version.formula.name}.")
    return redirect("formulas:studio", twin.pk)


@require_POST
def restore(request: Request, pk: int, number: int) -> HttpResponse:
    """An earlier version again as the newest."""
    formula = get_object_or_404(Formula, pk=pk)
    version = services.restore_version(formula, number, request.tables)
    messages.success(request, f"Version {number} is back, as version {version.number}.")
    return redirect("formulas:studio", pk)
