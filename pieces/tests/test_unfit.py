"""A lot that turned bad is known wherever something of it goes on: stock, plan, bench, pour, labels, pieces, stall."""

from datetime import timedelta
from decimal import Decimal as D

from django.test import TestCase
from django.utils import timezone

from balmcore.composition import Composition
from balmcore.display import day_words
from batches.models import Batch
from formulas.models import Version
from pantry.models import Entry, Lot
from pantry.queries import in_stock
from pantry.services import Purchase, mark, move, receive
from pantry.tables import workshop_tables
from pieces.accounts import hand_out
from pieces.models import Handout
from pours.models import Pour
from tests.support.makings import begin
from tests.support.pages import form_data

SALVE = {"beeswax_yellow": D("0.2"), "olive_oil": D("0.8")}
SAID = "Olive oil, lot 1, is recalled"
ASKS = f"{SAID}: do not use it or hand it on. If it goes on all the same, say first that you know."


class UnfitTests(TestCase):
    def setUp(self) -> None:
        self.oil = receive(Purchase("olive_oil", D(500)))
        self.said = SAID.replace("lot 1", str(self.oil))
        self.asks = ASKS.replace("lot 1", str(self.oil))
        receive(Purchase("beeswax_yellow", D(200)))

    def plan(self, version: Version, status: int = 302, **changes: str) -> str:
        page = self.client.get("/batches/plan", {"version": version.pk})
        answer = self.client.post("/batches/plan", form_data(page, "plan", save="1", **changes))
        self.assertEqual(answer.status_code, status)
        return answer.content.decode()

    def weigh(self, batch: Batch, status: int = 200) -> str:
        path = f"/bench/{batch.pk}/weigh"
        typed = {f"actual-{line.slot}": str(line.target_g) for line in batch.lines.all()}
        answer = self.client.post(path, form_data(self.client.get(path), "weigh", **typed))
        self.assertEqual(answer.status_code, status)
        return answer.content.decode()

    def pour(self, batch: Batch, status: int = 302, **changes: str) -> str:
        path = f"/pours/of/{batch.pk}"
        answer = self.client.post(path, form_data(self.client.get(path), "pour", **changes))
        self.assertEqual(answer.status_code, status)
        return answer.content.decode()

    def made(self) -> Pour:
        """A salve weighed and poured, of which ten grams were kept."""
        self.plan(begin("Ebb", "soft_salve", Composition.of(SALVE)).versions.get())
        batch = Batch.objects.get()
        self.weigh(batch)
        self.pour(batch, leftover_g="10 g", leftover_kept="on")
        return Pour.objects.get()

    def test_what_was_made_of_it_asks_before_it_goes_on(self) -> None:
        """Labels, pieces and the stall sheet of what was poured; said once, it goes on; good again, all is quiet."""
        pour = self.made()
        mark(self.oil, Lot.State.RECALLED)
        label, pieces = f"/labels/{pour.pk}/", f"/labels/{pour.pk}/pieces"
        for path in (label, pieces, "/labels/", f"/pours/{pour.pk}/", f"/batches/{pour.batch_id}/"):
            self.assertContains(self.client.get(path), self.said, msg_prefix=path)
        printed = self.client.get(f"{label}sheet.pdf", follow=True)
        self.assertContains(printed, self.asks)
        given = self.client.post(pieces, {"how": "sold", "count": "1"})
        self.assertContains(given, self.asks, status_code=400)
        self.assertFalse(Handout.objects.exists())
        self.assertContains(self.client.get("/labels/stall"), f"is left out. {self.said}: not to be sold.")
        spoiled = self.client.post(pieces, {"how": "spoiled", "count": "1"})
        self.assertEqual(spoiled.status_code, 302)
        know = f"/batches/{pour.batch_id}/know"
        self.assertContains(
            self.client.get(f"{know}?back={label}"), f"<strong>Do not use or hand on.</strong> {self.said}."
        )
        self.assertRedirects(self.client.post(know, {"back": label}), label)
        for elsewhere in ("https://elsewhere.test/", "//elsewhere.test/", "nowhere", "formulas:studio", ""):
            self.assertRedirects(self.client.post(know, {"back": elsewhere}), f"/batches/{pour.batch_id}/")
        self.assertContains(self.client.get(label), "You said that you know it.")
        self.assertEqual(self.client.get(f"{label}sheet.pdf")["Content-Type"], "application/pdf")
        self.assertEqual(self.client.post(pieces, {"how": "sold", "count": "1"}).status_code, 302)
        self.assertNotContains(self.client.get("/labels/stall"), "is left out")
        mark(self.oil, Lot.State.GOOD)
        self.assertNotContains(self.client.get(label), "Do not use")
        hand_out(pour, Handout.How.GIVEN, 1, "Morwen", "", pour.poured_on)

    def test_plan_pour_and_label_say_one_best_before(self) -> None:
        """A batch that nobody weighed goes by the lots that its sheet names, as they were when it was poured; the last
        spoonful of an old lot counts where it serves, and not where it does not."""
        today = timezone.localdate()
        old = receive(Purchase("olive_oil", D(5), best_before=today + timedelta(days=30)))
        receive(Purchase("olive_oil", D(900), best_before=today + timedelta(days=200)))
        mark(self.oil, Lot.State.RANCID)
        version = begin("Ebb", "soft_salve", Composition.of(SALVE)).versions.get()
        said = f"Best before {day_words(today + timedelta(days=30))}: the lot of olive oil ends then."
        self.assertContains(self.client.get("/batches/plan", {"version": version.pk}), said)
        self.plan(version)
        batch = Batch.objects.get()
        self.pour(batch)
        pour = Pour.objects.get()
        self.assertEqual(pour.best_before, today + timedelta(days=30))
        move(old, D(-5), Entry.Kind.WASTED)
        label = self.client.get(f"/labels/{pour.pk}/")
        self.assertEqual(label.context["content"].keeps.until, pour.best_before)
        later = f"Best before {day_words(today + timedelta(days=200))}"
        self.assertContains(self.client.get("/batches/plan", {"version": version.pk}), later)

    def test_what_is_under_way_asks_at_bench_weigh_page_and_pour(self) -> None:
        """The oil turns out bad with the wax still to come: nothing more is weighed or poured before a yes."""
        self.plan(begin("Ebb", "soft_salve", Composition.of(SALVE)).versions.get())
        batch = Batch.objects.get()
        path = f"/bench/{batch.pk}/weigh"
        oil = {"actual-olive_oil": str(batch.lines.get(ingredient_key="olive_oil").target_g)}
        self.client.post(path, form_data(self.client.get(path), "weigh", **oil))
        mark(self.oil, Lot.State.RANCID)
        said = self.asks.replace("recalled", "rancid")
        self.assertIn(said, self.weigh(batch, 400))
        bench = self.client.get(f"/bench/{batch.pk}/?step=weigh:beeswax_yellow")
        self.assertContains(bench, self.said.replace("recalled", "rancid"))
        typed = form_data(bench, "take", grams="20", do="weigh") if b'id="take"' in bench.content else {
            "step": bench.context["step"].key, "after": "0", "grams": "20", "do": "weigh"}  # fmt: skip
        self.assertContains(self.client.post(f"/bench/{batch.pk}/do", typed), said, status_code=400)
        self.assertIn(said, self.pour(batch, 400))
        self.assertEqual(batch.lines.get(ingredient_key="beeswax_yellow").actual_g, None)
        self.client.post(f"/batches/{batch.pk}/know", {})
        self.weigh(batch)
        self.pour(batch)

    def test_what_was_kept_of_it_serves_no_batch_and_is_asked_about(self) -> None:
        """The leftover of a recalled melt: said in stock and on its page, in no sum, and planned with a spoken yes only."""
        self.made()
        rest = Lot.objects.get(origin=Lot.Origin.LEFTOVER)
        tables = workshop_tables()
        shares = {rest.item_key: D("0.5"), "olive_oil": D("0.5")}
        version = begin("Flood", "soft_salve", Composition.of(shares, tables), tables).versions.get()
        self.assertEqual(in_stock([rest.item_key]), {rest.item_key: D(10)})
        mark(self.oil, Lot.State.RECALLED)
        self.assertEqual(in_stock([rest.item_key]), {rest.item_key: D(0)})
        through = f"{self.said}, by the rest of batch {Batch.objects.get().pk}"
        self.assertContains(self.client.get(f"/pantry/lots/{rest.pk}/"), self.said)
        self.assertContains(self.client.get("/pantry/"), f"Not to be used: {self.said}")
        page = self.plan(version, 400)
        self.assertIn("not to be used. Olive oil", page)
        self.assertIn("say that you know" if "say that you know" in page else "write here that you know", page)
        self.plan(version, override_reason="For the workshop's own boots only.")
        second = Batch.objects.latest("pk")
        self.weigh(second)
        self.assertFalse(second.lines.get(ingredient_key=rest.item_key).draws.exists(), through)
        mark(self.oil, Lot.State.GOOD)
        self.assertEqual(in_stock([rest.item_key]), {rest.item_key: D(10)})
