"""The studio as a form: every action posts what the page held and reads what came back."""

from decimal import Decimal as D

from django.db import IntegrityError, transaction
from django.http import HttpResponse
from django.test import TestCase

from balmcore.composition import Composition
from balmcore.physics.firmness import predict
from balmcore.tables import shipped
from formulas.models import Line, Version
from tests.support.makings import begin
from tests.support.pages import Data, form_data

NONSENSE = {
    "150": "“150” is more than the whole: a percentage lies between 0 and 100.",
    "-5": "“-5” is below nothing: a percentage lies between 0 and 100.",
    "": "A percentage is missing: 0 leaves it out.",
    "abc": "“abc” is not a number: write it like 12.5, 12,5 or 12 1/2.",
    "NaN": "“NaN” is not a number",
    "1e400": "“1e400” is not a number",
    "<script>alert(1)</script>": "is not a number",
}


class StudioTests(TestCase):
    def setUp(self) -> None:
        self.formula = begin("Topsail", "pot_salve")
        self.path = f"/formulas/{self.formula.pk}/"
        self.page: HttpResponse = self.client.get(self.path)

    def test_what_boils_away_is_said_with_what_is_left(self) -> None:
        """A fifth of tincture: 19.4 % leaves, and what is poured is as firm as the rest alone."""
        shares = {"beeswax_yellow": D("0.16"), "olive_oil": D("0.64"), "tincture": D("0.2")}
        wet = begin("Squall", "pot_salve", Composition.of(shares))
        left = predict(Composition.of(shares).without_volatiles).firmness_at(21)
        page = self.client.get(f"/formulas/{wet.pk}/")
        self.assertContains(page, f"19.4 % of it boils away before the wax goes in: what is then poured is {left:.0f}")
        self.assertNotContains(self.page, "boils away")

    def act(self, status: int = 200, **changes: str | list[str]) -> Data:
        """Post the form of the last page with changes; the answer becomes the last page."""
        data = form_data(self.page, "studio", **{name.replace("__", "-"): value for name, value in changes.items()})
        self.page = self.client.post(self.path + "try", data, headers={"hx-request": "true"})
        self.assertEqual(self.page.status_code, status)
        return form_data(self.page, "studio")

    def save(self, status: int, **changes: str) -> None:
        data = form_data(self.page, "studio", **{name.replace("__", "-"): value for name, value in changes.items()})
        self.page = self.client.post(self.path + "save", data)
        self.assertEqual(self.page.status_code, status)

    def percents(self, data: Data) -> dict[str, str]:
        return {key: data[f"percent-{key}"][0] for key in data["key"]}

    def test_a_country_that_the_page_has_is_not_sent_again(self) -> None:
        """More wax moves the dot in the country that stands; another split of the oils is another country; a page
        that has none, and one that is saved, get all of it."""
        window = '<path class="window" d="M'
        self.assertContains(self.page, window, 1)
        self.act(percent__beeswax_yellow="17.2", edited="beeswax_yellow")
        self.assertContains(self.page, '<g id="map-land" data-as-drawn></g>', 1)
        self.assertContains(self.page, 'id="map-dot" transform="translate(326.3,313.4)"')
        self.assertNotContains(self.page, window)
        self.act(percent__beeswax_yellow="17.4", edited="beeswax_yellow")
        self.assertContains(self.page, window, 1)
        before = form_data(self.page, "studio")["drawn"]
        self.act(add="castor_oil")
        self.act(percent__castor_oil="9", edited="castor_oil")
        self.assertContains(self.page, window, 1)
        self.assertNotEqual(form_data(self.page, "studio")["drawn"], before)
        self.save(400, percent__beeswax_yellow="20 %%")
        self.assertContains(self.page, window, 1, status_code=400)

    def test_arrow_keys_move_the_dot_as_far_as_the_triangle_goes(self) -> None:
        """One percent of what is not extra: up with the others giving way in proportion, left from oil to butter; at
        a side so much as is left."""
        self.assertEqual(list(self.percents(self.act(move="up")).values()), ["17.99", "14.82", "66.69", "0.50"])
        self.assertEqual(list(self.percents(self.act(move="left")).values()), ["17.99", "15.82", "65.69", "0.50"])
        for start, move, end in (
            (
                {"beeswax_yellow": "0.2", "shea_butter": "0.796", "olive_oil": "0.004"},
                "left",
                ["20.00", "80.00", "0.00"],
            ),
            (
                {"beeswax_yellow": "0.2", "shea_butter": "0.004", "olive_oil": "0.796"},
                "right",
                ["20.00", "0.00", "80.00"],
            ),
            ({"beeswax_yellow": "0.996", "olive_oil": "0.004"}, "up", ["100.00", "0.00"]),
            ({"beeswax_yellow": "0.004", "olive_oil": "0.996"}, "down", ["0.00", "100.00"]),
        ):
            shares = Composition.of({key: D(share) for key, share in start.items()})
            self.path = f"/formulas/{begin('Halyard', 'pot_salve', shares).pk}/"
            self.page = self.client.get(self.path)
            with self.subTest(move):
                self.assertEqual(list(self.percents(self.act(move=move)).values()), end)
        self.act(move="away")
        self.assertContains(self.page, "The dot moves up, down, left or right.")

    def test_a_percentage_moves_the_others_from_where_they_stood_before_it_was_touched(self) -> None:
        """Typing 2 and then 20 ends where typing 20 at once ends."""
        self.act(percent__beeswax_yellow="2", edited="beeswax_yellow")
        slowly = self.act(percent__beeswax_yellow="20", edited="beeswax_yellow")
        self.page = self.client.get(self.path)
        at_once = self.act(percent__beeswax_yellow="20", edited="beeswax_yellow")
        self.assertEqual(self.percents(slowly), self.percents(at_once))
        self.assertEqual(
            self.percents(at_once),
            {"beeswax_yellow": "20", "shea_butter_refined": "14.46", "olive_oil": "65.06", "vitamin_e_oil": "0.48"},
        )
        self.assertContains(self.page, "100.00 %")
        self.assertContains(self.page, "changed, not saved")

    def test_nonsense_is_named_beside_its_field_and_nothing_else_is_lost(self) -> None:
        """Seven kinds of nonsense: the sentence, the text kept, the other lines as they were."""
        for text, said in NONSENSE.items():
            with self.subTest(text):
                self.page = self.client.get(self.path)
                data = self.act(percent__olive_oil=text, edited="olive_oil")
                self.assertContains(self.page, said)
                self.assertEqual(data["percent-olive_oil"], [text])
                self.assertEqual(data["percent-beeswax_yellow"], ["17.00"])
                self.assertContains(self.page, "The picture waits for Olive oil; it shows the formula before.")
                self.save(400)
                self.assertContains(self.page, "Not saved yet", status_code=400)
                self.assertEqual(form_data(self.page, "studio")["percent-olive_oil"], [text])
        self.assertEqual(self.formula.versions.count(), 1)

    def test_locked_lines_stay_and_say_when_there_is_no_room(self) -> None:
        """Olive oil locked at 67.5: wax can have 32.5 at most."""
        data = self.act(locked__olive_oil="1", percent__beeswax_yellow="20", edited="beeswax_yellow")
        self.assertEqual(data["percent-olive_oil"], ["67.50"])
        self.act(percent__beeswax_yellow="40", edited="beeswax_yellow")
        self.assertContains(self.page, "The locked lines leave room for 32.5 % at most: unlock one, or take less.")

    def test_group_totals_and_parts_are_typed_as_one(self) -> None:
        """Oils together at 50: wax and butter follow; parts for all; nonsense is told."""
        data = self.act(grouped="oil", group__oil="50")
        self.assertEqual((data["percent-olive_oil"], data["group-oil"]), (["50.00"], ["50.00"]))
        self.assertContains(self.page, "100.00 %")
        data = self.act(parts="2 : 1 : 7")
        self.assertEqual(data["percent-beeswax_yellow"], ["19.85"])
        self.act(parts="two to one")
        self.assertContains(self.page, "“two to one” is not a number")
        self.act(grouped="oil", group__oil="lots")
        self.assertContains(self.page, "“lots” is not a number")
        self.assertContains(self.page, "100.00 %")

    def test_a_held_group_keeps_its_total_and_makes_room_within_itself(self) -> None:
        """83 % of oils stay: two of them share a change, wax moves without them; kept with the version. A line
        at nothing leaves the formula, and that is said."""
        begun = begin("Held", "pot_salve", Composition.of({"beeswax_yellow": D("0.12"), "shea_butter": D("0.05"),
                                                           "olive_oil": D("0.60"), "jojoba_oil": D("0.23")}))  # fmt: skip
        self.path = f"/formulas/{begun.pk}/"
        self.page = self.client.get(self.path)
        self.act(held__oil="1")
        inside = self.act(percent__olive_oil="50", edited="olive_oil")
        self.assertEqual(self.percents(inside)["jojoba_oil"], "33.00")
        self.assertEqual((inside["percent-beeswax_yellow"], inside["group-oil"]), (["12.00"], ["83.00"]))
        outside = self.act(percent__beeswax_yellow="15", edited="beeswax_yellow")
        self.assertEqual(self.percents(outside), {"beeswax_yellow": "15", "shea_butter": "2.00", "olive_oil": "50.00",
                                                  "jojoba_oil": "33.00"})  # fmt: skip
        full = self.act(percent__beeswax_yellow="18", edited="beeswax_yellow")
        self.assertContains(self.page, "The locked lines leave room for 17.0 % at most")
        self.assertEqual(full["percent-olive_oil"], ["50.00"])
        self.page = self.client.get(self.path)
        self.act(held__oil="1")
        self.act(percent__shea_butter="0", edited="shea_butter")
        self.save(302, held__oil="1")
        version = Version.objects.latest("pk")
        self.assertEqual([line.ingredient_key for line in version.lines.all()],
                         ["beeswax_yellow", "olive_oil", "jojoba_oil"])  # fmt: skip
        page = self.client.get(self.path)
        self.assertContains(page, "At nothing, and left out: shea butter, unrefined.")
        self.assertEqual(form_data(page, "studio")["held-oil"], ["1"])

    def test_percent_of_the_base_shows_and_takes_both(self) -> None:
        """The switch writes every line anew; a line typed of the base; an extra put on top; and back."""
        data = self.act(of="base")
        self.assertEqual(self.percents(data)["beeswax_yellow"], "17.09")
        self.assertEqual(self.percents(data)["vitamin_e_oil"], "0.50")
        self.assertContains(self.page, "percent of the base, and 0.50 % extras on top")
        data = self.act(percent__beeswax_yellow="20", edited="beeswax_yellow")
        self.assertEqual(
            self.percents(data),
            {"beeswax_yellow": "20", "shea_butter_refined": "14.54", "olive_oil": "65.46", "vitamin_e_oil": "0.50"},
        )
        data = self.act(percent__vitamin_e_oil="1", edited="vitamin_e_oil")
        self.assertEqual(self.percents(data)["beeswax_yellow"], "20.01")  # its whole stays on the 0.01 % grid
        data = self.act(edited="beeswax_yellow", nudge="0.5")
        self.assertEqual(self.percents(data)["beeswax_yellow"], "20.51")
        self.assertContains(self.page, "100.00 %")
        data = self.act(of="whole")
        self.assertEqual(self.percents(data)["vitamin_e_oil"], "0.9901")
        self.save(302)
        lines = {line.ingredient_key: line.share for line in Version.objects.get(number=2).lines.all()}
        self.assertAlmostEqual(float(lines["beeswax_yellow"]), 0.2051 / 1.01, delta=1e-4)
        self.assertEqual(sum(lines.values()), 1)

    def test_what_is_typed_of_the_base_and_saved_at_once_is_of_the_base(self) -> None:
        """A form saved before the server could answer: the last figure still means the base."""
        self.act(of="base")
        self.save(302, percent__beeswax_yellow="20")
        lines = {line.ingredient_key: line.share for line in Version.objects.get(number=2).lines.all()}
        self.assertAlmostEqual(float(lines["beeswax_yellow"]), 0.2 * 0.995, delta=1e-6)

    def test_keeping_lets_the_total_drift_and_bring_to_100_mends_it(self) -> None:
        """Wax 17 to 22 while the rest keeps: 5 over; a save is refused until it is whole."""
        self.act(follow="keep")
        data = self.act(percent__beeswax_yellow="22", edited="beeswax_yellow")
        self.assertEqual(data["percent-olive_oil"], ["67.50"])
        self.assertContains(self.page, "5.00 % over")
        self.save(400)
        self.assertContains(self.page, "A version adds to exactly 100 %; this is 105.00 %.", status_code=400)
        data = self.act(normalise="1")
        self.assertEqual(data["percent-beeswax_yellow"], ["20.95"])
        self.assertNotContains(self.page, "% over")

    def test_nudges_add_and_remove(self) -> None:
        """Half a point up by key, an ingredient in and out again, never the same one twice."""
        data = self.act(edited="beeswax_yellow", nudge="0.5")
        self.assertEqual(data["percent-beeswax_yellow"], ["17.50"])
        data = self.act(edited="beeswax_yellow", nudge="-500")
        self.assertEqual(data["percent-beeswax_yellow"], ["0.00"])
        data = self.act(add="cocoa_butter")
        self.assertEqual(data["percent-cocoa_butter"], ["0.00"])
        self.act(add="cocoa_butter")
        self.assertContains(self.page, "Cocoa butter, unrefined is in the formula already.")
        data = self.act(remove="olive_oil")
        self.assertNotIn("olive_oil", data["key"])
        self.assertContains(self.page, "100.00 %")

    def test_what_a_fast_hand_typed_before_the_answer_is_carried_out(self) -> None:
        """Wax typed and oil after it, posted together: as if typed one after the other."""
        data = self.act(percent__beeswax_yellow="20", percent__olive_oil="60", edited="olive_oil")
        self.assertEqual(data["percent-olive_oil"], ["60"])
        self.assertEqual(data["percent-beeswax_yellow"], ["22.90"])
        self.save(302, percent__beeswax_yellow="30")
        lines = {line.ingredient_key: line.share for line in Version.objects.get(number=2).lines.all()}
        self.assertEqual((lines["beeswax_yellow"], sum(lines.values())), (D("0.3"), D(1)))

    def test_only_liquid_oils_or_nothing_at_all(self) -> None:
        """A formula of oils runs and never sets; an empty one asks for an ingredient."""
        for key in ("beeswax_yellow", "shea_butter_refined"):
            self.act(remove=key)
        self.assertContains(self.page, "Stays liquid and clear even in the cold.")
        self.assertContains(self.page, "44 points too soft for a pot salve")
        for key in ("olive_oil", "vitamin_e_oil"):
            self.act(remove=key)
        self.assertContains(self.page, "Nothing to weigh yet: add an ingredient.")
        self.save(400)
        self.assertContains(self.page, "There is nothing in this formula yet", status_code=400)
        self.assertEqual(self.percents(self.act(add="squalane")), {"squalane": "100.00"})

    def test_forged_posts_are_answered_in_words(self) -> None:
        """The same line twice, an unknown ingredient, a thousand lines, damaged memory."""
        self.act(key=["olive_oil", "olive_oil"])
        self.assertContains(self.page, "Olive oil stands here twice")
        self.page = self.client.get(self.path)
        data = form_data(self.page, "studio", key=["unobtainium"])
        self.assertContains(
            self.client.post(self.path + "try", data), "There is no ingredient “unobtainium”", status_code=400
        )
        data["key"] = ["olive_oil"] * 1000
        self.assertContains(self.client.post(self.path + "try", data), "at most 40 lines", status_code=400)
        self.page = self.client.get(self.path)
        data = self.act(
            shown="olive_oil:NaN;;x:;" + "y" * 9000, basis="%%%", editing="olive_oil", seen="x", made_from="-1"
        )
        self.assertEqual(data["percent-olive_oil"], ["67.50"])

    def test_a_second_tab_is_told_and_both_can_be_kept(self) -> None:
        """Two tabs open version 1; the second to save sees version 2 and saves beside it."""
        second = self.page
        self.act(percent__beeswax_yellow="20", edited="beeswax_yellow")
        self.save(302, note="firmer")
        self.page = second
        self.act(percent__beeswax_yellow="14", edited="beeswax_yellow")
        self.save(409, note="softer")
        self.assertContains(self.page, "Version 2 was saved in another tab", status_code=409)
        kept = form_data(self.page, "studio")
        self.assertEqual((kept["percent-beeswax_yellow"], kept["note"]), (["14"], ["softer"]))
        self.save(302, keep_both="1")
        notes = list(
            self.formula.versions.order_by("number").values_list("number", "note", "made_from__number", "is_current")
        )
        self.assertEqual(notes[1:], [(2, "firmer", 1, False), (3, "softer", 1, True)])

    def test_versions_open_compare_and_come_back(self) -> None:
        """History tells line by line what moved; restoring makes a new version; names can change."""
        self.act(percent__beeswax_yellow="20", edited="beeswax_yellow")
        self.save(302, note="firmer for July")
        page = self.client.get(self.path + "versions")
        self.assertContains(page, "Beeswax, yellow 17.0 → 20.0 %; Shea butter, refined 15.0 → 14.46 %")
        self.assertContains(page, "Firmness 51 → 55.")
        self.assertContains(self.client.get(self.path + "?version=1"), 'value="17.00"')
        self.client.post(self.path + "versions/1/restore")
        newest = self.formula.versions.get(is_current=True)
        self.assertEqual((newest.number, newest.note), (3, "Version 1 again."))
        self.assertEqual(self.client.post(self.path + "versions/9/restore").status_code, 400)
        self.client.post(self.path + "versions", {"name": "Topgallant"})
        self.assertContains(self.client.get(self.path), "Topgallant")
        long = self.client.post(self.path + "versions", {"name": "x" * 5000})
        self.assertContains(long, "That name has 5000 characters; a label holds 120 at most.")
        self.assertContains(long, "<h1>Topgallant</h1>", html=True)

    def test_words_that_promise_too_much_are_marked_and_kept(self) -> None:
        """A private note may say what a label may not: it is kept, and marked with why and what could stand instead."""
        self.act(percent__beeswax_yellow="20", edited="beeswax_yellow")
        self.save(302, note="heals eczema")
        page = self.client.get(self.path + "versions")
        self.assertContains(page, "“heals” promises to treat. Instead: for dry, rough skin.")
        self.assertContains(page, "“eczema” promises to treat")
        self.client.post(self.path + "versions", {"name": "Sun block"})
        self.assertContains(self.client.get(self.path), "“Sun block” promises protection from sun")

    def test_any_versions_are_compared_and_one_becomes_a_formula_of_its_own(self) -> None:
        """Two versions and another formula side by side; a branch begins where the version was."""
        self.act(percent__beeswax_yellow="20", edited="beeswax_yellow")
        self.save(302, note="firmer")
        other = begin("Skysail", "lip_gloss").versions.get()
        first, second = self.formula.versions.order_by("number")
        page = self.client.get(self.path + "compare", {"v": [second.pk, first.pk, other.pk, "x", 99999]})
        lines = {line.name: line for line in page.context["comparison"].lines}
        self.assertEqual(lines["Beeswax, yellow"].percents, ("20.00", "17.00", ""))
        self.assertTrue(lines["Castor oil"].differs)
        self.assertEqual(len(page.context["comparison"].curve.others), 2)
        self.assertContains(page, "Topsail v2")
        self.assertContains(page, "Keeps 24 months: the most for anything made at home.")
        studio = self.client.get(self.path)
        self.assertContains(
            studio, "Keeps about 24 months, 18 in an open jar: the most for anything made at home. Its antioxidant adds"
        )
        self.assertEqual(len(self.client.get(self.path + "compare").context["comparison"].columns), 2)
        self.client.post(self.path + "versions/1/branch")
        twin = Version.objects.get(formula__name="Topsail from v1")
        self.assertEqual(
            [line.share for line in twin.to_composition(shipped()).lines],
            [line.share for line in first.to_composition(shipped()).lines],
        )
        self.assertEqual(twin.note, "Branched from Topsail v1.")

    def test_the_database_refuses_what_no_form_should_let_through(self) -> None:
        """Shares outside 0 to 1, an ingredient twice, two current versions."""
        version = self.formula.versions.get()
        for made in (
            lambda: Line.objects.create(version=version, position=9, ingredient_key="squalane", share=D("1.1")),
            lambda: Line.objects.create(version=version, position=9, ingredient_key="squalane", share=D("-0.1")),
            lambda: Line.objects.create(version=version, position=9, ingredient_key="olive_oil", share=D("0.1")),
            lambda: Version.objects.create(formula=self.formula, number=2),
        ):
            with self.assertRaises(IntegrityError), transaction.atomic():
                made()
