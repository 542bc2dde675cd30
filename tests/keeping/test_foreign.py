"""What comes in from outside: foreign and broken files, earlier versions, photographs; a sentence each, nothing kept."""

import io
import json
import random
import zipfile
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from django.apps import apps
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, transaction
from django.test import TestCase, tag
from hypothesis import HealthCheck, Phase, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase
from PIL import Image

from balmcore.errors import Problem
from batches.models import Batch
from devices.models import Device, Sharing
from exchange.package import read_export
from exchange.package.tables import APPS, TABLES, owned_models
from formulas.models import Formula
from instruments.models import Instrument
from pantry.models import Lot
from pours.models import Check, CheckPhoto, Pour
from tests.keeping.test_exchange import exported
from tests.support.makings import own_folder
from tests.support.net_loft import load
from workshop.files import photos
from workshop.models import Preferences
from workshop.services import preferences

FIRST = Path(__file__).parent / "exports" / "1-first.zip"
Rows = dict[str, list[dict[str, Any]]]
EVIL = {
    "auth.user": {"username": "maker", "password": "x", "is_superuser": True},
    "devices.sharing": {"is_on": True, "address": "10.0.0.7"},
    "devices.device": {"user": 1, "name": "evil", "is_paired": True},
    "sessions.session": {"session_data": "x", "expire_date": "2099-01-01T00:00:00Z"},
    "instruments.instrument": {"kind": "scale", "address": "socket://10.0.0.7:1", "baud": 9600, "unit": "g"},
    "workshop.sentform": {"led_to": "/"},
    "contenttypes.contenttype": {"app_label": "a", "model": "b"},
}


class ForeignCase(TestCase):
    """The net loft's year as an export, taken apart and put together otherwise, into an empty workshop."""

    about: dict[str, Any]
    rows: Rows

    @classmethod
    def setUpTestData(cls) -> None:
        load()
        # A handful of rows of every table says as much as all, and sooner.
        pours = Pour.objects.order_by("pk")[:2]
        batches = {pour.batch_id for pour in pours}
        Pour.objects.exclude(pk__in=[pour.pk for pour in pours]).delete()
        Batch.objects.exclude(pk__in=batches).delete()
        Formula.objects.exclude(versions__batches__in=batches).delete()
        check = Check.objects.earliest("pk")
        for n in range(3):
            CheckPhoto.objects.create(check_of=check, file=f"{n:032x}.jpg")
        with zipfile.ZipFile(io.BytesIO(exported())) as found:
            cls.about = json.loads(found.read("about.json"))
            cls.rows = {label: json.loads(found.read(f"tables/{label}.json")) for label in TABLES}
        for model in reversed(owned_models()):
            model._base_manager.all().delete()

    def setUp(self) -> None:
        own_folder(self)

    def package(self, rows: Rows, more: Mapping[str, str | bytes] | None = None) -> io.BytesIO:
        kept = io.BytesIO()
        with zipfile.ZipFile(kept, "w", zipfile.ZIP_DEFLATED) as made:
            made.writestr("about.json", json.dumps(self.about))
            for label, table in rows.items():
                made.writestr(f"tables/{label}.json", json.dumps(table))
            for name, content in (more or {}).items():
                made.writestr(name, content)
        return kept

    def changed(self, label: str, at: int = 0, /, **fields: Any) -> Rows:
        """The rows with some fields of one of them changed."""
        table = [{**row, "fields": dict(row["fields"])} for row in self.rows[label]]
        table[at]["fields"] |= fields
        return {**self.rows, label: table}

    def assert_refused(self, package: io.BytesIO, said: str) -> None:
        """All of it, in a sentence; the door and the tables are as they were."""
        with transaction.atomic():
            with self.assertRaises(Problem) as caught:
                read_export(package)
            self.assert_nothing_came(caught.exception.sentence, said)
            transaction.set_rollback(True)

    def assert_nothing_came(self, sentence: str, said: str) -> None:
        self.assertIn(said, sentence)
        self.assertRegex(sentence, "Nothing (of it was kept|was changed|was brought)")
        for model in (Formula, Lot, User, Device, Sharing, Instrument, Session):
            self.assertFalse(model.objects.exists(), model)


