"""Opening the maker's browser at the workshop, where somebody sits at the computer that started it."""

import os
import sys
import webbrowser
from contextlib import suppress

# What a service or a machine without a screen has, and a maker at their desk does not.
SERVICES = ("INVOCATION_ID", "CI", "SSH_CONNECTION")
SCREENS = ("DISPLAY", "WAYLAND_DISPLAY")


def is_by_hand() -> bool:
    """True where Calm Tin was started by somebody who can see a window: from a terminal or by a double click, not by a
    service, and where there is a screen."""
    if any(os.environ.get(name) for name in SERVICES):
        return False
    if sys.platform.startswith("linux") and not any(os.environ.get(name) for name in SCREENS):
        return False
    return sys.stdin is None or sys.stdin.isatty() or bool(getattr(sys, "frozen", False))


def open_browser(address: str) -> bool:
    """Open an address in the browser; False where none could be."""
    with suppress(webbrowser.Error, OSError):
        return webbrowser.open(address)
    return False
