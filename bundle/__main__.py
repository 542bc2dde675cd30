"""``make bundle``: build one folder that runs without Python, and try it as somebody would who has none.

The folder is moved to an empty place and started with an empty PATH and HOME; a balm is begun and planned over HTTP; it
is closed from its page, started again, and everything is there.
"""

import html
import http.cookiejar
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.parse
import urllib.request
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
BUILT = HERE / "build"
NAME = "calm-tin.exe" if sys.platform == "win32" else "calm-tin"
PATIENCE_S = 120.0
SELECT = r'<select[^>]*? name="(\w+)"[^>]*>(.*?)</select>'


class Maker:
    """Somebody at a browser: cookies, and forms posted as the page wrote them."""

    def __init__(self, address: str) -> None:
        self.address = address
        jar = urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar())
        self.opener = urllib.request.build_opener(jar)

    def get(self, path: str) -> str:
        """A page."""
        with self.opener.open(f"{self.address}{path}", timeout=60) as answer:
            self.at = answer.geturl().removeprefix(self.address)
            return str(answer.read().decode())

    def post(self, path: str, page: str, **fields: str) -> str:
        """A form of a page, with its hidden fields."""
        hidden = dict(re.findall(r'<input type="hidden" name="(csrfmiddlewaretoken|once)" value="([^"]*)"', page))
        data = urllib.parse.urlencode({**hidden, **fields}).encode()
        asked = urllib.request.Request(f"{self.address}{path}", data, {"Referer": f"{self.address}{path}"})
        with self.opener.open(asked, timeout=60) as answer:
            self.at = answer.geturl().removeprefix(self.address)
            return str(answer.read().decode())


def _chosen(options: str) -> str:
    """What a list shows: the option that is selected, or its first."""
    found = re.search(r'<option value="([^"]*)"[^>]* selected', options) or re.search(
        r'<option value="([^"]*)"', options
    )
    return html.unescape(found[1]) if found else ""


def build() -> Path:
    """The folder, and one archive of it."""
    spec, made = HERE / "bundle" / "calm_tin.spec", BUILT / "dist"
    command = [sys.executable, "-m", "PyInstaller", "--noconfirm", "--log-level", "WARN"]
    subprocess.run([*command, "--distpath", made, "--workpath", BUILT / "work", spec], check=True, cwd=HERE)
    folder = made / "calm-tin"
    archive = shutil.make_archive(
        str(BUILT / "calm-tin"), "zip" if sys.platform == "win32" else "gztar", made, "calm-tin"
    )
    print(f"{folder}: {folder_mb(folder):.0f} MB; {archive}: {os.path.getsize(archive) / 1e6:.0f} MB")
    return folder


def folder_mb(folder: Path) -> float:
    """How much of the disk a folder takes, in MB; links take nothing."""
    return sum(file.stat().st_size for file in folder.rglob("*") if file.is_file() and not file.is_symlink()) / 1e6


def start(program: Path, home: Path) -> tuple[subprocess.Popen[str], Maker, float]:
    """The program as it is started where there is nothing else; when its first page answers, and after how long."""
    began = time.monotonic()
    running = subprocess.Popen(
        [program, "serve", "--port", "8790", "--no-browser"],
        cwd=home,
        env={"HOME": str(home), "PATH": "", **({"SYSTEMROOT": os.environ["SYSTEMROOT"]} if os.name == "nt" else {})},
        stdout=subprocess.PIPE,
        text=True,
    )
    assert running.stdout is not None
    for line in running.stdout:
        if found := re.search(r"http://127\.0\.0\.1:\d+", line):
            maker = Maker(found[0])
            maker.get("/")
            return running, maker, time.monotonic() - began
    raise SystemExit(f"It ended with {running.wait()} before it said its address.")


def attempt(folder: Path) -> None:
    """A balm made, closed, and found again."""
    with tempfile.TemporaryDirectory() as parent:
        home = Path(parent) / "home"
        home.mkdir()
        moved = shutil.copytree(folder, Path(parent) / "somewhere else", symlinks=True)
        running, maker, first = start(moved / NAME, home)
        maker.post("/formulas/new", maker.get("/formulas/new"), kind="pot_salve", name="Bundle")
        version = re.search(r"/batches/plan\?version=(\d+)", maker.get(maker.at))
        if version is None:
            raise SystemExit("The formula that was begun has no way to a batch.")
        path = f"/batches/plan?version={version[1]}"
        page = maker.get(path)
        typed = {name: html.unescape(value) for name, value in re.findall(r'name="(\w+)" value="([^"]*)"', page)}
        chosen = {name: _chosen(options) for name, options in re.findall(SELECT, page, re.DOTALL)}
        sheet = maker.post("/batches/plan", page, **{**typed, **chosen, "container": "tin_screw_60", "save": "1"})
        if "Batch 1" not in sheet:
            raise SystemExit(f"No batch was planned: {maker.at}")
        maker.post("/close", maker.get("/close"))
        running.wait(PATIENCE_S)
        again, maker, second = start(moved / NAME, home)
        found = maker.get("/batches/1/")
        again.terminate()
        again.wait(PATIENCE_S)
        if "Bundle" not in found:
            raise SystemExit("What was made is not there after a new start.")
        data = next(home.rglob("workshop.sqlite3")).parent.relative_to(home)
        print(f"first page after {first:.1f} s, {second:.1f} s when started again; its data lay in ~/{data}")


if __name__ == "__main__":
    attempt(build())
