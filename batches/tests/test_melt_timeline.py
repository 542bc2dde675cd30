"""The strip of a batch: the melt's temperature against the clock, in the maker's unit, with its steps as the ground."""

import re
from datetime import UTC, datetime
from decimal import Decimal as D
from zoneinfo import ZoneInfo

from django.test import SimpleTestCase
from django.utils import timezone

from balmcore.composition import Composition
from balmcore.display import Display
from balmcore.making.method import method_for
from balmcore.making.scaling import Filling
from balmcore.making.steps import Setup
from balmcore.tables import shipped
from batches.batch_plan import BatchPlan
from batches.showing.estimates import MOST_TICKS, melt_timeline
from workshop.pictures.graph import LEFT, RIGHT, WIDE, Graph

SALVE = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.8")})


def setup(show: Display | None = None, cooling: str = "rest_then_cold", count: int = 6) -> Setup:
    """Some tins of a salve in a room of 18 degrees."""
    known = shipped().containers
    tins = [Filling("tin_screw_60", 62, 0.9, count)]
    plan = BatchPlan(tins, known, 60, D("0.1"), D(3), 0, known["jug_pouring_1000"], room_c=18, cooling=cooling)
    grams = plan.scaled(SALVE).total_g
    return plan.setup(SALVE, shipped().kind("pot_salve"), grams, show or Display())


def drawn(
    start: datetime | None = None, show: Display | None = None, cooling: str = "rest_then_cold", count: int = 6
) -> Graph:
    """The strip of that batch."""
    one = setup(show, cooling, count)
    return melt_timeline(one, method_for(one), start)


def points(line: str) -> list[tuple[float, float]]:
    """The points of a path."""
    return [(float(x), float(y)) for x, y in re.findall(r"([\d.]+),([\d.]+)", line)]


class StripTests(SimpleTestCase):
    def test_a_pitcher_and_then_a_piece(self) -> None:
        """Two lines: the pitcher from the room's 18 °C to the pour, the poured piece from there down; each runs from
        left to right inside the ground, at most sixty points a step."""
        graph = drawn()
        self.assertEqual(len(graph.lines), 2)
        pitcher, piece = map(points, graph.lines)
        ground, top = graph.y_ticks[0].at, graph.y_ticks[-1].at  # 0 and 100 degrees
        celsius = [(ground - y) / (ground - top) * 100 for _, y in (pitcher[0], pitcher[-1], piece[0], piece[-1])]
        self.assertAlmostEqual(celsius[0], 18, delta=0.6)
        self.assertAlmostEqual(celsius[1], celsius[2], delta=1.2)
        self.assertLess(celsius[3], 22)
        for line in (pitcher, piece):
            self.assertEqual([x for x, _ in line], sorted(x for x, _ in line))
            self.assertTrue(all(LEFT <= x <= WIDE[0] - RIGHT + 0.05 for x, _ in line))
            self.assertLess(len(line), 60 * 6)
        self.assertLessEqual(pitcher[-1][0], piece[0][0] + 0.1)

    def test_the_same_picture_in_fahrenheit(self) -> None:
        """Other words on the axis, the line in the same place."""
        plain, other = drawn(), drawn(show=Display(temp="F"))
        self.assertEqual(plain.lines, other.lines)
        self.assertEqual([tick.label for tick in plain.y_ticks], ["0°", "25°", "50°", "75°", "100°"])
        self.assertEqual([tick.label for tick in other.y_ticks], ["32°", "77°", "122°", "167°", "212°"])
        self.assertEqual([tick.at for tick in plain.y_ticks], [tick.at for tick in other.y_ticks])
        self.assertRegex(plain.levels[0].label, r"^sets at \d+ °C$")
        self.assertRegex(other.levels[0].label, r"^sets at 1\d\d °F$")

    def test_marks_on_the_clock(self) -> None:
        """Without a start minutes from nothing; with one whole quarters; never more marks than can be read."""
        marks = [tick.label for tick in drawn().x_ticks]
        self.assertEqual(marks[:3], ["0 min", "15 min", "30 min"])
        with timezone.override(ZoneInfo("Europe/Dublin")):
            clock = [tick.label for tick in drawn(datetime(2026, 10, 24, 9, 10, tzinfo=UTC)).x_ticks]
        self.assertEqual(clock[:2], ["10:15", "10:30"])
        for count in (1, 40):
            self.assertLessEqual(len(drawn(count=count).x_ticks), MOST_TICKS + 1)

    def test_the_ground_it_stands_on(self) -> None:
        """Hands, stove, waiting and cold in the order of the steps, side by side without a gap."""
        graph = drawn()
        looks = [band.look for band in graph.bands]
        self.assertEqual(looks[:3], ["hands", "hands", "stove"])
        self.assertIn("cold", looks)
        self.assertNotIn("cold", [band.look for band in drawn(cooling="counter").bands])
        for left, right in zip(graph.bands, graph.bands[1:], strict=False):
            self.assertAlmostEqual(left.x + left.width, right.x, delta=0.2)
        self.assertAlmostEqual(graph.bands[0].x, LEFT, delta=0.1)
        self.assertRegex(graph.title, r"^The melt's temperature over 1 h \d\d\.$")
