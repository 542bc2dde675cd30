"""What the net loft's pages say, word by word and number by number, held against what is kept in ``said/``.

``make said`` writes it anew: the difference is then read before it is committed, as any other change.
"""

import difflib
import os
import re
from collections.abc import Iterator
from datetime import UTC
from decimal import Decimal as D
from html import unescape
from pathlib import Path
from typing import Any

from django.test import TestCase
from django.utils import timezone

from formulas.models import Formula, Version
from pours.models import Pour
from tests.support.morning import standing
from tests.support.net_loft import YEAR, load
from tests.support.pages import Answer, form_data, walk
from tests.support.visible import visible
from workshop.models import Preferences

FOLDER = Path(__file__).parent / "said"
A_VIEW = 3
LEFT_OUT = (
    "/settings/backups",
    "/settings/phones",
    "/settings/instruments",
    "/close",
)  # of this computer, not of the workshop
STEPS = re.compile(r"href=\"(/bench/\d+/\?step=[^\"]+)")
ITEMS = (
    "arrowroot carnauba_wax castor_oil lanolin lavender mica_coloured myrrh peppermint shea_butter tamanu_oil tea_tree"
)
FILES = ("/formulas/list.csv", "/batches/list.csv", "/pours/list.csv", "/pantry/list.csv", "/batches/5/calendar.ics",
         "/formulas/2/v3.json")  # fmt: skip
# The address of a page, its form, where that is sent and with what.
ASKED = (
    ("/formulas/2/", "studio", "/formulas/2/try", {"open": "reach"}),
    ("/formulas/2/", "studio", "/formulas/2/try", {"tool": "reach", "reach_kind": "lip_balm_tube", "vegan": "1"}),
    ("/formulas/2/", "studio", "/formulas/2/try", {"open": "swap"}),
    ("/formulas/2/", "studio", "/formulas/2/try", {"tool": "swap", "swap_in": "candelilla_wax"}),
    ("/formulas/2/", "studio", "/formulas/2/try", {"of": "base", "why_at": "skin"}),
    ("/batches/plan?version=5", "plan", "/batches/plan", {"add_finish": "1"}),
    ("/batches/plan?version=5", "plan", "/batches/plan", {"fill": "500 g", "count": "40"}),
    ("/batches/plan?version=5", "plan", "/batches/plan", {"when": "start", "moment": "2026-03-28T10:00"}),
    ("/batches/plan?version=5", "plan", "/batches/plan", {"when": "ready", "moment": "2026-03-29T18:00",
                                                          "cooling": "counter"}),
    ("/batches/ladder?version=5", "ladder", "/batches/ladder", {"low": "10", "high": "25", "cups": "6"}),
)  # fmt: skip


def _new(answer: Answer, before: Answer) -> list[str]:
    """The lines of an answer that the page before had not, or of a part that came alone."""
    lines, known = visible(answer.content.decode()), set(visible(before.content.decode()))
    return [line for line in lines if line not in known]


