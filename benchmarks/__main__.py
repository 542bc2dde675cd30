"""``make bench``: prints each figure beside its aim, and ends with 1 when one is missed."""

import atexit
import gc
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterable
from datetime import timedelta
from itertools import cycle
from urllib.parse import urlencode

os.environ["CALM_TIN_DATA"] = tempfile.mkdtemp(prefix="calm-tin-bench-")
os.environ["DJANGO_SETTINGS_MODULE"] = "calmtin.settings"

import django
import numpy as np

from benchmarks.browser import browser
from benchmarks.bundle import bundle
from benchmarks.labels import labels
from benchmarks.live import live
from benchmarks.month import month
from benchmarks.pours import fill, learning

FORM = "application/x-www-form-urlencoded"  # as a browser posts it
KEYS = (
    "beeswax_yellow", "candelilla_wax", "cocoa_butter", "shea_butter", "kokum_butter",
    "coconut_oil", "olive_oil", "castor_oil", "jojoba_oil", "lavender",
)  # fmt: skip
WARM_UP = 5
PERCENT = (14, 4, 12, 14, 6, 10, 16, 12, 11, 1)


def seconds(work: Callable[[], object], times: int) -> float:
    """Median time of one call, after a few to warm up and with what went before swept away."""
    for _ in range(WARM_UP):
        work()
    gc.collect()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def _yardstick() -> float:
    """Seconds that the same plain work takes now: by how much the machine itself is slower than it was."""
    start = time.perf_counter()
    for _ in range(20_000):
        sum(range(20))
    return time.perf_counter() - start


class Report:
    """Prints lines and remembers whether an aim was missed; says where the machine itself was slow."""

    def __init__(self) -> None:
        self.missed = 0
        self.quiet = min(_yardstick() for _ in range(20))

    def line(self, what: str, figure: float, aim: float, unit: str, beside: str = "") -> None:
        """One figure with its aim."""
        self.missed += figure > aim
        now = min(_yardstick() for _ in range(3))
        self.quiet = min(self.quiet, now)
        slow = f"  the machine took {now / self.quiet:.1f} times as long as it can" if now > 1.2 * self.quiet else ""
        print(f"{what:<58} {figure:8.2f} {unit:<6} aim {aim:g}{'' if figure <= aim else '  MISSED'}  {beside}{slow}")


def core(report: Report) -> None:
    """The solver on the triangle and on the curve, against one bare pass over the same arrays."""
    from balmcore.composition import Composition
    from balmcore.design.triangle import grid, spread
    from balmcore.physics.basis import basis
    from balmcore.physics.solids import solubility

    composition = Composition.of(dict(zip(KEYS, PERCENT, strict=True)))
    items, shares = spread(composition, grid(100))
    compiled = basis(items)
    whole = (compiled.per_gram @ (shares / shares.sum(axis=1, keepdims=True)).T)[: len(compiled.melt_c)].T.copy()

    def bare(moles: np.ndarray, soluble: np.ndarray) -> float:
        liquid = np.full(max(len(moles), len(soluble)), 1e-3)
        return seconds(lambda: np.minimum(moles, soluble * liquid[:, None]).sum(axis=1), 400)

    room = np.array([21.0])
    plain = bare(whole, solubility(compiled.melt_c, compiled.dh_j_mol, room).T)
    taken = seconds(lambda: compiled.state(shares, room).firmness, 60)
    report.line(
        f"(a) {len(shares)} compositions x 1 temperature, ratio", taken / plain, 15, "x", f"{taken * 1e3:.2f} ms"
    )

    temps = np.linspace(0, 60, 121)
    plain = bare(whole[:1], solubility(compiled.melt_c, compiled.dh_j_mol, temps).T.copy())
    taken = seconds(lambda: compiled.state(shares[:1], temps).firmness, 400)
    report.line("(b) curve at 121 temperatures, ratio", taken / plain, 15, "x", f"{taken * 1e6:.0f} us")


RECIPE = """1 cup sunflower oil
¼ cup beeswax pellets
2 to 3 oz shea butter, melted
1 tsp vitamin E
20 drops lavender per 100 g
30 g cocoa butter or 20 g mango butter
2 tbsp castor oil
10 g candelilla wax
5 g moonlight
½ cup olive oil (108 g)
jojoba.....15 g
if too soft add 5 g more wax"""


