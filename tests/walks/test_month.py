"""A month of batches, by its commonest jobs and how many actions each takes: in a real browser."""

from collections.abc import Callable
from datetime import datetime, timedelta
from decimal import Decimal as D

from django.utils import timezone
from playwright.sync_api import Locator, expect

from batches.models import Batch
from formulas.models import Formula
from pantry.models import Entry, Lot, OwnContainer
from pantry.services import Purchase, receive
from pieces.models import Handout, Market, Person
from pours.models import Pour
from tests.support.browser import BrowserTestCase
from tests.support.net_loft import YEAR, load

LONG = "Northnortheasterlywind" * 6  # no space in 132 letters


class MonthTests(BrowserTestCase):
    reset_sequences = True

    def setUp(self) -> None:
        super().setUp()
        load(YEAR)
        self.actions = 0

    def do(self, action: Callable[..., object], *words: str) -> None:
        """An action of a maker: a click, or a field filled in."""
        self.actions += 1
        action(*words)

    def link(self, name: str) -> Locator:
        return self.page.locator("#main").get_by_role("link", name=name, exact=True)

    def starts(self) -> list[datetime]:
        """When what has a time begins, in order."""
        return [
            start
            for start in Batch.objects.on_clock().order_by("starts_at").values_list("starts_at", flat=True)
            if start
        ]

    def test_planned_again_in_two_and_found_by_number_in_two(self) -> None:
        """From a pour as it was; its number in the field of the house leads to the batch."""
        pour = Pour.objects.filter(finish=None).latest("pk")
        self.go(f"/pours/{pour.pk}/")
        self.do(self.link("Plan again").click)
        self.do(self.page.get_by_role("button", name="Plan this batch").click)
        self.says("h1", f"Batch {Batch.objects.latest('pk').pk}")
        self.assertLessEqual(self.actions, 2)
        made = Batch.objects.latest("pk")
        as_before = [(row.container_key, row.count) for row in pour.batch.containers.all()]
        self.assertEqual([(row.container_key, row.count) for row in made.containers.all()], as_before)
        self.actions = 0
        self.page.keyboard.press("/")
        self.do(self.page.keyboard.type, f"{pour.batch_id}")
        self.page.keyboard.press("Enter")
        self.do(self.page.locator(f"#found a[href='/batches/{pour.batch_id}/']").first.click)
        self.says("h1", f"Batch {pour.batch_id}")
        self.assertLessEqual(self.actions, 2)

    def test_four_batches_of_a_day_in_three_and_moved_along_in_three(self) -> None:
        """Laid out, looked at, kept; the first moved, and the others with it."""
        Batch.objects.unpoured().update(starts_at=None)
        newest = Pour.objects.filter(finish=None).order_by("-pk")[:3]
        for pour in newest:
            self.go(f"/batches/plan?version={pour.batch.version_id}&like={pour.batch_id}")
            self.page.get_by_role("button", name="Plan this batch").click()
            self.says("h1", "Batch")
        day = f"{timezone.localdate() + timedelta(days=3):%Y-%m-%d}"
        self.do(self.go, f"/batches/day?on={day}")
        self.do(self.page.get_by_role("button", name="Lay them out").click)
        expect(self.page.locator("svg.lanes .lane-name")).to_have_count(Batch.objects.unpoured().count())
        self.do(self.page.get_by_role("button", name="Keep these times").click)
        self.says("#main", "batches have their time")
        self.assertLessEqual(self.actions, 3)
        before = self.starts()
        self.actions = 0
        self.go(f"/batches/{Batch.objects.on_clock().earliest('starts_at').pk}/method")
        self.do(self.page.get_by_label("Day and time").fill, f"{day} 11:00")
        self.do(self.page.get_by_label("and move along").check)
        self.do(self.page.get_by_role("button", name="Put it there").click)
        self.says("#main", f"{len(before) - 1} more moved along with it.")
        self.assertEqual(len({now - then for then, now in zip(before, self.starts(), strict=True)}), 1)

    def test_a_market_day_of_nine_by_keyboard_in_twelve(self) -> None:
        """Only Tab and figures: what came back of nine products; what was sold is gone, and a sheet says what it took."""
        self.do(self.go, "/labels/market")
        self.tab_to("[name^=back-]")
        sold = 0
        for row in range(9):
            name = str(self.page.evaluate("document.activeElement.name"))
            left = int(self.page.evaluate("document.activeElement.closest('tr').querySelector('.strong').textContent"))
            self.assertTrue(name.startswith("back-"))
            sold += left
            self.do(self.page.keyboard.type, "0")
            if row < 8:
                for _ in range(3):
                    self.page.keyboard.press("Tab")
        self.do(self.page.keyboard.press, "Enter")
        self.says("#main", f"{sold} sold.")
        self.assertLessEqual(self.actions, 12)
        self.assertEqual(sum(handout.count for handout in Handout.objects.exclude(market=None)), sold)

    def test_sixty_lots_are_counted_in_seventy(self) -> None:
        """Every lot with one gram or one piece less; one reason, booked at once."""
        while Lot.objects.filter(left__gt=0).count() < 60:
            receive(Purchase("olive_oil", D(500), price=D(5)))
        self.do(self.go, "/pantry/count")
        fields = self.page.locator("input[name^=count-]").all()
        for field in fields[:60]:
            lot = Lot.objects.get(pk=int(str(field.get_attribute("name")).removeprefix("count-")))
            self.do(field.fill, f"{max(int(lot.left) - 1, 0)}")
        self.do(self.page.get_by_label("Why, for all of them").fill, "End of the year")
        self.do(self.page.get_by_role("button", name="Book what was counted").click)
        self.says("#main", "60 put right.")
        self.assertLessEqual(self.actions, 70)
        self.assertEqual(Entry.objects.filter(note="End of the year").count(), 60)

    def test_a_long_name_without_a_space_widens_no_page(self) -> None:
        """A hundred letters and more, as a formula, a supplier, a container, somebody, a place: nothing is to be scrolled
        sideways, on a phone either."""
        Formula.objects.update(name=LONG[:80])
        Lot.objects.update(supplier=LONG[:120], code=LONG[:60])
        Person.objects.create(name=LONG[:80], contact=LONG[:120])
        own = OwnContainer.objects.create(name=LONG[:80], kind="around", capacity_ml=1, fill=1)
        market = Market.objects.create(place=LONG[:120])
        pour = Pour.objects.filter(finish=None).latest("pk")
        Handout.objects.create(pour=pour, how="sold", count=1, market=market, note=LONG[:120])
        receive(Purchase(own.key, D(5), is_container=True))
        formula = pour.batch.version.formula_id
        for path in (
            "/", "/due", "/formulas/", f"/formulas/{formula}/", f"/formulas/{formula}/versions", "/batches/", "/batches/day",
            f"/batches/{pour.batch_id}/", f"/batches/{pour.batch_id}/method", f"/batches/plan?version={pour.batch.version_id}",
            "/pantry/", "/pantry/count", "/pantry/receive", "/pantry/orders", "/pantry/containers", "/pours/", f"/pours/{pour.pk}/",
            f"/pours/year/{formula}", "/labels/", "/labels/people", "/labels/market", market.get_absolute_url(),
            f"/labels/{pour.pk}/pieces", f"/labels/several?pour={pour.pk}", "/labels/stall", f"/find?q={LONG[:20]}",
        ):  # fmt: skip
            with self.subTest(path):
                self.assertEqual(self.client.get(path).status_code, 200)
                self.go(path)
                self.assertEqual(self.too_wide(self.page), [])
