"""The pages of recipes: reading one, and opening that of a formula again."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from balmcore.errors import Problem
from formulas.examples.salve import RECIPE
from formulas.forms import BeginForm
from formulas.models import Meaning, Recipe
from formulas.recipes import page as pages
from formulas.recipes import services
from formulas.recipes.asking import asked_of
from workshop.models import Preferences
from workshop.web import Fields, Request


def read_recipe(request: Request) -> HttpResponse:
    """A recipe as people write it: read it, settle its doubts, and take it to the studio."""
    fields, page = Fields(request.POST), pages.posted(request.POST, request.prefs, request.tables)
    if request.method == "GET":
        text = RECIPE if "example" in request.GET else ""
        page = pages.page_of(text, request.prefs.kitchen, {}, request.tables) if text else _empty(request)
    _forget(fields)
    form = BeginForm(request.POST if "begin" in request.POST else None, tables=request.tables)
    if form.is_bound and form.is_valid():
        kind = request.tables.kind(form.cleaned_data["kind"])
        wishes = [word for word in fields.texts("without") if page.wishes and word in page.wishes.words]
        try:
            formula = services.begin_of(page, form.cleaned_data["name"], kind, wishes, bool(fields.text("vegan")))
        except Problem as problem:
            return _page(request, page, form, None, problem.sentence)
        return redirect("formulas:studio", formula.pk)
    return _page(request, page, form, None, page.said if request.method == "POST" else "")


def recipe(request: Request, pk: int) -> HttpResponse:
    """The recipe of a formula, opened again: its questions, and what becomes of it when they are answered."""
    kept = get_object_or_404(Recipe.objects.select_related("formula", "version"), formula=pk)
    if request.method == "GET":
        return _page(request, pages.kept(kept, request.tables), None, kept, "")
    _forget(Fields(request.POST))
    page, said = pages.posted(request.POST, request.prefs, request.tables), ""
    if "save" in request.POST:
        try:
            version = services.read_again(kept, page)
        except Problem as problem:
            said = problem.sentence
        else:
            left = asked_of(version or kept.formula.versions.get(is_current=True)).count
            told = f"It is version {version.number} now." if version else "The formula stays as it was."
            open_still = f" {left} still open." if left else ""
            messages.success(request, f"Kept. {told}{open_still}")
            return redirect("formulas:studio", pk)
    return _page(request, page, None, kept, said or page.said)


def _empty(request: Request) -> pages.RecipePage:
    return pages.RecipePage("", request.prefs.kitchen, {}, tables=request.tables)


def _forget(fields: Fields) -> None:
    """Forget what was always meant, where that was asked."""
    if key := fields.text("forget"):
        services.forget(key)


def _page(
    request: Request, page: pages.RecipePage, form: BeginForm | None, kept: Recipe | None, said: str
) -> HttpResponse:
    fields = Fields(request.POST)
    proposal = page.proposal
    is_bad = bool(said) or bool(form and form.errors)
    context = {
        "page": page,
        "kept": kept,
        "again": reverse("formulas:recipe", args=[kept.formula_id]) if kept else reverse("formulas:read_recipe"),
        "kitchens": Preferences.Kitchen.choices,
        "said": said,
        "form": form,
        "kinds": request.tables.kinds.values(),
        "name": fields.text("name") or (page.reading.title if page.reading else ""),
        "kind_key": (fields.text("kind") if fields.text("kind_chosen") else "")
        or (proposal.kind.key if proposal else ""),
        "kind_chosen": fields.text("kind_chosen"),
        "proposal": proposal,
        "meanings": Meaning.objects.all(),
        "moved": kept and kept.version and not kept.version.is_current,
    }
    template = "formulas/_read_recipe.html" if request.htmx else "formulas/read_recipe.html"
    return render(request, template, context, status=400 if is_bad else 200)
