"""What every request knows of the workshop."""

from collections.abc import Callable

from django.http import HttpResponse

from balmcore.display import speak_in
from workshop.services import preferences
from workshop.web import Request


class PreferencesMiddleware:
    """Reads the maker's preferences once for each request, as ``request.prefs``."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Read, then pass on."""
        request.prefs = preferences()
        speak_in(request.prefs.show)
        return self.get_response(request)
