"""Starting: the data folder, its key, and the server on a free port."""

import os
import socket
import stat
import subprocess
import sys
import tempfile
import threading
import urllib.request
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

from calmtin.data_folder import prepare, secret_key


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
                finally:
                    server.terminate()
