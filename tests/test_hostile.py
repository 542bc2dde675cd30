"""Every form of the workshop against hostile typing, and every page of an empty workshop."""

import random
import re

from django.db import transaction
from django.test import TestCase, tag

from batches.models import Batch
from formulas.models import Formula
from pantry.models import Lot
from tests.support.net_loft import load
from tests.support.pages import form_data

BOUNDS = ("1000000", "1000001", "1000 kg", "99999999.999", "9999-12-31", "2099-12-31", "1999-01-01", "nan", "inf", "-0",
          "0.0000001 g", "1e5", "x" * 3000, "99999", "12345678901234567890123", "½", "\x00", "0.3 oz")  # fmt: skip
PAGES = ("/", "/formulas/", "/formulas/1/", "/formulas/from-pantry", "/batches/", "/batches/5/", "/batches/5/method",
         "/bench/5/weigh", "/batches/plan?version=6", "/batches/shopping?batch=5", "/batches/calendar.ics", "/pours/",
         "/pantry/", "/pantry/ingredients", "/pantry/containers", "/pantry/preparations", "/pantry/lots/1/", "/settings/",
         "/settings/kinds", "/settings/instruments/", "/settings/phones", "/bench/13/", "/bench/5/",
         "/pours/learned")  # fmt: skip
HOSTILE = ("", "abc", "-1", "1e400", "<b>1</b>")
# Address and form, by id or class; the demo gives them something to hold.
FORMS = (
    ("/pantry/", "receive"),
    ("/pantry/lots/1/", "lot"),
    ("/pantry/ingredients", "own-ingredient"),
    ("/pantry/containers", "own-container"),
    ("/pantry/preparations", "preparation"),
    ("/pantry/preparations/1/finish", "finish"),
    ("/batches/plan?version=6", "plan"),
    ("/batches/5/method", "when"),
    ("/bench/5/weigh", "weigh"),
    ("/batches/ladder?version=5", "plan"),
    ("/pours/of/5", "pour"),
    ("/settings/", "settings-form"),
    ("/settings/instruments/", "instruments"),
    ("/settings/kinds", "own-kind"),
    ("/settings/kinds/hand_balm", "kind"),
)


class HostileTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    @tag("slow")
    def test_no_field_of_any_form_breaks_a_page(self) -> None:
        """Five hostile texts in every field in turn: an answer in words, never a traceback, markup never raw."""
        for path, form in FORMS:
            data = form_data(self.client.get(path), form)
            for name in data:
                if name in ("csrfmiddlewaretoken", "version"):
                    continue
                for text in HOSTILE:
                    with self.subTest(path=path, field=name, text=text[:12]), transaction.atomic():
                        response = self.client.post(path, {**data, name: [text], "do": data.get("do", ["correct"])})
                        self.assertIn(response.status_code, (200, 302, 400, 409))
                        if response.status_code != 302:
                            self.assertNotIn(b"<b>1</b>", response.content)
                        if response.status_code == 400:
                            self.require_told_above(response.content.decode())
                        transaction.set_rollback(True)
        self.assertEqual(Lot.objects.filter(left__lt=0).count(), 0)

    def require_told_above(self, page: str) -> None:
        """What is wrong stands at the top, and each link there leads to a field that is on the page."""
        told = re.search(r'<div class="notice errors".*?</div>', page, re.DOTALL)
        if '_error">' in page or 'id="plan"' in page:
            self.assertIsNotNone(told)
        for target in re.findall(r'href="#([^"]+)"', told[0]) if told else ():
            self.assertIn(f'id="{target}"', page)

    @tag("slow")
    def test_what_is_taken_can_be_shown(self) -> None:
        """Bounds and one step beyond, put by lot into the fields of every form: no answer fails, and after
        whatever was taken every page still opens."""
        self.client.raise_request_exception = False
        cases = []
        for path, form in FORMS:
            data = form_data(self.client.get(path), form)
            cases += [(path, data, name, text) for name in data if name != "csrfmiddlewaretoken" for text in BOUNDS]
        taken = 0
        for path, data, name, text in random.Random(8).sample(cases, 70):
            with self.subTest(path=path, field=name, text=text[:12]), transaction.atomic():
                response = self.client.post(path, {**data, name: [text], "do": data.get("do", ["correct"])})
                self.assertLess(response.status_code, 500)
                if response.status_code == 302:
                    taken += 1
                    for page in PAGES:
                        self.assertIn(self.client.get(page).status_code, (200, 302, 404), page)
                transaction.set_rollback(True)
        self.assertGreater(taken, 5)

    def test_addresses_that_make_no_sense(self) -> None:
        """What is not there answers 404; odd questions answer an empty page; nothing answers 500."""
        for path in ("/pantry/lots/999/", "/batches/999/method", "/batches/plan?version=x", "/pours/from-lot/999",
                     "/pantry/ingredients/gold", "/batches/999/calendar.ics", "/pantry/preparations/99/finish"):  # fmt: skip
            self.assertEqual(self.client.get(path).status_code, 404, path)
        for path in ("/batches/shopping?batch=x&batch=999", "/batches/shopping", "/pantry/?q=%00&item=x&amount=%F0",
                     "/batches/11/calendar.ics", "/pantry/?empty=1", "/pantry/ingredients?q=<b>"):  # fmt: skip
            self.assertEqual(self.client.get(path).status_code, 200, path)
        self.assertEqual(self.client.post("/pantry/ingredients/olive_oil/delete").status_code, 400)


class EmptyTests(TestCase):
    def test_an_empty_workshop_says_on_every_page_what_to_do(self) -> None:
        """Stock, preparations, batches, shopping: a sentence that leads on, and a calendar without events."""
        for path, said in (
            ("/", "Make a first balm"),
            ("/pantry/", "Nothing in stock yet. Write down what you buy"),
            ("/pantry/preparations", "Nothing is steeping."),
            ("/batches/", "No batch yet."),
            ("/batches/shopping", "no batch: choose some on the page of batches"),
            ("/pours/", "Nothing poured yet"),
        ):
            self.assertContains(self.client.get(path), said)
        self.assertNotIn(b"VEVENT", self.client.get("/batches/calendar.ics").content)
        self.assertFalse(Formula.objects.exists() or Batch.objects.exists())
