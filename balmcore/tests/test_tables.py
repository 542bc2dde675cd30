"""The reference tables refuse bad rows by file and line; the shell speaks plain sentences."""

import io
import json
import math
import shutil
import tempfile
from decimal import Decimal
from pathlib import Path

from balmcore.cli import main
from balmcore.errors import TableProblem
from balmcore.recipes.words.known import bare_rows
from balmcore.tables import DATA, shipped
from balmcore.tables.loading import load
from balmcore.tests import CoreTestCase

TUBE = {"beeswax_white": 24, "kokum_butter": 14, "coconut_oil_refined": 22, "castor_oil": 15, "sweet_almond_oil": 25}


class TableTests(CoreTestCase):
    def test_bad_rows_are_refused_with_file_and_line(self) -> None:
        """Shares that do not add to 1, unknown species, numbers out of range, rows twice, lost cells."""
        for file, old, new, said in (
            ("ingredients.csv", "bw_main:0.86;", "bw_main:0.80;", "line 14: fractions add to 0.9400, not 1"),
            ("ingredients.csv", "bw_main:0.86;", "bw_mian:0.86;", "line 14: fractions: there is no species “bw_mian”"),
            ("ingredients.csv", "0.96,0.56,pellets,62,65", "96,0.56,pellets,62,65", "line 14: density_g_ml should be between 0.5 and 10, not 96"),
            ("ingredients.csv", "pellets,62,65", "pellets,65,62", "line 14: melt_low_c 65 is above melt_high_c 62"),
            ("ingredients.csv", "beeswax_white,", "beeswax_yellow,", "line 15: beeswax_yellow stands here a second time"),
            ("ingredients.csv", ",wax,beeswax,", ",beeswax,", "line 14: the row has too many or too few cells"),
            ("ingredients.csv", ',0.97,"Its spirit', ',1.5,"Its spirit', "volatile should be between 0 and 1, not 1.5"),
            ("ingredients.csv", ",inci;allergens", ",inci;dates", "papers: should be one of herb, carrier, inci, allergens, colours, not “dates”"),
            ("species.csv", "t14,14,75000,740", "t14,warm,75000,740", "line 9: melt_c should be a number, not “warm”"),
            ("species.csv", "t14,14,75000,740", "t14,14,nan,740", "line 9: dh_j_mol should be between 0 and 1e+06, not nan"),
            ("kinds.csv", "beeswax_yellow:13;olive_oil:86.5", "beeswax_yellow:14;olive_oil:86.5", "start adds to 101, not 100"),
            ("aromatics.csv", ",0,no,10,no,", ",0,no,18.5,no,", "line 14: avoid_under_years should be between 0 and 18, not 18.5"),
            ("audience_limits.csv", "adult,body,1,2,", "adult,body,3,2,", "the cautious limit should be a number no higher"),
        ):  # fmt: skip
            with self.subTest(said), tempfile.TemporaryDirectory() as folder:
                copy = Path(folder) / "data"
                shutil.copytree(DATA, copy)
                text = (copy / file).read_text()
                self.assertTrue(old in text, old)
                (copy / file).write_text(text.replace(old, new, 1))
                with self.assertRaises(TableProblem) as caught:
                    load(copy)
                self.assertTrue(caught.exception.sentence.startswith(file), caught.exception.sentence)
                self.assertIn(said, caught.exception.sentence)

    def test_everything_a_formula_can_hold_is_there_once(self) -> None:
        """143 ingredients, the aromatics, the colourants but one that is both, and scent not yet chosen."""
        tables = shipped()
        aromatics = [item for item in tables.ingredients.values() if item.aromatic]
        colourants = [item for item in tables.ingredients.values() if item.colourant]
        self.assertEqual((len(tables.ingredients), len(aromatics), len(colourants)), (263, 97, 24))
        self.assertEqual(tables.ingredients["zinc_oxide"].group, "powder")
        self.assertEqual(tables.ingredients["lavender"].fractions, ((tables.species["aroma"], 1.0),))

    def test_a_bare_name_takes_the_strictest_of_its_kinds(self) -> None:
        """Rose is otto, petitgrain the mandarin's: nothing else of that name has a lower limit of its own."""
        pairs = [
            (shipped().ingredients[taken].aromatic, shipped().ingredients[other].aromatic)
            for name, row in bare_rows().items()
            for taken, *others in (row.keys,)
            for other in others
            if other.startswith(name)
        ]
        known = [(own, oil) for own, oil in pairs if own and oil]
        self.assertGreater(len(known), 2)
        for own, oil in known:
            for limit in ("max_leave_on", "phototoxic_max", "lip_max"):
                strict, loose = (getattr(each, limit) for each in (own, oil))
                self.assertLessEqual(math.inf if strict is None else strict, math.inf if loose is None else loose)


