"""The versions that the studio draws behind its dot."""

from decimal import Decimal as D

from django.http import Http404
from django.test import TestCase

from balmcore.composition import Composition
from balmcore.tables import shipped
from formulas.services import save_version
from formulas.studio.trail import trail_of
from tests.support.makings import begin


def salve(wax: int) -> Composition:
    return Composition.of({"beeswax_yellow": D(wax) / 100, "olive_oil": D(100 - wax) / 100})


class TrailTests(TestCase):
    def test_it_ends_at_the_version_begun_from(self) -> None:
        """Eight stops at most, each of what it consisted of, the oldest first, none of another formula; a number
        that no version has begins at the current one, and no formula is 404."""
        formula = begin("Topsail", "pot_salve", salve(10))
        begin("Squall", "pot_salve", salve(50))
        for wax in range(11, 20):
            seen = formula.versions.get(is_current=True)
            save_version(formula, salve(wax), seen=seen.pk, made_from=seen.number, note="")
        trail = trail_of(formula.pk, 9, shipped())
        self.assertEqual((trail.version.number, trail.version.formula.name), (9, "Topsail"))
        self.assertEqual(trail.stops, tuple((n, salve(9 + n)) for n in range(2, 10)))
        self.assertEqual(trail.begun_from, salve(18))
        self.assertEqual([trail_of(formula.pk, n, shipped()).version.number for n in (1, 0, -1, 99)], [1, 10, 10, 10])
        self.assertRaises(Http404, trail_of, 999, 1, shipped())
