"""The first page, and the pages for what is not there."""

from django.conf import settings
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_safe

from balmcore.errors import Problem
from calmtin.closing import close_soon
from calmtin.finding import find
from calmtin.queries import due_tasks, tick_off, under_way
from calmtin.refusals import NOTHING_HERE, refuse
from exchange.beside import trouble
from workshop.web import Fields, Request, plain_page

FEW_DUE, MOST_DUE = 6, 300  # of each sort on the page of what is due, and where all is asked for


@require_safe
def home(request: Request) -> HttpResponse:
    """What is under way and what to do next."""
    context = {"home": under_way(request.tables, request.prefs), "trouble": trouble}
    return render(request, "home.html", context)


def due(request: Request) -> HttpResponse:
    """Everything that is due, by what it is about and by day; what needs nothing more is ticked off here."""
    if request.method == "POST":
        try:
            messages.success(request, tick_off(Fields(request.POST).text("tick", 40)))
        except Problem as problem:
            messages.error(request, problem.sentence)
        return redirect("due")
    is_all = "all" in request.GET
    tasks, count = due_tasks(request.tables, request.prefs, MOST_DUE if is_all else FEW_DUE)
    sorts = {sort: [task for task in tasks if task.sort == sort] for sort in dict.fromkeys(task.sort for task in tasks)}
    return render(request, "due.html", {"sorts": sorts, "count": count, "more": count - len(tasks), "is_all": is_all})


@require_safe
def find_page(request: Request) -> HttpResponse:
    """What the house holds of some words or a number."""
    words = Fields(request.GET).text("q", 120)
    template = "_found.html" if request.htmx else "found.html"
    return render(request, template, {"q": words.strip(), "groups": find(words, request.tables)})


def close(request: Request) -> HttpResponse:
    """Ask before Calm Tin is closed, and close it: for who has no window to close it with."""
    is_closed = request.method == "POST" and close_soon()
    if request.method == "POST" and not is_closed:
        messages.error(request, "Calm Tin is served by another program here: close it there.")
    return render(request, "close.html", {"is_closed": is_closed, "folder": settings.DATA_DIR})


def not_here(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404: say where to go, and show again what was typed."""
    return refuse(request, NOTHING_HERE, 404)


def too_much(request: HttpRequest, exception: Exception) -> HttpResponse:
    """400: a form of more fields or letters than any of ours has, or an address that is none."""
    sentence = "That was more than any form here holds, or not readable as a form."
    return HttpResponse(f"<!doctype html><title>Calm Tin</title><p>{sentence} Go back, and write less.</p>", status=400)


def went_wrong(request: HttpRequest) -> HttpResponse:
    """500: the page is plain, as nothing else may be working; it shows what was typed."""
    words = (
        "Something in Calm Tin itself went wrong. Go back: what you typed still stands there. The window that it was "
        "started from shows what happened."
    )
    return plain_page(request, words, 500)
