"""Looking at a pour again: checks as rows that are never written over, days when they are due, wear tests,
photographs, and the scale's peak."""

import re
from datetime import date, timedelta
from io import BytesIO
from threading import Thread
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.http import HttpResponse
from django.test import TestCase, TransactionTestCase, tag
from django.utils import timezone
from icalendar import Calendar
from PIL import Image

from batches.models import Batch
from instruments import readings
from pours.models import Check, FollowUp, Pour
from tests.support.makings import own_folder
from tests.support.net_loft import load
from tests.support.pages import form_data
from workshop.models import Preferences, SentForm


class CheckTestCase(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    def setUp(self) -> None:
        self.pour = Pour.objects.get(verdict="")  # Slack Water, in its refrigerator for three days
        self.path = f"/pours/{self.pour.pk}/check"

    def look(self, status: int = 302, files: list[SimpleUploadedFile] | None = None, **said: str) -> HttpResponse:
        data: dict[str, object] = dict(form_data(self.client.get(self.path), "look-form", **said))
        response = self.client.post(self.path, {**data, "photos": files or []})
        self.assertEqual(response.status_code, status)
        return response


class CheckTests(CheckTestCase):
    def test_two_looks_are_two_rows(self) -> None:
        """The second writes nothing of the first over; each has its day, its test and the prediction of then."""
        yesterday = str(timezone.localdate() - timedelta(days=1))
        self.look(checked_on=yesterday, method="thumb", thumb="soft scoop", test_c="64.4 °F", grain="none")
        self.look(method="press", rod_mm="10", readings="212 g 208,5; 7.4 oz", test_c="20", grain="some", sweating="much",
                  scent="faint", age="hint", notes="Sandy at the rim.")  # fmt: skip
        first, second = self.pour.checks.all()
        self.assertEqual((first.measured, first.measured_sigma, round(first.test_c, 3), first.days), (35, 9, 18, 2))
        self.assertEqual([round(each, 1) for each in second.readings], [212.0, 208.5, 209.8])
        self.assertAlmostEqual(second.measured, 41.0, delta=0.1)
        self.assertAlmostEqual(second.firmness_21 - second.measured, -3.29, delta=0.01)
        page = self.client.get(f"/pours/{self.pour.pk}/")
        for said in ("Some grain; much sweating; scent faint; smell of age a hint of old oil.", "No grain.",
                     "10 mm rod", "212.0 g, 208.5 g, 209.8 g", "thumb:", "Sandy at the rim."):  # fmt: skip
            self.assertContains(page, said)
        # The last test is what the log and the first page go by.
        self.assertContains(self.client.get("/pours/"), "measured 41,")
        self.assertContains(self.client.get("/"), "Decide: keep, change or drop")
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/card"), "Sandy at the rim.")

    def test_what_cannot_be_is_refused_and_nothing_is_lost(self) -> None:
        """Readings, rods, temperatures and days that cannot be; a check of nothing; each with its sentence."""
        press = {"method": "press", "rod_mm": "6", "test_c": "20", "readings": "200"}
        early = str(self.pour.poured_on - timedelta(days=1))
        for said, sentence in (
            ({**press, "readings": "0"}, "is under 5 steps of the scale"),
            ({**press, "readings": "-30"}, "“-30” is below nothing"),
            ({**press, "readings": "50 kg"}, "is more than a kitchen scale bears"),
            ({**press, "readings": "200 heaps"}, "“heaps” is not a measure used here"),
            ({**press, "readings": ""}, "A press test needs the rod and the peak reading."),
            ({**press, "test_c": "-40"}, "A piece is tested between -25 °C and 60 °C"),
            ({**press, "test_c": "300"}, "“300” is no temperature of a workshop."),
            ({**press, "test_c": "90"}, "A piece is tested between -25 °C and 60 °C"),
            ({**press, "test_c": ""}, "How warm was the piece?"),
            ({"method": "thumb", "test_c": "20"}, "Choose the word that fits."),
            ({"grain": "none", "checked_on": early}, f"It was poured on {self.pour.poured_on:%-d %B %Y}"),
            ({"grain": "none", "checked_on": str(timezone.localdate() + timedelta(days=1))}, "still to come"),
            ({"grain": "none", "checked_on": "soon"}, "“soon” is no day: write it like 31/05/2026 or 31 May 2026."),
            ({}, "Nothing was said of it yet"),
        ):
            with self.subTest(sentence):
                response = self.look(400, **said)
                self.assertContains(response, sentence, status_code=400)
        kept = form_data(self.look(400, **{**press, "test_c": "300"}, notes="By the stove."), "look-form")
        self.assertEqual((kept["notes"], kept["readings"], kept["rod_mm"]), (["By the stove."], ["200"], ["6"]))
        self.assertFalse(self.pour.checks.exists())

    def test_a_rod_too_wide_for_the_piece(self) -> None:
        """A tube of 12 mm takes the thin rod alone, and the page says which and about how much it will show."""
        tube = Pour.objects.filter(batch__version__formula__name="Westerly").order_by("pk").first()
        self.path = f"/pours/{tube.pk}/check"
        self.assertContains(self.client.get(self.path), "The 3 mm rod suits it: expect about")
        wide = self.look(400, method="press", rod_mm="10", readings="900", test_c="20")
        self.assertContains(wide, "A 10 mm rod is wider than a third of a 12.2 mm piece", status_code=400)

    def test_a_mistake_is_set_aside_with_a_reason(self) -> None:
        """It stays, counts nowhere, and can count again; without a reason, and from an old page, it is refused."""
        self.look(method="thumb", thumb="brick", test_c="20")
        check = self.pour.checks.get()
        aside = {"exclusion": "mistake", "revision": check.revision}
        answer = self.client.post(f"/pours/checks/{check.pk}/aside", aside, follow=True)
        self.assertContains(answer, "Say why: in a year nobody will know.")
        answer = self.client.post(
            f"/pours/checks/{check.pk}/aside", {**aside, "exclusion_reason": "Wrong jar."}, follow=True
        )
        self.assertContains(answer, "Was a mistake: Wrong jar.")
        self.assertContains(answer, "No test yet")
        answer = self.client.post(f"/pours/checks/{check.pk}/aside", {"exclusion": "", "revision": 1}, follow=True)
        self.assertContains(answer, "Another tab changed this check meanwhile")
        self.client.post(f"/pours/checks/{check.pk}/aside", {"exclusion": "", "revision": 2})
        self.assertContains(self.client.get(f"/pours/{self.pour.pk}/"), "measured 100")


class DueTests(CheckTestCase):
    def test_a_look_answers_the_day_it_was_due_on_and_those_before(self) -> None:
        """Poured three days ago: one look is asked for, not two; then two weeks and three months remain."""
        home = self.client.get("/").context["home"]
        due = [task for task in (home.next, *home.tasks) if task.about.startswith("Slack Water")]
        self.assertEqual([(task.what, task.when) for task in due], [("Look after three days", "today")])
        self.assertContains(self.client.get(due[0].address), "Due after three days")
        self.path = due[0].address
        self.look(grain="none")
        answered = FollowUp.objects.get(answer__pour=self.pour)
        self.assertEqual(answered.words, "three days")
        ahead = FollowUp.objects.open().filter(pour=self.pour)
        self.assertEqual([row.words for row in ahead], ["two weeks", "three months"])
        self.assertNotContains(self.client.get("/"), "Look after")

    def test_a_day_of_ones_own_is_in_the_calendar_with_its_link(self) -> None:
        """Each day once; not before the pour; a dropped pour asks for nothing any more."""
        day = timezone.localdate() + timedelta(days=7)
        path = f"/pours/{self.pour.pk}/follow-up"
        self.client.post(path, {"due_on": str(day), "words": "a week in the wheelhouse"})
        for due, said in ((str(day), "That day is there already."), ("soon", "“soon” is no day: write it like 31/05/2026 or 31 May 2026."),
                          (str(self.pour.poured_on), "Choose a day after it was poured.")):  # fmt: skip
            self.assertContains(self.client.post(path, {"due_on": due}, follow=True), said)
        own = FollowUp.objects.get(words="a week in the wheelhouse")
        calendar = Calendar.from_ical(self.client.get("/batches/calendar.ics").content)
        event = next(e for e in calendar.walk("VEVENT") if e["uid"] == f"follow-up-{own.pk}@calm-tin.invalid")
        self.assertEqual(event["summary"], "Look at Slack Water v2, batch 9 after a week in the wheelhouse")
        self.assertEqual(event.decoded("dtstart"), day)
        self.assertEqual(str(event["url"]), f"http://testserver{self.path}?follow_up={own.pk}")
        self.look(verdict="drop")
        self.assertFalse(FollowUp.objects.open().filter(pour=self.pour).exists())
        self.assertFalse(self.pour.checks.exists())  # a verdict alone is no look


class PhotoTests(CheckTestCase):
    def picture(self, name: str = "IMG.JPG", size: tuple[int, int] = (40, 30)) -> SimpleUploadedFile:
        kept = BytesIO()
        Image.new("RGB", size, "wheat").save(kept, "JPEG")
        return SimpleUploadedFile(name, kept.getvalue(), "image/jpeg")

    def test_photographs_of_a_check(self) -> None:
        """Several at once; a bad one among them keeps none of them, and says which it was."""
        folder = own_folder(self) / "photos"
        self.look(files=[self.picture(), self.picture()], bloom="some")
        self.assertEqual(len(list(folder.iterdir())), 2)
        page = self.client.get(f"/pours/{self.pour.pk}/")
        for photo in self.pour.checks.get().photos.all():
            self.assertContains(page, f"/bench/photo/{photo.file}")
            self.assertEqual(self.client.get(f"/bench/photo/{photo.file}")["Content-Type"], "image/jpeg")
        bomb = SimpleUploadedFile("bomb.jpg", b"GIF89a" + b"\xff\xff" * 3 + b"\x00" * 40, "image/jpeg")
        answer = self.look(400, files=[self.picture(), bomb], bloom="much", notes="Kept.")
        self.assertContains(answer, "bomb.jpg: That is no photograph that can be read here", status_code=400)
        self.assertEqual(form_data(answer, "look-form")["notes"], ["Kept."])
        many = self.look(400, files=[self.picture()] * 200, bloom="much")
        self.assertContains(many, "A check keeps up to 12 photographs", status_code=400)
        self.assertEqual((len(list(folder.iterdir())), self.pour.checks.count()), (2, 1))


class PeakTests(CheckTestCase):
    def test_the_highest_is_held_and_taken(self) -> None:
        """Since the press began; then into the field beside what was there; without a scale there is nothing."""
        folder = own_folder(self)
        self.assertNotContains(self.client.get(self.path), "Press anew")
        seen = ((100.0, 900.0), (101.0, 12.0), (102.0, 268.0), (103.0, 31.0))
        with mock.patch("checks.peak.now", return_value=103.2):
            readings.write(folder, {"scale": readings.Reading(31.0, "31.0 g", 103.1, seen=seen)})
            page = self.client.get("/pours/peak?since=100.5")
            self.assertContains(page, "268.0 g")
            self.assertContains(page, "now 31.0 g")
            self.assertContains(self.client.get("/pours/peak?since=x"), "–")
            taken = self.client.get("/pours/peak/take", {"grams": "268.0", "readings": "262.5"})
            self.assertContains(taken, 'value="262.5 268.0"')
        with mock.patch("checks.peak.now", return_value=109.0):
            self.assertContains(self.client.get("/pours/peak?since=100.5"), "The scale: It does not speak just now.")


class WearTests(CheckTestCase):
    def wear(self, status: int = 302, **said: str) -> HttpResponse:
        path = f"/pours/{self.pour.pk}/wear"
        response = self.client.post(path, form_data(self.client.get(path), "look-form", **said))
        self.assertEqual(response.status_code, status)
        return response

    def test_what_a_wearer_says_stands_beside_what_the_model_expects(self) -> None:
        page = self.client.get(f"/pours/{self.pour.pk}/wear")
        self.assertContains(page, "The model expects: Rich")
        self.wear(
            who="Allotment 9",
            where="hands",
            reaction="none",
            glide="4",
            grease="2",
            sink_minutes="20",
            said="No smell, good.",
        )
        page = self.client.get(f"/pours/{self.pour.pk}/")
        self.assertContains(page, "Glides (4 of 5), dry (2 of 5), 20 minutes to sink in.")
        self.assertContains(page, "“No smell, good.”")
        self.assertEqual(list(self.pour.wear_tests.values_list("shine", "reaction")), [(None, "none")])
        for said, sentence in (({"who": ""}, "Whose skin was it?"), ({"where": ""}, "Where was it worn?"),
                               ({"reaction": ""}, "Was there a reaction?"),
                               ({"sink_minutes": "soon"}, "Write whole minutes, such as 15."), ({"sink_minutes": "900"},
                               "longer than anyone waits"), ({"worn_on": "2020-01-01"}, "It was poured on")):  # fmt: skip
            self.assertContains(
                self.wear(400, **{"where": "hands", "reaction": "none", **said}), sentence, status_code=400
            )

    def test_nothing_is_said_of_skin_that_nobody_said(self) -> None:
        """No answer is chosen beforehand, and a test without one is not saved."""
        path = f"/pours/{self.pour.pk}/wear"
        self.assertNotIn("reaction", form_data(self.client.get(path), "look-form"))
        self.wear(400, where="hands")
        self.assertEqual(self.pour.wear_tests.count(), 0)

    def test_a_reaction_goes_to_a_professional_first(self) -> None:
        self.wear(where="hands", reaction="skin", said="Red by evening.")
        page = self.client.get(f"/pours/{self.pour.pk}/")
        self.assertContains(page, "whoever reacts asks a doctor or a pharmacist")
        self.assertContains(page, "Give no more of it away before you know what it was")


class TwiceTests(TransactionTestCase):
    reset_sequences = True

    def test_the_same_check_posted_twice_at_once_is_one(self) -> None:
        """Two sendings of one drawing of the form make one row."""
        load()
        path = f"/pours/{Pour.objects.get(verdict='').pk}/check"
        page = self.client.get(path)
        once = re.search(r'name="once" value="([^"]+)"', page.content.decode())
        data = {**form_data(page, "look-form", grain="some"), "once": once and once.group(1)}

        def send() -> None:
            self.client_class().post(path, data)
            connection.close()

        threads = [Thread(target=send) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(Check.objects.filter(grain="some").count(), 1)
        # A laptop that slept sends it again.
        SentForm.objects.update(at=timezone.now() - timedelta(hours=30))
        self.client.post("/pours/filters", {"name": "Bars", "query": "", "once": "another"})
        send()
        self.assertEqual(Check.objects.filter(grain="some").count(), 1)


@tag("slow")
class UpgradeTests(TransactionTestCase):
    def test_the_one_test_of_a_pour_becomes_its_first_check(self) -> None:
        """From the tables before: the reading is kept, the day is said not to be; nothing due is made up."""
        from django.db.migrations.executor import MigrationExecutor

        load()
        batch = Batch.objects.filter(state="poured").first()
        Pour.objects.exclude(batch=batch).delete()
        Check.objects.all().delete()
        FollowUp.objects.all().delete()
        Preferences.objects.all().delete()
        executor = MigrationExecutor(connection)
        executor.migrate([("pours", "0006_checks")])
        old = executor.loader.project_state([("pours", "0006_checks")]).apps.get_model("pours", "Pour")
        old.objects.update(method="press", rod_mm=3, press_g=176, test_c=20, measured=70.6, measured_sigma=4, predicted=63,
                           predicted_sigma=9)  # fmt: skip
        executor = MigrationExecutor(connection)
        executor.migrate(executor.loader.graph.leaf_nodes())
        check = Check.objects.get()
        self.assertEqual(
            (check.measured, check.readings, check.predicted, check.is_day_known), (70.6, [176.0], 63, False)
        )
        page = self.client.get(f"/pours/{check.pour_id}/")
        self.assertContains(page, "Day not kept")
        self.assertContains(page, "measured 71")
        self.assertTrue(all(row.due_on > date.today() for row in FollowUp.objects.all()))
        self.assertNotEqual(Preferences.objects.get().records_revision, 0)
