"""Recording pours, the log with its filters, settings that every screen obeys, the first page."""

import re
from datetime import timedelta
from decimal import Decimal as D
from unittest import mock

from django.core.management import CommandError, call_command
from django.db import connection
from django.db.models import F
from django.http import HttpResponse
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from batches.hooks import pour_address
from batches.models import Batch
from formulas.models import Formula, Version
from pantry.models import Entry, Lot, Preparation
from pantry.services import move
from pours.models import Pour, PouredPiece
from tests.support.net_loft import load
from tests.support.pages import form_data
from workshop.models import Preferences


class NetLoftTestCase(TestCase):
    """The demo workshop is the data these tests work on."""

    @classmethod
    def setUpTestData(cls) -> None:
        load()


class PourTests(NetLoftTestCase):
    def setUp(self) -> None:
        self.batch = Batch.objects.get(pours=None, version__formula__name="Neap Tide")
        self.path = f"/pours/of/{self.batch.pk}"

    def post(self, path: str, status: int, page: HttpResponse | None = None, **changes: str) -> HttpResponse:
        data = form_data(page or self.client.get(path), "pour", **changes)
        response = self.client.post(path, data)
        self.assertEqual(response.status_code, status)
        return response

    def test_a_pour_grows_from_weights_to_test_to_verdict(self) -> None:
        """Recorded at once, pressed the next day, judged; predicted and measured at the test's temperature."""
        self.post(self.path, 302, room_c="68 °F", piece_0="26,4", piece_5="1.9 oz", cooling="freezer", notes="Smooth.")
        pour = Pour.objects.get(batch=self.batch)
        self.assertAlmostEqual(pour.room_c, 20)
        self.assertEqual([(piece.name, round(piece.mass_g, 2)) for piece in pour.pieces.all()],
                         [("Screw tin 30 mL", D("26.40")), ("Screw tin 60 mL", D("53.86"))])  # fmt: skip
        self.assertEqual(self.batch.version.stage, Version.Stage.POURED)
        self.assertEqual([(row.due_on - pour.poured_on).days for row in pour.follow_ups.all()], [1, 3, 14, 91])
        own = f"/pours/{pour.pk}/"
        self.assertContains(self.client.get(own), "No test yet: press or thumb it after a day.")
        page = self.client.get(f"{own}check")
        typed = form_data(
            page, "look-form", method="press", rod_mm="6", readings="198; 202", test_c="19", verdict="keep"
        )
        self.client.post(f"{own}check", typed)
        check = pour.checks.get()
        self.assertAlmostEqual(check.measured, 51.5, delta=0.1)
        self.assertAlmostEqual(check.predicted, 57.0, delta=0.1)
        self.assertEqual(Version.objects.get(pk=self.batch.version_id).stage, Version.Stage.JUDGED)
        self.assertContains(self.client.get(own), "points softer than predicted")
        # A batch is poured once: recording again opens the pour.
        self.assertRedirects(self.client.get(self.path), own)
        self.assertContains(
            self.client.post(f"/bench/{self.batch.pk}/call-off"), "was poured: its record stays", status_code=400
        )

    def test_every_bad_field_has_its_sentence_and_nothing_is_lost(self) -> None:
        """Tomorrow, a room that is no temperature, a piece below nothing."""
        tomorrow = str(timezone.localdate() + timedelta(days=1))
        for changes, said in (
            ({"poured_on": tomorrow}, "That day is still to come."),
            ({"poured_on": "yesterday"}, "“yesterday” is no day: write it like 31/05/2026 or 31 May 2026."),
            ({"room_c": "warm"}, "“warm” is not a temperature"),
            ({"piece_0": "-2"}, "“-2” is below nothing."),
            ({"notes": "n" * 5000}, "These notes have 5000 characters; 4000 fit."),
        ):
            with self.subTest(said):
                response = self.post(self.path, 400, **changes, cooling_note="by the window")
                self.assertContains(response, said, status_code=400)
                self.assertEqual(form_data(response, "pour")["cooling_note"], ["by the window"])
        self.assertFalse(Pour.objects.filter(batch=self.batch).exists())

    def test_more_in_the_pieces_and_the_jug_than_was_in_the_pot(self) -> None:
        """Each by itself fits the pot, both do not: asked beside the figures, which stay; what fits is taken."""
        pot = sum(line.mass_g for line in self.batch.base_lines)
        some, much = f"{pot * D('0.6'):.1f}", f"{pot * D('0.5'):.1f}"
        rows = self.batch.containers.all()
        one = {f"count_{row.pk}": "0" if n else "1" for n, row in enumerate(rows)}
        refused = self.post(self.path, 400, piece_0=some, leftover_g=much, **one)
        for said in (f"the pieces hold {some} g and {much} g stayed in the jug", "in the pot. Which is wrong?"):
            self.assertContains(refused, said, status_code=400)
        self.assertContains(refused, 'href="#id_leftover_g"', status_code=400)
        self.assertEqual(form_data(refused, "pour")["leftover_g"], [much])
        counted = self.post(self.path, 400, piece_0=f"{pot * 2:.1f}", **one)
        self.assertContains(counted, f'href="#id_count_{rows[0].pk}"', status_code=400)
        self.post(self.path, 302, refused, leftover_g=f"{pot * D('0.4'):.1f}")
        own = f"/pours/{self.batch.pours.get().pk}/"
        self.assertContains(self.post(own, 400, piece_0=f"{pot * 2:.1f}"), "Which is wrong?", status_code=400)
        for count, said in (("30", "30 pieces hold at least"), ("0", "1 weights for 0 pieces: which is wrong?")):
            self.assertContains(self.post(own, 400, **{f"count_{rows[0].pk}": count}), said, status_code=400)
        self.batch.lines.update(target_g=F("target_g") / 2)
        self.post(own, 302, notes="Only a note: what stands there may be looked at.")

    def test_pieces_and_leftover_are_put_right_with_all_that_hangs_on_them(self) -> None:
        """A tin fewer goes back into stock, one more leaves it; what stayed is what its lot holds; what went somewhere
        was filled, and what was used of the rest had stayed."""
        tins = Lot.objects.get(item_key="tin_screw_30")
        row = self.batch.containers.get(container_key="tin_screw_30")
        stood = tins.left
        self.post(self.path, 302, leftover_g="3", leftover_kept="on", **{f"count_{row.pk}": "3"})
        pour = self.batch.pours.get()
        own, rest = f"/pours/{pour.pk}/", pour.leftover_lot
        assert rest is not None
        for count, left in (("3", 3), ("1", 1), ("4", 4), ("4", 4)):
            self.post(own, 302, **{f"count_{row.pk}": count})
            tins.refresh_from_db()
            self.assertEqual(stood - tins.left, left)
        self.assertContains(self.client.get(f"/labels/{pour.pk}/pieces"), "left of 6")
        self.assertContains(self.client.get(f"/batches/{self.batch.pk}/"), "4 × Screw tin 30 mL, 2 × Screw tin 60 mL")
        self.post(own, 302, leftover_g="2,5")
        rest.refresh_from_db()
        self.assertEqual((rest.left, rest.entries.count()), (D("2.5"), 2))
        move(rest, D("-2"), Entry.Kind.PREPARED)
        refused = self.post(own, 400, leftover_g="1")
        self.assertContains(refused, "2 g of what stayed were used already: less cannot", status_code=400)
        given = {"how": "given", "count": "6", "on": str(timezone.localdate())}
        self.client.post(f"/labels/{pour.pk}/pieces", given)
        refused = self.post(own, 400, **{f"count_{row.pk}": "3"})
        self.assertContains(refused, "6 of its pieces went somewhere, and only 5 were filled", status_code=400)
        self.assertEqual(form_data(refused, "pour")[f"count_{row.pk}"], ["3"])

    def test_weights_of_more_pieces_than_there_are_fields_for(self) -> None:
        """Thirty tins, weighed at the bench: 24 with a field each, six written one after the other; two of containers
        that are not the batch's any more stay."""
        tins = self.batch.containers.get(container_key="tin_screw_30")
        self.batch.containers.exclude(pk=tins.pk).delete()
        self.batch.containers.update(count=30)
        self.batch.lines.update(target_g=200)
        self.post(self.path, 302)
        pour = self.batch.pours.get()
        PouredPiece.objects.bulk_create(
            PouredPiece(pour=pour, name=tins.name if n < 30 else "Old jar", mass_g=D(20 + n) + D("0.04"))
            for n in range(32)
        )
        own = f"/pours/{pour.pk}/"
        page = self.client.get(own)
        self.assertContains(page, "These are 24 of 30 pieces; the others stand below.")
        self.assertContains(page, "Of containers that this batch has no more, and kept: 2.")
        self.assertEqual(form_data(page, "pour")["piece_23"], ["43.0 g"])
        self.assertEqual(form_data(page, "pour")["others_0"], ["44.0 45.0 46.0 47.0 48.0 49.0"])
        refused = self.post(own, 400, page, others_0="44 45 46 47 48 49 50")
        self.assertContains(refused, f"{tins.name}: 7 weights for 6 pieces.", status_code=400)
        self.assertEqual(form_data(refused, "pour")["others_0"], ["44 45 46 47 48 49 50"])
        self.post(own, 302, page, piece_0="21")
        stood = [D(n) + D("0.04") for n in range(21, 52)]
        self.assertEqual(sorted(piece.mass_g for piece in pour.pieces.all()), [21, *stood])
        self.post(own, 302, self.client.get(own), others_0="44,5 g; 45")
        self.assertEqual(
            sorted(piece.mass_g for piece in pour.pieces.all()), [21, *stood[:23], D("44.5"), 45, *stood[-2:]]
        )

    def test_a_second_tab_is_told_and_its_words_are_kept(self) -> None:
        """The later save is refused once, with everything typed still there, and may then stand."""
        path = f"/pours/{Pour.objects.filter(verdict='').get().pk}/"
        old = self.client.get(path)
        self.post(path, 302, notes="First.")
        response = self.post(path, 409, old, notes="Second.")
        self.assertContains(response, "Another tab saved this pour meanwhile.", status_code=409)
        self.assertEqual(form_data(response, "pour")["notes"], ["Second."])
        self.post(path, 302, response)
        self.assertEqual(Pour.objects.get(verdict="").notes, "Second.")

    def test_a_pour_recorded_in_two_tabs_is_shown_beside_the_first(self) -> None:
        """The second tab's words are not dropped: the first pour's stand beside them, and either may stand."""
        path = f"/pours/of/{self.batch.pk}"
        opened = self.client.get(path)
        self.post(path, 302, opened, notes="Poured by the window.", room_c="17 °C")
        second = self.post(path, 409, opened, notes="Poured at the stove.")
        self.assertEqual(form_data(second, "pour")["notes"], ["Poured at the stove."])
        for said in ("The other tab wrote:", "Notes: Poured by the window.", "Room: 17 °C"):
            self.assertContains(second, said, status_code=409)
        self.post(path, 302, second)
        self.assertEqual(self.batch.pours.get().notes, "Poured at the stove.")


