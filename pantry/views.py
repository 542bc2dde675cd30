"""Pages of the pantry: stock and its lots, ingredients, containers, preparations."""

from decimal import Decimal

from django.contrib import messages
from django.http import Http404, HttpResponse, HttpResponseBase, HttpResponseNotAllowed
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from balmcore.errors import Problem
from balmcore.wording import as_sentence, in_sentence
from pantry import queries, services
from pantry.forms import LotForm, OwnContainerForm, OwnIngredientForm, ReceiveForm
from pantry.forms.details import DetailsForm
from pantry.forms.preparing import FinishForm, PapersForm, PreparationForm
from pantry.hooks import holds_of_lot, pages_of_lot, with_unfit
from pantry.ingredient_page import details
from pantry.models import Entry, Lot, OwnContainer, Preparation
from pantry.orders.services import arrived
from pantry.shelf import counting, lists, receiving
from workshop.files.sheets import sheet_response
from workshop.forms import tell
from workshop.web import Fields, Request


def stock(request: Request) -> HttpResponse:
    """Everything in stock by item, and a form to receive a lot."""
    asked = Fields(request.GET)
    names = ("item", "amount", "supplier", "price", "order")
    start = {name: asked.text(name) for name in names if asked.text(name)}
    form = ReceiveForm(
        request.POST or None,
        prefs=request.prefs,
        tables=request.tables,
        containers_by_key=queries.containers(),
        initial=start,
    )
    if request.method == "POST" and form.is_valid():
        lot = services.receive(form.purchase())
        rest = arrived(form.cleaned_data["order"], lot)
        more = f" {_amount(request, rest, lot.is_container)} of the order are still to come." if rest else ""
        messages.success(request, f"{queries.name_of(lot.item_key, request.tables)} is in stock as {lot}.{more}")
        return redirect("pantry:stock")
    words, empty = asked.text("q"), bool(asked.text("empty"))
    template = "pantry/_stock.html" if request.htmx else "pantry/stock.html"
    found = queries.stock(request.tables, words, empty, asked.text("page"))
    context = {"form": form, "stock": found, "q": words, "empty": empty, "suppliers": queries.suppliers()}
    return render(request, template, context, status=400 if form.errors else 200)


def _amount(request: Request, amount: Decimal, is_container: bool) -> str:
    """An amount in the maker's words."""
    return f"{amount.normalize():f} pieces" if is_container else request.prefs.show.mass_text(amount)


def receive(request: Request) -> HttpResponse:
    """Several lots in one form, typed or pasted; all of them come in, or none."""
    data = Fields(request.POST)
    delivery = receiving.read(data)
    if request.method != "POST":
        delivery.bought = request.prefs.show.day_field(timezone.localdate())
    elif data.text("receive") and not delivery.said:
        lots = receiving.receive_all(delivery, request.prefs, request.tables, queries.containers())
        if lots:
            messages.success(request, f"{len(lots)} lot{'' if len(lots) == 1 else 's'} in stock.")
            return redirect("pantry:stock")
    context = {"delivery": delivery, "suppliers": queries.suppliers()}
    return render(request, "pantry/receive.html", context, status=400 if delivery.said else 200)


def count(request: Request) -> HttpResponse:
    """All lots on one page, to print and to fill in; what was counted is booked at once."""
    words = Fields(request.GET).text("q")
    data = Fields(request.POST) if request.method == "POST" else None
    sheet = counting.count_sheet(request.tables, words, data)
    if data is not None:
        sheet, made = counting.book_counts(sheet, request.prefs)
        if not sheet.problems:
            messages.success(request, f"{made} put right." if made else "Nothing differed: no entry was made.")
            return redirect("pantry:count")
    context = {"sheet": sheet, "q": words}
    return render(request, "pantry/count.html", context, status=400 if sheet.problems else 200)


@require_safe
def export(request: Request, kind: str) -> HttpResponseBase:
    """The lots that hold something, for a spreadsheet."""
    show = request.prefs.show
    return sheet_response("pantry", lists.header(show), lists.rows(request.tables, show), kind, show)


