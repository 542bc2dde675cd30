"""An ingredient chosen by typing, and ten lots received in one form."""

from decimal import Decimal as D

from django.test import TestCase

from balmcore.composition import Composition
from balmcore.errors import Problem
from balmcore.recipes.words.picking import picked
from balmcore.tables import shipped
from pantry.models import Lot
from pantry.picking import pick
from pantry.services import correct, keep_leftover
from tests.support.pages import form_data

PASTED = """Best before;What;Quantity;Paid
2027-05-01;Sunflower oil;1 L;6,50
;cera alba white;500 g;12
;Screw tin 60 mL;24;15.60
;wax;250 g;"""


class PickingTests(TestCase):
    def test_by_name_by_inci_by_what_makers_say_and_by_ear(self) -> None:
        """Cera alba is beeswax, bees wax too; jojoba is the oil before its esters; lavander is lavender; nothing sounds like xyzzy."""
        self.assertEqual(pick(shipped(), "cera alba"), ["beeswax_yellow", "beeswax_white"])
        self.assertIn("beeswax_yellow", pick(shipped(), "bees wax"))
        self.assertEqual(pick(shipped(), "jojoba")[:2], ["jojoba_oil", "jojoba_esters"])
        self.assertEqual(pick(shipped(), "shea")[0], "shea_butter_refined")
        self.assertIn("lavender", pick(shipped(), "lavander"))
        self.assertEqual((pick(shipped(), "xyzzy"), pick(shipped(), "   ")), ([], []))

    def test_what_was_typed_is_read_or_told_what_it_could_be(self) -> None:
        """Every ingredient by its key and by its name; letters that could be several are asked about."""
        tables = shipped()
        for key, item in tables.ingredients.items():
            if key != "aroma":
                with self.subTest(key):
                    self.assertEqual((picked(key, tables), picked(item.name.upper(), tables)), (key, key))
        self.assertEqual(picked("Ricinus Communis (Castor) Seed Oil", tables), "castor_oil")
        for text, said in (("wax", "“wax” could be "), ("xyzzy", "“xyzzy” is not in the pantry"),
                           ("gold", "“gold” is not in the pantry. Nearest: Tagetes (marigold)")):  # fmt: skip
            with self.assertRaises(Problem) as refused:
                picked(text, tables)
            self.assertIn(said, refused.exception.sentence)
        with self.assertRaises(Problem):
            picked("lavender", tables, roles=("oil", "wax"))

    def test_a_rest_says_when_it_was_melted_and_what_is_left(self) -> None:
        """The newest first, after what is bought; used up, it is offered no more."""
        composition = Composition.of({"beeswax_yellow": D("0.2"), "jojoba_oil": D("0.8")})
        lots = [keep_leftover("Rest of Reach", composition, D(grams), "A test.") for grams in (80, 40, 21)]
        correct(lots[0], D(0))
        page = self.client.get("/pantry/pick", {"of": "swap_in", "swap_in": "rest of reach"})
        self.assertEqual(page.content.decode().count('class="pick"'), 2)
        self.assertContains(page, "21.0 g left.")
        self.assertNotContains(page, "80.0 g left.")


class ReceivingTests(TestCase):
    def test_a_pasted_list_is_laid_into_rows_and_received_whole_or_not_at_all(self) -> None:
        """Columns by their names; what could be several is asked in its row, and until then nothing is booked."""
        page = self.client.get("/pantry/receive")
        page = self.client.post("/pantry/receive", form_data(page, "receive-all", pasted=PASTED, supplier="Slipway"))
        self.assertEqual(page.context["delivery"].count, 4)
        page = self.client.post("/pantry/receive", form_data(page, "receive-all", receive="1"))
        self.assertContains(page, "Nothing is in stock yet: 2 of 4 rows have something to put right.", status_code=400)
        self.assertContains(page, "“wax” could be", status_code=400)
        self.assertContains(page, 'href="#row-4"', status_code=400)
        self.assertEqual(Lot.objects.count(), 0)
        data = form_data(page, "receive-all", receive="1")
        data["item"][1], data["item"][3] = "Beeswax, white", "Olive oil"
        self.assertRedirects(self.client.post("/pantry/receive", data), "/pantry/")
        self.assertEqual(
            [(lot.item_key, lot.left, lot.price, lot.supplier) for lot in Lot.objects.order_by("pk")],
            [
                ("sunflower_oil", D("920"), D("6.50"), "Slipway"),
                ("beeswax_white", D(500), D(12), "Slipway"),
                ("tin_screw_60", D(24), D("15.60"), "Slipway"),
                ("olive_oil", D(250), None, "Slipway"),
            ],
        )

    def test_nonsense_is_told_and_kept(self) -> None:
        """Nothing at all, an impossible day, sixty rows and more."""
        page = self.client.get("/pantry/receive")
        empty = self.client.post("/pantry/receive", form_data(page, "receive-all", receive="1"))
        self.assertContains(empty, "Nothing to receive: write at least one row.", status_code=400)
        many = "\n".join(f"Olive oil;{n} g" for n in range(1, 80))
        page = self.client.post("/pantry/receive", form_data(page, "receive-all", pasted=many))
        self.assertContains(page, "19 rows more than 60 were left out", status_code=400)
        bad = self.client.post("/pantry/receive", form_data(empty, "receive-all", receive="1", bought="31/31/2026"))
        self.assertEqual((bad.status_code, Lot.objects.count()), (400, 0))
