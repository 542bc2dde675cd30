"""Copies of the workshop: made, looked at, put back; damage, kills and newer files met with a sentence."""

import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import time
from contextlib import closing
from datetime import date, datetime, timedelta
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.db import connection
from django.test import SimpleTestCase, TestCase, tag
from django.utils import timezone

from balmcore.errors import Problem
from calmtin.database.base import DatabaseWrapper
from exchange import beside
from exchange.beside import CopyOfTheDay, look_at_the_rest
from exchange.copies import Reason, clear_away, list_copies, make_copy, make_daily_copy, preview, reading
from exchange.data_folder import Unusable, fresh_name, only_server
from exchange.doctor import examine
from exchange.restoring import require_sound, restore
from exchange.startup import known_steps
from tests.support.makings import own_folder

ROW = (
    "INSERT INTO formulas_formula (name, kind_key, audience, area, created) "
    "VALUES (?, 'soft_salve', 'adult', 'body', '2026-01-01')"
)

PUTS_BACK = """
import sys, pathlib, django
django.setup()
from exchange.restoring import restore
from exchange.startup import known_steps
steps = known_steps()
print("ready", flush=True)
restore(pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2]), steps)
"""


@tag("slow")
class CopyTests(SimpleTestCase):
    databases = {"default"}  # its tables are the model of every workshop here
    model: Path

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.model = Path(tempfile.mkdtemp())
        cls.addClassCleanup(shutil.rmtree, cls.model)
        with closing(sqlite3.connect(connection.settings_dict["NAME"])) as made:  # empty between tests
            made.execute("VACUUM INTO ?", [str(cls.model / "workshop.sqlite3")])

    @staticmethod
    def manage(folder: Path, *command: str) -> subprocess.CompletedProcess[str]:
        here = {**os.environ, "CALM_TIN_DATA": str(folder), "DJANGO_SETTINGS_MODULE": "calmtin.settings"}
        return subprocess.run(
            [sys.executable, "manage.py", *command],
            cwd=settings.BASE_DIR,
            env=here,
            capture_output=True,
            text=True,
            check=False,
        )

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        self.live = self.folder / "workshop.sqlite3"
        shutil.copy(self.model / "workshop.sqlite3", self.live)
        self.write("Ebb")

    def write(self, name: str) -> None:
        with closing(sqlite3.connect(self.live)) as database, database:
            database.execute(ROW, (name,))

    def names(self) -> list[str]:
        with closing(sqlite3.connect(self.live)) as database:
            return [name for (name,) in database.execute("SELECT name FROM formulas_formula ORDER BY id")]

    def test_what_is_kept_over_a_year_of_daily_copies(self) -> None:
        """Fourteen days, the first of each month for a year, ninety days before a change; by hand for good, however many
        are asked for at once, and what earlier versions made by hand under another name."""
        today = date(2026, 11, 29)
        for n in range(400):
            day = today - timedelta(days=n)
            shutil.copy(self.live, self.folder / f"day-{day}-080000.sqlite3")
        for n in (1, 89, 90, 91, 200):
            (self.folder / f"before-{today - timedelta(days=n)}-090000.sqlite3").touch()
        (self.folder / "day-2026-03-27-093000.sqlite3").touch()  # the second of its day
        (self.folder / "hand-2020-01-01-000000.sqlite3").touch()
        for _ in range(14):
            make_copy(self.folder)
        (self.folder / "hand-2020-01-01-000000.sqlite3-wal").touch()
        clear_away(self.folder, today)
        kept = [copy.name[:-8] for copy in list_copies(self.folder)]
        days = [name[4:14] for name in kept if name.startswith("day-")]
        self.assertEqual(days[:14], [str(today - timedelta(days=n)) for n in range(14)])
        self.assertEqual(days[14:], [f"2026-{month:02}-01" for month in range(11, 0, -1)] + ["2025-12-01"])
        self.assertEqual([name[7:17] for name in kept if name.startswith("before-")],
                         [str(today - timedelta(days=n)) for n in (1, 89, 90)])  # fmt: skip
        self.assertEqual(sum(name.startswith("hand-") for name in kept), 16)
        self.assertIn("hand-2026-03-27-093000", kept)
        self.assertFalse(list(self.folder.glob("hand-*-wal")))

    def test_a_copy_on_each_day_of_use_and_through_midnight(self) -> None:
        """Once a day however often it is started; while the server runs, once something is written on a new day."""
        today = timezone.localdate()
        self.assertIsNotNone(make_daily_copy(self.folder, today))
        self.assertIsNone(make_daily_copy(self.folder, today))
        keeper = CopyOfTheDay(self.folder)
        days = [today, today + timedelta(days=1)]
        with (
            mock.patch("exchange.beside.timezone.localdate", side_effect=lambda: days[0]),
            mock.patch(
                "exchange.copies.fresh_name",
                side_effect=lambda folder, sort: folder / f"{sort}-{days[0]}-000100.sqlite3",
            ),
        ):
            for written, count in ((True, 1), (False, 1), (True, 2), (True, 2)):
                if written:
                    os.utime(self.live, ns=(time.time_ns(), time.time_ns()))
                keeper.keep()
                self.assertEqual(len(list(self.folder.glob("day-*"))), count)
                days = days[-1:] if (written, count) == (True, 1) else days

    def test_rows_that_point_at_nothing_are_said_while_it_is_open(self) -> None:
        """On the terminal and on the first page; a large database is looked at whole there too."""
        with closing(sqlite3.connect(self.live)) as database, database:
            database.execute("INSERT INTO pours_checkphoto (file, check_of_id) VALUES ('gone.jpg', 77)")
        said: list[str] = []
        with mock.patch.object(beside, "trouble", []):
            look_at_the_rest(self.folder, said.append).join()
            self.assertEqual(said, ["1 rows of the workshop point at ones that are not there: let doctor look."])
            self.assertEqual(beside.trouble, said)
        examined = [sentence for well, sentence in examine(self.folder, known_steps()) if not well]
        self.assertIn("points at one of pours_check that is not there", examined[0])
        whole = self.live.read_bytes()
        self.live.write_bytes(whole[:40_960] + bytes(4096) + whole[45_056:])
        with mock.patch.object(beside, "trouble", []), mock.patch.object(beside, "SOON_CHECKED_BYTES", 10):
            look_at_the_rest(self.folder, said.append).join()
        self.assertIn("is damaged: stop here, and let doctor say which copy is whole.", said[-1])

    def test_every_copy_put_back_in_turn(self) -> None:
        """The oldest too, which a copy before once cleared away; what is read is never cleared, and stays as it was."""
        old = Path(shutil.copy(self.live, self.folder / "before-2020-01-01-000000.sqlite3"))
        names = {old: ["Ebb"]}
        for n in range(3):
            self.write(f"Tide {n}")
            names[make_copy(self.folder, list(Reason)[n])] = self.names()
        for copy, held in names.items():
            before = copy.read_bytes()
            with reading(copy):
                clear_away(self.folder, date.today())
            found = restore(self.folder, copy, known_steps())
            self.assertEqual((self.names(), copy.read_bytes() == before), (held, True))
            assert found.before is not None
            self.assertEqual(preview(found.before, known_steps()).counts["formulas"] >= 1, True)
        with self.assertRaisesRegex(Problem, "There is no file"):
            restore(self.folder, self.folder / "day-2020-01-01-000000.sqlite3", known_steps())
        self.assertFalse((self.folder / "day-2020-01-01-000000.sqlite3").exists())

    def test_a_kill_while_it_is_put_back(self) -> None:
        """At any moment: the workshop is the old one or the new one, whole, and goes on."""
        copy = make_copy(self.folder)
        for n in range(300):
            self.write(f"Tide {n}")
        for after in (0.0, 0.02, 0.05, 0.1, 0.2, 0.4):
            worker = subprocess.Popen(
                [sys.executable, "-c", PUTS_BACK, str(self.folder), str(copy)],
                cwd=settings.BASE_DIR,
                env={**os.environ, "CALM_TIN_DATA": str(self.folder), "DJANGO_SETTINGS_MODULE": "calmtin.settings"},
                stdout=subprocess.PIPE,
                text=True,
            )
            assert worker.stdout is not None
            self.assertEqual(worker.stdout.readline(), "ready\n")
            time.sleep(after)
            worker.kill()
            worker.communicate()
            self.assertIn(len(self.names()), (1, 301))
            require_sound(self.live)
            restore(self.folder, make_copy(self.folder), known_steps())

    def test_put_back_as_it_was(self) -> None:
        """What was written since is in the copy that was made before; a copy into the workshop itself is refused."""
        copy = make_copy(self.folder)
        self.write("Neap Tide")
        self.assertEqual(preview(copy, known_steps()).counts["formulas"], 1)
        before = restore(self.folder, copy, known_steps()).before
        self.assertEqual(self.names(), ["Ebb"])
        assert before is not None
        restore(self.folder, before, known_steps())
        self.assertEqual(self.names(), ["Ebb", "Neap Tide"])
        with self.assertRaisesRegex(Problem, "That is the workshop itself"):
            make_copy(self.folder, Reason.HAND, self.live)

    def test_damage_and_files_that_are_none(self) -> None:
        """A damaged workshop is moved aside whole; a damaged copy, a text and a newer workshop are refused, nothing
        changed."""
        copy = make_copy(self.folder)
        for name, spoil, said in (
            (
                "text.sqlite3",
                lambda file: file.write_text("not a database, however long it is"),
                "no workshop that can be read",
            ),
            (
                "torn.sqlite3",
                lambda file: file.write_bytes(copy.read_bytes()[:40_960]),
                "damaged|no workshop that can be read",
            ),
            ("empty.sqlite3", lambda file: file.write_bytes(b""), "is no workshop of Calm Tin"),
        ):
            spoil(self.folder / name)
            with self.subTest(name), self.assertRaisesRegex(Problem, said):
                restore(self.folder, self.folder / name, known_steps())
        newer = Path(shutil.copy(copy, self.folder / "newer.sqlite3"))
        with closing(sqlite3.connect(newer)) as database, database:
            database.execute(
                "INSERT INTO django_migrations (app, name, applied) VALUES ('pours', '0999_tides', '2030-01-01')"
            )
        with self.assertRaisesRegex(Problem, "a newer Calm Tin, which knows pours 0999_tides"):
            restore(self.folder, newer, known_steps())
        self.assertEqual(self.names(), ["Ebb"])
        whole = self.live.read_bytes()
        self.live.write_bytes(b"\x00" * 4096 + whole[4096:])
        moved = restore(self.folder, copy, known_steps()).before
        assert moved is not None
        self.assertEqual((moved.name[:8], moved.read_bytes()[:16], self.names()), ("damaged-", b"\x00" * 16, ["Ebb"]))

    def test_a_kept_connection_leaves_a_workshop_that_was_moved_aside(self) -> None:
        """It is the same one from request to request, until another file lies there."""
        kept = DatabaseWrapper({**connection.settings_dict, "NAME": self.live, "CONN_MAX_AGE": None}, "kept")
        self.addCleanup(kept.close)

        def names() -> list[str]:
            kept.close_if_unusable_or_obsolete()
            with kept.cursor() as cursor:
                return [name for (name,) in cursor.execute("SELECT name FROM formulas_formula ORDER BY id")]

        copy = make_copy(self.folder)
        self.write("Neap Tide")
        self.assertEqual(names(), ["Ebb", "Neap Tide"])
        opened = kept.connection
        self.assertEqual(names(), ["Ebb", "Neap Tide"])
        self.assertIs(kept.connection, opened)
        self.live.rename(self.folder / "damaged.sqlite3")
        shutil.copy(copy, self.live)
        self.assertEqual(names(), ["Ebb"])

    def test_a_kill_in_the_middle_of_a_write(self) -> None:
        """What was not committed is gone, and the workshop is whole."""
        script = (
            "import sqlite3, sys, time\n"
            "d = sqlite3.connect(sys.argv[1], isolation_level=None)\n"
            "d.execute('PRAGMA cache_size=5'); d.execute('BEGIN IMMEDIATE')\n"
            f"for n in range(3000): d.execute({ROW!r}, ('half done %d' % n,))\n"
            "print('written', flush=True); time.sleep(60)"
        )
        writer = subprocess.Popen([sys.executable, "-c", script, str(self.live)], stdout=subprocess.PIPE, text=True)
        assert writer.stdout is not None
        self.assertEqual(writer.stdout.readline(), "written\n")
        writer.kill()
        writer.wait()
        writer.stdout.close()
        copy = make_copy(self.folder)
        self.assertEqual(preview(copy, known_steps()).counts["formulas"], 1)
        self.assertEqual(self.names(), ["Ebb"])

    def test_from_a_shell(self) -> None:
        """Backup into a file, restore after a look and a yes, and the doctor's opinion before and after."""
        away = self.folder / "away.sqlite3"
        self.assertIn("copy that folder too", self.manage(self.folder, "backup", str(away)).stdout)
        self.write("Neap Tide")
        looked = self.manage(self.folder, "restore", str(away))
        self.assertIn("holds 1 formulas", looked.stdout)
        self.assertIn("Nothing was changed", looked.stdout)
        self.assertEqual(self.names(), ["Ebb", "Neap Tide"])
        self.assertIn("It is put back.", self.manage(self.folder, "restore", str(away), "--yes").stdout)
        self.assertEqual(self.names(), ["Ebb"])
        missing = self.manage(self.folder, "restore", "nowhere.sqlite3", "--yes")
        self.assertEqual((missing.returncode, "There is no file nowhere.sqlite3." in missing.stderr), (1, True))
        self.assertIn("The workshop is whole: 1 formulas", self.manage(self.folder, "doctor").stdout)
        said = {sentence: well for well, sentence in examine(self.folder, known_steps())}
        self.assertTrue(said["No server has this workshop open."])
        self.assertNotIn("There is no copy beside it: make one with manage.py backup.", said)
        with only_server(self.folder) as address:
            address.write_text("http://127.0.0.1:8040/")
            served = "This workshop is served already, at http://127.0.0.1:8040/."
            self.assertIn((True, served), list(examine(self.folder, known_steps())))
            with self.assertRaisesRegex(Unusable, "Open that one, or close it first"), only_server(self.folder):
                self.fail("two servers")
        self.assertFalse(address.exists())
        whole, torn = make_copy(self.folder), self.folder / "day-2026-03-27-093000.sqlite3"
        torn.write_bytes(b"torn")
        examined = list(examine(self.folder, known_steps()))
        self.assertIn((True, f"{whole.name} is whole."), examined)
        self.assertIn((False, torn.name), [(well, said[: len(torn.name)]) for well, said in examined])
        for copied in self.folder.glob("*-2*.sqlite3"):
            copied.unlink()
        self.assertIn(
            (False, "There is no copy beside it: make one with manage.py backup."),
            list(examine(self.folder, known_steps())),
        )
        self.assertTrue(said["Every photograph that is named is there."])
        for free, told in ((200, "200 MB are free on its disk: make room."), (201, "201 MB are free on its disk.")):
            with mock.patch("shutil.disk_usage", return_value=mock.Mock(free=free * 1024**2)):
                self.assertIn((free > 200, told), list(examine(self.folder, known_steps())))
        named = []
        for _ in range(3):
            with mock.patch("exchange.data_folder.datetime", wraps=datetime) as clock:
                clock.now.return_value = datetime(2026, 3, 27, 9, 30)
                named.append(fresh_name(self.folder, "day"))
            named[-1].touch()
        names = [name.name for name in named]
        self.assertEqual(names, [f"day-2026-03-27-093000{n}.sqlite3" for n in ("", "-2", "-3")])
        with closing(sqlite3.connect(self.live)) as database, database:
            database.execute("PRAGMA foreign_keys=OFF")
            database.execute("INSERT INTO pours_checkphoto (file, check_of_id) VALUES ('gone.jpg', 1)")
        self.assertIn((False, "1 photographs are named and not there."), list(examine(self.folder, known_steps())))


