"""A plan on the clock: times, what collides, water driven off, many at once."""

import threading
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal as D
from unittest.mock import patch
from zoneinfo import ZoneInfo

from django.db import connection
from django.db.models import F
from django.http import HttpResponse
from django.test import Client, TestCase, TransactionTestCase
from django.utils import timezone
from icalendar import Calendar

from balmcore.composition import Composition
from balmcore.making.schedule import HANDS, Placed
from batches.batch_plan import setup_of
from batches.clock.scheduling import minute_of
from batches.models import Batch, Draw
from batches.tests.test_plan import PlanCase, salve
from pantry.models import Entry, Preparation
from pantry.services import Purchase, begin_preparation, receive
from pantry.tables import workshop_tables
from tests.support.makings import begin
from tests.support.morning import MorningCase
from tests.support.pages import form_data
from workshop.models import Preferences

SALVE = {"beeswax_yellow": "0.2", "olive_oil": "0.79", "lavender": "0.01"}


class ClockTests(MorningCase, PlanCase):
    morning = datetime(2026, 10, 20, 8, 0, 40, tzinfo=UTC)

    def test_the_minute_that_runs_has_not_passed(self) -> None:
        """At forty seconds past eight one may begin at eight, and not a minute before."""
        self.assertContains(self.post(when="start", moment="2026-10-20T08:00"), "Start Tuesday 20 October, 08:00")
        self.assertContains(self.post(when="start", moment="2026-10-20T07:59"), "07:59 has passed")

    def test_what_is_prepared_takes_a_day_in_the_calendar(self) -> None:
        """To strain on the twenty-seventh, shaken every second day from the twenty-second."""
        begin_preparation(
            Preparation(kind="infusion", name="Calendula", base_key="olive_oil", raw_g=D(40), base_g=D(300),
                        started_on=date(2026, 10, 20), ready_on=date(2026, 10, 27), shake_every_days=2)
        )  # fmt: skip
        strain, shake = Calendar.from_ical(self.client.get("/batches/calendar.ics").content).walk("VEVENT")
        told = [(each.decoded("dtstart"), each.decoded("dtend")) for each in (strain, shake)]
        days = [(date(2026, 10, n), date(2026, 10, n + 1)) for n in (27, 22)]
        self.assertEqual((str(strain["summary"]), told, shake["rrule"]["INTERVAL"]), ("Strain Calendula", days, [2]))

    def test_ready_by_counts_backwards_and_a_second_batch_makes_room(self) -> None:
        """Ready by noon starts in the morning; the next one moves, as hands and stove are taken."""
        page = self.post(when="ready", moment="2026-10-24T12:00", fill="50 g")
        clock = page.context["planning"].clock
        self.assertLessEqual(clock.ready, datetime(2026, 10, 24, 12, 0, tzinfo=timezone.get_current_timezone()))
        self.assertContains(page, "Start Saturday 24 October,")
        first = self.planned(when="ready", moment="2026-10-24T12:00", fill="50 g")
        page = self.post(when="ready", moment="2026-10-24T12:00", fill="50 g")
        self.assertContains(page, f"Moved, as batch {first.pk} has")
        second = self.planned(when="ready", moment="2026-10-24T12:00", fill="50 g")
        self.assertLess(second.ready_at, first.ready_at)
        page = self.client.get("/batches/")
        self.assertEqual([entry.batch.pk for entry in page.context["agenda"].open], [second.pk, first.pk])

    def test_a_batch_has_its_time_moved_by_half_an_hour(self) -> None:
        """Start, end and what it keeps busy move together; nothing of the time before stays taken."""
        batch = self.planned(when="start", moment="2026-10-24T10:00", fill="50 g")
        before = (batch.starts_at, batch.ready_at, batch.occupies)
        data = form_data(self.client.get(f"/batches/{batch.pk}/method"), "when", moment="2026-10-24T10:30")
        self.assertRedirects(self.client.post(f"/batches/{batch.pk}/method", data), f"/batches/{batch.pk}/method")
        batch.refresh_from_db()
        half = timedelta(minutes=30)
        self.assertEqual(batch.starts_at, before[0] + half)
        self.assertAlmostEqual(batch.ready_at, before[1] + half, delta=timedelta(seconds=1))
        for now, then in zip(batch.occupies, before[2], strict=True):
            self.assertEqual(now[0], then[0])
            self.assertAlmostEqual(now[1], then[1], delta=0.02)
            self.assertAlmostEqual(now[2], then[2], delta=0.02)
        self.assertContains(self.client.get(f"/batches/{batch.pk}/method"), "Start Saturday 24 October, 10:30, ready")

    def test_a_time_taken_in_another_tab_meanwhile_is_told_and_nothing_is_lost(self) -> None:
        """Between the answer and the save the hands were taken: a sentence, the fields as typed, no batch."""
        typed = {"when": "start", "moment": "2026-10-24T10:00", "fill": "50 g"}
        first = self.planned(**typed)
        with patch("batches.clock.scheduling.start_at", return_value=Placed(minute_of(first.starts_at), "")):
            page = self.post(400, save="1", **typed)
        said = f"Batch {first.pk} has your hands at that time: ask once more."
        self.assertContains(page, said, status_code=400)
        self.assertEqual(form_data(page, "plan")["moment"], ["2026-10-24T10:00"])
        self.assertEqual(Batch.objects.count(), 1)

    def test_times_that_cannot_be_say_why_and_nothing_is_lost(self) -> None:
        """Passed, five minutes away, nonsense, two years off, and the hour that a spring night leaves out."""
        with timezone.override(ZoneInfo("Europe/Dublin")):
            for when, moment, said in (
                ("start", "2026-10-19T09:00", "Monday 19 October, 09:00 has passed: choose a time from now on."),
                ("ready", "2026-10-20T09:05", "to be ready by then you would have had to begin"),
                ("start", "soon", "Write day and time like "),
                ("start", "24/10/2026 24:00", "Write day and time like "),
                ("start", "24/10/2026 12:60", "Write day and time like "),
                ("start", "24/13/2026 12:00", "is no day: write it like"),
                ("start", "12:00", "Write day and time like "),
                ("start", "2036-11-28T12:00", "That is more than two years away: check the year."),
                (
                    "start",
                    "2027-03-28T01:30",
                    "There is no 01:30 in that night: the clocks go forward. Choose 00:30 or",
                ),
            ):
                with self.subTest(moment):
                    page = self.post(400, save="1", when=when, moment=moment)
                    self.assertContains(page, said, status_code=400)
                    self.assertEqual(form_data(page, "plan")["moment"], [moment])
                    self.assertEqual(form_data(page, "plan")["count"], ["6"])
            self.assertContains(
                self.post(when="start", moment="24 Oct 2026 23:55"), "Start Saturday 24 October, 23:55, ready"
            )
            dawn = self.post(when="start", moment="24/10/2026 05:55")
            self.assertContains(dawn, "It begins in the night, at 05:55.")
            self.assertNotContains(self.post(when="start", moment="24/10/2026 06:00"), "It begins in the night")
            page = self.post(moment="2026-10-25T01:30")
            self.assertContains(page, "Say whether to start at that time, or to be ready by it.")
            page = self.post(when="start", moment="2026-10-25T01:30")
            self.assertContains(page, "It begins in the night, at 01:30.")
            self.assertContains(page, "The clocks go back that night and 01:30 comes twice: the first is meant.")
        self.assertEqual(Batch.objects.count(), 0)

    def test_a_batch_is_moved_and_its_calendar_holds_steps_and_checks(self) -> None:
        """From no time to Saturday at ten by the freezer; a day, three, two weeks, three months after."""
        batch = self.planned(fill="50 g")
        path = f"/batches/{batch.pk}/method"
        page = self.client.get(path)
        self.assertContains(page, "of it at your hands")
        self.assertContains(page, "Ways of cooling")
        typed = {"when": "start", "moment": "2026-10-24T10:00", "cooling": "freezer"}
        self.client.post(path, form_data(page, "when", **typed))
        batch.refresh_from_db()
        self.assertEqual((timezone.localtime(batch.starts_at).hour, batch.cooling), (10, "freezer"))
        self.assertContains(self.client.get(path), "Cooling: freezer")
        bad = self.client.post(path, form_data(page, "when", **{**typed, "moment": "2020-01-01T10:00"}))
        self.assertContains(bad, "has passed: choose a time from now on.", status_code=400)
        refused = self.client.post(path, form_data(page, "when", **{**typed, "cooling": "cold_whip"}))
        self.assertContains(refused, "Beeswax, yellow has to be melted", status_code=400)
        response = self.client.get(f"/batches/{batch.pk}/calendar.ics")
        self.assertEqual(response["Content-Type"], "text/calendar; charset=utf-8")
        events = Calendar.from_ical(response.content).walk("VEVENT")
        self.assertEqual(events[0].decoded("dtstart"), batch.starts_at)
        self.assertIn("Water bath at 92 °C, low heat", str(events[0]["description"]))
        day = timezone.localdate(batch.ready_at)
        self.assertEqual([(e.decoded("dtstart") - day).days for e in events[1:]], [1, 3, 14, 91])
        self.assertEqual([(e.decoded("dtend") - e.decoded("dtstart")).days for e in events[1:]], [1] * 4)
        self.assertEqual(events[0].decoded("dtend"), batch.ready_at.replace(microsecond=0))
        self.assertEqual(len(Calendar.from_ical(self.client.get("/batches/calendar.ics").content).walk("VEVENT")), 5)


