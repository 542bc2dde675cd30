"""A batch made at the bench: weighed, over-poured, rescued, divided, filled and in the log; and taken back."""

from datetime import timedelta
from decimal import Decimal as D
from io import BytesIO

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.test import TestCase
from django.utils import timezone
from PIL import Image

from balmcore.errors import Problem
from balmcore.physics.firmness import predict
from balmcore.tables import shipped
from batches.models import Batch
from bench.models import BenchRun, Event
from pantry.models import Lot
from pantry.services import Purchase, receive
from pours.models import Pour
from tests.support.makings import begin
from tests.support.pages import form_data
from workshop.files.limits import PHOTO_BYTES
from workshop.files.photos import keep


class BenchTestCase(TestCase):
    def setUp(self) -> None:
        self.version = begin("Topsail", "pot_salve").versions.get()
        page = self.client.get("/batches/plan", {"version": self.version.pk})
        self.client.post("/batches/plan", self.plan(page))
        self.batch = Batch.objects.get()
        self.path = f"/bench/{self.batch.pk}/"
        self.page: HttpResponse = self.client.get(self.path)

    def plan(self, page: HttpResponse) -> dict[str, list[str]]:
        return form_data(page, "plan", count="4", container="tin_screw_30", save="1")

    @property
    def step(self) -> str:
        return self.page.context["step"].key

    def do(self, what: str, status: int = 200, at: str = "", **fields: str) -> HttpResponse:
        """Press a button at the step shown, as the page does, sure of what was typed."""
        fields.setdefault("sure", fields.get("grams", ""))
        data = {"step": at or self.step, "after": self.page.context["bench"].run.revision, "do": what, **fields}
        self.page = self.client.post(f"{self.path}do", data, headers={"HX-Request": "true"})
        self.assertEqual(self.page.status_code, status, self.page.content[-300:])
        return self.page

    def weigh_all(self) -> None:
        """Everything to its target, up to the stove."""
        while self.step != "melt":
            grams = self.page.context["view"].left_g
            self.do("weigh", grams=f"{grams} g") if grams else self.do("done")

    def grams(self, key: str) -> D | None:
        return self.batch.lines.get(ingredient_key=key, finish=None).actual_g


