"""One place where a refusal of the core becomes a page: its sentence, and nothing lost."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from balmcore.problems import Problem


class RefusalMiddleware:
    """Turns a :class:`Problem` that no form has placed beside its field into a calm page (400)."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass the request on."""
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """Render the sentence of a :class:`Problem`; leave every other exception alone."""
        if not isinstance(exception, Problem):
            return None
        return render(request, "refusal.html", {"sentence": exception.sentence}, status=400)
