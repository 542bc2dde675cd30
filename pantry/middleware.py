"""What every request knows of the pantry."""

from collections.abc import Callable

from django.http import HttpResponse

from pantry.hooks import tables_by_tests
from pantry.tables import workshop_tables
from workshop.web import Request


class TablesMiddleware:
    """Reads the workshop's own ingredients and rests once for each request, as ``request.tables``; with what
    the maker's own tests taught put into them, where the maker goes by that."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Read, then pass on."""
        request.tables = workshop_tables()
        for answer in tables_by_tests.ask(request.tables, request.prefs):
            request.tables = answer
        return self.get_response(request)