@require_safe
def lots(request: Request, key: str) -> HttpResponse:
    """Every lot of one ingredient or container, empty ones too."""
    name = queries.name_of(key, request.tables)
    found = queries.stock_of(key, name)
    if found is None:
        raise Http404
    return render(request, "pantry/lots.html", {"item": found, "name": name})


def lot(request: Request, pk: int) -> HttpResponse:
    """One lot with its account, and what can be done to it."""
    found = next(iter(with_unfit(queries.with_account(Lot.objects.filter(pk=pk)))), None)
    if found is None:
        raise Http404
    is_papers = "papers" in request.POST
    papers = DetailsForm(
        request.POST if is_papers else None, prefs=request.prefs, lot=found, suppliers=queries.suppliers()
    )
    if is_papers and papers.is_valid():
        made = services.put_right(found, **{name: papers.cleaned_data[name] for name in DetailsForm.NAMES})
        messages.success(request, "Put right; its account keeps what stood there." if made else "Nothing was changed.")
        return redirect("pantry:lot", pk)
    item = request.tables.ingredients.get(found.item_key)
    density = item.density_g_ml if item else None
    form = LotForm(None if is_papers else request.POST or None, prefs=request.prefs, lot=found, density=density)
    if request.method == "POST" and form.is_valid():
        try:
            messages.success(request, _carry_out(found, form))
        except Problem as problem:
            tell(form, problem)
        else:
            return redirect("pantry:lot", pk)
    context = {
        "lot": found,
        "name": queries.name_of(found.item_key, request.tables),
        "usual": queries.usual_life(found, request.tables),
        "form": form,
        "papers": papers,
        "pages": pages_of_lot.ask(found),
        "held_for": [hold for answer in holds_of_lot.ask(found) for hold in answer],
        "states": [choice for choice in Lot.State.choices if choice[0] != found.state],
    }
    return render(request, "pantry/lot.html", context, status=400 if form.errors or papers.errors else 200)


def _carry_out(lot: Lot, form: LotForm) -> str:
    """Do what the form asks for; returns what to say."""
    data = form.cleaned_data
    do, note = data["do"], data["note"]
    if do == "waste":
        services.move(lot, -data["amount"], Entry.Kind.WASTED, note)
        return "Written down as wasted."
    if do == "correct":
        services.correct(lot, data["amount"], note)
        return "Corrected to what you counted."
    if do == "smelled":
        services.smell(lot, note)
        return "Smelled, and still good: it serves again."
    if do == "open":
        services.open_lot(lot, data["day"])
        return "The day it was opened is written down."
    services.mark(lot, do, note)
    return as_sentence(f"{lot} is marked {lot.get_state_display().lower()}.")


def ingredients(request: Request) -> HttpResponse:
    """Ingredients by role, and a form for one's own."""
    form = OwnIngredientForm(request.POST or None, prefs=request.prefs, tables=request.tables)
    if request.method == "POST" and form.is_valid():
        made = form.save()
        messages.success(request, f"{made.name} is among your ingredients. What do its papers say?")
        return redirect("pantry:ingredient", made.key)
    words = Fields(request.GET).text("q")
    template = "pantry/_drawers.html" if request.htmx else "pantry/ingredients.html"
    context = {"drawers": queries.drawers(request.tables, words), "q": words, "form": form}
    return render(request, template, context, status=400 if form.errors else 200)


def ingredient(request: Request, key: str) -> HttpResponse:
    """One ingredient: how it melts, its figures, where it is used; of one's own what its papers say."""
    item = request.tables.ingredients.get(key)
    if item is None:
        raise Http404
    row = queries.own_ingredient(key)
    form = PapersForm(request.POST or None, instance=row) if row else None
    if request.method == "POST":
        if form is None:
            return HttpResponseNotAllowed(["GET", "HEAD"])
        if form.is_valid():
            form.save()
            messages.success(request, f"What is known of {item.name} is written down.")
            return redirect("pantry:ingredient", key)
    context = {"details": details(item, request.prefs), "form": form, "own": row}
    return render(request, "pantry/ingredient.html", context, status=400 if form and form.errors else 200)


