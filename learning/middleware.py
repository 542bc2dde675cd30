"""What every request knows of what the maker's records teach."""

from collections.abc import Callable

from django.http import HttpResponse

from learning.experience import experience_of
from workshop.web import Request


class ExperienceMiddleware:
    """Hands to each request what the records teach, as ``request.experience``; where the maker goes by their own tests,
    ``request.tables`` are corrected by them."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Look up, then pass on."""
        request.experience = experience_of(request.tables, request.prefs)
        if request.prefs.by_own_tests and request.experience.tables:
            request.tables = request.experience.tables
        return self.get_response(request)
