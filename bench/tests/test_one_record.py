"""One record of a making: a weight is one event, wherever it is written down, and one figure on every page."""

import re
from collections.abc import Callable
from decimal import Decimal as D
from itertools import count
from typing import Any

from django.db import connection
from django.test import TestCase

from batches.models import Batch, BatchLine
from bench.models import Event
from bench.tests.test_bench import BenchTestCase
from bench.weights.recording import record_weights, run_of, weight_after
from tests.support.net_loft import load
from tests.support.pages import form_data


def recorded() -> dict[tuple[int, str], D | None]:
    """What every line weighs by the events that stand, by batch and slot."""
    found: dict[tuple[int, str], D | None] = {}
    kinds = (Event.Kind.WEIGHED, Event.Kind.ADDED, Event.Kind.CORRECTED)
    for event in Event.objects.standing().filter(kind__in=kinds).select_related("run"):
        at = event.run.batch_id, event.slot
        found[at] = weight_after(event, found.get(at))
    return {at: grams for at, grams in found.items() if grams is not None}


def weighed() -> dict[tuple[int, str], D]:
    """What every line weighs as it stands with its batch."""
    lines = BatchLine.objects.filter(actual_g__isnull=False)
    return {(line.batch_id, line.slot): line.actual_g for line in lines if line.actual_g is not None}


class OneRecordTests(BenchTestCase):
    def sheet(self, **changes: str) -> None:
        address = f"{self.path}weigh"
        data = form_data(self.client.get(address), "weigh", **{f"actual-{key}": text for key, text in changes.items()})
        self.page = self.client.post(address, data)
        self.assertEqual(self.page.status_code, 200)

    def test_steps_and_weigh_sheet_write_one_record(self) -> None:
        """Weighed at a step, put right and gone on with on the sheet, cleared, taken back: every figure is the same,
        the step that it closes is closed, and an old page of the bench is told."""
        self.do("done")
        self.do("weigh", grams="17.1")
        old = self.page.context["bench"].run.revision
        self.sheet(beeswax_yellow="17.5", olive_oil="60")
        self.assertEqual(recorded(), weighed())
        self.assertEqual(weighed(), {(self.batch.pk, "beeswax_yellow"): D("17.5"), (self.batch.pk, "olive_oil"): D(60)})
        self.page = self.client.get(self.path)
        self.assertNotIn(self.step, ("weigh:beeswax_yellow", "weigh:olive_oil"))
        self.assertContains(self.page, "17.5 g")
        stale = {"step": "weigh:beeswax_yellow", "after": old, "do": "weigh", "grams": "3"}
        self.assertEqual(self.client.post(f"{self.path}do", stale).status_code, 409)
        self.sheet(beeswax_yellow="")
        self.page = self.client.get(self.path)
        self.assertEqual(self.step, "weigh:beeswax_yellow")
        self.assertEqual(recorded(), weighed())
        self.do("undo")
        self.assertEqual(self.grams("beeswax_yellow"), D("17.5"))
        self.assertEqual(recorded(), weighed())

    def test_a_page_read_while_another_device_writes_is_never_new_by_name_and_old_within(self) -> None:
        """Wherever between its queries the other one writes: its stamp is an old one, which is asked about at the next
        poll, or all of it is new."""
        self.do("done")
        for path, stamp in ((self.path, "data-stamp"), (f"{self.path}weigh", 'name="revision" value')):
            for place in count(1):
                left = place

                def write(execute: Callable[..., Any], *told: Any, grams: D = D(10 + place)) -> Any:
                    nonlocal left
                    left -= 1
                    if left == 0:
                        batch = Batch.objects.for_page().get(pk=self.batch.pk)
                        record_weights(batch, {"beeswax_yellow": grams}, run_of(batch).revision)
                    return execute(*told)

                with connection.execute_wrapper(write):
                    page = self.told(path, stamp)
                by_now = self.told(path, stamp)
                if left > 0:
                    break
                self.assertTrue(page[0] != by_now[0] or page == by_now, f"{path}: torn at query {place}")
            self.assertEqual(page, by_now)

    def told(self, path: str, stamp: str) -> tuple[str, str]:
        """The stamp of a page, and all that it says."""
        page = self.client.get(path).content.decode()
        found = re.search(rf'{stamp}="([^"]+)"', page)
        assert found is not None
        return found.group(1), re.sub(r"\b\w{64}\b", "", page)  # but for its tokens

    def test_the_record_says_where_a_weight_was_written_and_what_it_was(self) -> None:
        """Beside the pour, in order: at the bench, on the weigh sheet, put right."""
        self.do("done")
        self.do("weigh", grams="17.1")
        self.weigh_all()
        self.sheet(beeswax_yellow="17.5")
        self.page = self.client.get(self.path)
        for _ in ("melt", "clear", "test", "cool", "add"):
            self.do("done")
        self.do("fill", **{f"count-{row.container.pk}": row.count for row in self.page.context["rows"]})
        self.do("log")
        self.page = self.client.get(self.batch.pours.get().get_absolute_url())
        made = [(entry.title, entry.what, entry.beside) for entry in self.page.context["made"]]
        self.assertIn(("Beeswax, yellow", "17.1 g weighed", ""), made)
        self.assertIn(("Beeswax, yellow", "17.5 g, was 17.1 g", "on the weigh sheet"), made)
        self.assertEqual(recorded(), weighed())
        self.page = self.client.get(self.path)
        self.do("undo", 400)
        self.assertContains(self.page, "The pours are in the log", status_code=400)

    def test_more_pieces_than_the_pot_could_fill_are_asked_about(self) -> None:
        self.weigh_all()
        for _ in ("melt", "clear", "test", "cool", "add"):
            self.do("done")
        pk = self.page.context["rows"][0].container.pk
        self.do("fill", 400, **{f"count-{pk}": "40"})
        self.assertContains(self.page, "40 pieces hold at least", status_code=400)
        self.do("fill", 400, **{f"count-{pk}": "4", f"weights-{pk}": "25 25 25 25", "stayed": "20"})
        self.assertContains(self.page, "20 g stayed in the jug, 120 g together;", status_code=400)


class LoftRecordTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    def test_every_weight_of_the_loft_is_in_its_record(self) -> None:
        self.assertGreater(len(weighed()), 50)
        self.assertEqual(recorded(), weighed())
        self.assertEqual(Batch.objects.poured().filter(runs=None).count(), 0)
