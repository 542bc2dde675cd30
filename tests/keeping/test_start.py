"""Starting: the data folder, its key, and the server on a free port."""

import os
import socket
import sqlite3
import stat
import subprocess
import sys
import tempfile
import threading
import urllib.request
from contextlib import closing
from io import StringIO
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import SimpleTestCase, TestCase, tag

from calmtin import command
from calmtin.closing import SOON_S, served_by
from exchange.data_folder import Unusable, inspect, only_server, prepare, secret_key
from exchange.startup import bring_up_to_date
from tests.support.makings import own_folder
from tests.support.pages import form_data


class BrowserOpensTests(SimpleTestCase):
    def test_by_hand_the_browser_opens_and_a_second_start_opens_the_running_one(self) -> None:
        """At a desk it opens once, at the address that it prints; for a service, without a screen, or where it is told
        not to, never; a workshop that is open already is shown, and that is no failure."""
        desk = {"DISPLAY": ":0"}
        opened: list[str] = []

        def opens(address: str) -> bool:
            opened.append(address)
            return True

        for service, options, expected in (
            (desk, {}, True),
            (desk, {"no_browser": True}, False),
            ({**desk, "INVOCATION_ID": "1"}, {}, False),
            ({**desk, "CI": "1"}, {}, False),
            ({}, {}, False),
        ):
            folder = own_folder(self)
            with (
                self.subTest(service=service, options=options),
                mock.patch.dict(os.environ, service, clear=True),
                mock.patch("calmtin.browser.sys.stdin.isatty", return_value=True),
                mock.patch("calmtin.browser.sys.platform", "linux"),
                mock.patch("calmtin.browser.webbrowser.open", side_effect=opens),
                only_server(folder) as said,
            ):
                said.write_text("http://127.0.0.1:8051/")
                told = StringIO()
                if expected:
                    call_command("serve", stdout=told, **options)
                    self.assertIn("is open already, at http://127.0.0.1:8051/: your browser shows it.", told.getvalue())
                else:
                    with self.assertRaisesMessage(CommandError, "Open that one, or close it first"):
                        call_command("serve", stdout=told, **options)
                self.assertEqual(opened, ["http://127.0.0.1:8051/"] * expected)
                opened.clear()


class CloseTests(TestCase):
    def test_closed_from_a_page_that_asks_and_says_where_everything_lies(self) -> None:
        """Looking closes nothing; the button stops the server a moment after its page was sent; where another program
        serves it, it says so."""
        self.assertContains(self.client.get("/settings/"), "Close Calm Tin")
        elsewhere = self.client.post("/close")
        self.assertContains(elsewhere, "served by another program here")
        stopped = threading.Event()
        served_by(stopped.set)
        self.addCleanup(served_by, None)
        asked = self.client.get("/close")
        self.assertContains(asked, "Close Calm Tin?")
        self.assertFalse(stopped.wait(2 * SOON_S))
        closed = self.client.post("/close", form_data(asked, "close"))
        self.assertTrue(stopped.wait(20 * SOON_S))
        self.assertContains(closed, "Calm Tin is closed")
        for page in (asked, closed):
            self.assertContains(page, str(settings.DATA_DIR))


class DataFolderTests(SimpleTestCase):
    def test_a_folder_and_a_key_for_their_owner_alone_whatever_the_umask(self) -> None:
        """700 and 600; the key is made once, and anew where the file is empty."""
        with tempfile.TemporaryDirectory() as parent:
            folder, before = Path(parent) / "loft", os.umask(0)
            try:
                prepare(folder)
            finally:
                os.umask(before)
            key = secret_key(folder)
            self.assertEqual(len(key), 67)
            self.assertEqual(secret_key(folder), key)
            self.assertEqual(stat.S_IMODE(folder.stat().st_mode), 0o700)
            self.assertEqual(stat.S_IMODE((folder / "secret-key").stat().st_mode), 0o600)
            (folder / "secret-key").write_text("")
            self.assertNotIn(secret_key(folder), ("", key))
            self.assertEqual([file.name for file in folder.iterdir()], ["secret-key"])

    def test_a_database_that_cannot_be_used_is_left_as_it_is_and_said_in_a_sentence(self) -> None:
        """New, of another program, damaged, empty or gone although not new: the newest copy that is whole is named."""
        with tempfile.TemporaryDirectory() as parent:
            folder = Path(parent)
            file = folder / "workshop.sqlite3"
            self.assertFalse(inspect(folder))
            with closing(sqlite3.connect(file)) as made, made:
                made.execute("CREATE TABLE tin (name TEXT)")
            other = file.read_bytes()
            with self.assertRaisesRegex(Unusable, "is of another program: it was not touched"):
                inspect(folder)
            self.assertEqual(file.read_bytes(), other)
            with closing(sqlite3.connect(file)) as made, made:
                for table in ("django_migrations", "formulas_formula", "formulas_version"):
                    made.execute(f"CREATE TABLE {table} (name TEXT)")
                made.executemany("INSERT INTO tin VALUES (?)", [("net loft",)] * 4000)
            self.assertTrue(inspect(folder))
            whole = file.read_bytes()
            (folder / "before-2020-01-01-000000.sqlite3").write_bytes(whole)
            (folder / "day-2020-01-02-000000.sqlite3").write_text("torn")
            # An older one that was written anew since, as those are that held who gets in.
            (folder / "hand-2019-01-01-000000.sqlite3").write_bytes(whole)
            for spoilt, said in (
                (whole[:12288] + bytes(4096) + whole[16384:], "is damaged and was left as it is."),
                (b"not a database, however long it is made to be", "is damaged"),
                (b"", "is empty, though this workshop is not new."),
                (None, "is not there, though this workshop is not new."),
            ):
                file.unlink() if spoilt is None else file.write_bytes(spoilt)
                with self.assertRaisesRegex(Unusable, f"{said}.*The newest copy beside it is before-2020"):
                    inspect(folder)
            self.assertFalse(inspect(folder, anew=True))
            (folder / "file").touch()
            with self.assertRaisesRegex(Unusable, "cannot be used"):
                prepare(folder / "file" / "below")


