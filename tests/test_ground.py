"""The ground holds: exact masses, bounds that can be shown, forms taken once, pages that grew old."""

import random
import re
from decimal import Decimal as D
from unittest.mock import patch

from django.db.models import Sum
from django.test import Client, TestCase

from balmcore import units
from balmcore.errors import Problem
from pantry import services
from pantry.models import Entry, Lot
from pantry.queries import lots_of
from pantry.services import Purchase, receive
from tests.support.net_loft import load
from tests.support.pages import form_data
from workshop.services import preferences

PAGES = ("/", "/formulas/", "/batches/", "/pours/", "/pantry/", "/settings/", "/pantry/ingredients", "/pantry/containers",
         "/pantry/preparations", "/pantry/lots/1/", "/batches/5/method", "/bench/5/weigh", "/batches/5/",
         "/batches/plan?version=6", "/formulas/1/", "/pours/1/")  # fmt: skip


class StockTests(TestCase):
    def test_lots_are_emptied_by_random_draws_to_the_last_microgram(self) -> None:
        """At 0.01, 0.1 and 1 g, over one lot or two: nothing that is there is refused, no dust stays."""
        dice = random.Random(11)
        for step in (D("0.01"), D("0.1"), D(1)):
            for _ in range(6):
                lots = [receive(Purchase("olive_oil", step * dice.randint(1, 400))) for _ in range(2)]
                left = sum((lot.left for lot in lots), D(0))
                while left:
                    part = min(left, step * dice.randint(1, 90))
                    self.assertEqual(
                        services.draw(lots_of(["olive_oil"])["olive_oil"], part, Entry.Kind.WEIGHED, "").missing, 0
                    )
                    left -= part
                for lot in lots:
                    lot.refresh_from_db()
                    self.assertEqual((lot.left, lot.entries.aggregate(Sum("amount"))["amount__sum"]), (0, 0))

    def test_masses_are_exact_to_a_microgram_and_at_most_a_ton(self) -> None:
        """An ounce has six digits; less than a microgram and more than a ton are refused."""
        self.assertEqual(units.mass_g("1 oz"), D("28.349523"))
        for text, said in (("0.0000001 g", "less than any scale shows"), ("1000001 g", "more than any bench holds")):
            with self.assertRaisesMessage(Problem, said):
                units.mass_g(text)


class BoundTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    def test_every_bound_is_taken_and_shown_and_one_step_beyond_is_refused(self) -> None:
        """Masses, money, days and steps: after each that is taken every page still opens."""
        for path, form, field, bound, beyond in (
            ("/pantry/", "receive", "amount", "1000000 g", "1000001 g"),
            ("/pantry/", "receive", "price", "100000", "100000.01"),
            ("/pantry/", "receive", "best_before", "2099-12-31", "2100-01-01"),
            ("/settings/", "settings-form", "label_price", "100000", "100001"),
            ("/settings/", "settings-form", "resolution_g", "50 g", "51 g"),
        ):
            filled = {"item": "olive_oil", "amount": "5 g"} if form == "receive" else {}
            data = form_data(self.client.get(path), form, **filled)
            with self.subTest(field=field):
                self.assertEqual(self.client.post(path, {**data, field: [beyond]}).status_code, 400)
                self.assertEqual(self.client.post(path, {**data, field: [bound]}).status_code, 302)
                for page in PAGES:
                    self.assertEqual(self.client.get(page).status_code, 200, page)

    def test_refusals_speak_the_makers_units(self) -> None:
        """In ounces and °F no sentence names a gram or a degree Celsius, and a switch changes nothing stored but the scale's step."""
        for unit, temp in (("oz", "F"), ("g", "C"), ("oz", "F")):
            typed = form_data(self.client.get("/settings/"), "settings-form", mass_unit=unit, temp_unit=temp)
            self.assertEqual(self.client.post("/settings/", typed).status_code, 302)
        prefs = preferences()
        self.assertEqual((prefs.resolution_g, prefs.cool_room_c), (D("0.283495"), 18.0))
        plan = form_data(self.client.get("/batches/plan?version=6"), "plan", room="150", resolution="9 lb", save="1")
        for response in (
            self.client.post("/batches/plan?version=6", plan),
            self.client.post("/pantry/lots/1/", {"do": "waste", "amount": "9999"}),
            self.client.post(
                "/pantry/", form_data(self.client.get("/pantry/"), "receive", item="olive_oil", amount="nan")
            ),
        ):
            said = re.findall(r'class="said[^>]*>([^<]+)<', response.content.decode())
            self.assertTrue(said)
            self.assertNotRegex(" ".join(said), r"[0-9] g\b|°C")

    def test_odd_requests_are_answered(self) -> None:
        """HEAD without a body on every page, other methods 405, numbers that never end, a fill of nan."""
        for page in PAGES:
            head = self.client.head(page)
            self.assertEqual((head.status_code, head.content), (200, b""), page)
            self.assertEqual(self.client.put(page).status_code, 405)
        self.assertEqual(self.client.get("/formulas/1/?version=" + "9" * 22).status_code, 200)
        plan = form_data(self.client.get("/batches/plan?version=6"), "plan", fill="nan", save="1")
        self.assertEqual(self.client.post("/batches/plan?version=6", plan).status_code, 400)


