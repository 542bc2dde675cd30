"""Phones: paired once and soon, refused otherwise, revoked at once; this computer needs no leave."""

import socket
import threading
import urllib.request
from datetime import timedelta
from unittest import mock

from axes.models import AccessAttempt
from django.contrib.auth.models import User
from django.test import Client, SimpleTestCase, TestCase, override_settings
from django.utils import timezone

from balmcore.errors import Problem
from devices import lan_server, services
from devices.models import Device, Sharing

PHONE = {"HTTP_HOST": "192.168.7.20:8040", "REMOTE_ADDR": "192.168.7.31"}


@override_settings(ALLOWED_HOSTS=["127.0.0.1", "testserver", "192.168.7.20"])
class PairingTests(TestCase):
    def setUp(self) -> None:
        self.phone = Client(**PHONE)

    def test_a_phone_is_paired_by_a_link_that_is_good_once(self) -> None:
        """In by the link, out without it; the same link again, a guess, a late one; then let in no more."""
        for path in ("/", "/formulas/", "/settings/phones", "/nowhere", "/bench/1/live"):
            self.assertRedirects(self.phone.get(path), "/door", fetch_redirect_response=False)
        self.assertRedirects(self.phone.post("/formulas/", {"once": "x"}), "/door", fetch_redirect_response=False)
        self.assertEqual(self.phone.get("/", headers={"HX-Request": "true"})["HX-Redirect"], "/door")
        page = self.phone.get("/door")
        self.assertContains(page, "This device is not let in.")
        self.assertNotContains(page, "Formulas")
        query = services.new_link("By the stove")
        self.assertEqual(self.phone.head(f"/door/pair{query}").status_code, 405)  # a preview uses no link up
        self.assertRedirects(self.phone.get(f"/door/pair{query}"), "/", fetch_redirect_response=False)
        self.assertContains(self.phone.get("/formulas/"), "Formulas")
        refused = self.phone.get("/settings/phones")
        self.assertContains(refused, "This is done at the computer itself, not from a phone.", status_code=403)
        self.assertNotContains(self.phone.get("/settings/"), "/settings/phones")
        other = Client(**PHONE)
        for tried in (query, "?sesame=AAAAguess", ""):
            self.assertContains(other.get(f"/door/pair{tried}"), "This link is not good any more", status_code=403)
        with mock.patch("time.time", return_value=timezone.now().timestamp() - 400):
            late = services.new_link("Late")
        self.assertContains(other.get(f"/door/pair{late}"), "not good any more", status_code=403)
        device = Device.objects.get(is_paired=True)
        self.assertContains(self.client.get("/settings/phones"), "By the stove")
        self.client.post(f"/settings/phones/{device.pk}/revoke")
        self.assertRedirects(self.phone.get("/"), "/door", fetch_redirect_response=False)
        self.assertFalse(User.objects.filter(pk=device.user_id).exists())

    def test_a_passphrase_is_the_other_way_in_and_guesses_are_locked_out(self) -> None:
        """Too short is refused; six wrong ones and the right one comes too late; argon2 keeps it."""
        with self.assertRaises(Problem):
            services.set_passphrase("short")
        services.set_passphrase("wind from the harbour")
        self.assertTrue(User.objects.get(username="maker").password.startswith("argon2"))
        answer = self.phone.post("/door", {"password": "wind from the harbour", "name": "Tablet"})
        self.assertRedirects(answer, "/", fetch_redirect_response=False)
        tablet = Device.objects.get()
        self.assertEqual((tablet.name, tablet.is_paired), ("Tablet", True))
        self.assertLess(timezone.now() - tablet.last_seen, timedelta(minutes=1))
        thief = Client(**{**PHONE, "REMOTE_ADDR": "192.168.7.66"})
        said = [thief.post("/door", {"password": f"guess {n}"}).status_code for n in range(6)]
        self.assertEqual(set(said[:5]), {403})
        late = thief.post("/door", {"password": "wind from the harbour"})
        self.assertContains(late, "Too many tries from here", status_code=429)
        self.assertEqual(Device.objects.count(), 1)
        invited = thief.get(f"/door/pair{services.new_link('A good link, from the same place')}")
        self.assertRedirects(invited, "/", fetch_redirect_response=False)
        self.assertTrue(AccessAttempt.objects.exists())

    def test_a_name_that_is_not_ours_or_said_from_elsewhere_lets_nobody_in(self) -> None:
        """A host header of another's is refused; 127.0.0.1 said from the network is not this computer."""
        self.assertEqual(Client(HTTP_HOST="evil.example").get("/").status_code, 400)
        liar = Client(HTTP_HOST="127.0.0.1", REMOTE_ADDR="192.168.7.66")
        self.assertRedirects(liar.get("/"), "/door", fetch_redirect_response=False)
        rebound = Client(HTTP_HOST="192.168.7.20", REMOTE_ADDR="127.0.0.1")
        self.assertRedirects(rebound.get("/"), "/door", fetch_redirect_response=False)
        self.assertEqual(self.client.get("/").status_code, 200)

    def test_links_are_made_while_the_door_is_open(self) -> None:
        """Shut: said so. Open: an address with the link and its picture; no name is refused."""
        shut = self.client.post("/settings/phones/link", {"name": "Stove"})
        self.assertContains(shut, "Open the door first.", status_code=400)
        with mock.patch.object(lan_server, "open_at", ["192.168.7.20:8040"]):
            page = self.client.post("/settings/phones/link", {"name": "Stove"})
            self.assertContains(page, "http://192.168.7.20:8040/door/pair?sesame=")
            self.assertContains(page, "<svg")
            nameless = self.client.post("/settings/phones/link", {"name": " "})
            self.assertContains(nameless, "Give the phone a name", status_code=400)
        self.assertContains(self.client.get("/settings/phones"), "can be listened to")

    def test_links_that_nobody_followed_are_forgotten(self) -> None:
        services.new_link("One")
        Device.objects.update(made=timezone.now() - timedelta(hours=1))
        services.new_link("Two")
        self.assertEqual([device.name for device in Device.objects.all()], ["Two"])
        self.assertEqual(User.objects.count(), 1)
        services.new_link("Three")
        self.assertEqual({device.name for device in Device.objects.all()}, {"Two", "Three"})