class NewerTests(TestCase):
    def test_a_database_of_a_newer_calm_tin_is_refused_and_unchanged(self) -> None:
        """It knows a migration that we do not: its name is said."""
        with tempfile.TemporaryDirectory() as folder, connection.cursor() as cursor:
            cursor.execute("INSERT INTO django_migrations (app, name, applied) VALUES ('pours', '0099_moons', 'now')")
            with self.assertRaisesRegex(Unusable, "was written by a newer Calm Tin, which knows pours 0099_moons"):
                bring_up_to_date(Path(folder))

    def test_the_command_of_an_installed_calm_tin_serves(self) -> None:
        """With no word after it, and by its own settings where none are named."""
        for words, asked in ((["calm-tin"], ["calm-tin", "serve"]), (["calm-tin", "doctor"], ["calm-tin", "doctor"])):
            with (
                mock.patch.object(sys, "argv", words),
                mock.patch.dict(os.environ),
                mock.patch.object(command, "execute_from_command_line") as executed,
            ):
                os.environ.pop("DJANGO_SETTINGS_MODULE", None)
                command.main()
                self.assertEqual(os.environ["DJANGO_SETTINGS_MODULE"], "calmtin.settings")
            executed.assert_called_once_with(asked)

    def test_a_port_that_is_none_is_said(self) -> None:
        """70000 and 0 are no ports."""
        for port in (0, 70000):
            with self.assertRaisesMessage(CommandError, f"from 1 to 65535, and {port} is none"):
                call_command("serve", port=port)


@tag("slow")
class ServeTests(SimpleTestCase):
    def test_a_fresh_folder_is_served_on_the_next_free_port(self) -> None:
        """The port asked for is taken: the next one is printed, and answers the empty workshop's first page."""
        with tempfile.TemporaryDirectory() as folder, socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            here = {**os.environ, "CALM_TIN_DATA": f"{folder}/fresh", "DJANGO_SETTINGS_MODULE": "calmtin.settings"}
            command = [sys.executable, "manage.py", "serve", "--port", str(port)]
            with subprocess.Popen(
                command, cwd=settings.BASE_DIR, env=here, stdout=subprocess.PIPE, text=True
            ) as server:
                try:
                    timer = threading.Timer(60, server.kill)
                    timer.start()
                    said = server.stdout.readline() if server.stdout else ""
                    timer.cancel()
                    address = said.split(" at ")[1].split(" ")[0]
                    self.assertEqual(said, f"Calm Tin is open at {address} (Ctrl+C closes it)\n")
                    self.assertGreater(int(address.rsplit(":", 1)[1].strip("/")), port)
                    self.assertIn(b"Make a first balm", urllib.request.urlopen(address, timeout=20).read())
                    self.assertTrue((Path(folder) / "fresh" / "workshop.sqlite3").exists())
                    second = subprocess.run(
                        command,
                        cwd=settings.BASE_DIR,
                        env=here,
                        capture_output=True,
                        text=True,
                        check=False,
                        timeout=60,
                    )
                    self.assertIn(f"This workshop is served already, at {address}. Open that one", second.stderr)
                    self.assertNotEqual(second.returncode, 0)
                    self.assertIn(b"Make a first balm", urllib.request.urlopen(address, timeout=20).read())
                finally:
                    server.terminate()
