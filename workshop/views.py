"""The settings screen."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from workshop.forms import PreferencesForm
from workshop.services import preferences


def settings(request: HttpRequest) -> HttpResponse:
    """All preferences on one page."""
    form = PreferencesForm(request.POST or None, instance=preferences())
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Settings kept.")
        return redirect("workshop:settings")
    return render(request, "settings.html", {"form": form}, status=400 if form.errors else 200)