class DayTests(MorningCase, PlanCase):
    morning = datetime(2026, 10, 20, 8, 0, 0, tzinfo=UTC)

    def setUp(self) -> None:
        super().setUp()
        self.batches = [self.planned(fill="50 g") for _ in range(4)]

    def day(self, page: HttpResponse | None = None, status: int = 200, **changes: str | list[str]) -> HttpResponse:
        page = page or self.client.get("/batches/day", {"on": "2026-10-24"})
        response = self.client.post("/batches/day", form_data(page, "day", **changes))
        self.assertEqual(response.status_code, status)
        return response

    def places(self) -> list[tuple[datetime, float, bool]]:
        """Start, length and a bench made ready, of each batch in the order of their starts."""
        rows = Batch.objects.exclude(starts_at=None).order_by("starts_at", "pk")
        return [(row.starts_at, row.length_min, row.is_made_ready) for row in rows]

    def test_a_place_that_no_longer_agrees_is_said_on_method_and_sheet(self) -> None:
        """An hour longer than what is in the pot asks for: both say it; put there once more, neither does."""
        path = f"/batches/{self.batches[0].pk}/"
        data = form_data(self.client.get(f"{path}method"), "when", when="start", moment="24/10/2026 09:00")
        self.assertEqual(self.client.post(f"{path}method", data).status_code, 302)
        told = "The day keeps its place until"
        for page in (path, f"{path}method"):
            self.assertNotContains(self.client.get(page), told)
        Batch.objects.filter(pk=self.batches[0].pk).update(length_min=F("length_min") + 60)
        for page in (path, f"{path}method"):
            self.assertContains(self.client.get(page), told)

    def assert_room(self, room: dict[str, int]) -> None:
        """At no minute more is in use than there is."""
        every = [use.moved(minute_of(b.starts_at)) for b in Batch.objects.on_clock() for use in b.uses]
        for use in every:
            at_once = [
                o for o in every if o.what == use.what and o.start <= use.start + 0.02 and o.end > use.start + 0.02
            ]
            self.assertLessEqual(len(at_once), room.get(use.what, 1), use)

    def test_four_batches_are_laid_out_looked_at_and_kept(self) -> None:
        """Proposed, drawn and kept as shown; with two rings and cooks the day is shorter, and the bench is made ready once."""
        shown = self.day(lay="1", at="9:30")
        self.assertContains(shown, "As it would be")
        self.assertEqual(self.places(), [])
        self.day(shown, 302, keep="1")
        one_ring = self.places()
        self.assertEqual([ready for *_, ready in one_ring], [False, True, True, True])
        self.assertEqual(one_ring[0][0], datetime(2026, 10, 24, 9, 30, tzinfo=timezone.get_current_timezone()))
        self.assertAlmostEqual(one_ring[0][1] - one_ring[1][1], 10, places=3)
        self.assert_room({})
        Preferences.objects.update_or_create(pk=1, defaults={"rings": 2, "cooks": 2})
        again = self.client.get("/batches/day", {"on": "2026-10-24"})
        self.assertContains(again, "2 rings")
        self.day(self.day(again, lay="1", at="9:30"), 302, keep="1")
        ends = [
            max(start + timedelta(minutes=length) for start, length, _ in rows) for rows in (one_ring, self.places())
        ]
        self.assertLess(ends[1], ends[0])
        self.assert_room({"stove": 2, HANDS: 2})
        self.assertContains(
            self.client.get(f"/batches/{self.batches[1].pk}/method"), "The bench is ready from the batch"
        )

    def test_what_was_not_shown_is_not_kept_and_bad_words_are_told(self) -> None:
        """Another hour after looking, an hour that is none or has passed, no batch chosen, a batch that is begun."""
        shown = self.day(lay="1")
        other = self.day(shown, 400, keep="1", at="10:00")
        self.assertContains(other, "These are other times than those that were shown", status_code=400)
        self.assertContains(self.day(shown, 400, lay="1", at="noon"), "Write day and time like", status_code=400)
        self.assertContains(self.day(shown, 400, lay="1", on="31.2.2026"), "is no day", status_code=400)
        self.assertContains(self.day(shown, 400, lay="1", on="2026-10-19"), "has passed", status_code=400)
        self.assertContains(self.day(shown, 400, lay="1", batch=[]), "Choose at least one batch.", status_code=400)
        Batch.objects.filter(pk=self.batches[0].pk).update(state="weighing")
        self.assertContains(self.day(shown, 400, lay="1"), "is begun: its time stays", status_code=400)
        self.assertEqual(self.places(), [])

    def test_moving_one_carries_the_others_and_the_first_makes_the_bench_ready(self) -> None:
        """An hour later with all after it; called off, the next has its quarter of an hour; another day's batch in the
        way is named."""
        self.day(self.day(lay="1"), 302, keep="1")
        before = self.places()
        first, *others = Batch.objects.on_clock().order_by("starts_at")
        path = f"/batches/{first.pk}/method"
        page = self.client.get(path)
        self.assertContains(page, f"batch {others[0].pk}, batch {others[1].pk}, batch {others[2].pk}")
        self.client.post(path, form_data(page, "when", moment="2026-10-24T10:00", carry="1"))
        self.assertEqual(self.places(), [(start + timedelta(hours=1), *rest) for start, *rest in before])
        alone = self.client.post(path, form_data(page, "when", moment="2026-10-24T10:30", when="start"))
        self.assertEqual(alone.status_code, 302)
        self.assert_room({})
        self.day(self.day(lay="1"), 302, keep="1")
        first, second, *_ = Batch.objects.on_clock().order_by("starts_at")
        self.assertTrue(second.is_made_ready)
        page = self.client.post(f"/bench/{first.pk}/call-off", follow=True)
        self.assertContains(page, f"Batch {second.pk} is now the first of that day: it begins at")
        now = Batch.objects.get(pk=second.pk)
        self.assertEqual((now.is_made_ready, now.starts_at), (False, second.starts_at - timedelta(minutes=10)))
        self.assertEqual(now.ready_at, second.ready_at)


