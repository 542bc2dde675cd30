"""The gate: requests go through it side by side, and while the workshop is put back it is shut for all of them."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.http import HttpRequest, HttpResponse

from balmcore.errors import Problem
from workshop.web import notice, plain_page

WAITS_S = 15.0  # a page that only looks waits so long for the gate; one that writes is answered at once
CLEARS_S = 20.0
SENTENCE = "The workshop is just being put back, and takes nothing down for a moment. Nothing was done."


class Gate:
    """How many are inside, and whether it is shut."""

    def __init__(self) -> None:
        self._moved = threading.Condition()
        self._inside: dict[int, int] = {}
        self._keeper: int | None = None

    def enter(self, wait_s: float) -> bool:
        """Go in, if it opens within so many seconds."""
        me, until = threading.get_ident(), time.monotonic() + wait_s
        with self._moved:
            while self._keeper not in (None, me):
                if (left := until - time.monotonic()) <= 0:
                    return False
                self._moved.wait(left)
            self._inside[me] = self._inside.get(me, 0) + 1
            return True

    def leave(self) -> None:
        """Come out."""
        me = threading.get_ident()
        with self._moved:
            self._inside[me] -= 1
            if not self._inside[me]:
                del self._inside[me]
            self._moved.notify_all()

    @contextmanager
    def shut(self) -> Iterator[None]:
        """Alone inside: nobody comes in, and those who were inside have come out. Raises :class:`Problem` where they do
        not, or where another has shut it."""
        me, until = threading.get_ident(), time.monotonic() + CLEARS_S
        with self._moved:
            if self._keeper is not None:
                raise Problem(SENTENCE)
            self._keeper = me
            while set(self._inside) - {me}:
                if (left := until - time.monotonic()) <= 0:
                    self._keeper = None
                    self._moved.notify_all()
                    raise Problem("Something else is being done just now, and does not end: try again in a moment.")
                self._moved.wait(left)
        try:
            yield
        finally:
            with self._moved:
                self._keeper = None
                self._moved.notify_all()


gate = Gate()


class GateMiddleware:
    """Lets requests through the gate; says so, with what was typed, where it is shut."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass through, or answer at the gate."""
        if not gate.enter(WAITS_S if request.method in ("GET", "HEAD") else 0.0):
            return _busy(request)
        try:
            return self.get_response(request)
        finally:
            gate.leave()


def _busy(request: HttpRequest) -> HttpResponse:
    """503, plain, as no database is asked; what was typed stays in its page, or stands below."""
    if request.headers.get("HX-Request"):
        answer = notice(f"{SENTENCE} Do it once more.", 503)
    else:
        again = "Go back: what you typed still stands there. Send it once more."
        answer = plain_page(request, f"{SENTENCE} {again}", 503)
    answer.headers["Retry-After"] = "2"
    return answer