class MakingTests(BenchTestCase):
    def test_from_the_first_weight_to_the_log(self) -> None:
        """Sums and units as typed; a note; the pieces, a light one, what stayed; the pour with all of it."""
        self.do("done")
        self.assertEqual(self.step, "weigh:beeswax_yellow")
        self.do("weigh", grams="15.0 + 2.1")
        self.assertEqual(self.grams("beeswax_yellow"), D("17.1"))
        self.do("note", text="The wax smelled of honey.")
        self.weigh_all()
        self.assertContains(self.page, "Hot wax burns")
        for _ in ("melt", "clear", "test", "cool", "add"):
            self.do("done")
        rows = self.page.context["rows"]
        self.assertEqual([(row.count, round(row.net_g, 1)) for row in rows], [("4", 24.7)])
        pk, filling = rows[0].container.pk, self.step
        self.do("fill", **{f"count-{pk}": "4", f"weights-{pk}": "25.0 25.1 22.9 24.8", "stayed": "4.6", "keep": "1"})
        self.assertContains(self.page, "4 filled, 1 light: 22.9 of 24.7 g")
        self.assertNotContains(self.page, "are accounted for")
        self.do("log")
        pour = Pour.objects.get()
        self.assertEqual([piece.mass_g for piece in pour.pieces.all()], [D("25.0"), D("25.1"), D("22.9"), D("24.8")])
        self.assertEqual((pour.leftover_g, pour.leftover_lot.left), (D("4.6"), D("4.6")))
        self.assertEqual(pour.notes, "Shea butter, refined: The wax smelled of honey.")
        self.assertEqual(Batch.objects.get().state, Batch.State.POURED)
        page = self.client.get(f"/pours/{pour.pk}/")
        self.assertContains(page, "<td>17.1 g weighed")
        self.assertContains(page, "1 light: 22.9 of 24.7 g.")
        self.assertContains(page, "The wax smelled of honey.")
        self.do("undo", 400)
        self.assertContains(self.page, "The pours are in the log: change them there.", status_code=400)
        events = Event.objects.count()
        for at, what, typed in (
            ("weigh:beeswax_yellow", "weigh", {"grams": "1 g"}),
            ("melt", "add", {"item": "olive_oil", "grams": "2 g"}),
            ("weigh:beeswax_yellow", "rescale", {}),
            (filling, "fill", {f"count-{pk}": "4"}),
        ):
            self.page = self.client.get(self.path, {"step": at})
            self.assertContains(
                self.do(what, 400, at=at, **typed),
                "This batch is in the log: its record stays as it is.",
                status_code=400,
            )
        self.assertEqual((self.grams("beeswax_yellow"), Event.objects.count()), (D("17.1"), events))

    def test_the_pot_s_account_stands_in_a_line_and_what_it_fills_beyond_the_plan_is_added(self) -> None:
        """A third too much wax, and the rest grown with it: 33 g more than the four tins hold, a fifth one, in one tap.
        Then what is in tins, in the jug and spilt."""
        self.do("done")
        self.do("weigh", grams="23 g")
        self.do("rescale", at="weigh:beeswax_yellow")
        self.weigh_all()
        (more,) = self.page.context["surplus"]
        into = sum(line.actual_g for line in self.batch.lines.all())
        self.assertEqual(more.count, 1)
        self.assertAlmostEqual(float(more.grams), float(into) - 4 * 24.7 - float(self.batch.loss_g), delta=0.3)
        self.assertContains(self.page, "1 more of screw tin 30 mL.")
        pk = more.container.pk
        self.do("pieces", 400, container="0", count="1")
        self.do("pieces", container=str(pk), count="1")
        self.assertEqual(self.batch.containers.get().count, 5)
        self.assertEqual(self.page.context["surplus"], [])
        self.do("undo")
        self.assertEqual(self.batch.containers.get().count, 4)
        self.do("pieces", container=str(pk), count="1")
        while self.page.context["step"].task != "fill":
            self.do("done")
        self.assertNotContains(self.page, 'id="account"')
        self.assertEqual(self.page.context["rows"][0].count, "5")
        self.do("fill", **{f"count-{pk}": "5", f"weights-{pk}": "25 25 25 25 25", "stayed": "5"})
        self.assertContains(
            self.page,
            f"Of {into:.1f} g: 125.0 g in pieces, 5.0 g in the jug and {into - 130:.1f} g spilt, or at spoon and wall.",
        )

    def test_what_does_not_add_up_is_said(self) -> None:
        """102.4 g went in, 90 came out: 12.4 g less."""
        self.weigh_all()
        for _ in ("melt", "clear", "test", "cool", "add"):
            self.do("done")
        pk = self.page.context["rows"][0].container.pk
        self.do("fill", **{f"count-{pk}": "3", f"weights-{pk}": "29 30 30", "stayed": "1"})
        into = sum(line.actual_g for line in self.batch.lines.all())
        self.assertContains(
            self.page, f"{into:.1f} g went in and 90.0 g are accounted for: {into - 90:.1f} g less came out."
        )

    def test_a_twentieth_or_two_steps_of_the_scale_are_no_word_worth(self) -> None:
        """17.3 g of wax may be 0.8 over and not 0.9; half a gram of vitamin E 0.2 and not 0.3."""
        self.do("done")
        for key, free, much in (("beeswax_yellow", "0.8", "0.9"), ("vitamin_e_oil", "0.2", "0.3")):
            target = self.batch.lines.get(ingredient_key=key).target_g
            for over, is_said in ((free, False), (much, True)):
                with self.subTest(key, over=over):
                    self.do("weigh", at=f"weigh:{key}", grams=f"{target + D(over)} g")
                    said = self.client.get(f"{self.path}?step=weigh:{key}").content
                    self.assertEqual(b"more than planned" in said, is_said)
                    self.do("undo")

    def test_an_over_poured_line_grows_the_rest_or_stays(self) -> None:
        """A fifth too much wax: told with the firmness it makes; the rest grows and what is in is opened again."""
        self.do("done")
        target = self.page.context["view"].left_g
        receive(Purchase("beeswax_yellow", target + 2))
        self.do("weigh", grams=f"{target} g")
        shea = self.batch.lines.get(ingredient_key="shea_butter_refined").target_g
        self.do("weigh", grams=f"{shea * D('1.2')} g")
        over = self.page
        self.assertContains(over, f"{shea * D('0.2'):.1f} g more than planned.")
        self.do("rescale", at="weigh:shea_butter_refined")
        self.assertEqual(self.step, "weigh:beeswax_yellow")
        more = self.page.context["view"].left_g
        self.assertContains(over, f"Not enough in stock: beeswax, yellow, {more - 2:.1f} g short.")
        self.assertAlmostEqual(float(more), float(target) * 0.2, delta=0.06)
        self.do("weigh", grams=f"{more} g")
        self.assertEqual(self.grams("beeswax_yellow"), target + more)
        self.weigh_all()
        batch = Batch.objects.for_page().get()
        planned, made = (
            predict(c).firmness_at(21)
            for c in (self.version.to_composition(shipped()), batch.to_composition(shipped()))
        )
        self.assertAlmostEqual(planned, made, delta=0.4)

    def test_a_rescue_goes_into_the_record_and_out_of_the_lot(self) -> None:
        """Felt like a soft scoop: the grams offered make it what was asked, and undo takes them out again."""
        receive(Purchase("candelilla_wax", D(50)))
        self.weigh_all()
        self.do("done")
        self.do("done")
        self.assertEqual(self.step, "test")
        asked = {"step": "test", "trouble": "soft", "thumb": "soft scoop", "want": "55"}
        offers = self.client.get(f"{self.path}rescue", asked).context["rescuing"].offers
        # Candelilla is in stock and takes less; of beeswax no lot is written down, and it is in the pot.
        self.assertEqual(offers[0].item.key, "candelilla_wax")
        offers = [offer for offer in offers if offer.item.key == "beeswax_yellow"]
        self.assertAlmostEqual(offers[0].firmness, 55, delta=0.3)
        before = predict(Batch.objects.for_page().get().to_composition(shipped())).firmness_at(21)
        self.do("add", item="beeswax_yellow", grams=f"{offers[0].grams} g", why="The drop was too soft")
        after = predict(Batch.objects.for_page().get().to_composition(shipped())).firmness_at(21)
        self.assertAlmostEqual(after - before, 55 - 35, delta=0.3)
        self.do("add", item="candelilla_wax", grams="2 g")
        self.assertEqual(Lot.objects.get().left, 48)
        self.assertContains(self.client.get(f"/bench/{self.batch.pk}/weigh"), "Added, and not planned")
        self.do("undo")
        self.assertEqual(
            (Lot.objects.get().left, self.batch.lines.filter(ingredient_key="candelilla_wax").count()), (50, 0)
        )
        self.do("undo")
        self.assertEqual(self.grams("beeswax_yellow"), self.batch.lines.get(ingredient_key="beeswax_yellow").target_g)
        grainy = self.client.get(f"{self.path}rescue", {"trouble": "grainy"})
        self.assertContains(grainy, "hold it there for 15 minutes")
        hard = self.client.get(f"{self.path}rescue", {"trouble": "hard", "want": "40"}).context["rescuing"].offers
        self.assertEqual(hard[0].item.key, "olive_oil")

    def test_it_opens_where_it_was_and_nothing_is_done_twice(self) -> None:
        """A reload keeps every weight; an old page's tap is refused; out of order and skipped are said."""
        self.do("done")
        old = self.page.context["bench"].run.revision
        self.do("weigh", grams="17.1 g")
        again = self.client.post(
            f"{self.path}do", {"step": "weigh:beeswax_yellow", "after": old, "do": "weigh", "grams": "17.1 g"}
        )
        self.assertContains(again, "nothing was done twice", status_code=409)
        self.assertEqual(self.grams("beeswax_yellow"), D("17.1"))
        self.page = self.client.get(f"{self.path}?step=weigh:olive_oil")
        self.assertContains(self.page, "Out of order")
        self.do("weigh", grams="67.6 g")
        self.assertEqual(self.step, "weigh:shea_butter_refined")
        self.assertEqual(Event.objects.get(slot="olive_oil").data["before"], ["Shea butter, refined"])
        self.do("skip", why="None left")
        self.assertContains(self.page, "passed over")
        self.do("timer", minutes="5", label="stir")
        self.assertEqual([timer.label for timer in self.page.context["bench"].timers], ["stir"])
        self.assertContains(self.client.get(self.path), 'data-label="stir"')
        Event.objects.update(at=timezone.now() + timedelta(hours=1))  # the clock was set back since
        self.page = self.client.get(self.path)
        self.assertContains(self.page, "clock stands before what was written down last")
        stamp = self.page.context["bench"].stamp
        self.assertEqual(
            self.client.get(f"{self.path}live", {"stamp": stamp, "step": self.step}).json()["stamp"], stamp
        )
        self.client.post(f"{self.path}call-off", {"fate": "back"})
        self.assertEqual(self.client.get(f"{self.path}live").status_code, 404)
        self.assertFalse(BenchRun.objects.exists())

    def test_a_weight_is_put_right_where_it_stands(self) -> None:
        """43.6 written for 34.6: the line opens with its weights, nine grams go back to the lot, and nothing after it is
        undone; taken back it is as before. Nothing was weighed after all: the line is open again."""
        receive(Purchase("olive_oil", D(100)))
        self.weigh_all()
        self.page = self.client.get(self.path, {"step": "weigh:olive_oil"})
        target = self.batch.lines.get(ingredient_key="olive_oil").target_g
        self.assertContains(self.page, f"{target:.1f} g, of {target:.1f} g.")
        self.do("correct", 400, grams="lots")
        self.assertContains(self.page, 'value="lots"', status_code=400)
        self.do("correct", 400, grams=f"{target} g")
        self.assertContains(self.page, "stand there already: nothing was changed", status_code=400)
        self.do("correct", grams=f"{target - 9} g")
        self.assertEqual(self.step, "melt")
        self.assertEqual((self.grams("olive_oil"), Lot.objects.get().left), (target - 9, 109 - target))
        self.assertContains(self.page, f"Olive oil: {target - 9:.1f} g, was {target:.1f} g")
        self.page = self.client.get(self.path, {"step": "weigh:olive_oil"})
        self.assertContains(self.page, f"{target:.1f} g, then {target - 9:.1f} g, was {target:.1f} g")
        self.do("undo")
        self.assertEqual((self.grams("olive_oil"), Lot.objects.get().left), (target, 100 - target))
        self.do("correct", at="weigh:olive_oil", grams="0")
        self.assertEqual((self.step, self.grams("olive_oil"), Lot.objects.get().left), ("weigh:olive_oil", None, 100))

    def test_what_is_not_in_is_said_at_every_step_after(self) -> None:
        """Passed over, weighed as nothing on the sheet, or not come to yet: beside the drop test as everywhere."""
        self.assertContains(
            self.client.get(self.path, {"step": "test"}),
            "Beeswax, yellow, shea butter, refined, olive oil and vitamin E (tocopherol) are not in yet: the figures count",
        )
        self.do("done")
        self.do("skip", at="weigh:beeswax_yellow")
        self.do("weigh", at="weigh:shea_butter_refined", grams="20 g")
        self.do("weigh", at="weigh:vitamin_e_oil", grams="0.5 g")
        oil = self.batch.lines.get(ingredient_key="olive_oil").target_g
        for at, said in (
            ("test", f"Olive oil is not in yet: the figures count {oil:.1f} g of it."),
            ("test", "Beeswax, yellow was passed over: the figures count 17.3 g of it."),
            ("weigh:olive_oil", "Beeswax, yellow was passed over"),
        ):
            page = self.client.get(self.path, {"step": at})
            text = " ".join(page.content.decode().split())
            self.assertIn(said, text)
        page = self.client.get(f"{self.path}weigh")
        self.client.post(f"{self.path}weigh", form_data(page, "weigh") | {"actual-olive_oil": ["0"]})
        bench = self.client.get(self.path, {"step": "weigh:olive_oil"}).context["bench"]
        self.assertTrue(bench.here.is_open)

    def photograph(self, content: bytes, name: str = "photo.png") -> HttpResponse:
        data = {"step": self.step, "after": self.page.context["bench"].run.revision, "do": "photo"}
        return self.client.post(f"{self.path}do", {**data, "photo": SimpleUploadedFile(name, content)})

    def test_a_photograph_is_kept_without_place_or_camera(self) -> None:
        """Encoded anew at 2000 pixels at most and turned upright; no picture, and one too many pixels, are refused."""
        picture, sent = Image.new("RGB", (3000, 1500), "peru"), BytesIO()
        exif = Image.Exif()
        exif[0x0110], exif[0x0112] = "A camera", 6  # its model, and that it was held upright
        picture.save(sent, "JPEG", exif=exif)
        self.page = self.client.get(self.photograph(sent.getvalue(), "IMG.JPG").url)
        file = Event.objects.get(kind="photo").data["file"]
        kept = self.client.get(f"/bench/photo/{file}")
        with Image.open(BytesIO(kept.content)) as found:
            self.assertEqual((found.format, found.size, dict(found.getexif())), ("JPEG", (1000, 2000), {}))
        self.assertContains(self.page, f"/bench/photo/{file}")
        for more, said in ((1, "more than 12 MB"), (0, "no photograph that can be read")):
            large = SimpleUploadedFile("large.jpg", b"no picture")
            large.size = PHOTO_BYTES + more
            with self.assertRaisesMessage(Problem, said):
                keep(large)
        for name in ("..%2Fsecret-key", "0" * 32 + ".jpg", "workshop.sqlite3"):
            self.assertEqual(self.client.get(f"/bench/photo/{name}").status_code, 404)
        self.assertContains(self.photograph(b"<svg/>"), "no photograph that can be read", status_code=400)
        huge = BytesIO()
        Image.new("1", (8000, 6000)).save(huge, "PNG")
        self.assertContains(self.photograph(huge.getvalue()), "more than 20 megapixels", status_code=400)

    def test_nonsense_is_refused_in_words_and_stays_in_the_field(self) -> None:
        """Texts that are no weight, nothing weighed, a timer of a year, a step that is not there."""
        self.do("done")
        for fields, said in (
            ({"grams": "9e99"}, "“9e99” is not an amount"),
            ({"grams": "0"}, "Nothing is weighed yet: pour first"),
            ({"grams": "90 kg"}, "is more than this bench holds"),
            ({"grams": "-3"}, "is below nothing"),
        ):
            with self.subTest(said):
                self.do("weigh", 400, **fields)
                self.assertContains(self.page, said, status_code=400)
                self.assertContains(self.page, f'value="{fields["grams"]}"', status_code=400)
        self.do("weigh", 409, at="weigh:gold", grams="5 g")
        self.assertContains(self.page, "That step is not one of this batch any more.", status_code=409)
        self.do("timer", 400, minutes="600000")
        self.do("dance", 400)
        self.do("add", 400, item="gold", grams="3")
        self.do("log", 400)
        self.assertContains(self.page, "Not every piece is filled yet.", status_code=400)
        self.assertFalse(Event.objects.exclude(kind="done").exists())