@tag("slow")
class DoorTests(ForeignCase):
    def test_an_import_writes_the_tables_of_balms_and_no_other(self) -> None:
        """Every model of our apps is decided on: handed over, or known to be a matter of this computer."""
        ours = {model._meta.label_lower for name in APPS for model in apps.get_app_config(name).get_models()}
        self.assertEqual(ours - set(TABLES), {"workshop.sentform"})
        self.assertEqual(set(TABLES) - ours, set())
        for label, fields in EVIL.items():
            with self.subTest(label):
                # A row that says that it is of another table, inside a table of ours; and a table of its own.
                row = {"model": label, "pk": 1, "fields": fields}
                self.assert_refused(
                    self.package({**self.rows, "workshop.ownkind": [row]}), "a row that is not a number and its fields"
                )
                self.assert_refused(self.package(self.rows, {f"tables/{label}.json": json.dumps([row])}), label)

    def test_every_row_is_looked_at_by_its_model(self) -> None:
        """Types, choices, ranges, days, numbers without end, shapes of what is kept as JSON: each named with its row."""
        for label, fields, said in (
            ("formulas.formula", {"audience": "lizard"}, "audience: Value 'lizard' is not a valid choice."),
            ("formulas.formula", {"name": "x" * 121}, "Ensure this value has at most 120 characters"),
            ("formulas.formula", {"name": "a\0b"}, "letters that no text has"),
            ("formulas.formula", {"name": "\ud800"}, "letters that no text has"),
            ("formulas.formula", {"created": "9999-12-31T00:00:00Z"}, "the year 9999 is no year of a workshop"),
            ("formulas.formula", {"kind_key": "brick"}, "Nothing here is called brick, which formulas name."),
            ("formulas.formula", {"password": "x"}, "has no field named 'password'"),
            ("batches.batch", {"overrun": 1e300}, "Ensure this value is less than or equal to 4"),
            ("formulas.version", {"made_from": self.rows["formulas.version"][0]["pk"]}, "was made from itself"),
            ("formulas.line", {"ingredient_key": "gold"}, "Nothing here is called gold, which lines name."),
            ("formulas.line", {"share": "0.9"}, "do not add up to one hundred percent"),
            ("formulas.line", {"version": 9999}, "do not stand together"),
            ("pantry.lot", {"left": "1"}, "1 are left, and its entries add up to another amount"),
            ("pantry.lot", {"received": "Infinity"}, "“Infinity” is no amount."),
            ("pantry.lot", {"item_key": "tin_screw_30", "is_container": False}, "of containers and say that they are not"),
            ("pantry.preparation", {"shake_every_days": 0}, "Shaken every 1 to 90 days"),
            ("batches.batch", {"occupies": [["hands", 0, "soon"]]}, "should be a list of names"),
            ("batches.batch", {"occupies": "x"}, "should be a list of names"),
            ("batches.batch", {"cooling": "in the sea"}, "is not a valid choice"),
            ("batches.draw", {"grams": "777"}, "do not agree with the accounts of their lots"),
            ("pours.check", {"readings": ["many"]}, "grams-force, each above nothing"),
            ("pours.check", {"predicted": "warm"}, "must be a float"),
            ("pours.checkphoto", {"file": "../../secret-key"}, "is no name of a photograph"),
        ):  # fmt: skip
            with self.subTest(label=label, **fields):
                self.assert_refused(self.package(self.changed(label, **fields)), said)
        twice = [self.rows["formulas.formula"][0]] * 2
        self.assert_refused(self.package({**self.rows, "formulas.formula": twice}), "or stands there twice")
        fields = {"pour": self.rows["pours.pour"][0]["pk"], "how": "given", "count": 4000, "on": "2026-11-01"}
        given = [{"pk": 1, "fields": fields}]
        self.assert_refused(self.package({**self.rows, "pieces.handout": given}), "more pieces went than were filled")

    def test_what_is_no_list_of_rows_is_said(self) -> None:
        """Cut, nested, endless, not JSON, not text, larger than any row; in any table, read piece by piece."""
        for content, said in (
            (b"", "no list of rows"), (b"{}", "no list of rows"), (b"[", "A row cannot be read"),
            (b'[{"pk": 1, "fields": {"name": "A"}} {}]', "or not the whole of one"),
            (b"[1]", "not a number and its fields"), (b"[] []", "goes on after its end"), (b"\xff\xfe[", "is no text"),
            (b'[{"pk": 1, "fields": ' + b"[" * 100_000, "nested deeper"),
            (b'[{"pk": 1, "fields": {"name": ' + b"[" * 20 + b"]" * 20 + b"}}]", "nested deeper than 12"),
            (b'[{"pk": 1, "fields": {"name": Infinity}}]', "Infinity, which is no number"),
            (b'[{"pk": 1, "fields": {"name": 1e999}}]', "1e999 is no number that can be"),
            (b'[{"pk": true, "fields": {}}]', "of the number True"), (b'[{"pk": 0, "fields": {}}]', "of the number 0"),
            (b'[{"pk": 99999999999999999999, "fields": {}}]', "which cannot be"),
            (b'[{"pk": 1, "fields": {"name": "' + random.Random(3).randbytes(900_000).hex().encode() + b'"}}]',
             "A row cannot be read"),
        ):  # fmt: skip
            with self.subTest(content[:40]):
                rows = {label: table for label, table in self.rows.items() if label != "pieces.person"}
                self.assert_refused(self.package(rows, {"tables/pieces.person.json": content}), said)

    def test_archives_are_refused_by_what_they_say_of_themselves(self) -> None:
        """Two hundred times its weight; an entry twice; a path; another file; encrypted; nothing is unpacked."""
        self.assert_refused(self.package(self.rows, {"csv/a.csv": b"0" * 40_000_000}), "unpacks to more than any")
        for name in ("csv/../../x.csv", "/etc/passwd", "secret-key", "csv/x.exe", "photos/a.png"):
            self.assert_refused(self.package(self.rows, {name: b"x"}), "holds what no export does")
        self.assert_refused(io.BytesIO(self.package(self.rows).getvalue()[:-40]), "not the whole of one")

    def test_settings_that_cannot_be_are_as_usual_and_it_is_said(self) -> None:
        """By an import, and where they lie in the workshop as junk: the page opens, and says which."""
        changed = self.changed("workshop.preferences", cool_room_c=4000, theme="pink", decimal_mark=",")
        found = read_export(self.package(changed))
        self.assertIn(
            "Settings that could not be are as usual: Cool room, Hot pocket, Light or dark, Warm room.", found.said
        )
        stored = Preferences.objects.get()
        self.assertEqual((stored.cool_room_c, stored.theme, stored.decimal_mark), (18.0, "system", ","))
        Preferences.objects.update(theme="pink", hot_pocket_c=1e300)
        with connection.cursor() as cursor:
            cursor.execute("UPDATE workshop_preferences SET label_price = 'much', resolution_g = 'x'")
        self.assertEqual(
            (preferences().resolution_g, str(preferences().label_price)), (preferences().resolution_g, "0")
        )
        for page in ("/settings/", "/", "/formulas/1/"):
            self.assertContains(
                self.client.get(page), "are as usual: cool room, hot pocket, light or dark, one label costs"
            )