class CopyPageTests(TestCase):
    def test_copies_in_settings(self) -> None:
        """Listed, previewed, taken away; a name that is none leads back with a sentence."""
        folder = own_folder(self)
        self.assertContains(self.client.get("/settings/"), "/settings/backups/")
        self.assertContains(self.client.get("/settings/backups/"), "There is none yet.")
        with (
            closing(sqlite3.connect(connection.settings_dict["NAME"])) as tests_own,
            closing(sqlite3.connect(folder / "workshop.sqlite3")) as live,
        ):
            tests_own.backup(live)
        page = self.client.post("/settings/backups/", follow=True)
        name = list_copies(folder)[0].name
        self.assertContains(page, f"{name} is made.")
        self.assertContains(page, "you asked for it")
        self.assertContains(self.client.get(f"/settings/backups/{name}"), "<strong>0</strong> formulas")
        taken = self.client.get(f"/settings/backups/{name}/file")
        self.assertEqual(taken.getvalue()[:15], b"SQLite format 3")
        self.client.post(f"/settings/backups/{name}/delete")
        self.assertEqual(list_copies(folder), [])
        for wrong in ("secret-key", "day-2020-01-01-000000.sqlite3", "workshop.sqlite3"):
            self.assertContains(
                self.client.get(f"/settings/backups/{wrong}", follow=True), "There is no copy of that name"
            )
