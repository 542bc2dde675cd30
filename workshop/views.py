"""The settings screen, and the kinds with their windows."""

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from workshop import kinds as own_kinds
from workshop.forms import PreferencesForm
from workshop.forms.days import month_of
from workshop.hooks import settings_pages
from workshop.kinds import KindForm
from workshop.web import Fields, Request


def settings(request: Request) -> HttpResponse:
    """All preferences on one page."""
    form = PreferencesForm(request.POST or None, instance=request.prefs)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Settings kept.")
        return redirect("workshop:settings")
    context = {"form": form, "pages": [] if request.is_on_phone else settings_pages.ask()}
    return render(request, "settings.html", context, status=400 if form.errors else 200)


@require_safe
def month(request: Request) -> HttpResponse:
    """A month to choose a day from, for the field of a name."""
    data = Fields(request.GET)
    name = data.text("name", 60)
    typed = data.text(name, 60)
    found = month_of(typed, data.text("month", 10), request.prefs.week_begins)
    turns = (("The month before", found.before), ("The month after", found.after))
    return render(request, "month.html", {"month": found, "name": name, "typed": typed, "turns": turns})


def kinds(request: Request) -> HttpResponse:
    """Every kind with its window, and a form to make one of one's own."""
    form = KindForm(request.POST or None, prefs=request.prefs)
    if request.method == "POST" and form.is_valid():
        made = own_kinds.make_kind(form.cleaned_data["name"], form.cleaned_data["like"], form.window)
        messages.success(request, f"{made.name} is among your kinds.")
        return redirect("workshop:kinds")
    context = {"rows": own_kinds.kind_rows(request.tables), "form": form, "ticks": own_kinds.TICKS}
    return render(request, "kinds.html", context, status=400 if form.errors else 200)


def kind(request: Request, key: str) -> HttpResponse:
    """One kind's window, to move."""
    found = request.tables.kinds.get(key)
    if found is None:
        raise Http404
    form = KindForm(request.POST or None, prefs=request.prefs, kind=found)
    if request.method == "POST" and form.is_valid():
        own_kinds.move_window(key, form.window)
        messages.success(request, f"{found.name} has the window {form.window_text} from now on.")
        return redirect("workshop:kinds")
    return render(request, "kind.html", {"kind": found, "form": form}, status=400 if form.errors else 200)


@require_POST
def take_back_kind(request: Request, key: str) -> HttpResponse:
    """A shipped kind as it was shipped, or an own one gone."""
    messages.success(request, own_kinds.take_back(key, request.tables))
    return redirect("workshop:kinds")
