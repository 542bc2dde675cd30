"""Letting phones in and out: a link that is good once and soon, a passphrase, and names."""

import secrets
from datetime import timedelta

from django.contrib.auth import authenticate, get_user_model, login
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone
from sesame.backends import ModelBackend
from sesame.settings import TOKEN_NAME
from sesame.utils import get_query_string

from balmcore.errors import Problem
from devices.models import Device, Sharing

MAKER = "maker"  # whose passphrase it is
LINK_MINUTES = 5
SHORTEST = 10
SEEN_EVERY = timedelta(minutes=1)


def sharing() -> Sharing:
    """Whether the workshop is open to the home network."""
    return Sharing.objects.filter(pk=1).first() or Sharing(pk=1)


def share(is_on: bool) -> None:
    """Open the workshop to the home network, or shut it."""
    Sharing.objects.update_or_create(pk=1, defaults={"is_on": is_on})


@transaction.atomic
def new_link(name: str) -> str:
    """The query of a link by which one phone is paired, once, within minutes. Raises :class:`Problem`."""
    if not name.strip():
        raise Problem("Give the phone a name you will know it by.", "name")
    Device.objects.filter(is_paired=False, made__lt=timezone.now() - timedelta(minutes=LINK_MINUTES)).delete()
    get_user_model().objects.filter(username__startswith="phone-", device=None).delete()
    user = User.objects.create_user(f"phone-{secrets.token_hex(8)}")
    Device.objects.create(user=user, name=name.strip()[:60])
    return str(get_query_string(user))


def pair(request: HttpRequest) -> Device | None:
    """Sign the phone in that followed a link; None for a link that is not good (any more)."""
    # The backend itself is asked: those who guess at the passphrase from the same place shut out no good link.
    token = request.GET.get(TOKEN_NAME, "")
    user = ModelBackend().authenticate(request, sesame=token, max_age=timedelta(minutes=LINK_MINUTES))
    # The update decides which of two that come at once is let in.
    waiting = Device.objects.filter(user=user, is_paired=False) if user is not None else Device.objects.none()
    if not waiting.update(is_paired=True, last_seen=timezone.now()):
        return None
    device = Device.objects.get(user=user)
    login(request, device.user, backend="django.contrib.auth.backends.ModelBackend")
    return device


def enter(request: HttpRequest, passphrase: str, name: str) -> Device | None:
    """Sign a phone in by the passphrase; None when it is not the one."""
    maker = authenticate(request, username=MAKER, password=passphrase)
    if maker is None:
        return None
    user = User.objects.create_user(f"phone-{secrets.token_hex(8)}")
    device = Device.objects.create(user=user, name=name.strip()[:60] or "A phone, by passphrase")
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    _here(device)
    return device


def _here(device: Device) -> None:
    device.is_paired, device.last_seen = True, timezone.now()
    device.save(update_fields=("is_paired", "last_seen"))


def note_seen(device: Device) -> None:
    """Note that a phone is here, not more than once a minute."""
    now = timezone.now()
    if device.last_seen is None or now - device.last_seen > SEEN_EVERY:
        Device.objects.filter(pk=device.pk).update(last_seen=now)


def set_passphrase(passphrase: str) -> None:
    """The other way in. Raises :class:`Problem` for one that is too short; none at all shuts that way."""
    maker, _ = User.objects.get_or_create(username=MAKER)
    if not passphrase:
        maker.set_unusable_password()
    elif len(passphrase) < SHORTEST:
        raise Problem(f"At least {SHORTEST} letters: three words are better than one.", "passphrase")
    else:
        maker.set_password(passphrase)
    maker.save()


def has_passphrase() -> bool:
    """True when there is one."""
    maker = User.objects.filter(username=MAKER).first()
    return maker is not None and maker.has_usable_password()


def revoke(pk: int) -> str:
    """Let a phone in no more, at once; returns its name. Raises :class:`Problem`."""
    device = Device.objects.filter(pk=pk).select_related("user").first()
    if device is None:
        raise Problem("That phone is gone already.")
    name, user = device.name, device.user
    user.delete()
    Session.objects.filter(expire_date__lt=timezone.now()).delete()
    return name