@require_POST
def delete_ingredient(request: Request, key: str) -> HttpResponse:
    """Take an own ingredient away that nothing uses."""
    messages.success(request, f"{services.delete_ingredient(key)} is taken away.")
    return redirect("pantry:ingredients")


def containers(request: Request) -> HttpResponse:
    """Containers, and a form for one's own."""
    form = OwnContainerForm(request.POST or None, prefs=request.prefs)
    if request.method == "POST" and form.is_valid():
        messages.success(request, f"{form.save().name} is among your containers.")
        return redirect("pantry:containers")
    containers_by_key = queries.containers()
    pieces = queries.in_stock(containers_by_key)
    rows = [(vessel, pieces.get(key)) for key, vessel in containers_by_key.items()]
    goes = queries.goes_with()
    context = {
        "form": form,
        "rows": [row for row in rows if not row[0].is_around],
        "around": [
            (
                vessel,
                pieces,
                [(key, queries.name_of(key, request.tables, containers_by_key)) for key in goes.get(vessel.key, ())],
            )
            for vessel, pieces in rows
            if vessel.is_around
        ],
    }
    return render(request, "pantry/containers.html", context, status=400 if form.errors else 200)


@require_POST
def goes_with(request: Request, pk: int) -> HttpResponse:
    """Say which container something goes around, or that it does not any more."""
    around = get_object_or_404(OwnContainer, pk=pk, kind=OwnContainer.Kind.AROUND)
    fields = Fields(request.POST)
    if not_with := fields.text("not_with", 60):
        around.goes_with.filter(container_key=not_with).delete()
    elif (key := fields.text("with", 60)) in queries.containers():
        around.goes_with.get_or_create(container_key=key)
    else:
        raise Problem("Choose a container that it goes around.")
    return redirect("pantry:containers")


@require_POST
def remove(request: Request, pk: int) -> HttpResponse:
    """Take an own container away; batches planned with it keep its name and size."""
    get_object_or_404(OwnContainer, pk=pk).delete()
    return redirect("pantry:containers")


def preparations(request: Request) -> HttpResponse:
    """What is steeping or to be rendered, what came of earlier ones, and a form to begin one."""
    form = PreparationForm(request.POST or None, prefs=request.prefs, tables=request.tables)
    if request.method == "POST" and form.is_valid():
        begun = services.begin_preparation(form.preparation())
        messages.success(request, f"{begun.name} is under way.")
        return redirect("pantry:preparations")
    under_way, done = queries.preparations()
    bases = {row.pk: in_sentence(queries.name_of(row.base_key, request.tables)) for row in under_way}
    context = {"form": form, "under_way": [(row, bases[row.pk]) for row in under_way], "done": done}
    return render(request, "pantry/preparations.html", context, status=400 if form.errors else 200)


def finish(request: Request, pk: int) -> HttpResponse:
    """Strain an infusion or pour off the wax: what came out becomes a lot."""
    found = get_object_or_404(Preparation, pk=pk)
    base = request.tables.ingredients.get(found.base_key)
    form = FinishForm(request.POST or None, prefs=request.prefs, item=base)
    if request.method == "POST" and form.is_valid():
        try:
            lot = services.finish_preparation(
                found, round(form.cleaned_data["yield_g"], 6), form.cleaned_data["day"], request.tables
            )
        except Problem as problem:
            tell(form, problem)
        else:
            messages.success(request, f"{found.name} is in stock as {lot}.")
            return redirect("pantry:preparations")
    context = {"form": form, "preparation": found, "base": queries.name_of(found.base_key, request.tables)}
    return render(request, "pantry/finish.html", context, status=400 if form.errors else 200)
