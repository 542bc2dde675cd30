"""Everything into one ZIP, into an empty workshop, and out again the same; what is no export, refused."""

import io
import json
import sqlite3
import tempfile
import zipfile
from contextlib import closing
from pathlib import Path

from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import TestCase, TransactionTestCase, tag

from balmcore.errors import Problem
from demo.loader import YEAR, load
from exchange.data_folder import DATABASE_FILE
from exchange.package import APPS, read_export, write_export
from formulas.models import Formula
from labels.models import Maker
from pieces.models import Handout
from pours.models import Check, CheckPhoto, Pour
from tests.support.makings import begin, own_folder
from workshop.models import Preferences


def exported() -> bytes:
    kept = io.BytesIO()
    write_export(kept)
    return kept.getvalue()


def parts(package: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(package)) as found:
        return {name: found.read(name) for name in found.namelist() if name != "about.json"}


def rows(package: bytes) -> dict[str, bytes]:
    return {name: part for name, part in parts(package).items() if not name.startswith("photos/")}


@tag("slow")
class RoundTests(TransactionTestCase):
    def test_out_in_and_out_again_is_the_same(self) -> None:
        """A whole year with wear tests, pieces and a ladder: the same bytes, and pages that answer. Photographs are
        encoded anew as they come in, and are the same pictures."""
        folder = own_folder(self)
        load(YEAR)
        Maker.objects.create(pk=1, name="The net loft")
        first = exported()
        counted = (Pour.objects.count(), Check.objects.count(), Handout.objects.count(), CheckPhoto.objects.count())
        self.assertGreater(min(counted), 5)
        call_command("flush", interactive=False, verbosity=0)
        for file in (folder / "photos").iterdir():
            file.unlink()
        self.assertFalse(Pour.objects.exists())
        found = read_export(io.BytesIO(first))
        self.assertEqual(found.counts["pours.pour"], counted[0])
        Preferences.objects.update(
            records_revision=json.loads(parts(first)["tables/workshop.preferences.json"])[0]["fields"][
                "records_revision"
            ]
        )
        again = exported()
        self.assertEqual(set(parts(again)), set(parts(first)))
        self.assertEqual(rows(again), rows(first))
        photo = CheckPhoto.objects.earliest("pk")
        self.assertContains(self.client.get(f"/pours/{photo.check_of.pour_id}/"), f"/bench/photo/{photo.file}")
        self.assertEqual(self.client.get(f"/bench/photo/{photo.file}").status_code, 200)
        # Once more, beside itself: everything is here already, and nothing changes.
        twice = read_export(io.BytesIO(first))
        self.assertEqual((sum(twice.counts.values()), twice.said), (0, ()))
        singles = 2  # settings and who makes it are ours in any case
        self.assertEqual(twice.already, sum(found.counts.values()) - singles)
        self.assertEqual(
            twice.words, f"Brought: 0 formulas, 0 batches, 0 pours, 0 lots. {twice.already} rows were here already."
        )
        Preferences.objects.update(
            records_revision=json.loads(parts(first)["tables/workshop.preferences.json"])[0]["fields"][
                "records_revision"
            ]
        )
        self.assertEqual(parts(exported()), parts(again))