def reading(report: Report) -> None:
    """A recipe of twelve lines, no two alike."""
    from balmcore.recipes.reading import read

    taken = seconds(lambda: read(RECIPE, "us"), 20) * 1e3
    report.line("a recipe of twelve lines is read", taken, 60, "ms")


def design(report: Report) -> None:
    """A target request for twelve lines against one SLSQP run on a quadratic of the same size;
    stand-ins ranked; a swap."""
    from scipy.optimize import minimize

    from balmcore.composition import Composition
    from balmcore.design.substitution import stand_ins, substitute
    from balmcore.design.target import Target, reformulate
    from balmcore.design.wishes import read_wishes
    from balmcore.tables import shipped

    more = {"mango_butter": 5, "sweet_almond_oil": 6}
    composition = Composition.of({**dict(zip(KEYS, PERCENT, strict=True)), **more})
    count = len(composition.lines)
    start = np.full(count, 1 / count)
    goal = np.linspace(0, 2 / count, count)

    def quadratic() -> object:
        return minimize(
            lambda x: ((x - goal) ** 2).sum(),
            start,
            jac=lambda x: 2 * (x - goal),
            bounds=[(0, 1)] * count,
            constraints=[{"type": "eq", "fun": lambda x: x.sum() - 1, "jac": lambda x: np.ones(count)}],
            method="SLSQP",
        )

    bare = seconds(quadratic, 40)
    asked = Target(70, 80, 45, 40)
    taken = seconds(lambda: reformulate(composition, asked), 20)
    report.line(f"(e) target request, {count} lines", taken * 1e3, 150, "ms", f"{taken / bare:.1f} x a bare SLSQP run")
    refused = Target(70, 80, 60, 55)
    report.line(
        "    one that cannot be met, and why", seconds(lambda: reformulate(composition, refused), 5) * 1e3, 1000, "ms"
    )
    wax, other, oil = (shipped().ingredient(key) for key in ("beeswax_yellow", "sunflower_wax", "olive_oil"))
    report.line(
        "(f) stand-ins ranked",
        seconds(lambda: stand_ins(wax, shipped(), read_wishes(shipped(), vegan=True)), 20) * 1e3,
        100,
        "ms",
    )
    swapped = seconds(lambda: substitute(composition, wax.key, other, oil), 20)
    report.line("    a swap, both ways", swapped * 1e3, 100, "ms")


def web(report: Report) -> None:
    """A studio edit against an empty view, and the pours page with 5,000 pours against 50."""
    from benchmarks.visitor import Visitor
    from formulas.models import Formula
    from tests.support.pages import form_data

    client = Visitor()
    formula = Formula.objects.get(name="Neap Tide")
    page = client.get(f"/formulas/{formula.pk}/")

    def asked(changes: Iterable[dict[str, str]]) -> Callable[[], None]:
        """Ask for one change after the other, as the page would; the forms are written before the clock runs."""
        bodies = cycle([urlencode(form_data(page, "studio", **each), doseq=True) for each in changes])
        address, of_a_page = f"/formulas/{formula.pk}/try", {"HX-Request": "true"}

        def ask() -> None:
            assert client.post(address, next(bodies), FORM, headers=of_a_page).status_code == 200

        return ask

    wax = "beeswax_yellow"
    edit = asked({"edited": wax, f"percent-{wax}": f"{15 + n / 10:.1f}"} for n in range(40))
    # The picker without a word answers nothing: middleware, address and an empty template. Turn by turn: a machine
    # that slows down meanwhile slows both.
    turns = [(seconds(edit, 15), seconds(lambda: client.get("/pantry/pick"), 15)) for _ in range(9)]
    ratio, taken = (statistics.median(each) for each in zip(*((a / b, a) for a, b in turns), strict=True))
    report.line("(c) a studio edit on the server, ratio to an empty view", ratio, 8, "x", f"{taken * 1e3:.1f} ms")
    drag = asked({"place": f"0.{20 + n};0.25"} for n in range(20))
    report.line("    a drag's answer", seconds(drag, 60) * 1e3, 150, "ms")
    fill(50)
    few = seconds(lambda: client.get("/pours/"), 15)
    before = client.queries("/pours/")
    fill(5000)
    many = seconds(lambda: client.get("/pours/"), 15)
    after = client.queries("/pours/")
    report.line("(d) pours page with 5,000 pours, ratio to 50", many / few, 3, "x", f"{many * 1e3:.1f} ms")
    report.line("    more queries with 5,000 than with 50", after - before, 0, "", f"{after} queries")


