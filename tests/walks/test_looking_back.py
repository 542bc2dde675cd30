"""From a due look on a phone to a compared pair to the next version, in a real browser."""

from datetime import timedelta

from playwright.sync_api import expect

from formulas.models import Formula
from pours.models import Check, Pour
from tests.support.browser import BrowserTestCase
from tests.support.net_loft import load


class LookingBackTests(BrowserTestCase):
    def test_from_a_due_look_to_the_next_version(self) -> None:
        """Slack Water is due: looked at on the phone, laid beside the one before, and made firmer for a reason."""
        load()
        pour = Pour.objects.get(verdict="")
        Pour.objects.filter(pk=pour.pk).update(poured_on=pour.poured_on - timedelta(days=12))
        phone = self.new_page(viewport={"width": 390, "height": 844}, has_touch=True)
        self.go("/", phone)
        phone.get_by_text("Look after three days").tap()
        self.says(".look-form", "Due after three days", phone)
        phone.locator("main").get_by_text("Press test").tap()
        self.says(".test-press", "mm rod suits it: expect about", phone)
        phone.get_by_text("10 mm", exact=True).tap()
        phone.get_by_label("Peak readings").fill("110 118")
        phone.get_by_label("Piece at the test").fill("20")
        grain = phone.get_by_role("group", name="Grain")
        grain.get_by_text("None").tap()
        tap = grain.get_by_text("None").bounding_box()
        assert tap is not None
        self.assertGreater(tap["height"], 36)  # a thumb hits it
        phone.get_by_text("Change", exact=True).tap()
        phone.get_by_role("button", name="Write it down").tap()
        self.says("[aria-label='Looked at since']", "34 ± 3 at 20 °C", phone)
        self.assertEqual((Check.objects.get(pour=pour).grain, Pour.objects.get(pk=pour.pk).verdict), ("none", "change"))
        self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)

        page = self.page
        self.go("/pours/?q=")
        slack = page.locator(".shelf > li", has_text="Slack Water")
        expect(slack).to_have_count(2)
        for n in (0, 1):
            slack.nth(n).get_by_label("side by side").check()
        page.get_by_role("button", name="Lay the ticked ones side by side").click()
        self.says("h1", "Side by side")
        self.says(".versus .is-different >> nth=0", "butter")
        self.says(".suggestion", "softer than the 42 to 68 of a body butter")
        page.get_by_role("button", name="Make the next version").click()
        self.says("main", "is made, with its reason in the note")
        formula = Formula.objects.get(name="Slack Water")
        version = formula.versions.get(is_current=True)
        self.assertEqual(version.number, 3)
        self.assertIn("It came out at", version.note)
