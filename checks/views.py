"""Looking at a pour again: a check, a day to look again, a wear test, a check set aside."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from balmcore.errors import Problem
from checks import services
from checks.forms import CheckForm, FollowUpForm, WearForm, readings_field
from checks.peak import peak
from pours import queries
from pours.models import Check, Pour
from workshop.forms import tell
from workshop.web import Fields, Request


def _pour(pk: int) -> Pour:
    return get_object_or_404(Pour.objects.for_page(), pk=pk)


def check(request: Request, pk: int) -> HttpResponse:
    """Look at a pour and write down what is there; ``?follow_up=N`` is the day it was due on."""
    pour = _pour(pk)
    number = Fields(request.GET).whole("follow_up")
    asked = next((row for row in pour.follow_ups.all() if row.pk == number), None)
    form = CheckForm(request.POST or None, request.FILES or None, pour=pour, tables=request.tables, prefs=request.prefs)
    if request.method == "POST" and form.is_valid():
        try:
            if form.says_something:
                files = form.cleaned_data["photos"]
                services.record_check(pour, request.tables, form.columns, form.test, files, asked)
            if form.cleaned_data["verdict"] != pour.verdict:
                services.judge(pour, form.cleaned_data["verdict"])
        except Problem as problem:
            tell(form, problem)
        else:
            messages.success(request, "Written down beside the others.")
            return redirect(pour)
    context = {
        "form": form,
        "pour": pour,
        "asked": asked,
        "card": queries.card(pour, request.tables),
        "peak": peak(None),
    }
    return render(request, "checks/check.html", context, status=400 if form.errors else 200)


@require_safe
def peak_now(request: Request) -> HttpResponse:
    """What the scale shows and showed at most since a press began."""
    text = Fields(request.GET).text("since", 30)
    try:
        since = float(text) if text else None
    except ValueError:
        since = None
    return render(request, "checks/_peak.html", {"peak": peak(since)})


@require_safe
def take_peak(request: Request) -> HttpResponse:
    """The field of readings with one more, and a new press begun."""
    query = Fields(request.GET)
    field = readings_field(request.prefs)
    grams = query.text("grams", 30)
    try:
        told = field.prepare_value((float(grams),))
    except ValueError:
        told = ""
    text = f"{query.text('readings', 80)} {told}".strip()
    return render(request, "checks/_readings.html", {"text": text, "peak": peak(None), "help": field.help_text})


@require_POST
def exclude_check(request: Request, pk: int) -> HttpResponse:
    """Let a check count no more, or again, with a reason."""
    found = get_object_or_404(Check.objects.select_related("pour"), pk=pk)
    data = Fields(request.POST)
    how = data.text("exclusion", 10)
    try:
        if how not in Check.Exclusion.values:
            raise Problem("Choose whether it was a mistake, or is only to teach nothing.", "exclusion")
        services.exclude_check(found, how, data.text("exclusion_reason", 200).strip(), data.whole("revision") or 0)
    except Problem as problem:
        messages.error(request, problem.sentence)
    else:
        messages.success(request, "It counts again." if not how else "Set aside, with the reason beside it.")
    if data.text("back") == "learned":
        return redirect("learning:learned")
    return redirect(found.pour)


@require_POST
def follow_up(request: Request, pk: int) -> HttpResponse:
    """One more day on which to look at a pour."""
    pour = _pour(pk)
    form = FollowUpForm(request.POST)
    if form.is_valid():
        try:
            services.add_follow_up(pour, form.cleaned_data["due_on"], form.cleaned_data["words"])
        except Problem as problem:
            messages.error(request, problem.sentence)
        else:
            messages.success(request, "The day is kept.")
    else:
        messages.error(request, str(next(iter(form.errors.values()))[0]))
    return redirect(pour)


def wear(request: Request, pk: int) -> HttpResponse:
    """What somebody says of a pour on skin."""
    pour = _pour(pk)
    form = WearForm(request.POST or None, pour=pour, initial={"who": Fields(request.GET).text("who", 60) or "me"})
    if request.method == "POST" and form.is_valid():
        found = services.record_wear(pour, form.cleaned_data)
        if found.reacted:
            messages.warning(request, "A reaction is written down: whoever reacts asks a doctor or a pharmacist.")
        else:
            messages.success(request, "Written down.")
        return redirect(pour)
    context = {"form": form, "pour": pour, "detail": queries.pour_detail(pour, request.tables)}
    return render(request, "checks/wear.html", context, status=400 if form.errors else 200)
