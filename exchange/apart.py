"""Commands of Calm Tin in a process of their own, which knows no other workshop than the folder it is given."""

import os
import subprocess
import sys
from pathlib import Path

from django.conf import settings


def run_apart(folder: Path, *command: str, longest_s: float | None = None) -> str:
    """Run a command on the workshop of a folder, for so many seconds at most; returns why it failed, as it said last,
    and nothing where it did not."""
    try:
        done = subprocess.run(
            [sys.executable, str(settings.BASE_DIR / "manage.py"), *command],
            env={**os.environ, "CALM_TIN_DATA": str(folder), "DJANGO_SETTINGS_MODULE": "calmtin.settings"},
            capture_output=True,
            text=True,
            check=False,
            timeout=longest_s,
        )
    except subprocess.TimeoutExpired:
        return f"it took longer than {longest_s:.0f} seconds"
    if not done.returncode:
        return ""
    return (done.stderr.strip().splitlines() or ["no reason given"])[-1].removeprefix("CommandError: ")
