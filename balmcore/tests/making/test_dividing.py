"""How one melt becomes several finishes, what colours it, and the commands that say so from a shell."""

import io
import json
from dataclasses import replace
from decimal import Decimal as D
from typing import Any

from balmcore.advice.colour import colour_words, tint_share, tint_shares
from balmcore.cli import main
from balmcore.composition import Composition
from balmcore.making.bench.steps import BenchLine, Task, bench_steps, is_same_vessel
from balmcore.making.method import method_for
from balmcore.making.portions import FinishPlan, Wanted, scale_finishes
from balmcore.making.scaling import Filling, with_added
from balmcore.making.steps import Setup
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase
from balmcore.tests.making.test_method import setup

BASE = Composition.of({"beeswax_yellow": D("0.2"), "shea_butter_refined": D("0.2"), "olive_oil": D("0.6")})


def item(key: str):
    return shipped().ingredient(key)


def divided(kind: str = "pot_salve", base: Composition = BASE) -> Setup:
    """Three tins plain and two with scent, and a drop of another in each."""
    made = setup(base, kind, tin_screw_60=5)
    tin = shipped().containers["tin_screw_60"]
    add = (Wanted(item("lavender"), D("0.01"), Wanted.How.PERCENT), Wanted(item("tea_tree"), D(2), Wanted.How.DROPS))
    fillings = [Filling(tin.key, tin.capacity_ml, tin.fill, count) for count in (2, 3)]
    plans = [FinishPlan("scented", (fillings[0],), add), FinishPlan("plain", (fillings[1],))]
    scaled = scale_finishes(base, plans, made.handling.pour_c, D("0.1"), D(3), made.handling.overrun)
    return replace(
        made,
        vessels=replace(made.vessels, fillings=tuple(fillings)),
        total_g=float(scaled.total_g),
        portions=scaled.portions,
    )


class DividingTests(CoreTestCase):
    def test_the_plainest_is_poured_first_and_each_says_what_goes_in(self) -> None:
        """Grams of base and scent, drops in each, how many pieces; the rest stays warm until the last."""
        made = divided()
        steps = {step.key: step for step in method_for(made).steps}
        keys = [key for key in steps if key.startswith("finish_")]
        self.assertEqual(keys, ["finish_1", "finish_0"])
        scented, plain = made.portions
        self.assertEqual(
            steps["finish_1"].text,
            f"Take {plain.base_g:.1f} g of the base into a small warm jug, pour 3 pieces. "
            "Pour each a little short: about 5.3 g stay in its jug on the bath to top up with. "
            f"The rest of the base stays on the bath at {made.handling.pour_c:.0f} °C.",
        )
        self.assertEqual(
            steps["finish_0"].text,
            f"Take {scented.base_g:.1f} g of the base into a small warm jug, stir its glass in "
            f"({scented.add['lavender']:.1f} g lavender), pour 2 pieces. 2 drops of tea tree in each, stirred with a stick. "
            "Pour each a little short: about 3.5 g stay in its jug on the bath to top up with.",
        )
        self.assertIn("Warm what is left in each jug", steps["top_up"].text)
        self.assertIn("Weigh lavender into a glass with “scented” on it.", steps["weigh"].text)
        self.assertEqual((steps["finish_1"].at, steps["finish_0"].at), ("stove", ""))
        self.assertGreater(steps["finish_0"].length, 2.5)

    def test_at_the_bench_a_finish_is_taken_stirred_counted_and_filled(self) -> None:
        """What is for it alone is weighed before anything is warm; base, drops and filling are one piece of work."""
        made = divided()
        lines = [BenchLine(line.key, line.ingredient, D(10)) for line in BASE.lines]
        lines += [
            BenchLine("lavender.7", item("lavender"), D("1.1"), 0),
            BenchLine("tea_tree.7", item("tea_tree"), D("0.1"), 0, 2),
        ]
        steps = bench_steps(made, method_for(made), lines)
        tail = [(step.key, step.task, step.target_g) for step in steps if step.finish is not None]
        scented, plain = made.portions
        self.assertEqual(
            tail,
            [
                ("weigh:lavender.7", Task.WEIGH, D("1.1")),
                ("take:1", Task.TAKE, plain.base_g),
                ("fill:1", Task.FILL, None),
                ("take:0", Task.TAKE, scented.base_g),
                ("count:tea_tree.7", Task.COUNT, D("0.1")),
                ("fill:0", Task.FILL, None),
            ],
        )
        self.assertEqual(next(step for step in steps if step.key == "count:tea_tree.7").title, "2 drops in each")
        keys = [step.key for step in steps]
        self.assertEqual(keys[keys.index("weigh:lavender.7") + 1], "melt")
        self.assertEqual([step.group for step in steps if step.finish == 0],
                         ["Glass for “scented”", *["Pour “scented”"] * 3])  # fmt: skip
        self.assertIn("Stir the glass for “scented” in: lavender. Fill 2, level", steps[keys.index("fill:0")].text)
        self.assertIn("A day before any test", steps[-1].text)
        # The pot stays on the scale from line to line; a glass is another vessel, and a jug.
        by_key = {step.key: step for step in steps}
        for before, after, is_same in (
            ("weigh:beeswax_yellow", "weigh:olive_oil", True),
            ("weigh:olive_oil", "weigh:lavender.7", False),
            ("weigh:lavender.7", "take:1", False),
            ("take:1", "take:0", False),
            ("take:0", "take:0", True),
        ):
            self.assertIs(is_same_vessel(by_key[before], by_key[after]), is_same, (before, after))

    def test_a_whipped_melt_is_divided_cold(self) -> None:
        soft = Composition.of({"shea_butter": D("0.7"), "coconut_oil": D("0.15"), "olive_oil": D("0.15")})
        steps = [step for step in method_for(divided("whipped_butter", soft)).steps if step.key.startswith("finish_")]
        self.assertEqual([step.title for step in steps], ["Fill “plain”", "Fill “scented”"])
        self.assertIn("into a small bowl, fill 3 pieces.", steps[0].text)
        self.assertEqual((steps[0].aim, steps[0].at), ("", ""))

    def test_what_is_stirred_in_joins_what_is_there(self) -> None:
        """90 g of the base and 10 g more of its oil are one line of 64 g."""
        made = with_added(BASE, D(90), [(item("olive_oil"), D(10)), (item("lavender"), D(0))])
        self.assertEqual((made.share_of("olive_oil"), made.total, len(made.lines)), (64, 100, 3))