@tag("slow")
class BroughtTests(ForeignCase):
    def test_an_export_of_an_earlier_version_comes_in(self) -> None:
        """Written before the paper moved to the settings: brought up to date on the side, nothing else touched."""
        found = read_export(io.BytesIO(FIRST.read_bytes()))
        self.assertEqual(found.words, "Brought: 14 formulas, 45 batches, 43 pours, 36 lots.")
        self.assertEqual(preferences().paper, "letter")
        self.assertIn("10 photographs that rows name, and that was not in the file.", found.said)
        self.assertEqual(self.client.get("/pours/").status_code, 200)
        with zipfile.ZipFile(FIRST) as old:
            entries = {name: old.read(name) for name in old.namelist()}
        about = json.loads(entries["about.json"])
        for change, said in (
            ({"about.json": json.dumps({**about, "steps": about["steps"][3:]}).encode()}, "is missing"),
            ({"tables/labels.maker.json": b'[{"pk": 1, "fields": {"shoe": "size"}}]'}, "no field named"),
        ):
            kept = io.BytesIO()
            with zipfile.ZipFile(kept, "w") as made:
                for name, content in {**entries, **change}.items():
                    made.writestr(name, content)
            with self.subTest(said), self.assertRaisesRegex(Problem, f"Nothing of it was kept.*{said}"):
                read_export(kept)

    def test_photographs_come_in_as_pictures_and_nothing_else(self) -> None:
        """Place and foreign bytes are gone; one that no row names, or that is none, is left out and said; another
        picture of a name that is taken comes by a name of its own."""
        first, second, third = (row["fields"]["file"] for row in self.rows["pours.checkphoto"][:3])
        stranger = "f" * 32 + ".jpg"
        exif = Image.Exif()
        exif[0x0110] = "A camera of somebody"
        sent = io.BytesIO()
        Image.new("RGB", (90, 60), "teal").save(sent, "JPEG", exif=exif, comment=b"hidden")
        photos.folder().mkdir()
        Image.new("RGB", (90, 60), "white").save(photos.folder() / second)
        entries = {f"photos/{first}": sent.getvalue() + b"<script>", f"photos/{second}": sent.getvalue(),
                   f"photos/{third}": b"no picture", f"photos/{stranger}": sent.getvalue()}  # fmt: skip
        found = read_export(self.package(self.rows, entries))
        self.assertEqual(len([said for said in found.said if "photograph" in said]), 3, found.said)
        self.assertIn("1 photograph that no row names: left out.", found.said)
        self.assertIn("1 photograph that cannot be read as a picture, or is too large: left out.", found.said)
        kept = (photos.folder() / first).read_bytes()
        for foreign in (b"<script>", b"hidden", b"camera"):
            self.assertNotIn(foreign, kept)
        self.assertFalse((photos.folder() / stranger).exists())
        fresh = CheckPhoto.objects.order_by("pk")[1].file
        self.assertNotEqual(fresh, second)
        self.assertEqual(Image.open(photos.folder() / second).getpixel((5, 5)), (255, 255, 255))
        self.assertLess(Image.open(photos.folder() / fresh).getpixel((5, 5))[0], 20)  # type: ignore[index]
        self.assertFalse([file for file in photos.folder().iterdir() if file.name.endswith(".part")])
        again = read_export(self.package(self.rows, entries))
        self.assertEqual(len(list(photos.folder().iterdir())), 3)
        self.assertEqual(sum(again.counts.values()), 0)

    def test_pictures_are_refused_by_their_size_before_they_are_unpacked(self) -> None:
        """A line of forty million pixels, and more than a camera takes; broken notes of a camera harm nothing."""
        for size, is_taken in (((1, 20_001), False), ((5000, 4001), False), ((300, 200), True)):
            sent = io.BytesIO()
            Image.new("1", size).save(sent, "PNG")
            if is_taken:
                self.assertRegex(photos.keep_bytes(sent.getvalue()), photos.NAME)
            else:
                with self.assertRaisesRegex(Problem, "megapixels, or more than 20000 on one side"):
                    photos.keep(SimpleUploadedFile("a.png", sent.getvalue()))
        plain = io.BytesIO()
        Image.new("RGB", (40, 30)).save(plain, "JPEG", exif=b"Exif\0\0MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\xff")
        self.assertRegex(photos.keep_bytes(plain.getvalue()), photos.NAME)
        (photos.folder() / "gone").mkdir()
        with self.assertRaisesRegex(Problem, "The photograph could not be kept"):
            photos.keep_bytes(plain.getvalue(), "gone")