class AddressTests(NetLoftTestCase):
    def test_a_batch_that_another_page_just_poured(self) -> None:
        """Read before its last finish was recorded: its pour is where it stands, with one finish or several."""
        for batch in Batch.objects.filter(state=Batch.State.POURED):
            batch.state = Batch.State.WEIGHING
            first = Pour.objects.filter(batch=batch).earliest("pk")
            self.assertEqual(pour_address.ask(batch), [first.get_absolute_url()])


class LogTests(NetLoftTestCase):
    def names(self, **query: object) -> list[str]:
        return [card.version.formula.name for card in self.client.get("/pours/", query).context["log"].cards]

    def test_filters_by_formula_kind_verdict_and_words(self) -> None:
        """The net loft has ten pours; each filter leaves the right ones, nonsense leaves none or all."""
        neap = Formula.objects.get(name="Neap Tide").pk
        self.assertEqual(len(self.names()), 10)
        self.assertEqual(self.names(formula=neap), ["Neap Tide", "Neap Tide"])
        self.assertEqual(self.names(kind="lotion_bar", verdict="keep"), ["Spring Tide"])
        self.assertEqual(self.names(verdict="open"), ["Slack Water"])
        self.assertEqual(self.names(q="grainy SMOKE"), ["Slack Water"])
        self.assertEqual(self.names(q="%"), [])
        self.assertEqual(len(self.names(formula="x", kind="y", verdict="z", page="-9")), 10)
        self.assertContains(self.client.get("/pours/?q=zzz"), "No pour here matches.")

    def test_older_pages_are_led_to_and_hold_the_others(self) -> None:
        """Three lists of a year, a page at a time: each pour stands on one of them, and the way back leads back."""
        for path, room in (("/pours/", "log"), ("/labels/", "")):
            seen, address = [], path
            with mock.patch("pours.finding.log.PER_PAGE", 4), mock.patch("pieces.accounts.PER_PAGE", 4):
                while address and len(seen) < 20:
                    page = self.client.get(address)
                    found = page.context["log"].page if room else page.context["page"]
                    seen += [pour.pk for pour in found]
                    older = re.search(r'href="([^"]*)"[^>]*>\s*Older', page.content.decode())
                    address = older[1].replace("&amp;", "&") if older else ""
                    address = path + address if address.startswith("?") else address
            self.assertEqual(sorted(seen), sorted(Pour.objects.values_list("pk", flat=True)), path)

    def queries(self, path: str) -> int:
        with CaptureQueriesContext(connection) as captured:
            self.client.get(path)
        return len(captured)

    def test_pages_take_the_same_number_of_queries_however_much_there_is(self) -> None:
        """Twice the workshop, no query more, on every list."""
        paths = ("/pours/", "/formulas/", "/", "/batches/", f"/formulas/{Formula.objects.first().pk}/versions")
        self.client.get("/")  # reads the workshop's own ingredients, and again when they have changed
        before = [self.queries(path) for path in paths]
        load()
        self.client.get("/")
        self.assertEqual([self.queries(path) for path in paths], before)
        self.assertLess(max(before), 45)


