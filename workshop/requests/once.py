"""A form that makes something is taken once, however often its button is pressed."""

import secrets
import time
from collections.abc import Callable
from datetime import timedelta

from django.db import IntegrityError, transaction
from django.http import HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.utils import timezone

from workshop.models import SentForm
from workshop.web import Fields, Request

KEPT = timedelta(days=2)
WAIT_S, STEP_S = 3.0, 0.1


def new_token() -> str:
    """What one drawing of a form carries in its hidden field ``once``."""
    return secrets.token_urlsafe(18)


class OnceMiddleware:
    """Answers the second sending of a form with where the first one led.

    A form that is refused may be sent again; questions of htmx make nothing and pass.
    """

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        """Take a token the first time it comes; wait for its answer the second time."""
        token = Fields(request.POST).text("once", 40) if request.method == "POST" and not request.htmx else ""
        if not token:
            return self.get_response(request)
        try:
            with transaction.atomic():
                SentForm.objects.create(token=token)
        except IntegrityError:
            return self._again(request, token)
        SentForm.objects.filter(at__lt=timezone.now() - KEPT).delete()
        response = self.get_response(request)
        sent = SentForm.objects.filter(token=token)
        if response.status_code == 302:
            sent.update(led_to=response["Location"][:500])
        else:
            sent.delete()
        return response

    def _again(self, request: Request, token: str) -> HttpResponse:
        for _ in range(int(WAIT_S / STEP_S)):
            sent = SentForm.objects.filter(token=token).first()
            if sent is None:
                return self.get_response(request)  # the first was refused
            if sent.led_to:
                return HttpResponseRedirect(sent.led_to)
            time.sleep(STEP_S)
        sentence = "This was sent a moment ago and is still being done: look before you send it again."
        return render(request, "refusal.html", {"sentence": sentence}, status=409)