@tag("slow")
class AnyValueTests(ForeignCase, HypothesisTestCase):
    @hypothesis_settings(
        max_examples=25,
        deadline=None,
        derandomize=True,
        phases=(Phase.generate,),
        suppress_health_check=list(HealthCheck),
    )
    @given(st.data())
    def test_any_value_in_any_field_is_taken_and_shown_or_refused_in_a_sentence(self, data: st.DataObject) -> None:
        """Junk put into the rows of an export: all or nothing, and what is taken opens every page about it."""
        label = data.draw(st.sampled_from([label for label in TABLES if self.rows[label]]))
        number = data.draw(st.integers(0, len(self.rows[label]) - 1))
        field = data.draw(st.sampled_from(sorted(self.rows[label][number]["fields"])))
        junk = st.one_of(
            st.none(), st.booleans(), st.integers(-(10**20), 10**20), st.floats(), st.text(max_size=20),
            st.sampled_from(["", "-1", "1e9", "9999-12-31", "olive_oil", "own-ingredient-9", [], [[]], {"a": None}]),
        )  # fmt: skip
        package = self.package(self.changed(label, number, **{field: data.draw(junk)}))
        try:
            read_export(package)
        except Problem as problem:
            self.assertRegex(problem.sentence, r"^Nothing .*[.)]$|Nothing was (changed|brought)")
            self.assertFalse(Pour.objects.exists())
        else:
            for page in ("/", "/formulas/", "/batches/", "/pours/", "/pantry/", "/labels/", "/settings/"):
                self.assertEqual(self.client.get(page).status_code, 200, (page, label, field))
