"""What every request knows of the pantry."""

from collections.abc import Callable

from django.http import HttpResponse

from pantry.tables import workshop_tables
from workshop.web import Request


class TablesMiddleware:
    """Reads the workshop's own ingredients and rests once for each request, as ``request.tables``."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Read, then pass on."""
        request.tables = workshop_tables()
        return self.get_response(request)