class FormTests(TestCase):
    def test_a_form_sent_twice_makes_one_and_a_refused_one_can_be_sent_again(self) -> None:
        """Two posts of one page: one lot, both led to the same place."""
        token = re.search(r'name="once" value="([^"]+)"', self.client.get("/pantry/").content.decode())
        data = form_data(self.client.get("/pantry/"), "receive", item="olive_oil", once=token[1] if token else "")
        self.assertEqual(self.client.post("/pantry/", {**data, "amount": ["none"]}).status_code, 400)
        first, second = (self.client.post("/pantry/", {**data, "amount": ["500 g"]}) for _ in range(2))
        self.assertEqual((first.status_code, first["Location"]), (302, second["Location"]))
        self.assertEqual(Lot.objects.count(), 1)

    def test_a_page_that_grew_old_keeps_what_was_typed(self) -> None:
        """Htmx gets a notice and a fresh token and keeps its page; a plain form shows its fields again."""
        client = Client(enforce_csrf_checks=True)
        asked = client.post("/formulas/read", {"text": "30 g beeswax"}, headers={"hx-request": "true"})
        self.assertEqual((asked.status_code, asked["HX-Retarget"]), (403, "#refused"))
        self.assertIn("fresh-token", asked["HX-Trigger"])
        self.assertNotIn(b"<!doctype", asked.content.lower())
        mine = client.post("/pantry/", {"note": "my words"}, headers={"origin": "http://testserver"})
        self.assertContains(mine, "my words", status_code=403)
        again = form_data(mine, "again")
        self.assertEqual(again["note"], ["my words"])
        theirs = client.post("/pantry/", {"note": "my words"}, headers={"origin": "http://elsewhere.test"})
        self.assertNotContains(theirs, "Send it now", status_code=403)

    def test_a_fault_of_ours_is_called_one_and_keeps_the_form(self) -> None:
        """500: a notice under htmx, a plain page with what was typed without it; neither speaks of silence."""
        self.client.raise_request_exception = False
        with patch("pantry.services.receive", side_effect=StopIteration):
            data = form_data(self.client.get("/pantry/"), "receive", item="olive_oil", amount="5 g", note="my words")
            with self.assertLogs("django.request", "ERROR"):
                asked = self.client.post("/pantry/", data, headers={"hx-request": "true"})
                plain = self.client.post("/pantry/", data)
        self.assertEqual((asked.status_code, asked["HX-Retarget"]), (500, "#refused"))
        self.assertContains(asked, "Something in Calm Tin itself went wrong", status_code=500)
        self.assertContains(plain, "<dt>note</dt><dd>my words</dd>", status_code=500)

    def test_what_is_gone_is_told_in_its_place(self) -> None:
        """404 under htmx: a notice, never a page inside a page."""
        gone = self.client.post("/formulas/99/try", {}, headers={"hx-request": "true"})
        self.assertEqual((gone.status_code, gone["HX-Retarget"]), (404, "#refused"))
        self.assertContains(gone, "no longer there", status_code=404)
        plain = self.client.post("/formulas/99/save", {"note": "a long evening's words"})
        self.assertContains(plain, "a long evening&#x27;s words", status_code=404)
        called_off = self.client.post("/pours/of/99", {"notes": "Set in twenty minutes."})
        self.assertContains(called_off, "Set in twenty minutes.", status_code=404)
        many = self.client.post("/pantry/", {f"field-{n}": "x" for n in range(2100)})
        self.assertContains(many, "more than any form here holds", status_code=400)
