"""A formula's year: every pour of it in one picture, and a few of them taken side by side."""

from datetime import timedelta

from django.http import HttpResponse
from django.test import TestCase
from django.utils import timezone

from formulas.models import Formula
from pours.models import Check, Pour
from pours.year import HEIGHT, LEFT, RIGHT, WIDTH
from tests.support.net_loft import YEAR, load

TODAY = timezone.localdate()


class YearTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load(YEAR)

    def setUp(self) -> None:
        counted = {
            formula: Pour.objects.filter(batch__version__formula=formula).count() for formula in Formula.objects.all()
        }
        self.formula = max(counted, key=lambda formula: counted[formula])
        self.pours = Pour.objects.filter(batch__version__formula=self.formula)

    def page(self, **asked: object) -> HttpResponse:
        return self.client.get(f"/pours/year/{self.formula.pk}", asked)

    def test_every_pour_of_the_year_lies_at_its_day_and_firmness(self) -> None:
        """Later lies further right, firmer higher; inside the frame; judged, cooled and grained as its checks say; the page
        of versions and the log lead there."""
        page = self.page()
        marks = page.context["year"].marks
        first = page.context["year"].first
        inside = self.pours.filter(poured_on__range=(first, page.context["year"].last))
        self.assertEqual({mark.pour.pk for mark in marks}, set(inside.values_list("pk", flat=True)))
        for one in marks:
            self.assertTrue(LEFT <= one.x <= WIDTH - RIGHT and 0 <= one.y <= HEIGHT)
            self.assertIn(f"Batch {one.pour.batch_id}", one.words)
            for other in marks:
                if (other.pour.poured_on - one.pour.poured_on).days > 20:
                    self.assertGreater(other.x, one.x)
                if other.firmness > one.firmness + 3:
                    self.assertLess(other.y, one.y)
                self.assertFalse(one is not other and (one.x, one.y) == (other.x, other.y))
        grained = [mark.pour.pk for mark in marks if mark.grained]
        seen = Check.objects.standing().filter(pour__in=inside, grain__in=("some", "much"))
        self.assertEqual(set(grained), set(seen.values_list("pour", flat=True)))
        address = f"/pours/year/{self.formula.pk}"
        self.assertContains(self.client.get(f"/formulas/{self.formula.pk}/versions"), address)
        self.assertContains(self.client.get("/pours/", {"formula": self.formula.pk}), address)

    def test_two_to_six_are_taken_by_a_tap_and_laid_side_by_side(self) -> None:
        """Taken one after another, put back, kept through another year; a seventh is refused and said."""
        marks = self.page().context["year"].marks
        self.assertNotContains(self.page(), "side\n      side")
        page = self.client.get(marks[0].toggle)
        page = self.client.get(page.context["year"].marks[1].toggle)
        picked = [marks[0].pour.pk, marks[1].pour.pk]
        self.assertEqual([mark.letter for mark in page.context["year"].marks[:3]], ["A", "B", ""])
        self.assertContains(self.client.get(f"/pours/compare?{page.context['year'].compare}"), "A")
        back = self.client.get(page.context["year"].marks[0].toggle)
        self.assertEqual(back.context["year"].picked, (picked[1],))
        before = self.page(until=str(TODAY - timedelta(days=400)), pour=picked)
        self.assertEqual(before.context["year"].picked, tuple(picked))
        many = self.page(pour=[mark.pour.pk for mark in marks][:7])
        if len(marks) > 6:
            self.assertContains(many, "Six pours fit side by side")
        self.assertEqual(len(many.context["year"].picked), min(6, len(marks)))

    def test_bad_words_and_an_empty_year(self) -> None:
        """A day that is none goes back with a sentence; a year without a pour says so; a formula that is not there."""
        self.assertContains(self.client.get(f"/pours/year/{self.formula.pk}?until=soon", follow=True), "is no day")
        self.assertContains(self.page(until="2001-01-01"), "Nothing of it was poured in this year.")
        far = self.client.get(f"/pours/year/{self.formula.pk}?until=9999-12-31", follow=True)
        self.assertContains(far, "A day lies between 2000 and 2099.")
        self.assertEqual(self.client.get("/pours/year/99999").status_code, 404)
