"""What every request knows of the workshop."""

from collections.abc import Callable

from django.core.signals import request_finished
from django.dispatch import receiver
from django.http import HttpResponse

from balmcore.display import CELSIUS, speak_in
from workshop.services import preferences
from workshop.web import Request


class PreferencesMiddleware:
    """Reads the maker's preferences once for each request, as ``request.prefs``; sentences are spoken by them until
    its answer was sent to the end."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Read, then pass on."""
        request.prefs = preferences()
        speak_in(request.prefs.show)
        return self.get_response(request)


@receiver(request_finished)
def _plainly_again(**of_the_signal: object) -> None:
    speak_in(CELSIUS)
