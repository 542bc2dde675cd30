"""The wheel holds all that runs: every file of ours that is no test."""

import shutil
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase, tag

# Every app of ours that is served, and the core: a list of its own forgot three of them once.
OURS = ("balmcore", *(app for app in settings.INSTALLED_APPS if (settings.BASE_DIR / app).is_dir()))
BESIDE = ("pyproject.toml", "requirements.txt", "README.md", "LICENSE")


@tag("slow")
class WheelTests(SimpleTestCase):
    def test_a_wheel_holds_every_file_that_runs(self) -> None:
        """Templates, styles, fonts, tables and migrations; the command; no test."""
        with tempfile.TemporaryDirectory() as parent:
            source = Path(parent) / "source"
            source.mkdir()
            for name in OURS:
                shutil.copytree(settings.BASE_DIR / name, source / name, ignore=shutil.ignore_patterns("__pycache__"))
            for name in BESIDE:
                shutil.copy(settings.BASE_DIR / name, source / name)
            wheel = [
                sys.executable,
                "-m",
                "pip",
                "wheel",
                ".",
                "--no-deps",
                "--no-build-isolation",
                "--no-index",
                "-q",
                "-w",
                parent,
            ]
            made = subprocess.run(wheel, cwd=source, capture_output=True, text=True, check=False)
            self.assertEqual(made.returncode, 0, made.stderr[-2000:])
            (file,) = Path(parent).glob("*.whl")
            with zipfile.ZipFile(file) as package:
                held = set(package.namelist())
                (entry,) = [name for name in held if name.endswith("entry_points.txt")]
                self.assertIn("calm-tin = calmtin.command:main", package.read(entry).decode())
            wanted = {
                str(path.relative_to(source))
                for name in OURS
                for path in (source / name).rglob("*")
                if path.is_file() and "tests" not in path.parts
            }
            self.assertEqual(wanted - held, set())
            self.assertFalse([name for name in held if "/tests/" in name])
