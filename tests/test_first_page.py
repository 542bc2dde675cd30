"""The first page: what is due, said as people say days, the begun before what has a time, that before what waits."""

from datetime import timedelta
from decimal import Decimal as D

from django.test import SimpleTestCase, TestCase
from django.utils import timezone

from balmcore.display import CELSIUS, MONTH_FIRST, Display, near_day_words, speak_in
from calmtin.queries import AHEAD_DAYS, MOST_TASKS, Task, _urgency, under_way, when_words
from pantry.models import Lot, Preparation
from pantry.services import Purchase, receive
from pantry.tables import workshop_tables
from pours.models import FollowUp, Pour
from pours.services import move_follow_ups
from tests.support.net_loft import load
from workshop.services import preferences


class DayTests(SimpleTestCase):
    def test_days_as_people_say_them(self) -> None:
        """Today and tomorrow with their hour; what is past without; a weekday for what is further off."""
        today = timezone.localdate()
        off = [today + timedelta(days=n) for n in (-30, -1, 0, 1, 4)]
        self.assertEqual(
            [when_words(day, "09:30") for day in off],
            [
                f"since {near_day_words(off[0])}",
                "since yesterday",
                "today, 09:30",
                "tomorrow, 09:30",
                f"{off[4]:%A} {near_day_words(off[4])}, 09:30",
            ],
        )
        self.assertEqual([when_words(day) for day in off[2:4]], ["today", "tomorrow"])
        speak_in(Display(dates=MONTH_FIRST))
        self.addCleanup(speak_in, CELSIUS)
        self.assertTrue(when_words(off[0]).startswith(f"since {off[0]:%B} {off[0].day}"))


class DueTests(TestCase):
    def test_what_comes_first(self) -> None:
        """What was begun, then by its time, then what has none; so many lines and the rest counted; each leads on."""
        load()
        home = under_way(workshop_tables(), preferences())
        assert home.next is not None
        self.assertEqual(home.next.what, "Go on weighing")
        due = [task.due for task in home.tasks if task.due]
        self.assertEqual(due, sorted(due))
        self.assertLessEqual(len(home.tasks), MOST_TASKS)
        waiting = [n for n, task in enumerate(home.tasks) if task.due is None]
        self.assertEqual(waiting, list(range(len(home.tasks) - len(waiting), len(home.tasks))))
        for task in (home.next, *home.tasks):
            with self.subTest(task.what):
                self.assertIn(self.client.get(task.address).status_code, (200, 302))
        self.assertEqual(home.kinds, ())
        told = {task.about: task.what for task in (home.next, *home.tasks)}
        self.assertEqual(told["Calendula"], "Strain it")
        ready = timezone.localdate() + timedelta(days=AHEAD_DAYS)
        Lot.objects.all().update(best_before=None)
        for days, what in ((-1, "Smell it, or throw it out"), (0, "Use it up")):
            day = timezone.localdate() + timedelta(days=days)
            lot = receive(Purchase("castor_oil", D("12.5"), bought=day - timedelta(9), best_before=day))
            page = under_way(workshop_tables(), preferences())
            found = {task.about: task.what for task in page.tasks}
            self.assertEqual(found.get(f"Castor oil, lot {lot.pk}: 12.5 g"), what)
        comb = Preparation.objects.exclude(kind=Preparation.Kind.INFUSION).earliest("pk")
        for day, is_due in ((ready, True), (ready + timedelta(days=1), False)):
            Preparation.objects.filter(pk=comb.pk).update(ready_on=day, finished_on=None)
            page = under_way(workshop_tables(), preferences())
            assert page.next is not None
            whats = [task.what for task in (page.next, *page.tasks)]
            self.assertEqual((page.more, "Render it" in whats), (0, is_due))


class DuePageTests(TestCase):
    def test_all_that_is_due_stands_on_one_page_and_is_ticked_off(self) -> None:
        """As many lines as the first page counts; a look let go and a lot smelled are gone, and in their accounts."""
        load()
        Lot.objects.filter(
            pk__in=list(Lot.objects.filter(is_container=False, left__gt=0).values_list("pk", flat=True)[:7])
        ).update(bought=None, best_before=timezone.localdate() - timedelta(days=2))
        home = under_way(workshop_tables(), preferences())
        page = self.client.get("/due?all=1")
        shown = 1 + len(home.tasks) + home.more
        self.assertEqual(page.context["count"], shown)
        self.assertEqual(sum(map(len, page.context["sorts"].values())), shown)
        self.assertContains(self.client.get("/"), f"All that is due</a>: {home.more} more")
        lot = Lot.objects.filter(best_before__lt=timezone.localdate(), left__gt=0).first()
        assert lot is not None
        after = self.client.post("/due", {"tick": f"lot-{lot.pk}"}, follow=True)
        self.assertContains(after, f"Lot {lot.pk}")
        self.assertEqual((after.context["count"], lot.entries.latest("pk").kind), (shown - 1, "smelled"))
        look = FollowUp.objects.due(timezone.localdate()).first()
        if look is not None:
            self.client.post("/due", {"tick": f"look-{look.pk}"})
            self.assertEqual(FollowUp.objects.get(pk=look.pk).let_go, timezone.localdate())
        self.assertContains(self.client.post("/due", {"tick": "lot-99999"}, follow=True), "That is no longer due.")

    def test_what_is_for_today_stands_above_what_is_old(self) -> None:
        now = timezone.now()
        tasks = [Task(None, name, "", "", due, "") for name, due in (
            ("old", now - timedelta(days=9)), ("today", now), ("later", now + timedelta(days=2)), ("none", None),
            ("begun", now.replace(year=2)),
        )]  # fmt: skip
        self.assertEqual(
            [task.what for task in sorted(tasks, key=_urgency)], ["begun", "today", "old", "later", "none"]
        )

    def test_a_day_put_right_moves_the_looks_that_are_still_to_come(self) -> None:
        """Three days later: those ahead move with it, those past stay, and none falls on another."""
        load()
        pour = (
            Pour.objects.filter(follow_ups__due_on__gt=timezone.localdate(), follow_ups__answer=None)
            .distinct()
            .latest("pk")
        )
        before = {look.pk: look.due_on for look in pour.follow_ups.all()}
        was, pour.poured_on = pour.poured_on, pour.poured_on + timedelta(days=3)
        move_follow_ups(pour, was)
        for look in pour.follow_ups.all():
            ahead = before[look.pk] > timezone.localdate() and look.answer_id is None
            self.assertEqual((look.due_on - before[look.pk]).days, 3 if ahead else 0)
