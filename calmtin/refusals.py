"""One place where a refusal of the core becomes a page: its sentence, and nothing lost."""

from collections.abc import Callable

from django.http import HttpResponse
from django.shortcuts import render
from django_htmx.http import reswap, retarget

from balmcore.errors import Problem
from workshop.web import Request


class RefusalMiddleware:
    """Turns a :class:`Problem` that no form has placed beside its field into a calm page (400)."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Pass the request on."""
        return self.get_response(request)

    def process_exception(self, request: Request, exception: Exception) -> HttpResponse | None:
        """Render the sentence of a :class:`Problem`; leave every other exception alone."""
        if not isinstance(exception, Problem):
            return None
        context = {"sentence": exception.sentence}
        if not request.htmx:
            return render(request, "refusal.html", context, status=400)
        # The page that asked stays as it is; the sentence goes to its own place above it.
        response = render(request, "_refusal.html", context, status=400)
        return retarget(reswap(response, "innerHTML"), "#refused")
