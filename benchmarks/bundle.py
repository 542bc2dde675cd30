"""The bundle that ``make bundle`` built: how large it is, and how soon its first page stands."""

import os
import tempfile
from pathlib import Path
from typing import Protocol

from bundle.__main__ import BUILT, NAME, PATIENCE_S, folder_mb, start


class Reports(Protocol):
    """Prints a figure with its aim."""

    def line(self, what: str, figure: float, aim: float, unit: str, beside: str = "") -> None:
        """One line."""


def bundle(report: Reports) -> None:
    """Started twice in an empty home: the first makes the workshop."""
    folder = BUILT / "dist" / "calm-tin"
    if not (folder / NAME).exists():
        print("(p) the bundle is not built: make bundle, and bench again")
        return
    archive = next(BUILT.glob("calm-tin.*"))
    taken = []
    with tempfile.TemporaryDirectory() as home:
        for _ in range(3):
            running, _, seconds = start(folder / NAME, Path(home))
            running.terminate()
            running.wait(PATIENCE_S)
            taken.append(seconds)
    mb = os.path.getsize(archive) / 1e6
    report.line("(p) the bundle: to the first page", min(taken[1:]), 4, "s", f"{taken[0]:.1f} s the first time")
    report.line("    its archive", mb, 150, "MB", f"{folder_mb(folder):.0f} MB on the disk")
