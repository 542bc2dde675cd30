"""The settings screen."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render

from workshop.forms import PreferencesForm
from workshop.web import Request


def settings(request: Request) -> HttpResponse:
    """All preferences on one page."""
    form = PreferencesForm(request.POST or None, instance=request.prefs)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Settings kept.")
        return redirect("workshop:settings")
    return render(request, "settings.html", {"form": form}, status=400 if form.errors else 200)