class ShellTests(CoreTestCase):
    def ask(self, command: str, request: object) -> tuple[int, dict]:
        out = io.StringIO()
        text = request if isinstance(request, str) else json.dumps(request)
        code = main([command], io.StringIO(text), out)
        return code, json.loads(out.getvalue())

    def test_a_composition_is_judged_and_warned_of_from_the_shell(self) -> None:
        """One part wax to four of oil is right for a hand balm; scent for a baby's body is stopped."""
        plain = {"beeswax_yellow": 20, "olive_oil": 80}
        code, told = self.ask("judge", {"percent": plain, "kind": "hand_balm"})
        self.assertEqual((code, told["fits"], told["window"]), (0, True, [48, 64]))
        self.assertAlmostEqual(told["firmness"], 51.9, delta=0.1)
        self.assertEqual(self.ask("judge", {"percent": plain, "kind": "candle"})[0], 2)
        asked = {"percent": {"beeswax_yellow": 20, "olive_oil": 79, "lavender": 1}, "audience": "baby_3_24m",
                 "area": "body", "policy": "cautious"}  # fmt: skip
        code, told = self.ask("cautions", asked)
        self.assertEqual((code, told["total_aromatics"], told["most"]), (0, 1.0, 0.0))
        self.assertEqual(told["cautions"][0]["line"], "No scent at all for babies, on the body")
        self.assertEqual((told["cautions"][0]["level"], told["cautions"][0]["about"]), ("stop", ["lavender"]))

    def test_predict(self) -> None:
        """A firm tube at 21 °C is 66.6, clear at 54.1, holds 45 to 40.1, and is liquid at 60."""
        code, answer = self.ask("predict", {"percent": TUBE, "temps_c": [21, 60]})
        self.assertEqual(code, 0)
        self.assertAlmostEqual(answer["firmness"][0], 66.58, delta=0.05)
        self.assertEqual(answer["firmness"][1], 0)
        self.assertAlmostEqual(answer["clear_c"], 54.1, delta=0.1)
        self.assertAlmostEqual(answer["hold_c"]["45"], 40.4, delta=0.1)
        self.assertEqual(answer["sigma"], 9)
        code, answer = self.ask("predict", {"percent": {"olive_oil": 3, "aroma": 1}, "temps_c": [21]})
        self.assertEqual((code, answer["clear_c"], answer["hold_c"]), (0, None, {"20": None, "45": None}))

    def test_what_few_cases_bear(self) -> None:
        """A rate with its interval against another, suspects by wearers, three presses of one piece; nonsense refused."""
        code, told = self.ask("rates", {"cases": 0, "of": 4, "against": {"cases": 3, "of": 4}, "rivals": 3})
        self.assertEqual((code, round(told["chance_below"], 3), told["is_below"]), (0, 0.976, False))
        self.assertEqual(self.ask("rates", {"cases": 5, "of": 4})[0], 2)
        worn = [[{"holds": ["a", "b"], "reacted": True}], [{"holds": ["b"]}], [{"holds": ["b"]}]]
        code, told = self.ask("suspects", {"wearers": worn})
        self.assertEqual((code, told["suspects"][0]["key"], told["reacted"]), (0, "a", 1))
        self.assertEqual(self.ask("suspects", {"wearers": [["x"]]})[1]["where"], "wearers.0.0")
        code, told = self.ask("press", {"grams": [260, 268, 264], "rod_mm": 6})
        self.assertEqual((code, round(told["sigma"], 2), round(told["firmness"])), (0, 2.31, 54))
        self.assertEqual(self.ask("press", {"grams": [0.2], "rod_mm": 6})[0], 2)

    def test_scale(self) -> None:
        """By key or by capacity and fill; lines add to the total on the scale's grid."""
        code, answer = self.ask(
            "scale",
            {"percent": TUBE, "containers": [{"key": "lip_tube_4_5g", "count": 4}, {"capacity_ml": 15, "fill": 0.9, "count": 2}],
             "resolution_g": 0.1, "loss_g": 3, "pour_c": 61},
        )  # fmt: skip
        self.assertEqual(code, 0)
        _, at = self.ask("predict", {"percent": TUBE, "temps_c": [61]})
        self.assertAlmostEqual(answer["product_g"], (4 * 5.3 * 0.92 + 27) / at["ml_per_g"][0], places=6)
        self.assertEqual(
            sum(Decimal(str(grams)) for grams in answer["lines"].values()), Decimal(str(answer["total_g"]))
        )
        self.assertEqual(answer["total_g"], 44.4)
        self.assertEqual([piece["count"] for piece in answer["pieces"]], [4, 2])

    def test_input_that_cannot_be_used(self) -> None:
        """Exit 2, a sentence, and the place."""
        tins = [{"key": "tin_screw_30", "count": 1}]
        for command, request, where in (
            ("predict", {"percent": {"unobtainium": 1}, "temps_c": [21]}, "percent.unobtainium"),
            ("predict", {"percent": {"olive_oil": -1}, "temps_c": [21]}, "percent.olive_oil"),
            ("predict", '{"percent": {"olive_oil": NaN}, "temps_c": [21]}', "percent.olive_oil"),
            ("predict", '{"percent": {"olive_oil": 1e400}, "temps_c": [21]}', "percent.olive_oil"),
            ("predict", {"percent": {"olive_oil": "1"}, "temps_c": [21]}, "percent.olive_oil"),
            ("predict", {"percent": {"olive_oil": 0}, "temps_c": [21]}, "percent"),
            ("predict", {"percent": {}, "temps_c": [21]}, "percent"),
            ("predict", {"percent": TUBE}, "temps_c"),
            ("predict", {"percent": TUBE, "temps_c": [True]}, "temps_c"),
            ("predict", "[1", "input"),
            ("predict", "[" * 100_000, "input"),
            ("scale", {"percent": TUBE, "containers": []}, "containers"),
            ("scale", {"percent": TUBE, "containers": [{"key": "bucket", "count": 1}]}, "containers.0.key"),
            ("scale", {"percent": TUBE, "containers": [{"key": "tin_screw_30", "count": 1.5}]}, "containers.0.count"),
            (
                "scale",
                {"percent": TUBE, "containers": [{"capacity_ml": 15, "fill": 1.4, "count": 1}]},
                "containers.0.fill",
            ),
            ("scale", {"percent": TUBE, "containers": tins, "resolution_g": 0}, "resolution_g"),
            ("scale", {"percent": TUBE, "containers": tins, "loss_g": -1}, "loss_g"),
            ("bake", {}, "command"),
        ):
            with self.subTest(command=command, request=str(request)[:60]):
                code, answer = self.ask(command, request)
                self.assertEqual((code, answer["where"]), (2, where))
                self.assertTrue(answer["problem"].endswith("."))
