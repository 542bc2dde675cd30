"""What the core answers from a shell for every kind's starting point, held against ``said.json``.

``make said`` writes it anew: the difference is then read before it is committed, as any other change.
"""

import io
import json
import os
from pathlib import Path
from typing import Any

from balmcore import cli
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase

FILE = Path(__file__).parent / "said.json"
HOLD = {"firmness": 20, "temp_c": 38}
RECIPES = {
    "us": "1/2 cup olive oil\n1 oz beeswax\n2 tbsp shea butter\n10 drops lavender",
    "metric": "2 parts coconut oil, 1 part cocoa butter and 1 part beeswax\na pinch of mica",
    "au": "three tablespoons of castor oil (60 g)\n1½ tsp vitamin E\n20% candelilla wax",
}


def _asked() -> list[tuple[str, dict[str, Any]]]:
    asked: list[tuple[str, dict[str, Any]]] = []
    for kind in shipped().kinds.values():
        start = {"percent": dict(kind.start)}
        wax = next((key for key in start["percent"] if "wax" in key), "")
        asked += [
            ("predict", {**start, "temps_c": [4, 18, 21, 26, 33, 38, 45, 60], "overrun": kind.overrun}),
            ("judge", {**start, "kind": kind.key}),
            ("cautions", {**start, "audience": "pregnant", "area": kind.area, "policy": "cautious"}),
            ("target", {**start, "firmness": [50, 60], "hold": HOLD, "wishes": {"vegan": True}}),
            ("scale", {**start, "containers": [{"key": "tin_screw_30", "count": 7}], "loss_g": 3, "resolution_g": 0.1}),
            ("cool", {**start, "mass_g": 200, "area_m2": 0.03, "volume_m3": 2.2e-4, "start_c": 80, "room_c": 20,
                      "h_w_m2_k": 9, "stirred": True, "to_c": [60, 50, 40, 30]}),
            ("declare", {"grams": dict(kind.start), "names": "both"}),
            ("portions", {**start, "finishes": [{"name": "plain", "product_g": 60}, {"name": "scented", "product_g": 40,
                          "add": {"lavender": 0.5}}], "loss_g": 3, "resolution_g": 0.1}),
            ("rescue", {**start, "mass_g": 180, "want_firmness": 70, "add": "beeswax_yellow"}),
            *([("swap", {**start, "out": wax, "in": "carnauba_wax", "filler": "olive_oil"})] if wax else []),
        ]  # fmt: skip
    asked += [("read", {"text": text, "kitchen": kitchen}) for kitchen, text in RECIPES.items()]
    pours = [{"percent": {"beeswax_yellow": wax, "olive_oil": 100 - wax}, "temp_c": 20, "firmness": firmness,
              "method": "press"} for wax, firmness in ((10, 45), (14, 60), (20, 80))]  # fmt: skip
    day = [{"name": name, "percent": {"beeswax_yellow": wax, "olive_oil": 100 - wax}, "mass_g": grams, "room_c": 20}
           for name, wax, grams in (("ebb", 15, 300), ("flood", 20, 2400))]  # fmt: skip
    asked += [("day", {"batches": day, "room": {"stove": 2}}), ("day", {"batches": [day[0], day[0]]})]
    return [*asked, ("calibrate", {"pours": pours, "predict": [{**pours[1], "temp_c": 26}]})]


def _rounded(value: Any) -> Any:
    """Five figures of every number: what lies behind them is the machine's."""
    if isinstance(value, dict):
        return {key: _rounded(each) for key, each in value.items()}
    if isinstance(value, list):
        return [_rounded(each) for each in value]
    return float(f"{value:.5g}") if isinstance(value, float) else value


class SaidTests(CoreTestCase):
    def test_every_command_answers_as_it_did(self) -> None:
        """Each command on each kind's starting point, and three recipes: the same figures, words and refusals."""
        said = {}
        for command, request in _asked():
            answer = io.StringIO()
            cli.main([command], io.StringIO(json.dumps(request)), answer)
            said[f"{command} {json.dumps(request)}"] = _rounded(json.loads(answer.getvalue()))
        if os.environ.get("SAID") == "anew":
            FILE.write_text(json.dumps(said, indent=1, ensure_ascii=False) + "\n")
        kept = json.loads(FILE.read_text())
        self.assertEqual(list(said), list(kept))
        for asked, answer in said.items():
            with self.subTest(asked[:120]):
                self.assertEqual(answer, kept[asked])
