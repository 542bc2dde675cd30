"""A demo workshop to time, and who visits its pages."""

import time
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext


class Visitor(Client):
    """A client that takes no answer for a page that is not there."""

    def request(self, **request: Any) -> Any:
        """One request. Raises :class:`AssertionError` where it is refused."""
        answer = super().request(**request)
        assert answer.status_code < 400, (request.get("PATH_INFO"), answer.status_code)
        return answer

    def milliseconds(self, path: str) -> float:
        """How long a page takes, once."""
        start = time.perf_counter()
        self.get(path)
        return (time.perf_counter() - start) * 1e3

    def quickest(self, path: str, times: int = 5) -> float:
        """How long a page takes at its best, in milliseconds."""
        return min(self.milliseconds(path) for _ in range(times))

    def queries(self, path: str) -> int:
        """How many queries a page takes."""
        with CaptureQueriesContext(connection) as captured:
            self.get(path)
        return len(captured)


def open_workshop() -> None:
    """The net loft, in a folder of its own."""
    settings.ALLOWED_HOSTS = ["testserver"]
    call_command("migrate", verbosity=0)
    call_command("collectstatic", interactive=False, verbosity=0)
    call_command("load_demo", verbosity=0)
