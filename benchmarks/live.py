"""The bench's poll: how long one takes, and what an hour of four a second leaves behind."""

import statistics
import time
from io import BytesIO
from pathlib import Path
from typing import Protocol
from urllib.parse import urlencode

HOUR = 4 * 3600


class Reports(Protocol):
    """Where figures go."""

    def line(self, what: str, figure: float, aim: float, unit: str, beside: str = "") -> None:
        """One figure with its aim."""


def live(report: Reports) -> None:
    """A step at the bench with scale and thermometer, polled for an hour's worth."""
    from django.conf import settings
    from django.core.wsgi import get_wsgi_application
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    from batches.models import Batch
    from bench.models import BenchRun, Event
    from benchmarks.visitor import Visitor
    from instruments.readings import Reading, now, write

    client = Visitor()
    batch = Batch.objects.unpoured().filter(finishes__isnull=False).first()
    assert batch is not None
    path = f"/bench/{batch.pk}/"
    client.get("/")  # the first page of a process pays for all that is read once
    report.line("(j) the bench's page, step by step", client.milliseconds(path), 400, "ms", "cold")
    client.post(f"{path}do", {"step": "prepare", "after": 0, "do": "done"})
    shown = client.get(path).content.decode()
    query = {name: shown.split(f'data-{name}="')[1].split('"')[0] for name in ("stamp", "step")}

    def readings() -> None:
        at = now()
        seen = tuple((at - 240 + n, 20.0 + n / 10) for n in range(240))
        scale = Reading(7.4, "U +7.4 g", at, seen=seen)
        write(settings.DATA_DIR, {"scale": scale, "thermometer": Reading(44.0, "T 44.0 C", at, seen=seen)})

    readings()
    with CaptureQueriesContext(connection) as captured:
        assert client.get(f"{path}live", query).json()["scale"]["words"]
    queries = len(captured)
    rows = Event.objects.count(), BenchRun.objects.count()
    # As the server itself answers: the tests' client leaves a receiver behind with every request.
    application = get_wsgi_application()
    environ = client._base_environ(  # type: ignore[attr-defined]
        PATH_INFO=f"{path}live", QUERY_STRING=urlencode(query)
    )

    def once() -> None:
        answer = application({**environ, "wsgi.input": BytesIO()}, lambda *head: len)
        assert b"words" in b"".join(answer)
        close = getattr(answer, "close", None)
        if close is not None:
            close()

    for _ in range(500):
        readings()
        once()
    before, taken = _resident(), []
    for n in range(HOUR):
        if n % 8 == 0:
            readings()
        start = time.perf_counter()
        once()
        taken.append(time.perf_counter() - start)
    grown = _resident() - before
    report.line("(k) one live poll", statistics.median(taken) * 1e3, 10, "ms", f"{queries} queries")
    report.line("    memory after an hour at 4 a second", grown / 1024**2, 8, "MiB")
    more = Event.objects.count() + BenchRun.objects.count() - sum(rows)
    report.line("    more rows after that hour", more, 0, "")


def _resident() -> int:
    """Bytes of this process in memory."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * 4096
