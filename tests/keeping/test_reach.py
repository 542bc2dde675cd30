"""What a phone reaches, over every address that there is; and what copies hold of who gets in."""

import re
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing
from typing import Any

from django.conf import settings
from django.db import connection
from django.test import Client, TestCase, TransactionTestCase, override_settings, tag
from django.urls import URLPattern, URLResolver, get_resolver

from devices import services
from devices.models import Device
from exchange.copies import list_copies
from exchange.gate import gate
from formulas.models import Formula
from tests.support.makings import begin, own_folder

PHONE: dict[str, Any] = {"HTTP_HOST": "192.168.7.20:8040", "REMOTE_ADDR": "192.168.7.31"}
# Every address that a phone does not reach, each for a reason: keys, copies, what lies on this computer.
AT_THE_COMPUTER = {
    "devices:phones", "devices:share", "devices:link", "devices:passphrase", "devices:revoke",
    "exchange:copies", "exchange:take", "exchange:bring", "exchange:restore", "exchange:delete", "exchange:download",
    "instruments:settings", "instruments:heard", "close",
}  # fmt: skip


def addresses(of: URLResolver, before: str = "", app: str = "") -> Iterator[tuple[str, str]]:
    """Every address with the name of its view, its parts filled in."""
    for each in of.url_patterns:
        path = before + str(each.pattern)
        if isinstance(each, URLResolver):
            yield from addresses(each, path, each.namespace or app)
        else:
            assert isinstance(each, URLPattern)
            filled = re.sub(r"<(\w+:)?\w+>", lambda m: "1" if m[1] in ("int:", None) else "x", path)
            yield f"/{filled}", f"{app}:{each.name}" if app else str(each.name)


def paired() -> Client:
    phone = Client(**PHONE)
    phone.get(f"/door/pair{services.new_link('By the stove')}")
    return phone


@override_settings(ALLOWED_HOSTS=["127.0.0.1", "testserver", "192.168.7.20"])
class ReachTests(TestCase):
    def test_a_phone_reaches_the_stove_and_no_keys(self) -> None:
        """Over the whole map, by every method: what is not listed is refused before anything is looked at."""
        phone = paired()
        found = dict(addresses(get_resolver()))
        self.assertGreater(len(found), 100)
        refused = set()
        for path, name in found.items():
            answers = {
                phone.generic(method, path, HTTP_HX_REQUEST="").status_code for method in ("GET", "POST", "HEAD")
            }
            if answers == {403}:
                refused.add(name)
            elif name != "devices:pair":  # its own 403 is for a link that is not good
                self.assertNotIn(403, answers, path)
        self.assertEqual(refused, AT_THE_COMPUTER)
        held = phone.post("/settings/backups/", headers={"hx-request": "true"})
        self.assertEqual((held.status_code, held["HX-Retarget"]), (403, "#refused"))
        self.assertEqual({name.partition(":")[0] for name in found.values()},
                         {name.partition(":")[0] for name in settings.PHONES_REACH | AT_THE_COMPUTER})  # fmt: skip
        for name in ("devices:phones", "exchange:copies", "instruments:settings"):
            path = next(path for path, view in found.items() if view == name)
            self.assertEqual(self.client.get(path).status_code, 200, path)


@tag("slow")
@override_settings(ALLOWED_HOSTS=["127.0.0.1", "testserver", "192.168.7.20"])
class PutBackTests(TransactionTestCase):
    """A workshop in a file of its own, as served, put back while phones and other tabs write."""

    def setUp(self) -> None:
        self.folder = own_folder(self)
        self.live = self.folder / "workshop.sqlite3"

    def on_disk(self) -> None:
        """What the tests' database holds now, as the workshop's file."""
        with (
            closing(sqlite3.connect(connection.settings_dict["NAME"])) as here,
            closing(sqlite3.connect(self.live)) as live,
        ):
            here.backup(live)

    def rows(self, table: str) -> int:
        with closing(sqlite3.connect(self.live)) as live:
            return int(live.execute(f"SELECT COUNT(*) FROM {table}").fetchone()[0])

    def test_a_copy_holds_nobody_and_a_restore_ends_sessions_and_leaves_the_door(self) -> None:
        """Not in a row and not between rows; after it a revoked phone stays out, one let in since stays listed."""
        begin("Ebb", "soft_salve")
        services.set_passphrase("wind from the harbour")
        phone = paired()
        key = phone.cookies["sessionid"].value
        self.on_disk()
        self.assertIn(key.encode(), self.live.read_bytes())
        self.client.post("/settings/backups/")
        (copy,) = list_copies(self.folder)
        held = copy.file.read_bytes()
        for secret in (key, "argon2", "By the stove"):
            self.assertNotIn(secret.encode(), held)
        self.assertEqual([file.name for file in self.folder.glob("hand-*-wal")], [])
        Device.objects.get().user.delete()
        paired()
        Device.objects.update(name="Tablet")
        begin("Written since", "soft_salve")
        self.on_disk()
        page = self.client.post(f"/settings/backups/{copy.name}", follow=True)
        self.assertContains(page, "Phones and the door are as they were; every phone has to come in once more.")
        self.assertEqual(
            [self.rows(table) for table in ("formulas_formula", "django_session", "devices_device")], [1, 0, 1]
        )
        with closing(sqlite3.connect(self.live)) as live:
            self.assertEqual(live.execute("SELECT name FROM devices_device").fetchall(), [("Tablet",)])
            self.assertEqual(
                live.execute("SELECT COUNT(*) FROM auth_user WHERE password LIKE 'argon2%'").fetchone(), (1,)
            )

    def test_nothing_is_written_while_it_is_put_back(self) -> None:
        """A write that has begun ends first; one that comes meanwhile is answered with what it typed; a look waits."""
        begun, ended = threading.Event(), threading.Event()
        order: list[str] = []

        def write() -> None:
            gate.enter(1)
            begun.set()
            ended.wait(5)
            order.append("written")
            gate.leave()

        def look() -> None:
            gate.enter(5)
            order.append("looked")
            gate.leave()

        writer = threading.Thread(target=write)
        writer.start()
        begun.wait(5)
        threading.Timer(0.2, ended.set).start()
        with gate.shut():
            order.append("shut")
            answers = []
            for headers in ({}, {"hx-request": "true"}):
                ask = threading.Thread(
                    target=lambda h: answers.append(self.client.post("/pantry/", {"note": "my <words>"}, headers=h)),
                    args=[headers],
                )
                ask.start()
                ask.join()
            looks = threading.Thread(target=look)
            looks.start()
            order.append("put back")
        looks.join()
        writer.join()
        self.assertEqual(order, ["written", "shut", "put back", "looked"])
        self.assertContains(answers[0], "takes nothing down for a moment", status_code=503)
        self.assertContains(answers[0], "<dt>note</dt><dd>my &lt;words&gt;</dd>", status_code=503)
        self.assertEqual((answers[1].status_code, answers[1]["HX-Retarget"]), (503, "#refused"))
        self.assertFalse(Formula.objects.exists())
