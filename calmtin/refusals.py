"""Where refusals become pages: their sentence, and nothing lost of what was typed."""

from collections.abc import Callable

from django.db import DatabaseError, IntegrityError
from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.middleware.csrf import get_token
from django.shortcuts import render
from django_htmx.http import reswap, retarget, trigger_client_event

from balmcore.errors import Problem
from workshop.web import Request, typed_fields

METHODS = ("GET", "HEAD", "POST")
RACED = "Another tab, or another pair of hands, was there first: look at it again, and do what is still to be done."
GONE = "did not affect any rows"  # as Django says where a row that is saved is not there any more
NOTHING_HERE = "There is nothing at this address. What it was about is no longer there, or never was."
# What SQLite says, and what a maker can do about it; what is not among these is a fault of ours.
TROUBLES = {
    "locked": "Another program holds the workshop's file: wait a moment, and do it again.",
    "full": "The disk is full: make room, and do it again.",
    "readonly": "The workshop's file may not be written to: look at its folder's permissions.",
    "unable to open": "The workshop's file cannot be opened: look at its folder.",
    "malformed": "The workshop's file is damaged: stop here, and put back the newest copy that lies beside it.",
    "disk i/o": "The disk does not answer: look at it, and do it again.",
}


def refuse(request: HttpRequest, sentence: str, status: int) -> HttpResponse:
    """A sentence as a page; for htmx as a notice in its own place, so that the page that asked stays
    as it was typed."""
    if not request.headers.get("HX-Request"):
        context = {"sentence": sentence, "fields": typed_fields(request)}
        return render(request, "refusal.html", context, status=status)
    response = render(request, "_refusal.html", {"sentence": sentence}, status=status)
    return retarget(reswap(response, "innerHTML"), "#refused")


class FragmentMiddleware:
    """Whatever refuses, htmx never gets a whole page to put into a part of one."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Refuse odd methods; turn whole pages that refuse into notices."""
        if request.method not in METHODS:
            return HttpResponseNotAllowed(METHODS)
        response = self.get_response(request)
        asked = request.headers.get("HX-Request")
        if asked and response.status_code >= 400 and b"<!doctype" in response.content[:200].lower():
            return refuse(request, _SENTENCES.get(response.status_code, _SENTENCES[500]), response.status_code)
        return response


_SENTENCES = {
    404: "What this was about is no longer there, perhaps taken away in another tab.",
    500: "Something in Calm Tin itself went wrong. What you typed still stands here: try it a little differently, "
    "or go on elsewhere. The window that it was started from shows what happened.",
}


def stale(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403: a page whose token is not known any more. Its fields are shown, and it can be sent again when
    it was this workshop's own page; htmx is given a fresh token and keeps the page."""
    sentence = "This page had grown old. It is fresh again: what you typed is still here, do it once more."
    if request.headers.get("HX-Request"):
        return trigger_client_event(refuse(request, sentence, 403), "fresh-token", {"token": get_token(request)})
    ours = request.headers.get("Origin") == f"{request.scheme}://{request.get_host()}"
    return render(request, "stale.html", {"fields": typed_fields(request), "ours": ours}, status=403)


class RefusalMiddleware:
    """Turns a :class:`Problem` that no form has placed beside its field into a calm page (400), and
    a race that the database refused into a sentence (409)."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Pass the request on."""
        return self.get_response(request)

    def process_exception(self, request: Request, exception: Exception) -> HttpResponse | None:
        """The sentence of what is expected to be refused; every other exception is left alone."""
        if isinstance(exception, Problem):
            return refuse(request, exception.sentence, 400)
        if isinstance(exception, IntegrityError) or (isinstance(exception, DatabaseError) and GONE in str(exception)):
            return refuse(request, RACED, 409)
        if isinstance(exception, OverflowError):
            return refuse(request, NOTHING_HERE, 404)
        if isinstance(exception, DatabaseError):
            told = str(exception).lower()
            sentence = next((sentence for word, sentence in TROUBLES.items() if word in told), "")
            return refuse(request, sentence, 503) if sentence else None
        return None