class WaterTests(TestCase):
    def test_what_boils_away_is_weighed_in_and_gone_from_the_batch_afterwards(self) -> None:
        """Of a tenth of tincture 97 % leave: 200 g of melt take 221 g; plan, sheet, bench, method say so, and
        the pot's composition counts what is left."""
        wet = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.7"), "tincture": D("0.1")})
        version = begin("Fogbank", "pot_salve", wet).versions.get()
        page = self.client.get("/batches/plan", {"version": version.pk})
        why = {"override_reason": "driven off before the wax, every time"}
        typed = {"container": "tin_screw_60", "count": "4", "loss": "3", **why}
        lot = receive(Purchase("tincture", D(20)))
        fitted = self.client.post("/batches/plan", form_data(page, "plan", **typed, use_up=str(lot.pk), chosen_lot="1"))
        # 20 g are for 200 g weighed in, of which 9.7 % boil away: three tins, and what fills no fourth is the loss.
        filled = fitted.context["planning"].scaled.product_g
        self.assertEqual(form_data(fitted, "plan")["count"], ["3"])
        self.assertEqual(form_data(fitted, "plan")["loss"], [f"{200 * 0.903 - filled:.1f} g"])
        shown = self.client.post("/batches/plan", form_data(page, "plan", **typed))
        self.assertContains(shown, "boil away before the wax goes in: so much more is weighed in")
        self.client.post("/batches/plan", form_data(page, "plan", **typed, save="1"))
        batch = Batch.objects.get()
        total = sum(line.target_g for line in batch.lines.all())
        tincture = batch.lines.get(ingredient_key="tincture").target_g
        product = sum(piece.net_g * piece.count for piece in setup_of(batch, workshop_tables()).pieces)
        self.assertAlmostEqual(float(total - D("0.97") * tincture), product + 3, delta=0.1)
        left = batch.to_composition(workshop_tables())
        self.assertAlmostEqual(float(left.share_of("tincture") / left.total), 0.003 / 0.903, places=4)
        gone = f"{D('0.97') * tincture:.1f} g"
        self.assertContains(shown, f"{gone} boil away before the wax goes in")
        self.assertContains(self.client.get(batch.get_absolute_url()), f"{gone} boil away")
        self.assertContains(self.client.get(f"/bench/{batch.pk}/weigh"), f"{gone} of it boil away before the wax")
        method = self.client.get(f"/batches/{batch.pk}/method")
        self.assertContains(method, f"Weigh the pot again: it should be {gone} lighter.")
        self.assertContains(method, "Weigh what gives water off")


