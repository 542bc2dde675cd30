"""The first page, and the pages for what is not there."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from calmtin.finding import find
from calmtin.queries import under_way
from calmtin.refusals import NOTHING_HERE, refuse
from exchange.beside import trouble
from workshop.web import Fields, Request, plain_page


@require_safe
def home(request: Request) -> HttpResponse:
    """What is under way and what to do next."""
    context = {"home": under_way(request.tables, request.prefs), "trouble": trouble}
    return render(request, "home.html", context)


@require_safe
def find_page(request: Request) -> HttpResponse:
    """What the house holds of some words or a number."""
    words = Fields(request.GET).text("q", 120)
    template = "_found.html" if request.htmx else "found.html"
    return render(request, template, {"q": words.strip(), "groups": find(words, request.tables)})


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
