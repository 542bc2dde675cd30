"""Pages of the devices: letting phones in, which :mod:`devices.middleware` keeps for this computer alone; and the one
page that others see."""

import segno
from axes.handlers.proxy import AxesProxyHandler
from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_GET, require_POST, require_safe

from balmcore.errors import Problem
from devices import lan_server, services
from devices.models import Device
from workshop.web import Fields, Request

LOCKED = "Too many tries from here: wait a quarter of an hour, then ask for a new link."
NOT_GOOD = "This link is not good any more: it works once, and within five minutes. Ask for a new one."
WRONG = "That is not the passphrase."


def _phones(request: Request, said: dict[str, str] | None = None, link: str = "") -> HttpResponse:
    context = {
        "sharing": services.sharing(),
        "open_at": lan_server.open_at,
        "trouble": lan_server.trouble,
        "own_address": lan_server.own_address(),
        "devices": Device.objects.filter(is_paired=True),
        "has_passphrase": services.has_passphrase(),
        "said": said or {},
        "link": link,
        "qr": mark_safe(segno.make(link, error="m").svg_inline(scale=5, border=3)) if link else "",
        "section": "workshop",
    }
    return render(request, "devices/phones.html", context, status=400 if said else 200)


@require_safe
def phones(request: Request) -> HttpResponse:
    """Who may use the workshop, and where it is open."""
    return _phones(request)


@require_POST
def share(request: Request) -> HttpResponse:
    """Open the workshop to the home network, or shut it."""
    is_on = bool(Fields(request.POST).text("on"))
    services.share(is_on)
    messages.success(request, "Opening the door: a moment." if is_on else "The door is shut: no phone comes in.")
    return redirect("devices:phones")


@require_POST
def link(request: Request) -> HttpResponse:
    """A link for one phone, as an address and to be photographed."""
    if not lan_server.open_at:
        return _phones(request, {"name": "Open the door first."})
    try:
        query = services.new_link(Fields(request.POST).text("name", 60))
    except Problem as problem:
        return _phones(request, {"name": problem.sentence})
    return _phones(request, link=f"http://{lan_server.open_at[0]}/door/pair{query}")


@require_POST
def passphrase(request: Request) -> HttpResponse:
    """Set the passphrase, or take it away."""
    try:
        services.set_passphrase(Fields(request.POST).text("passphrase", 200))
    except Problem as problem:
        return _phones(request, {"passphrase": problem.sentence})
    messages.success(request, "The passphrase is kept." if services.has_passphrase() else "There is no passphrase now.")
    return redirect("devices:phones")


@require_POST
def revoke(request: Request, pk: int) -> HttpResponse:
    """Let a phone in no more."""
    messages.success(request, f"{services.revoke(pk)} is let in no more.")
    return redirect("devices:phones")


@login_not_required
def door(request: Request) -> HttpResponse:
    """The one page that whoever is not paired sees."""
    if request.user.is_authenticated:
        return redirect("home")
    said = ""
    if request.method == "POST":
        data = Fields(request.POST)
        if not AxesProxyHandler.is_allowed(request):
            return _door(request, LOCKED, 429)
        if services.enter(request, data.text("password", 200), data.text("name", 60)):
            return redirect("home")
        said = LOCKED if not AxesProxyHandler.is_allowed(request) else WRONG
    return _door(request, said, 403 if said else 200)


def _door(request: HttpRequest, said: str, status: int) -> HttpResponse:
    return render(
        request, "devices/door.html", {"said": said, "has_passphrase": services.has_passphrase()}, status=status
    )


@login_not_required
@require_GET  # a preview that asks with HEAD would use the link up
def pair(request: Request) -> HttpResponse:
    """A phone follows its link. Guesses at the passphrase do not shut it out: nobody guesses a link."""
    device = services.pair(request)
    if device is None:
        return _door(request, NOT_GOOD, 403)
    messages.success(request, f"{device.name} is let in.")
    return redirect("home")
