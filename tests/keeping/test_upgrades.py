"""Workshops that earlier versions of Calm Tin wrote, brought up to date: nothing lost, every page opens.

``workshops/`` holds the demo workshop as each of them stored it; CONTRIBUTING.md says how one is added.
"""

import gzip
import json
import os
import sqlite3
import subprocess
import sys
import tempfile
from contextlib import closing
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase, tag

WORKSHOPS = Path(__file__).parent / "workshops"
TABLES = ("formulas_formula", "formulas_version", "batches_batch", "pours_pour", "pantry_lot", "pantry_entry")
# What the first pours had measured, wherever those versions kept it.
MEASURED = {
    "1-studio-pantry-plan": 9,
    "2-rooms": 9,
    "3-trust": 9,
    "4-bench": 9,
    "5-pours-and-labels": 42,
    "6-safe-house": 42,
    "7-reader": 42,
}
FIRST = [65, 74, 48, 54, 86, 84]


def unpack(file: Path, folder: Path) -> list[int]:
    """A stored workshop as a database in a folder; how many rows it has, by table."""
    with closing(sqlite3.connect(folder / "workshop.sqlite3")) as database:
        database.executescript(gzip.decompress(file.read_bytes()).decode())
        return [database.execute(f"SELECT COUNT(*) FROM {table}").fetchone()[0] for table in TABLES]


@tag("slow")
class UpgradeTests(SimpleTestCase):
    def test_a_workshop_of_every_earlier_version(self) -> None:
        """Copied first; every row is there; tests became checks; every page that links lead to opens; it can be
        taken along."""
        kept = sorted(WORKSHOPS.glob("*.sql.gz"))
        self.assertEqual([file.name.removesuffix(".sql.gz") for file in kept], sorted(MEASURED))
        for file in kept:
            name = file.name.removesuffix(".sql.gz")
            with self.subTest(name), tempfile.TemporaryDirectory() as parent:
                before = unpack(file, Path(parent))
                here = {**os.environ, "CALM_TIN_DATA": parent, "DJANGO_SETTINGS_MODULE": "calmtin.settings"}
                done = subprocess.run(
                    [sys.executable, "-m", "tests.keeping.upgraded"],
                    cwd=settings.BASE_DIR,
                    env=here,
                    capture_output=True,
                    text=True,
                    check=False,
                )
                self.assertEqual(done.returncode, 0, done.stderr[-800:])
                told = json.loads(done.stdout)
                self.assertEqual((told["copied"], told["rows"]), (True, before))
                self.assertGreater(told["pages"], 40)
                self.assertEqual((len(told["tested"]), told["tested"][:6]), (MEASURED[name], FIRST))
                self.assertGreater(told["exported"], sum(before))