class CrowdTests(TransactionTestCase):
    def test_batches_weighed_at_once_share_out_a_lot_to_the_last_gram(self) -> None:
        """Ten batches weigh 20 g of oil from a lot of 150: all weights stand, the lot is empty, 50 g
        are told to have come from elsewhere."""
        lot = receive(Purchase("olive_oil", D(150)))
        version = salve()
        page = self.client.get("/batches/plan", {"version": version.pk})
        for _ in range(10):
            self.client.post("/batches/plan", form_data(page, "plan", save="1", fill="6 g"))

        def weigh(pk: int) -> None:
            client = Client()
            data = form_data(
                client.get(f"/bench/{pk}/weigh"), "weigh", **{"actual-olive_oil": "20", "sure-olive_oil": "20"}
            )
            client.post(f"/bench/{pk}/weigh", data)
            connection.close()

        crowd = [threading.Thread(target=weigh, args=(batch.pk,)) for batch in Batch.objects.all()]
        for each in crowd:
            each.start()
        for each in crowd:
            each.join()
        lot.refresh_from_db()
        self.assertEqual(lot.left, 0)
        self.assertEqual(sum(draw.grams for draw in Draw.objects.all()), D(150))
        self.assertEqual(Entry.objects.filter(kind=Entry.Kind.WEIGHED).count(), Draw.objects.count())
        weighed = [line.actual_g for batch in Batch.objects.all() for line in batch.lines.filter(actual_g__gt=0)]
        self.assertEqual(weighed, [D(20)] * 10)