class PackageTests(TestCase):
    def package(self, change: dict[str, bytes | None]) -> io.BytesIO:
        """The export of an empty workshop with some entries put in, changed or left out."""
        with zipfile.ZipFile(io.BytesIO(exported())) as found:
            entries = {name: found.read(name) for name in found.namelist()} | change
        kept = io.BytesIO()
        with zipfile.ZipFile(kept, "w") as made:
            for name, content in entries.items():
                if content is not None:
                    made.writestr(name, content)
        return kept

    def test_every_table_of_the_makers_is_in_it(self) -> None:
        """JSON with its fields, CSV with its columns; nobody's passwords."""
        begin("Ebb", "soft_salve")
        found = parts(exported())
        models = {model._meta.label_lower for name in APPS for model in apps.get_app_config(name).get_models()}
        models.discard("workshop.sentform")
        self.assertEqual({name.split("/")[1][:-5] for name in found if name.startswith("tables/")}, models)
        (row,) = json.loads(found["tables/formulas.formula.json"])
        self.assertEqual((row["fields"]["name"], row["fields"]["kind_key"]), ("Ebb", "soft_salve"))
        self.assertIn("Ebb", found["csv/formulas.formula.csv"].decode())
        self.assertFalse([name for name in found if "auth" in name or "sessions" in name])

    def test_what_is_no_export_is_refused_and_nothing_is_kept(self) -> None:
        """No ZIP, a path that climbs, a later schema, another version, rows that point nowhere, and a bomb."""
        about = json.loads(zipfile.ZipFile(io.BytesIO(exported())).read("about.json"))
        lost = json.dumps([{"pk": 1, "fields": {"version": 99, "position": 0, "ingredient_key": "olive_oil", "share": "1",
                                                "locked": False}}]).encode()  # fmt: skip
        for source, said in (
            (io.BytesIO(b"not a ZIP"), "no export of Calm Tin"),
            (self.package({"../../evil.txt": b"x"}), "holds what no export does"),
            (self.package({"photos/../key.jpg": b"x"}), "holds what no export does"),
            (self.package({"about.json": None}), "does not say what it is"),
            (self.package({"about.json": json.dumps({**about, "schema": 9}).encode()}), "another version of Calm Tin"),
            (self.package({"about.json": json.dumps({**about, "steps": []}).encode()}), "does not say how its tables"),
            (
                self.package({"about.json": json.dumps({**about, "steps": ["pours.0999_dream"]}).encode()}),
                "a newer one, which knows pours.0999_dream",
            ),
            (self.package({"about.json": b"[]"}), "no export of a workshop"),
            (self.package({"tables/formulas.line.json": lost}), "Nothing of it was kept"),
            (self.package({"tables/formulas.formula.json": b"{"}), "Nothing of it was kept"),
            (self.package({"tables/pours.pour.json": None}), "Nothing of it was kept"),
        ):
            with self.subTest(said), self.assertRaisesRegex(Problem, said):
                read_export(source)
        self.assertFalse(Formula.objects.exists())

    def test_in_settings(self) -> None:
        """Taken away there, brought into an empty workshop; without a file, or into a full one, it is said."""
        begin("Ebb", "soft_salve")
        taken = self.client.get("/settings/everything.zip")
        content = taken.getvalue()
        self.assertIn("attachment", taken["Content-Disposition"])
        self.assertContains(self.client.post("/settings/everything", follow=True), "Choose the ZIP")
        sent = SimpleUploadedFile("loft.zip", content)
        again = self.client.post("/settings/everything", {"file": sent}, follow=True)
        self.assertContains(again, "Brought: 0 formulas, 0 batches, 0 pours, 0 lots.")
        Formula.objects.all().delete()
        sent.seek(0)
        brought = self.client.post("/settings/everything", {"file": sent}, follow=True)
        self.assertContains(brought, "Brought: 1 formula, 0 batches, 0 pours, 0 lots.")

    def test_a_bomb_is_not_opened(self) -> None:
        """Ten gigabytes of zeros, as its list says."""
        kept = self.package({})
        with zipfile.ZipFile(kept, "a") as made:
            made.writestr("csv/zeros.csv", b"0")
            made.infolist()[-1].file_size = 10 * 1024**3
        with self.assertRaisesRegex(Problem, "unpacks to more than any workshop holds"):
            read_export(kept)

    def test_from_a_shell(self) -> None:
        """A file that is there is not written over; what is brought into a full workshop leaves a copy of it."""
        begin("Ebb", "soft_salve")
        own = own_folder(self)
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "loft.zip"
            call_command("export", str(file), verbosity=0)
            with self.assertRaisesMessage(CommandError, "is there already: choose another name."):
                call_command("export", str(file))
            Formula.objects.all().delete()
            for before in (False, True):
                with closing(sqlite3.connect(own / DATABASE_FILE)) as live:
                    live.execute("CREATE TABLE IF NOT EXISTS tin (name TEXT)")
                said = io.StringIO()
                call_command("import", str(file), stdout=said)
                self.assertEqual("What was here before lies in" in said.getvalue(), before)
        self.assertEqual(Formula.objects.get().name, "Ebb")
