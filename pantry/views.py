"""Pages of the pantry: ingredients, and the maker's own containers."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from pantry import queries
from pantry.forms import OwnContainerForm
from pantry.models import OwnContainer
from workshop.services import preferences
from workshop.web import Fields, Request


def shelf(request: Request) -> HttpResponse:
    """Ingredients by role, containers, and a form for one's own."""
    form = OwnContainerForm(request.POST or None, prefs=preferences())
    if request.method == "POST" and form.is_valid():
        messages.success(request, f"{form.save().name} is among your containers.")
        return redirect("pantry:shelf")
    words = Fields(request.GET).text("q")
    template = "pantry/_drawers.html" if request.htmx else "pantry/shelf.html"
    context = {"drawers": queries.drawers(words), "q": words, "form": form, "containers": queries.containers().values()}
    return render(request, template, context, status=400 if form.errors else 200)


@require_POST
def remove(request: Request, pk: int) -> HttpResponse:
    """Take an own container away; batches planned with it keep its name and size."""
    get_object_or_404(OwnContainer, pk=pk).delete()
    return redirect("pantry:shelf")
