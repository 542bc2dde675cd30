"""A copy made by hand, a disk that spoils the workshop, and the way back: in a real browser on a real server."""

from playwright.sync_api import expect

from demo.served import PATIENCE_MS
from tests.support.served import ServedTestCase


class BackupWalkTests(ServedTestCase):
    def test_a_copy_damage_and_the_way_back(self) -> None:
        """A copy from Settings; the power goes and the disk spoils the file: starting says so and names the copy, its
        command puts it back, the damaged one lies beside; an earlier copy comes back by the page that shows it."""
        page = self.browser.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(PATIENCE_MS)
        page.goto(f"{self.served.address}/settings/")
        page.get_by_role("link", name="Copies of the workshop").click()
        page.get_by_role("button", name="Make one now").click()
        expect(page.locator(".done")).to_contain_text("is made.")
        (copy,) = self.folder.glob("hand-*.sqlite3")
        page.goto(f"{self.served.address}/formulas/new?kind=pot_salve")
        page.get_by_label("Name").fill("Written after the copy")
        page.get_by_role("button", name="Begin").click()
        expect(page.locator("h1")).to_contain_text("Written after the copy")
        self.served.kill()

        live = self.folder / "workshop.sqlite3"
        for beside in ("-wal", "-shm"):
            live.with_name(live.name + beside).unlink(missing_ok=True)
        whole = live.read_bytes()
        live.write_bytes(whole[:8192] + bytes(len(whole) - 8192))
        refused = self.served.run("serve", "--port", "8710")
        self.assertIn("is damaged and was left as it is. The newest copy beside it is", refused.stderr)
        self.assertIn(f"manage.py restore {copy} --yes", refused.stderr)
        self.assertIn("It is put back.", self.served.run("restore", str(copy), "--yes").stdout)
        self.assertEqual(len(list(self.folder.glob("damaged-*.sqlite3"))), 1)

        self.start()
        page.goto(f"{self.served.address}/formulas/")
        expect(page.get_by_text("Neap Tide").first).to_be_visible()
        expect(page.get_by_text("Written after the copy")).to_have_count(0)
        page.goto(f"{self.served.address}/formulas/new?kind=pot_salve")
        page.get_by_label("Name").fill("Written by mistake")
        page.get_by_role("button", name="Begin").click()
        page.goto(f"{self.served.address}/settings/backups/{copy.name}")
        expect(page.locator("main")).to_contain_text("14 formulas")
        page.get_by_role("button").filter(has_text="back").click()
        expect(page.locator(".done")).to_contain_text(f"{copy.name} is put back. What was there before is before-")
        expect(page.locator(".done")).to_contain_text("every phone has to come in once more")
        served = self.served.run("restore", str(copy), "--yes")
        self.assertIn("This workshop is served already", served.stderr)
        page.goto(f"{self.served.address}/formulas/")
        expect(page.get_by_text("Written by mistake")).to_have_count(0)
        self.assertNotIn("damaged", self.served.run("doctor").stdout)
