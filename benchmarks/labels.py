"""A sheet of labels, pages with 20,000 pieces, and everything taken along."""

import tempfile
import time
import tracemalloc
from collections.abc import Callable
from datetime import date

from benchmarks.pours import Reports, fill

POURS, HANDOUTS, PEOPLE = 2000, 20_000, 500


def labels(report: Reports) -> None:
    """A sheet of 40, the pages of pieces before and after 20,000 were handed out, the export of 2,000 pours."""
    from benchmarks.visitor import Visitor
    from exchange.package import write_export
    from pieces.models import Handout, Person
    from pours.models import Pour

    client = Visitor()
    first = Pour.objects.order_by("pk").first()
    assert first is not None
    sheet = f"/labels/{first.pk}/sheet.pdf?count=40&width=40&height=25&shape=rectangle&side=front&maker=The+net+loft"

    report.line("(o) a sheet of 40 labels", client.quickest(sheet), 300, "ms")

    fill(POURS)
    pages = ("/labels/", "/labels/people", f"/labels/{first.pk}/pieces", "/")
    before = [client.queries(page) for page in pages]
    Person.objects.bulk_create(Person(name=f"Ferry hand {n}") for n in range(PEOPLE))
    people, pours = list(Person.objects.all()), list(Pour.objects.all())
    Handout.objects.bulk_create(
        (
            Handout(pour=pours[n % POURS], how="given", count=1, person=people[n % PEOPLE], on=date.today())
            for n in range(HANDOUTS)
        ),
        batch_size=500,
    )
    more = max(client.queries(page) - was for page, was in zip(pages, before, strict=True))
    report.line("(p) more queries with 20,000 pieces handed out", more, 1, "", f"{len(pages)} pages")
    slowest = max(client.quickest(page, 3) for page in pages)
    report.line("    the slowest of those pages", slowest, 400, "ms")

    def export() -> None:
        with tempfile.TemporaryFile() as target:
            write_export(target)

    start = time.perf_counter()
    export()
    each, count = (time.perf_counter() - start) / Pour.objects.count() * POURS, Pour.objects.count()
    report.line("(q) everything in one ZIP, for each 2,000 pours", each, 5, "s", f"of {count}")
    report.line("    memory for it, at its highest", _highest_mb(export), 40, "MB")


def _highest_mb(work: Callable[[], None]) -> float:
    tracemalloc.start()
    work()
    highest = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return highest / 1024**2