class SaidTests(TestCase):
    def test_every_page_says_what_it_said(self) -> None:
        """As far as links lead from the first page, and beyond, on one morning; some of it in ounces and degrees F:
        nothing is said otherwise than it is kept."""
        with standing(), timezone.override(UTC):
            load()
            load(YEAR)
            said: dict[str, list[str]] = {}
            for room, address, lines in self.told():
                said.setdefault(room, []).extend([f"== {address}", *lines, ""])
        if os.environ.get("SAID") == "anew":
            for file in FOLDER.glob("*.txt"):
                file.unlink()
            for room, lines in said.items():
                (FOLDER / f"{room}.txt").write_text("\n".join(lines))
        kept = {file.stem: file.read_text().split("\n") for file in FOLDER.glob("*.txt")}
        self.assertEqual(set(said), set(kept))
        for room, lines in said.items():
            told = difflib.unified_diff(kept[room], lines, f"{room} as kept", f"{room} now", lineterm="", n=1)
            with self.subTest(room):
                self.assertEqual(list(told)[:60], [])

    def told(self) -> Iterator[tuple[str, str, list[str]]]:
        """Room, address and lines of all that is asked; of an answer those that were not there before."""
        pages = walk(self.client, a_view=A_VIEW)
        more = [formula.get_absolute_url() for formula in Formula.objects.order_by("pk")]
        more += [
            f"/batches/plan?version={pk}"
            for pk in Version.objects.current().order_by("pk").values_list("pk", flat=True)
        ]
        more += [f"/pours/{pk}/" for pk in Pour.objects.order_by("pk").values_list("pk", flat=True)[::4]]
        more += [f"/pantry/ingredients/{key}" for key in ITEMS.split()]
        more += ["/pours/ladder/1", "/pours/compare?pour=7&pour=8&pour=9", "/formulas/2/compare?v=5&v=6&v=13"]
        more += [unescape(step) for step in STEPS.findall(pages["/bench/5/"])]
        for address in dict.fromkeys([*pages, *more]):
            if not address.startswith(LEFT_OUT):
                yield (
                    address.split("/")[1].split("?")[0] or "first",
                    address,
                    visible(pages.get(address) or self.page(address)),
                )
        for address in FILES:
            rows = self.client.get(address).getvalue().decode("utf-8-sig").splitlines()
            yield "files", address, [row for row in rows if "DTSTAMP" not in row]
        for address, form, target, changes in ASKED:
            shown = self.client.get(address)
            answer = self.client.post(target, form_data(shown, form, **changes))
            yield "asked", f"{target} {changes}", _new(answer, shown)
        for pk in (5, 13):
            yield from self.day_at_the_bench(pk)
        Preferences.objects.update_or_create(pk=1, defaults={"mass_unit": "oz", "temp_unit": "F"})
        for address in ("/", "/formulas/2/", "/batches/plan?version=5", "/batches/5/method", "/bench/5/weigh",
                        "/bench/5/?step=melt", "/pours/8/", "/pantry/lots/1/", "/settings/"):  # fmt: skip
            yield "ounces", address, visible(self.page(address))

    def page(self, address: str) -> str:
        """A page that is there: what is said of one that is not would be kept as if it were meant."""
        answer = self.client.get(address)
        self.assertEqual(answer.status_code, 200, address)
        return answer.content.decode()

    def day_at_the_bench(self, pk: int) -> Iterator[tuple[str, str, list[str]]]:
        """Every step of a batch as it is made: one line over-poured, a note, a timer, something that
        was not planned, a step passed over, light pieces, and the log; what it says after each."""
        path = f"/bench/{pk}/"
        asides = {
            "melt": {"do": "timer", "minutes": "5", "label": "Bath"},
            "clear": {"do": "add", "item": "castor_oil", "grams": "2 g"},
            "cool": {"do": "note", "text": "Smells of honey."},
        }
        page = self.client.get(path)
        steps = 0
        while page.context["view"].is_open:
            self.assertLess(steps := steps + 1, 60, "it does not get on")
            step, left = page.context["step"].key, page.context["view"].left_g
            if step in asides:
                does = asides.pop(step)
            elif rows := page.context.get("rows"):
                does = {"do": "fill", "stayed": "2.5", "keep": "1"}
                does |= {f"count-{row.container.pk}": row.count for row in rows}
                does |= {f"weights-{row.container.pk}": f"{row.net_g - 2:.1f}" for row in rows}
            elif left:
                part = D("1.2") if step == "weigh:shea_butter_refined" else D(1)
                does = {
                    "do": "take" if step.startswith("take") else "weigh",
                    "grams": f"{max(left * part, D('0.1')):.1f} g",
                }
            else:
                does = {"do": "skip", "why": "No time."} if step == "test" else {"do": "done"}
            answer = self.act(path, page, does)
            yield "a_day", f"{path} {step} {does['do']}", _new(answer, page)
            page = self.client.get(path)
        yield "a_day", f"{path} log", _new(self.act(path, page, {"do": "log"}), page)

    def act(self, path: str, page: Any, does: dict[str, str]) -> Answer:
        """Press a button at the step that a page shows."""
        at = {"step": page.context["step"].key, "after": page.context["bench"].run.revision}
        return self.client.post(f"{path}do", {**at, "sure": does.get("grams", ""), **does}, follow=True)