class SettingsTests(NetLoftTestCase):
    def keep(self, status: int = 302, **changes: str) -> HttpResponse:
        data = form_data(self.client.get("/settings/"), "settings-form", **changes)
        response = self.client.post("/settings/", data)
        self.assertEqual(response.status_code, status)
        return response

    def test_a_switch_of_units_takes_a_step_that_scales_have(self) -> None:
        """0.1 g becomes 0.01 oz, 1 g 0.05 oz, and back; a step that was typed is kept."""
        shown = []
        for changes in (
            {"mass_unit": "oz"}, {"mass_unit": "g"}, {"resolution_g": "1 g"}, {"mass_unit": "oz"},
            {"mass_unit": "g", "resolution_g": "0.5 g"},
        ):  # fmt: skip
            self.keep(**changes)
            shown += form_data(self.client.get("/settings/"), "settings-form")["resolution_g"]
        self.assertEqual(shown, ["0.01 oz", "0.1 g", "1 g", "0.05 oz", "0.5 g"])

    def test_every_screen_obeys_ounces_and_fahrenheit(self) -> None:
        """0.05 oz scale, °F: studio, sheet, bench, pour and settings itself."""
        self.keep(mass_unit="oz", temp_unit="F", resolution_g="0.05 oz")
        self.assertEqual(form_data(self.client.get("/settings/"), "settings-form")["cool_room_c"], ["64.4 °F"])
        neap = Formula.objects.get(name="Neap Tide")
        batch = Batch.objects.get(pours=None, version__formula=neap)
        studio = self.client.get(f"/formulas/{neap.pk}/")
        self.assertContains(studio, "Holds its shape to 115 °F.")
        self.assertContains(studio, "at 70 °F")
        self.assertContains(self.client.get(f"/batches/{batch.pk}/"), "7.08 oz")
        self.assertContains(self.client.get(f"/bench/{batch.pk}/weigh"), "Pour at 138 °F.")
        self.assertContains(self.client.get("/pantry/ingredients"), "144–149")
        plan = form_data(self.client.get(f"/batches/plan?version={batch.version_id}"), "plan")
        self.assertEqual((plan["resolution"], plan["loss"]), (["0.05 oz"], ["0.11 oz"]))
        for path in (
            f"/formulas/{neap.pk}/",
            f"/bench/{batch.pk}/weigh",
            f"/pours/{Pour.objects.first().pk}/",
            "/pantry/",
        ):
            self.assertNotContains(self.client.get(path), "°C")

    def test_the_school_of_caution_and_the_rooms_reach_the_studio(self) -> None:
        """1.5 % of lavender is over the cautious limit and under the usual one; rooms name their degrees."""
        neap = Formula.objects.get(name="Neap Tide")
        page = self.client.get(f"/formulas/{neap.pk}/")
        typed = form_data(page, "studio", area="body", edited="lavender", **{"percent-lavender": "1.5"})
        self.assertContains(
            self.client.post(f"/formulas/{neap.pk}/try", typed), "Scent 1.5 % in all, 1.0 % is our most"
        )
        self.keep(scent_policy="usual", cool_room_c="15", theme="dark")
        answer = self.client.post(f"/formulas/{neap.pk}/try", typed)
        self.assertNotContains(answer, "1.0 % is our most for adults")
        self.assertContains(answer, "a cool room&#x27;s, 15 °C")
        self.assertContains(self.client.get("/"), 'data-bs-theme="dark"')

    def test_settings_that_make_no_sense(self) -> None:
        """Rooms out of order, a scale without a step, words for degrees: kept and explained."""
        for changes, said in (
            ({"cool_room_c": "30"}, "The warm room should be warmer than the cool room."),
            ({"cool_room_c": "26", "warm_room_c": "26"}, "The warm room should be warmer than the cool room."),
            ({"warm_room_c": "35", "hot_pocket_c": "35"}, "The hot pocket should be hotter than the warm room."),
            ({"hot_pocket_c": "20"}, "The hot pocket should be hotter than the warm room."),
            ({"resolution_g": "0"}, "A scale&#x27;s smallest step is 0.001 g to 50 g."),
            ({"resolution_g": "fine"}, "“fine” is not an amount: write it like 12.5 g."),
            ({"warm_room_c": "hot"}, "“hot” is not a temperature"),
        ):
            with self.subTest(said):
                self.assertContains(self.keep(400, **changes), said, status_code=400)
        self.assertEqual(Preferences.objects.get().cool_room_c, 18)


