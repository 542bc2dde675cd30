"""Stock and plan by hand in a real browser: a rest that goes on, a lot chosen, a plan by keyboard."""

from datetime import timedelta
from decimal import Decimal as D

from django.utils import timezone
from playwright.sync_api import expect

from balmcore.composition import Composition
from batches.models import Batch, Draw
from demo.loader import plan
from formulas.models import Version
from pantry.models import Leftover, Lot, OwnIngredient
from pantry.services import Purchase, receive
from pantry.tables import workshop_tables
from pours.models import Pour
from tests.support.browser import BrowserTestCase
from tests.support.makings import begin, weigh_to_target


class LoftTests(BrowserTestCase):
    def test_the_rest_of_a_melt_goes_into_the_next_formula_and_is_found_again(self) -> None:
        """12 g stay in the jug, are found by name in the studio, and a recall of the wax finds both pours."""
        page = self.page
        wax = receive(Purchase("beeswax_yellow", D(200), price=D("4.00"), supplier="Slipway"))
        version = begin("Topsail", "pot_salve").versions.get()
        batch = plan(version, {"tin_screw_30": 2})
        weigh_to_target(batch)
        self.go(f"/pours/of/{batch.pk}")
        page.get_by_label("Stayed in the jug").fill("12 g")
        page.get_by_label("Into stock, with the composition it truly has").check()
        page.get_by_role("button", name="Write it down").click()
        self.says(".done", "The pour is written down.")
        rest = Leftover.objects.get()
        self.says(".pour-columns", f"Kept as lot {Lot.objects.get(item_key=rest.key).pk}")

        second = begin("Second", "soft_salve")
        self.go(f"/formulas/{second.pk}/")
        before = page.locator("#firmness").inner_text()
        page.get_by_placeholder("Add an ingredient").fill("rest of")
        page.get_by_role("button", name="Rest of Topsail v1").click()
        page.locator(f"#percent-{rest.key}").fill("40")
        # The rest is waxier than what it displaces: 40 % of a 17 % wax salve against 13 % throughout.
        expect(page.locator("#firmness")).not_to_have_text(before)
        self.says("#total", "100.00 %")
        page.get_by_placeholder("Why this version").fill("Uses up the rest.")
        page.get_by_role("button", name="Save version").click()
        self.says(".done", "Saved as version 2.")
        newest = Version.objects.get(formula=second, number=2)
        self.assertEqual(
            next(line.share for line in newest.to_composition(workshop_tables()).lines if line.key == rest.key),
            D("0.4"),
        )

        page.get_by_role("link", name="Batch", exact=True).click()
        page.locator("#fill-0").fill("5 g")
        page.locator("#count-0").fill("2")
        self.says("#batch-total", "13.0 g")
        page.get_by_role("button", name="Plan this batch").click()
        page.get_by_role("link", name="Weigh").click()
        page.locator(f"#actual-{rest.key}").fill("5.2")
        page.locator(f"#actual-{rest.key}").press("Tab")
        self.says(f"#row-{rest.key}", f"Lot {Lot.objects.get(item_key=rest.key).pk}")
        self.go(f"/pantry/lots/{wax.pk}/")
        page.get_by_label("Why").fill("Their letter of today.")
        page.get_by_role("button", name="Recalled").click()
        self.says("h1", "recalled")
        self.says("#account", "Recalled. Their letter of today.")
        page.get_by_role("link", name="What was made from it").click()
        self.says("main", "2 pieces in 1 pour, and 1 batch weighed but not poured.")
        self.says("main", "Second v2")

    def test_another_lot_is_chosen_at_the_bench_and_the_stock_follows(self) -> None:
        """The old lot is offered first; the new one is taken instead, and the account says so."""
        page = self.page
        today = timezone.localdate()
        old = receive(Purchase("olive_oil", D(300), best_before=today + timedelta(9), supplier="Old quay"))
        new = receive(Purchase("olive_oil", D(300), best_before=today + timedelta(400), supplier="New quay"))
        version = begin("Topsail", "pot_salve").versions.get()
        batch = plan(version, {"tin_screw_30": 2})
        self.go(f"/bench/{batch.pk}/weigh")
        self.says("#lot-olive_oil", f"Lot {old.pk}, first to expire")
        page.locator("#actual-olive_oil").fill("40")
        page.locator("#actual-olive_oil").press("Tab")
        self.says("#lot-olive_oil", "Old quay: 260.0 g free")
        page.get_by_label("Lot of Olive oil").select_option(str(new.pk))
        self.says("#lot-olive_oil", "New quay: 260.0 g free")
        self.says("#lot-olive_oil", "Old quay: 300.0 g free")
        self.assertEqual(sum(draw.grams for draw in Draw.objects.filter(lot=new)), 40)
        self.assertEqual(sum(draw.grams for draw in Draw.objects.filter(lot=old)), 0)
        self.go(f"/pantry/lots/{old.pk}/")
        self.says("#account", "Put back from a batch")
        self.says("#lot-left", "300.0 g")
        page.get_by_label("How much").fill("301")
        page.get_by_role("button", name="This much was wasted").click()
        self.says("main", "only 300 g are left: 301 g cannot leave it.")
        self.refused()
        expect(page.get_by_label("How much")).to_have_value("301")

    def test_a_batch_is_planned_by_keyboard_alone(self) -> None:
        """From the formula's Batch link by Tab, arrows and Enter to a batch on the clock."""
        page = self.page
        composition = Composition.of({"beeswax_yellow": D("0.2"), "olive_oil": D("0.8")})
        version = begin("Topsail", "pot_salve", composition).versions.get()
        receive(Purchase("beeswax_yellow", D(40)))
        self.go(f"/batches/plan?version={version.pk}")
        keys = page.keyboard
        page.locator("#count-0").focus()
        keys.press("Control+A")
        keys.type("12")
        self.says("#batch-total", "155.8 g")
        keys.press("Tab")
        keys.press("Control+A")
        keys.type("10 g")
        self.says("#batch-total", "123.0 g")
        for _ in range(4):  # over the remove button, Add a container and Another finish
            keys.press("Tab")
        expect(page.get_by_role("button", name="As many as the stock allows")).to_be_focused()
        keys.press("Enter")
        expect(page.locator("#count-0")).to_have_value("19")
        self.says("#batch-total", "193.0 g")
        page.get_by_label("Cooling").focus()
        keys.type("Slow")
        self.says("#clock", "of it at your hands.")
        page.get_by_label("When").focus()
        keys.type("Start")
        page.get_by_label("Day and time").fill(f"{timezone.localdate() + timedelta(3)}T09:30")
        keys.press("Tab")
        self.says("#clock", ", 09:30, ready")
        page.get_by_role("button", name="Plan this batch").focus()
        keys.press("Enter")
        self.says(".sheet", "19 × ")
        batch = Batch.objects.get()
        self.assertEqual((timezone.localtime(batch.starts_at).strftime("%H:%M"), batch.cooling), ("09:30", "counter"))
        # A second one at the same time has to wait for hands and stove.
        self.go(f"/batches/plan?version={version.pk}")
        page.get_by_label("When").select_option("start")
        page.get_by_label("Day and time").fill(f"{timezone.localdate() + timedelta(3)}T09:30")
        keys.press("Tab")
        self.says("#clock", "has your hands then.")

    def test_an_own_wax_from_the_pantry_to_the_curve(self) -> None:
        """Given by its melting range it stands in the studio at once; nonsense is told beside its field."""
        page = self.page
        self.go("/pantry/ingredients")
        page.get_by_label("Name").fill("Loft wax")
        page.get_by_label("Begins to melt at").fill("70")
        page.get_by_label("Molten at").fill("60")
        page.get_by_role("button", name="Add it").click()
        self.says("#own-ingredient", "It cannot begin to melt at 70 °C and be molten at 60 °C already")
        self.refused()
        expect(page.get_by_label("Begins to melt at")).to_have_value("70")
        page.get_by_label("Molten at").fill("74 °C")
        page.get_by_role("button", name="Add it").click()
        self.says(".done", "Loft wax is among your ingredients.")
        own = OwnIngredient.objects.get()
        self.go(f"/pantry/ingredients/{own.key}")
        self.says("main", "little known")
        self.says("main", "70–74 °C")
        formula = begin("Skerry", "pot_salve")
        self.go(f"/formulas/{formula.pk}/")
        page.get_by_placeholder("Add an ingredient").fill("loft")
        page.get_by_role("button", name="Loft wax").click()
        page.locator(f"#percent-{own.key}").fill("8")
        self.says(".verdict", "± 12")
        self.assertEqual(Pour.objects.count(), 0)
