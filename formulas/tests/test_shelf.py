"""The shelf and what is behind a formula: found, put away, its versions folded, rests offered."""

from django.test import TestCase

from balmcore.tables import shipped
from formulas.models import Version
from formulas.queries import firmness_of, formula_list
from formulas.services import advance_stage, save_version
from tests.support.makings import begin


class ShelfTests(TestCase):
    def test_search_goes_through_name_kind_note_and_ingredient(self) -> None:
        """Every word has to be found somewhere."""
        begin("Topsail", "pot_salve")
        begin("Skysail", "lip_gloss")
        for words, names in {
            "": ["Skysail", "Topsail"], "sail": ["Skysail", "Topsail"], "top": ["Topsail"], "gloss": ["Skysail"],
            "castor oil": ["Skysail"], "starting sky": ["Skysail"], "mizzen": [], "%": [], "' OR 1=1": [],
        }.items():  # fmt: skip
            with self.subTest(words):
                self.assertEqual([jar.formula.name for jar in formula_list(shipped(), words)], names)

    def test_a_school_is_a_starting_point_with_its_reason(self) -> None:
        """Six schools, told cold and hot; one becomes a formula of its nearest kind."""
        page = self.client.get("/formulas/new")
        self.assertEqual(len(page.context["starters"]), 6)
        self.assertContains(page, "No-wax butter</strong> <small>cool 67 firm pot, hot 0 runs")
        self.client.post("/formulas/new", {"name": "Plain", "kind": "one_to_five"})
        version = Version.objects.get(formula__name="Plain")
        self.assertEqual((version.formula.kind_key, round(firmness_of(version, shipped()))), ("pot_salve", 46))
        self.assertIn("the herbalist's salve", version.note)

    def test_a_new_formula_needs_a_name_and_a_kind_and_shows_markup_as_text(self) -> None:
        """Empty, 5,000 characters, an unknown kind; markup in a name is only text."""
        empty = self.client.post("/formulas/new", {"name": " "})
        self.assertContains(empty, "Give it a name; it can be changed later.")
        self.assertContains(empty, "Choose what it is to be.")
        long = self.client.post("/formulas/new", {"name": "n" * 5000, "kind": "pot_salve"})
        self.assertContains(long, "That name has 5000 characters; a label holds 120 at most.")
        self.client.post("/formulas/new", {"name": "<b>Gale</b>", "kind": "pot_salve"})
        self.assertContains(self.client.get("/formulas/"), "&lt;b&gt;Gale&lt;/b&gt;")
        self.assertNotContains(self.client.get("/formulas/"), "<b>Gale</b>")


class PutAwayTests(TestCase):
    def test_what_is_no_longer_made_is_put_away_and_comes_back(self) -> None:
        """Off the shelf and the list, still found, opened and planned; nothing of it is lost."""
        formula = begin("Ebb", "pot_salve")
        begin("Flow", "pot_salve")
        page = f"/formulas/{formula.pk}/versions"
        self.assertContains(self.client.post(page, {"put_away": "yes"}, follow=True), "Ebb is put away")
        self.assertNotContains(self.client.get("/formulas/"), "Ebb")
        self.assertContains(self.client.get("/formulas/"), "Put away (1)")
        away = self.client.get("/formulas/?away=1")
        self.assertContains(away, "Ebb")
        self.assertNotContains(away, "Flow")
        self.assertContains(self.client.get("/find", {"q": "ebb"}), "pot salve, put away")
        self.assertEqual(self.client.get(formula.get_absolute_url()).status_code, 200)
        self.client.post(page, {"put_away": "no"})
        self.assertContains(self.client.get("/formulas/"), "Ebb")


class LongHistoryTests(TestCase):
    def test_sixty_versions_are_read_in_one_look(self) -> None:
        """What was never poured stands as one line; the first, the poured and the current one by themselves; all on request."""
        formula = begin("Long Reach", "pot_salve")
        composition = formula.versions.get().to_composition(shipped())
        for number in range(2, 61):
            made = save_version(
                formula, composition, seen=formula.versions.get(is_current=True).pk, made_from=number - 1, note=""
            )
            if number == 30:
                advance_stage(made, Version.Stage.POURED)
        page = self.client.get(f"/formulas/{formula.pk}/versions")
        self.assertContains(page, "29 versions, 31 to 59")
        self.assertContains(page, "28 versions, 2 to 29")
        shown = [step.card.version.number for step in page.context["steps"] if not hasattr(step, "count")]
        self.assertEqual(shown, [60, 30, 1])
        everything = self.client.get(f"/formulas/{formula.pk}/versions?all=1")
        self.assertEqual(len(everything.context["steps"]), 60)
