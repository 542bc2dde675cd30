"""What fell over once, and what might: odd files, odd addresses, races and full disks; a sentence each."""

import errno
import io
import json
import zipfile
from typing import Any
from unittest import mock

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import Client, SimpleTestCase, TestCase, TransactionTestCase, override_settings, tag
from django.urls import get_resolver
from hypothesis import HealthCheck, Phase, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisTestCase
from openpyxl import Workbook

from balmcore.errors import Problem
from balmcore.tables import shipped
from batches.models import Batch
from batches.services import mark_poured
from bench.doing.calling_off import Fate, call_off
from formulas.sharing.files import MOST_BYTES, make_of_file, read_file
from formulas.sharing.sheets import read_sheet
from instruments.simulator import Simulator
from tests.keeping.test_reach import addresses
from tests.support.makings import begin, own_folder
from tests.support.net_loft import load
from workshop.files import limits
from workshop.files.sheets import as_text

GOOD: dict[str, Any] = {
    "sort": "calm-tin-formula", "schema": 1, "name": "Ebb", "kind_key": "pot_salve",
    "lines": [{"ingredient": "beeswax_yellow", "name": "Beeswax", "percent": "20"},
              {"ingredient": "olive_oil", "name": "Olive oil", "percent": "80"}],
}  # fmt: skip
JUNK = st.recursive(
    st.none() | st.booleans() | st.integers(-(10**30), 10**30) | st.floats() | st.text(max_size=30),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=6,
)


def workbook(**changed: bytes) -> bytes:
    book = Workbook()
    for row in (["Ingredient", "Percent"], ["Beeswax, yellow", 20], ["Olive oil", 80]):
        book.active.append(row)
    kept, made = io.BytesIO(), io.BytesIO()
    book.save(kept)
    with zipfile.ZipFile(kept) as whole, zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as spoilt:
        for name in whole.namelist():
            spoilt.writestr(name, changed.get(name.rpartition("/")[2].partition(".")[0], whole.read(name)))
    return made.getvalue()


class FormulaFileTests(TestCase):
    def test_files_that_cannot_be_are_a_sentence_each(self) -> None:
        """As JSON, as rows, as a workbook; on the page too, which keeps what was pasted."""
        tables = shipped()
        for change, said in (
            ({"own_ingredients": 5}, "Its own ingredients are no list."),
            ({"lines": [{"ingredient": "olive_oil", "percent": "1e9999999"}]}, "no percentage that can be read"),
            ({"lines": [{"ingredient": "olive_oil", "percent": "1e-9999999"}]}, None),
            ({"name": "\ud800"}, "letters that no text has"),
            ({"lines": [{}]}, "no percentage that can be read"),
            ({"lines": 5}, "no lines that can be read"),
            ({"version": 10**19}, None),
        ):
            with self.subTest(change):
                text = json.dumps({**GOOD, **change})
                if said is None:
                    self.assertEqual(read_file(text, tables).name, "Ebb")
                    continue
                with self.assertRaisesRegex(Problem, said):
                    read_file(text, tables)
                page = self.client.post("/formulas/read-file", {"text": text})
                self.assertEqual(page.status_code, 400)
        for content, said in (
            (b"Ingredient,Percent\r\rBeeswax\r", "no percentage|no file of a formula"),
            (b"Ingredient,Percent\nBeeswax\nOlive oil,80", ""),
            (b"Ingredient,Percent\n" + b"x" * 140_000 + b",5", "cannot be read"),
            (b"\xff\xfe\x00\x01", "no file of a formula"),
            (workbook(sheet1=b"<worksheet><sheetData><row></worksheet>"), "That workbook cannot be read"),
            (workbook(workbook=b"<nothing/>"), "That workbook cannot be read"),
            (workbook(sheet1=b" " * 30_000_000), "unpacks to more than any workshop holds"),
            (b"PK\x03\x04" + b"0" * 200, "no file of a formula|cannot be read"),
        ):
            with self.subTest(content[:30]):
                if said:
                    with self.assertRaisesRegex(Problem, said):
                        read_file(json.dumps(read_sheet(content, tables)), tables)
                sent = SimpleUploadedFile("a.csv", content)
                self.assertIn(self.client.post("/formulas/read-file", {"file": sent}).status_code, (200, 400))

    def test_what_begins_like_a_formula_is_text_in_any_sheet(self) -> None:
        """The signs that Excel and its like reckon with, wide ones too."""
        for begins in "=+-@＝＋－＠；\t\r":
            self.assertEqual(as_text(f"{begins}1+1"), f"'{begins}1+1")
        self.assertEqual(as_text("1+1"), "1+1")


