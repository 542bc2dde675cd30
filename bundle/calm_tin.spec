# How PyInstaller builds Calm Tin: one folder, on Debian, Windows and macOS alike.
import os
import sys
from pathlib import Path

from PyInstaller.utils.hooks import collect_data_files, collect_submodules, copy_metadata

HERE = Path(SPECPATH).parent
sys.path.insert(0, str(HERE))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calmtin.settings")
OURS = ["balmcore", "calmtin", "exchange", "workshop", "devices", "instruments", "pantry", "formulas", "batches", "bench",
        "pours", "checks", "learning", "labels", "pieces", "demo"]
OTHERS = ["django_htmx", "axes", "csp", "sesame", "whitenoise", "waitress", "icalendar", "tzdata"]


def is_wanted(name):
    return ".tests" not in name and not name.startswith(("django.contrib.gis", "django.contrib.postgres"))


hidden = [name for package in (*OURS, *OTHERS) for name in collect_submodules(package, filter=is_wanted)]
for package in ("auth", "contenttypes", "sessions", "messages", "staticfiles"):
    hidden += collect_submodules(f"django.contrib.{package}", filter=is_wanted)
hidden += collect_submodules("django.core.management.commands") + ["django.forms", "django.db.backends.sqlite3", "scipy.optimize"]
datas = [item for package in OURS for item in collect_data_files(package, excludes=["**/tests/**", "**/*.pyc"])]
datas += [item for package in ("django", "django_htmx", "pint", "icalendar", "reportlab", "segno", "tzdata", "axes")
          for item in collect_data_files(package, excludes=["**/locale/**", "**/gis/**", "**/admin/**", "**/conf/*_template/**"])]
datas += [(str(HERE / name), ".") for name in ("LICENSE", "README.md", "CHANGELOG.md")]
datas += copy_metadata("pint")

built = Analysis(
    [str(HERE / "bundle" / "start.py")],
    pathex=[str(HERE)],
    hiddenimports=hidden,
    datas=datas,
    excludes=["tkinter", "matplotlib", "PyQt5", "IPython", "pytest", "playwright", "mypy", "hypothesis"],
)
program = EXE(PYZ(built.pure), built.scripts, exclude_binaries=True, name="calm-tin", console=True)
COLLECT(program, built.binaries, built.datas, name="calm-tin")