class FirstPageTests(NetLoftTestCase):
    def test_what_to_do_next(self) -> None:
        """A batch with its time, a batch begun, a pour to test; and petals, once they are due."""

        def tasks() -> list[tuple[str, str]]:
            home = self.client.get("/").context["home"]
            return [(task.what, task.about.split(",")[0]) for task in (home.next, *home.tasks)]

        others = [
            ("Go on weighing", "Ebb v2"),
            ("Look after three days", "Slack Water v2"),
            ("Make it", "Neap Tide v3"),
            ("Buy what is short", "lip flavour oil (generic)"),
            ("Strain it", "Calendula"),
            ("Use it up", "Sunflower oil"),
            ("Use it up", "Rest of Neap Tide v2"),
            ("Make it", "Nor'easter v2"),
        ]
        self.assertEqual(tasks(), others)
        page = self.client.get("/")
        self.assertContains(page, "Ebb v2, batch 11: 10 × Gloss tube with wand 5 mL")
        self.assertContains(page, "weighing has begun")
        self.assertContains(page, "Sunflower oil, high oleic, lot 7: 73.1 g")
        Preparation.objects.filter(finished_on=None).update(ready_on=timezone.localdate() - timedelta(days=9))
        looks = [("Go on weighing", "Ebb v2"), ("Look after three days", "Slack Water v2")]
        self.assertEqual(tasks()[:3], [*looks, ("Strain it", "Calendula")])
        self.assertContains(self.client.get("/"), f"since {timezone.localdate() - timedelta(days=9):%-d %B}")

    def test_the_demo_never_goes_into_a_workshop_with_formulas(self) -> None:
        """Loading it twice is refused."""
        with self.assertRaisesMessage(CommandError, "This workshop has formulas already"):
            call_command("load_demo")

    def test_the_net_loft_is_as_rich_as_it_says(self) -> None:
        """Six kinds at least, two or three versions each, and every sort of verdict."""
        self.assertGreaterEqual(len(set(Formula.objects.values_list("kind_key", flat=True))), 6)
        self.assertTrue(all(2 <= formula.versions.count() <= 3 for formula in Formula.objects.all()))
        self.assertEqual(set(Pour.objects.values_list("verdict", flat=True)), {"", "keep", "change", "drop"})