def plans(report: Report) -> None:
    """Planning twelve lines into three containers with method, strip, stock and cost; the pantry
    with 400 lots against 40, and the plan with 200 batches against 20."""
    from decimal import Decimal

    from django.utils import timezone

    from balmcore.composition import Composition, normalise
    from batches.clock.scheduling import Schedule
    from batches.models import Batch
    from batches.services import plan_batch
    from benchmarks.visitor import Visitor
    from demo.loader import a_plan
    from pantry.services import Purchase, receive
    from tests.support.makings import begin
    from tests.support.pages import form_data

    client = Visitor()
    more = {"mango_butter": 5, "sweet_almond_oil": 6}
    shares = normalise(Composition.of({**dict(zip(KEYS, PERCENT, strict=True)), **more}))
    version = begin("Bench", "hand_balm", shares).versions.get()
    page = client.get(f"/batches/plan?version={version.pk}")
    data = form_data(page, "plan", container=["tin_screw_60", "lip_tube_4_5g", "jar_glass_100"], count=["6", "10", "2"],
                     fill=["90", "92", "88"], when="start",
                     moment=f"{timezone.localdate() + timedelta(9)}T10:00")  # fmt: skip

    def planning() -> None:
        assert client.post("/batches/plan", data).context is None

    report.line("(g) planning, 12 lines in 3 containers, with its clock", seconds(planning, 30) * 1e3, 120, "ms")

    def lots(count: int) -> None:
        for n in range(count):
            receive(Purchase(KEYS[n % len(KEYS)], Decimal(100 + n), price=Decimal(3), supplier=f"Supplier {n % 7}"))

    lots(40)
    few, before = seconds(lambda: client.get("/pantry/"), 15), client.queries("/pantry/")
    lots(360)
    many, after = seconds(lambda: client.get("/pantry/"), 15), client.queries("/pantry/")
    report.line("(h) pantry with 400 lots, ratio to 40", many / few, 1.5, "x", f"{many * 1e3:.1f} ms")
    report.line("    more queries with 400 lots than with 40", after - before, 0, "", f"{after} queries")

    days = iter(range(20, 10_000))  # a day for each, so that none is in another's way

    def batches(count: int) -> None:
        chosen = a_plan(version, {"tin_screw_30": 4}, shares)
        for _ in range(count):
            start = timezone.now() + timedelta(days=next(days))
            plan_batch(version, shares, chosen, chosen.scaled(shares), Schedule(start, 90, ()))

    batches(20)
    few, before = seconds(lambda: client.get("/batches/"), 15), client.queries("/batches/")
    batches(180)
    many, after = seconds(lambda: client.get("/batches/"), 15), client.queries("/batches/")
    assert Batch.objects.unpoured().count() > 200
    report.line("(i) the plan with 200 batches, ratio to 20", many / few, 1.5, "x", f"{many * 1e3:.1f} ms")
    report.line("    more queries with 200 batches than with 20", after - before, 0, "", f"{after} queries")


# What is timed one after another, each in a process and a workshop of its own.
PARTS: dict[str, tuple[Callable[[Report], None], ...]] = {
    "core": (core, reading, design),
    "web": (web,),
    "live": (live,),
    "plans": (plans,),
    "labels": (labels,),
    "month": (month,),
    "bundle": (bundle,),
    "learning": (learning,),
    "browser": (browser,),
}


def main(names: list[str]) -> int:
    """Time a part that is named, or all; how many aims were missed."""
    if len(names) != 1:
        chosen = names or list(PARTS)
        return sum(
            subprocess.run([sys.executable, "-m", "benchmarks", name], check=False).returncode for name in chosen
        )
    django.setup()
    from benchmarks.visitor import open_workshop

    if names[0] not in ("core", "bundle", "browser"):
        open_workshop()
    report = Report()
    for time_it in PARTS[names[0]]:
        time_it(report)
    return report.missed


if __name__ == "__main__":
    atexit.register(shutil.rmtree, os.environ["CALM_TIN_DATA"], ignore_errors=True)
    sys.exit(min(main(sys.argv[1:]), 100))