class WantedTests(TestCase):
    def test_where_the_second_door_is_wanted(self) -> None:
        """Nowhere unless its maker says so: at the address chosen, or at this computer's own; what the command line says
        goes before."""
        with mock.patch.object(lan_server, "own_address", return_value="192.168.7.9"):
            self.assertEqual(lan_server.wanted(), "")
            for is_on, address, wanted in (
                (True, "", "192.168.7.9"),
                (True, "10.0.0.4", "10.0.0.4"),
                (False, "10.0.0.4", ""),
            ):
                Sharing.objects.update_or_create(pk=1, defaults={"is_on": is_on, "address": address})
                self.assertEqual(lan_server.wanted(), wanted)
            for forced, wanted in (("1", "192.168.7.9"), ("10.0.0.5", "10.0.0.5")):
                with mock.patch.dict("os.environ", {lan_server.FORCED: forced}):
                    self.assertEqual(lan_server.wanted(), wanted)


class DoorTests(SimpleTestCase):
    def test_the_second_door_opens_and_shuts(self) -> None:
        """At 127.0.0.2: answered while open, refused once shut; its name is believed only meanwhile."""
        from django.conf import settings

        with socket.socket() as probe:
            probe.bind(("127.0.0.2", 0))
            port = probe.getsockname()[1]

        def application(environ: object, start: object) -> list[bytes]:
            start("200 OK", [("Content-Type", "text/plain")])  # type: ignore[operator]
            return [b"in"]

        before = list(settings.ALLOWED_HOSTS)
        second = lan_server.LanServer(application, port, {"threads": 1})
        with mock.patch.object(lan_server, "wanted", return_value="127.0.0.2"):
            second.keep()
        self.assertEqual((lan_server.open_at, "127.0.0.2" in settings.ALLOWED_HOSTS), ([f"127.0.0.2:{port}"], True))
        with urllib.request.urlopen(f"http://127.0.0.2:{port}/", timeout=5) as answer:
            self.assertEqual(answer.read(), b"in")
        with mock.patch.object(lan_server, "wanted", return_value=""):
            second.keep()
        self.assertEqual((lan_server.open_at, settings.ALLOWED_HOSTS), ([], list(lan_server.LOCAL)))
        settings.ALLOWED_HOSTS[:] = before
        for thread in threading.enumerate():
            if thread.name == "second door":
                thread.join(5)
        with self.assertRaises(OSError):
            urllib.request.urlopen(f"http://127.0.0.2:{port}/", timeout=2)
