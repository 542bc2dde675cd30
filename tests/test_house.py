"""The rules of the house: imports point one way, migrations are made, every test can be found."""

import ast
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.test import SimpleTestCase, TestCase

ORDER = ("balmcore", "workshop", "pantry", "formulas", "batches", "pours", "calmtin", "demo")
WEB = {"django", "csp", "waitress", "whitenoise", "django_htmx"}


def imported(file: Path) -> set[str]:
    tree = ast.parse(file.read_text())
    names = [alias.name for node in ast.walk(tree) if isinstance(node, ast.Import) for alias in node.names]
    names += [node.module or "" for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)]
    return {name.partition(".")[0] for name in names}


def wrong_imports(folder: Path) -> list[str]:
    """Every import in ``folder`` that points up the order, or from the core to the web."""
    found = []
    for place, app in enumerate(ORDER):
        above = set(ORDER[place + 1 :]) | (WEB if app == "balmcore" else set())
        for file in (folder / app).rglob("*.py"):
            if "tests" not in file.parts and (wrong := imported(file) & above):
                found.append(f"{file.relative_to(folder)} imports {', '.join(sorted(wrong))}")
    return found


class HouseTests(SimpleTestCase):
    def test_imports_point_one_way(self) -> None:
        """Balmcore <- workshop <- pantry <- formulas <- batches <- pours <- calmtin, demo."""
        self.assertEqual(wrong_imports(settings.BASE_DIR), [])

    def test_a_wrong_import_would_be_found(self) -> None:
        """A core that imports Django, anywhere in a file, is named."""
        import tempfile

        with tempfile.TemporaryDirectory() as folder:
            core = Path(folder) / "balmcore"
            core.mkdir()
            (core / "solids.py").write_text("def f():\n    from django.db import models\n")
            self.assertEqual(wrong_imports(Path(folder)), ["balmcore/solids.py imports django"])

    def test_every_app_of_ours_is_in_the_order(self) -> None:
        """A new app has to take its place before it can be installed."""
        ours = [app for app in settings.INSTALLED_APPS if (settings.BASE_DIR / app).is_dir()]
        self.assertEqual(set(ours), set(ORDER) - {"balmcore"})

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