class ColourTests(CoreTestCase):
    def test_faint_clear_and_deep_are_the_ends_and_the_middle_of_the_usual_range(self) -> None:
        """Mica 0.5 to 5 %: 1.58 between; iron oxide specks unless it is ground; beetroot not for every lip."""
        shares = tint_shares(item("mica_pearl"))
        self.assertEqual(list(shares.values()), [D("0.005"), D("0.0158"), D("0.05")])
        self.assertEqual(tint_share(item("mica_pearl"), "clear"), D("0.0158"))
        self.assertIn(
            "grind it into a little oil first, or it specks; lips may wear it", colour_words(item("iron_oxide_red"))
        )
        self.assertIn("stays as specks; on lips only where its papers say so", colour_words(item("beetroot_powder")))
        self.assertEqual((colour_words(item("olive_oil")), tint_shares(item("food_dye_water"))), ("", {}))
        with self.assert_refused("Olive oil has no deep of its own"):
            tint_share(item("olive_oil"), "deep")


class ShellTests(CoreTestCase):
    def run_command(self, command: str, **request: Any) -> tuple[int, dict[str, Any]]:
        out = io.StringIO()
        code = main([command], io.StringIO(json.dumps(request)), out)
        return code, json.loads(out.getvalue())

    def test_rescue_portions_and_calibrate_refuse_what_they_cannot_use(self) -> None:
        """Each with its place, and exit 2."""
        percent = {"beeswax_yellow": 20, "olive_oil": 80}
        pour = {"percent": percent, "temp_c": 21, "firmness": 50, "method": "press"}
        for command, request, where in (
            ("rescue", {"percent": percent, "mass_g": 0, "want_firmness": 60, "add": "olive_oil"}, "mass_g"),
            ("rescue", {"percent": percent, "mass_g": 90, "want_firmness": 60, "add": "gold"}, "add"),
            (
                "rescue",
                {"percent": percent, "mass_g": 90, "want_firmness": "soft", "add": "olive_oil"},
                "want_firmness",
            ),
            ("portions", {"percent": percent, "finishes": []}, "finishes"),
            ("portions", {"percent": percent, "finishes": [{"name": "a", "product_g": -1}]}, "finishes.0.product_g"),
            (
                "portions",
                {"percent": percent, "finishes": [{"product_g": 9, "add": {"gold": 1}}]},
                "finishes.0.add.gold",
            ),
            (
                "portions",
                {"percent": percent, "finishes": [{"product_g": 9, "add": {"lavender": 101}}]},
                "finishes.0.add.lavender",
            ),
            ("portions", {"percent": percent, "finishes": [{"product_g": 9}], "resolution_g": 0}, "resolution_g"),
            ("calibrate", {"pours": [{**pour, "method": "bite"}], "predict": [pour]}, "method"),
            ("calibrate", {"pours": [{**pour, "firmness": None}], "predict": [pour]}, "pours.0.firmness"),
            ("calibrate", {"pours": [pour], "predict": []}, "predict"),
            ("calibrate", {"pours": [7], "predict": [pour]}, "pours.0"),
        ):
            with self.subTest(command, where=where):
                code, answer = self.run_command(command, **request)
                self.assertEqual((code, answer["where"]), (2, where))

    def test_their_answers_are_those_of_the_core(self) -> None:
        """A pot of 200 g to 70; 90 g in two portions of a melt; a wax that runs ten points soft."""
        percent = {line.key: float(line.share * 100) for line in BASE.lines}
        _, found = self.run_command("rescue", percent=percent, mass_g=200, want_firmness=70, add="beeswax_yellow")
        self.assertAlmostEqual(found["add_g"] / (200 + found["add_g"]) * 100 + 20 * 200 / (200 + found["add_g"]),
                               found["percent"]["beeswax_yellow"], places=6)  # fmt: skip
        self.assertAlmostEqual(found["firmness"], 70, places=3)
        self.assertEqual(found["reason"], "")
        finishes = [{"name": "a", "product_g": 60}, {"name": "b", "product_g": 30, "add": {"lavender": 2}}]
        _, made = self.run_command("portions", percent=percent, finishes=finishes, resolution_g=0.1, loss_g=1)
        self.assertEqual([one["base_g"] for one in made["finishes"]], [60.0, 29.4])
        self.assertAlmostEqual(made["base"]["total_g"], 90.4)
        self.assertAlmostEqual(sum(made["base"]["lines"].values()), 90.4)
        _, plain = self.run_command("predict", percent=percent, temps_c=[21])
        pours = [{"percent": percent, "temp_c": 21, "firmness": plain["firmness"][0] - 10}] * 3
        _, known = self.run_command("calibrate", pours=pours, predict=[{"percent": percent, "temp_c": 21}])
        self.assertLess(known["predict"][0]["firmness"], plain["firmness"][0] - 8)
        self.assertEqual({one["group"] for one in known["learned"]}, {"overall", "beeswax", "soft_butter"})