class LimitTests(SimpleTestCase):
    def test_every_bound_is_named_in_the_docs(self) -> None:
        """As a figure, in docs/export.md."""
        told = (settings.BASE_DIR / "docs" / "export.md").read_text()
        pixels = [limits.PHOTO_PIXELS[kind] // 1_000_000 for kind in ("JPEG", "PNG", "WEBP")]
        for words in (
            f"{limits.ZIP_ENTRIES:,}, together {limits.ZIP_BYTES // 1024**3} GB",
            f"more than {limits.ZIP_RATIO_FROM // limits.MB} MB | unpacks to at most {limits.ZIP_RATIO} times",
            f"{limits.TABLE_BYTES // limits.MB} MB, read row by row; a row {limits.ROW_BYTES // limits.MB} MB, nested "
            f"{limits.JSON_DEPTH} deep",
            f"{limits.WORKBOOK_BYTES // limits.MB} MB unpacked; a formula's file {MOST_BYTES // 1000} kB",
            f"{limits.PHOTO_BYTES // limits.MB} MB; {pixels[0]} megapixels as JPEG, {pixels[1]} as PNG, {pixels[2]} as WebP; "
            f"{limits.PHOTO_SIDE_PX:,} pixels",
        ):
            self.assertIn(words, told)


@tag("slow")
class AnyFormulaFileTests(HypothesisTestCase):
    @hypothesis_settings(
        max_examples=60,
        deadline=None,
        derandomize=True,
        phases=(Phase.generate,),
        suppress_health_check=list(HealthCheck),
    )
    @given(st.sampled_from([*GOOD, "own_ingredients", "note", "audience", "version", "line"]), JUNK)
    def test_any_value_is_read_or_refused_in_a_sentence(self, field: str, junk: object) -> None:
        """Read, and made where it can be: what is made has a page."""
        changed = {**GOOD, field: junk}
        if field == "line":
            changed = {**GOOD, "lines": [GOOD["lines"][0], {"ingredient": junk, "percent": junk, "name": junk}]}
        try:
            formula = make_of_file(read_file(json.dumps(changed), shipped()))
        except Problem as problem:
            self.assertRegex(problem.sentence, r"[.]$")
        else:
            self.assertEqual(self.client.get(f"/formulas/{formula.pk}/").status_code, 200)


class AddressTests(TestCase):
    def test_no_address_with_odd_numbers_falls_over(self) -> None:
        """Twenty digits in each place of the whole map, an empty workshop and the net loft: 404 or a page, no fault."""
        client = Client(raise_request_exception=False)
        paths = [path.replace("/1", f"/{10**19}").replace("v1", f"v{10**19}") for path, _ in addresses(get_resolver())]
        asked = [(method, path) for path in paths for method in ("GET", "POST")]
        self.assertEqual([each for each in asked if client.generic(*each).status_code >= 500], [])
        load()
        for path in ("/formulas/1/versions/1{}/restore", "/formulas/1/v1{}.json", "/formulas/1/?version=1{}",
                     "/settings/month?name=a&a=31.12.9999&month=9999-12", "/pours/?formula=1{}", "/batches/plan?version=1{}"):  # fmt: skip
            for method in ("GET", "POST"):
                answer = client.generic(method, path.format("0" * 19))
                self.assertLess(answer.status_code, 500, (method, path))


class RaceTests(TransactionTestCase):
    def test_called_off_against_a_pour(self) -> None:
        """Whoever comes second is told; the pour's batch stays, and nothing goes back to its lots."""
        version = begin("Ebb", "soft_salve").versions.get()
        batch = Batch.objects.create(version=version, resolution_g="0.1", pour_c=60)
        stale = Batch.objects.get(pk=batch.pk)
        mark_poured(batch)
        with self.assertRaisesRegex(Problem, "This batch was poured: its record stays."):
            call_off(stale, Fate.BACK, shipped())
        other = Batch.objects.create(version=version, resolution_g="0.1", pour_c=60)
        late = Batch.objects.get(pk=other.pk)
        call_off(other, Fate.BACK, shipped())
        with mock.patch("bench.views.get_object_or_404", return_value=late):
            again = self.client.post(f"/bench/{late.pk}/call-off")
        self.assertContains(again, "This batch was called off already.", status_code=400)
        self.assertEqual(Batch.objects.get(), stale)


class FullDiskTests(SimpleTestCase):
    def test_a_start_on_a_full_disk_is_a_sentence(self) -> None:
        own_folder(self)
        full = OSError(errno.ENOSPC, "No space left on device")
        for what in ("bring_up_to_date", "call_command"):
            with (
                override_settings(),
                mock.patch("calmtin.management.commands.serve.bring_up_to_date", return_value=None),
                mock.patch("calmtin.management.commands.serve.Command._copy_of_today"),
                mock.patch(f"calmtin.management.commands.serve.{what}", side_effect=full),
                self.assertRaisesMessage(CommandError, "Calm Tin cannot start (no space left on device): make room"),
            ):
                call_command("serve", port=8040)

    def test_a_simulator_told_what_has_no_end(self) -> None:
        """Infinity and what is no number are no orders: it goes on as it was."""
        simulator = Simulator()
        for order in ({"put": "inf"}, {"load": "nan"}, {"step": "inf"}, {"settling": "nan"}, {"speed": "-inf"}):
            with self.assertRaises(ValueError):
                simulator.do(order)
        simulator.do({"load": 1e300})
        simulator.tick(0.1)
        self.assertEqual(simulator.line("scale"), b"E over\r\n")
