"""The second door of the server, on the home network: open only while its maker says so.

The first door is 127.0.0.1 and always open. Host names are believed only when they are an address shown.
"""

import contextlib
import logging
import os
import socket
import threading
from collections.abc import Callable
from typing import Any

from django.conf import settings
from waitress.server import create_server

from devices.models import Sharing

LOCAL = ("127.0.0.1", "localhost")
ANYWHERE = ("10.255.255.255", 1)
FORCED = "CALM_TIN_SHARE"  # set by ``make run SHARE=1`` or SHARE=address

open_at: list[str] = []  # where the second door stands open in this process
trouble: list[str] = []  # why it could not be opened


def own_address() -> str:
    """The address of this computer in the home network; empty when it has none."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(ANYWHERE)  # sends nothing: it only asks which address would be used
        except OSError:
            return ""
        address: str = probe.getsockname()[0]
    return "" if address.startswith("127.") else address


def wanted() -> str:
    """The address at which the second door should be open; empty when it should be shut."""
    forced = os.environ.get(FORCED, "")
    if forced:
        return own_address() if forced == "1" else forced
    row = Sharing.objects.filter(pk=1, is_on=True).first()
    return (row.address or own_address()) if row else ""


class LanServer:
    """Opens and shuts the second door as it is wanted. It is looked after beside the server's own loop."""

    def __init__(self, application: Callable[..., Any], port: int, limits: dict[str, Any]) -> None:
        self.application, self.port, self.limits = application, port, limits
        self.server: Any = None
        self.address = ""

    def keep(self) -> None:
        """Open or shut it."""
        address = wanted()
        if address == self.address:
            return
        self.stop()
        self.address = address
        if address:
            self._open(address)

    def _open(self, address: str) -> None:
        try:
            self.server = create_server(self.application, host=address, port=self.port, map={}, **self.limits)
        except OSError as refusal:
            trouble[:] = [f"The door at {address} does not open: {refusal.strerror or refusal}."]
            logging.getLogger(__name__).warning(trouble[0])
            return
        threading.Thread(target=self._run, args=(self.server,), name="second door", daemon=True).start()
        open_at[:] = [f"{address}:{self.port}"]
        settings.ALLOWED_HOSTS[:] = [*LOCAL, address]

    def _run(self, server: Any) -> None:
        with contextlib.suppress(OSError, ValueError):  # shut while it waited
            server.run()

    def stop(self) -> None:
        """Shut it."""
        if self.server is not None:
            with contextlib.suppress(OSError):
                self.server.close()
        self.server, self.address = None, ""
        open_at.clear()
        trouble.clear()
        settings.ALLOWED_HOSTS[:] = LOCAL
