"""Who asks: the computer itself needs no leave, a phone has to be paired."""

from collections.abc import Callable

from django.conf import settings
from django.contrib.auth.models import AnonymousUser
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import ResolverMatch, reverse

from devices import services
from devices.models import Device
from workshop.web import Request, notice

LOCAL_HOSTS = ("127.0.0.1", "localhost", "testserver")
OPEN_TO_ALL = ("/door", "/static/")
ELSEWHERE = "This is done at the computer itself, not from a phone. Nothing was changed."
LOCAL_ADDRESSES = ("127.0.0.1", "::1")


class ThisComputer(AnonymousUser):
    """Whoever sits at the computer itself: let in without signing in."""

    @property
    def is_authenticated(self) -> bool:  # type: ignore[override]
        """True: the computer is its maker's."""
        return True


def is_local(request: Request) -> bool:
    """True for a question from this computer to this computer. Both are asked: a name can be said by
    anybody, and an address that is ours can be reached by another name."""
    host = request.get_host().rsplit(":", 1)[0]
    return request.META.get("REMOTE_ADDR") in LOCAL_ADDRESSES and host in LOCAL_HOSTS


class DeviceMiddleware:
    """Says who asks as ``request.user``, and notes that a phone is here."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Pass on, knowing who it is."""
        if is_local(request):
            request.user = ThisComputer()
        elif request.user.is_authenticated:
            device = Device.objects.filter(user=request.user.pk).first()
            if device is None or not device.is_paired:
                request.user = AnonymousUser()
            else:
                services.note_seen(device)
        if not request.user.is_authenticated and not request.path.startswith(OPEN_TO_ALL):
            return _to_the_door(request)
        request.is_on_phone = not isinstance(request.user, ThisComputer)
        return self.get_response(request)

    def process_view(self, request: Request, *view: object) -> HttpResponse | None:
        """Refuse a phone what is for this computer alone, whatever it asks."""
        if not request.is_on_phone or may_reach(request.resolver_match):
            return None
        if request.headers.get("HX-Request"):
            return notice(ELSEWHERE, 403)
        return render(request, "devices/elsewhere.html", {"sentence": ELSEWHERE}, status=403)


def may_reach(match: ResolverMatch | None) -> bool:
    """True for the address of a view that phones may reach: one of an app, or one by its name, that settings list."""
    return match is not None and bool({match.app_name, match.view_name} & settings.PHONES_REACH)


def _to_the_door(request: Request) -> HttpResponse:
    """Whoever is not let in sees the door, whatever was asked for, and nothing else is looked at."""
    door = reverse("devices:door")
    if request.headers.get("HX-Request"):
        return HttpResponse(status=401, headers={"HX-Redirect": door})
    return redirect(door)
