"""Pictures: where things stand at both ends of every scale."""

from itertools import product

from django.test import SimpleTestCase

from balmcore import Composition, Display, judge, predict, shipped
from balmcore.design.glance import marks
from balmcore.tables import Role
from workshop.pictures import curve, graph, ruler, triangle
from workshop.pictures.tin import tin


class PictureTests(SimpleTestCase):
    def test_the_curve_from_ice_to_a_hot_car(self) -> None:
        """0 °C at 30, 60 °C at 334; firmness 0 on the ground at 244, 110 and more at the top, 44."""
        self.assertEqual((curve.x_of(0), curve.x_of(60)), (30.0, 334.0))
        self.assertEqual((curve.y_of(-5), curve.y_of(0), curve.y_of(55), curve.y_of(200)), (244.0, 244.0, 144.0, 44.0))
        drawn = curve.curve(
            predict(Composition.of({"olive_oil": 1})), shipped().kind("lip_gloss"), Display(), (18, 26, 35)
        )
        self.assertTrue(drawn.line.startswith("M30.0,244.0L32.5,244.0"))
        self.assertTrue(drawn.line.endswith("L334.0,244.0"))
        self.assertEqual((drawn.band, drawn.now), ("", (136.4, 244.0)))
        self.assertEqual(drawn.readings.split(";")[0], "30.0|0.0 °C|0 runs")
        self.assertEqual((drawn.table[0], drawn.table[-1]), (("0 °C", ("0.0",)), ("60 °C", ("0.0",))))
        self.assertEqual([(mark.at, mark.label) for mark in drawn.axes.temps][:2], [(30.0, "0°"), (80.7, "10°")])

    def test_the_marks_of_anything_stand_within_the_picture(self) -> None:
        """What sets far below ice, as an oil does, or clears far above a hot car, stands at the end of the axis."""
        for item, part, temp in product(shipped().ingredients.values(), (1.0, 0.15), ("C", "F")):
            with self.subTest(item.key, part=part, temp=temp):
                shares = {"apricot_kernel_oil": 1 - part, item.key: part}
                found, show = predict(Composition.of(shares)), Display(temp=temp)
                kind = shipped().kind("hand_balm")
                told = marks(found, judge(found, kind, show), show)
                drawn = curve.curve(found, kind, show, (18, 26, 35), told=told).marks
                self.assertEqual([mark.key for mark in drawn], [mark.key for mark in told])
                self.assertTrue(all(30 <= mark.x <= mark.until <= 334 for mark in drawn))

    def test_the_triangle_at_its_corners(self) -> None:
        """Wax on top, butter at the left foot, oil at the right."""
        self.assertEqual(triangle.at(1, 0), (220.0, 24.0))
        self.assertEqual(triangle.at(0, 1), (18.0, 373.9))
        self.assertEqual(triangle.at(0, 0), (422.0, 373.9))

    def test_the_ruler_and_its_bands(self) -> None:
        """0 at 14, 110 at 626; a stick from 70 to 82; one sigma to either side."""
        self.assertEqual((ruler.x_of(-1), ruler.x_of(0), ruler.x_of(110), ruler.x_of(400)), (14.0, 14.0, 626.0, 626.0))
        drawn = ruler.ruler(55, 9, (44, 4))
        stick = next(zone for zone in drawn.zones if zone.name == "stick")
        self.assertAlmostEqual(stick.x, 14 + 612 * 70 / 110)
        self.assertAlmostEqual(stick.width, 612 * 12 / 110)
        self.assertAlmostEqual(drawn.predicted.low, 14 + 612 * 46 / 110)
        self.assertAlmostEqual(drawn.predicted.high, 14 + 612 * 64 / 110)
        self.assertEqual((drawn.predicted.x, drawn.measured.x if drawn.measured else 0), (320.0, 258.8))
        self.assertEqual(drawn.title, "Predicted 55 (pot salve), measured 44 (pot salve).")

    def test_a_graph_from_corner_to_corner(self) -> None:
        """Its line ends in the corners of the ground; ticks and levels outside are left out, a long name too."""
        drawn = graph.graph(
            [[(0, 0), (10, 100)]], (0, 10), (0, 100), [(0, "a"), (10, "b"), (11, "c")], [(0, "0"), (100, "1")], "T",
            [(0, 5, "hands", "Melt"), (5, 5.1, "cold", "Cooling")], [(50, "half"), (101, "out")],
        )  # fmt: skip
        self.assertEqual(drawn.lines, ("M44.0,166.0L1144.0,14.0",))
        self.assertEqual([(tick.at, tick.label) for tick in drawn.x_ticks], [(44.0, "a"), (1144.0, "b")])
        self.assertEqual([(tick.at, tick.label) for tick in drawn.y_ticks], [(166.0, "0"), (14.0, "1")])
        self.assertEqual([(tick.at, tick.label) for tick in drawn.levels], [(90.0, "half")])
        self.assertEqual([(band.x, band.width, band.label) for band in drawn.bands],
                         [(44.0, 550.0, "Melt"), (594.0, 11.0, "")])  # fmt: skip
        self.assertEqual(drawn.bands[0].middle, 319.0)
        alone = graph.graph([[(3, 0), (4, 1)]], (3, 3), (0, 1), [(3, "now")], [], "One day")
        self.assertEqual((alone.lines, alone.x_ticks[0].at), (("M44.0,190.0L1144.0,14.0",), 44.0))

    def test_a_tin_of_two_halves_and_a_whole_one(self) -> None:
        """Wax to the right of the top, oil to its left; one material alone is a full ring."""
        halves = tin({Role.WAX: 0.5, Role.OIL: 0.5}, 55, "planned", "Topsail")
        self.assertEqual([arc.role for arc in halves.arcs], ["wax", "oil"])
        self.assertEqual(
            halves.arcs[0].path, "M50.00,8.00A42,42 0 0 1 50.00,92.00L50.00,79.00A29,29 0 0 0 50.00,21.00Z"
        )
        self.assertEqual(halves.title, "Topsail, wax 50 %, oil 50 %, firmness 55, pot salve, planned")
        self.assertEqual(len(tin({Role.OIL: 1.0}, None, "draft").arcs[0].path.split("M")), 3)
