"""The rules of the house: imports point one way, migrations are made, requests ask no more than they need."""

import re
import tempfile
import tomllib
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.test import SimpleTestCase, TestCase
from importlinter.application import use_cases
from importlinter.configuration import configure

from batches.models import Batch
from formulas.models import Version
from pours.models import Pour
from tests.support.morning import MorningCase
from tests.support.net_loft import load
from tests.support.pages import form_data

configure()


def contracts_hold(text: str) -> bool:
    """Whether import-linter is content with the contracts of a pyproject file."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "pyproject.toml"
        file.write_text(text)
        return bool(use_cases.lint_imports(config_filename=str(file), cache_dir=None))


class HouseTests(SimpleTestCase):
    def test_imports_point_one_way(self) -> None:
        """The contracts between rooms and between apps hold, and would not if one were turned round."""
        self.assertTrue(contracts_hold((settings.BASE_DIR / "pyproject.toml").read_text()))
        turned = (
            (settings.BASE_DIR / "pyproject.toml")
            .read_text()
            .replace('"batches",\n    "formulas"', '"formulas",\n    "batches"')
        )
        self.assertFalse(contracts_hold(turned))

    def test_every_app_of_ours_is_under_contract(self) -> None:
        """A new app has to take its place in the order before it can be installed."""
        ours = {app for app in settings.INSTALLED_APPS if (settings.BASE_DIR / app).is_dir()}
        contract = tomllib.loads((settings.BASE_DIR / "pyproject.toml").read_text())["tool"]["importlinter"][
            "contracts"
        ][0]
        layers = {name for layer in contract["layers"] for name in layer.replace("|", " ").split()}
        self.assertEqual(ours, layers - {"balmcore"})

    def test_every_path_that_the_docs_name_is_there(self) -> None:
        """Files and folders in code spans from the root, links from the page, the rooms on the map of CONTRIBUTING."""
        root = Path(settings.BASE_DIR)
        named = []
        for page in [root / "README.md", root / "CONTRIBUTING.md", *root.glob("docs/*.md")]:
            text = page.read_text()
            spans = re.findall(r"`([\w./]+(?:[.](?:py|csv|lark|css|js|html|toml)|/))`", text)
            links = [link for link in re.findall(r"\]\(([^)#]+)", text) if "://" not in link]
            named += [(page.name, root / span) for span in spans if "APP." not in span] + [
                (page.name, page.parent / link) for link in links
            ]
        rooms: list[str] = []
        for depth, name in re.findall(r"^( {4}|  {4,6})([\w]+/)", (root / "CONTRIBUTING.md").read_text(), re.MULTILINE):
            rooms = [*rooms[: (len(depth) - 4) // 2], name]
            named.append(("the map", root.joinpath(*rooms)))
        self.assertGreater(len(named), 100)
        self.assertEqual([(page, str(path)) for page, path in named if not path.exists()], [])

    def test_the_door_is_closed_to_the_world(self) -> None:
        """DEBUG off, own hosts only, a key of this workshop readable by its owner alone."""
        self.assertFalse(settings.DEBUG)
        key = settings.DATA_DIR / "secret-key"
        self.assertEqual(key.read_text(), settings.SECRET_KEY)
        self.assertEqual(key.stat().st_mode & 0o777, 0o600)
        self.assertEqual(self.client.get("/", headers={"host": "example.org"}).status_code, 400)


class StoredTests(TestCase):
    def test_the_database_writes_ahead_and_minds_foreign_keys(self) -> None:
        """Readers never wait for a writer, and no row points at nothing."""
        with connection.cursor() as cursor:
            self.assertEqual(cursor.execute("PRAGMA journal_mode").fetchone(), ("wal",))
            self.assertEqual(cursor.execute("PRAGMA foreign_keys").fetchone(), (1,))

    def test_no_migration_is_missing(self) -> None:
        """Models and migrations agree."""
        call_command("makemigrations", check=True, dry_run=True, verbosity=0)

    def test_pages_send_a_policy_without_inline_script_or_style_and_keep_it(self) -> None:
        """No page of the empty workshop has a style attribute, an inline script or a handler."""
        for path in ("/", "/formulas/", "/formulas/new", "/batches/", "/pours/", "/pantry/", "/settings/", "/nowhere"):
            with self.subTest(path):
                response = self.client.get(path)
                policy = response.headers["Content-Security-Policy"]
                self.assertIn("script-src 'self'", policy)
                self.assertIn("style-src 'self'", policy)
                self.assertNotIn("unsafe", policy)
                page = response.content.decode()
                for inline in (" style=", "<style", "<script>", " onclick=", "javascript:"):
                    self.assertNotIn(inline, page)


class QueryTests(MorningCase):
    """How many queries the busiest requests of the demo workshop take, and not one more."""

    version: Version
    batch: Batch

    @classmethod
    def setUpTestData(cls) -> None:
        load()
        cls.version = Version.objects.current().get(formula__name="Neap Tide")
        cls.batch = Batch.objects.unpoured().get(version=cls.version)

    def test_a_studio_edit(self) -> None:
        """Preferences, own rows, formula, version, its lines and those before, its recipe; judged pours the first time."""
        path = f"/formulas/{self.version.formula_id}/"
        data = form_data(self.client.get(path), "studio", edited="beeswax_yellow", **{"percent-beeswax_yellow": "20"})
        with self.assertNumQueries(6):
            self.client.post(path + "try", data, headers={"HX-Request": "true"})

    def test_a_plan_edited_and_saved(self) -> None:
        """Twelve to edit, six of them for what is asked, held, on order and around; eleven more to save with a time: the room for it,
        asked twice as it may change meanwhile, what else the day holds, and two savepoints' words."""
        data = form_data(self.client.get(f"/batches/plan?version={self.version.pk}"), "plan")
        with self.assertNumQueries(12):
            self.client.post("/batches/plan", data, headers={"HX-Request": "true"})
        with self.assertNumQueries(23):
            self.client.post("/batches/plan", {**data, "save": "1", "when": "start", "moment": "2026-03-28T12:00"})

    def bench(self, what: str, **fields: str) -> dict[str, Any]:
        """What is sent by a button of the bench as it stands."""
        bench = self.client.get(f"/bench/{self.batch.pk}/").context["bench"]
        return {"step": bench.here.step.key, "after": bench.run.revision, "do": what, **fields}

    def do(self, data: dict[str, Any]) -> None:
        answer = self.client.post(f"/bench/{self.batch.pk}/do", data, headers={"HX-Request": "true"})
        self.assertEqual(answer.status_code, 200)

    def test_a_line_weighed_on_the_sheet(self) -> None:
        """The batch is read once, and what other batches hold as it is asked, drawn and shown; its first weight, draw,
        account, making and event are written: twenty-nine."""
        path = f"/bench/{self.batch.pk}/weigh"
        data = form_data(self.client.get(path), "weigh", **{"actual-beeswax_yellow": "34"})
        with self.assertNumQueries(29):
            self.client.post(path, data, headers={"HX-Request": "true"})

    def test_a_line_weighed_at_the_bench(self) -> None:
        """The batch is read once, with its record; the lots before it is written, drawn and shown for the next line:
        twenty-six."""
        self.do(self.bench("done"))
        self.do(self.bench("weigh", grams="34.6", sure="34.6"))
        data = self.bench("weigh", grams="46.7", sure="46.7")
        with self.assertNumQueries(26):
            self.do(data)

    def test_into_the_log(self) -> None:
        """Pieces, two sorts of containers out of stock, a leftover kept, the days to look again: thirty-six."""
        while (found := self.client.get(f"/bench/{self.batch.pk}/").context)["step"].task != "fill":
            is_weighing = found["step"].task == "weigh"
            grams = str(found["view"].left_g)
            self.do(self.bench("weigh", grams=grams, sure=grams) if is_weighing else self.bench("done"))
        counts = {f"count-{row.container.pk}": row.count for row in found["rows"]}
        self.do(self.bench("fill", **counts, stayed="3", keep="on"))
        while not (found := self.client.get(f"/bench/{self.batch.pk}/").context)["bench"].is_over:
            self.do(self.bench("done"))
        data = self.bench("log")
        with self.assertNumQueries(36):
            self.do(data)

    def test_a_sheet_of_labels(self) -> None:
        """Its pour with what is behind it, what the maker says on labels, who reacted to its lots, the sheet: thirteen."""
        path = f"/labels/{Pour.objects.latest('pk').pk}/"
        data = form_data(self.client.get(path), "label-form")
        with self.assertNumQueries(13):
            self.assertEqual(self.client.get(f"{path}sheet.pdf", data)["Content-Type"], "application/pdf")
