"""Closing the workshop from one of its pages: only where a server of its own runs, which said how it is stopped."""

import threading
from collections.abc import Callable

SOON_S = 0.4  # the page that was asked for is sent first
_stop: Callable[[], object] | None = None


def served_by(stop: Callable[[], object] | None) -> None:
    """Say how the server of this process is stopped; None where it is not served any more."""
    global _stop
    _stop = stop


def close_soon() -> bool:
    """Stop the server in a moment; False where nothing of ours serves this page."""
    if _stop is None:
        return False
    threading.Timer(SOON_S, _stop).start()
    return True
