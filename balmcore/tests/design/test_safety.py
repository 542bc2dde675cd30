"""Cautions: who wears it, where, by which policy; limits, what several oils share, and what ends a caution."""

from decimal import Decimal as D

from balmcore.advice.caution import Level
from balmcore.advice.safety import Wearer, cautions, most_of, most_scent
from balmcore.composition import Composition, set_shares
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase


class CautionTests(CoreTestCase):
    def said(
        self, parts: dict[str, float], audience: str = "adult", area: str = "body", school: str = "cautious"
    ) -> list[tuple[str, str]]:
        composition = Composition.of({key: D(str(percent)) / 100 for key, percent in parts.items()})
        return [(caution.level, caution.line) for caution in cautions(composition, Wearer(audience, area, school))]

    def test_the_most_of_each_scent_that_is_in(self) -> None:
        """Two share the cautious 1 % as they stand; the sun's allowance of bergamot is 0.4 % alone and shared with
        lemon's 2 %; what is within its limits stays; a small child has none."""
        for scents, audience, policy, most in (
            ({"lavender": 0.8, "tea_tree": 0.8}, "adult", "cautious", ["0.0050", "0.0050"]),
            ({"lavender": 0.2}, "adult", "cautious", ["0.002"]),
            ({"bergamot_expressed": 0.8}, "adult", "cautious", ["0.0040"]),
            ({"bergamot_expressed": 0.3, "lemon_expressed": 0.9}, "adult", "usual", ["0.0025", "0.0075"]),
            ({"lavender": 0.2}, "newborn_0_3m", "usual", ["0"]),
        ):
            with self.subTest(scents):
                shares = {key: D(str(percent)) / 100 for key, percent in scents.items()}
                balm = Composition.of({**shares, "olive_oil": 1 - sum(shares.values())})
                self.assertEqual(
                    [str(each) for each in most_scent(balm, Wearer(audience, "body", policy)).values()], most
                )
        for percent, stronger in ((0.4, "0.0060"), (0.8, "0.0100"), (2, "0.0100")):
            balm = Composition.of({"lavender": D(str(percent)) / 100, "olive_oil": 1 - D(str(percent)) / 100})
            self.assertEqual(f"{most_scent(balm, Wearer(), D('1.5'))['lavender']:.4f}", stronger)

    def test_total_scent_by_method_audience_and_area(self) -> None:
        """1.5 % on an adult's body: over the cautious 1 %, within the usual 2 %; a child's is 0.25 %."""
        balm = {"beeswax_white": 20, "olive_oil": 78.5, "lavender": 1.5}
        self.assertIn(("stop", "Scent 1.5 % in all, 1.0 % is our most for adults, on the body"), self.said(balm))
        self.assertNotIn("stop", dict(self.said(balm, school="usual")))
        self.assertIn(
            ("stop", "Scent 1.5 % in all, 0.25 % is our most for children of 2 to 6, on the body"),
            self.said(balm, audience="child_2_6y"),
        )
        self.assertIn(("stop", "No scent at all for newborns, on the body"), self.said(balm, audience="newborn_0_3m"))
        self.assertIn(("stop", "Lavender 1.5 %, 0.5 % is its own most on lips"), self.said(balm, area="lips"))

    def test_each_oils_own_limit_age_and_lips(self) -> None:
        """Cinnamon bark 0.1 % is over 0.07; tea tree never on lips; eucalyptus not under ten."""
        self.assertIn(
            ("stop", "Cinnamon bark 0.1 %, 0.07 % is its own most on the body"),
            self.said({"olive_oil": 99.9, "cinnamon_bark": 0.1}),
        )
        self.assertIn(("stop", "Tea tree: not for lips"), self.said({"olive_oil": 99.9, "tea_tree": 0.1}, area="lips"))
        self.assertIn(
            ("stop", "Eucalyptus globulus: not under 10 years"),
            self.said({"olive_oil": 99.9, "eucalyptus_globulus": 0.1}, audience="child_6_15y"),
        )

    def test_sun_sensitising_oils_add_up(self) -> None:
        """Bergamot at 0.3 of 0.4 and lime at 0.35 of 0.7: 125 % of the allowance together."""
        both = {"olive_oil": 99.35, "bergamot_expressed": 0.3, "lime_expressed": 0.35}
        found = [
            c for c in cautions(Composition.of(both), Wearer("adult", "body", "usual")) if c.line.startswith("Sun")
        ]
        self.assertEqual(found[0].line, "Sun and citrus: 125 % of what sunlit skin allows")
        self.assertIn("Divide by 1.2", found[0].text)
        self.assertNotIn("stop", dict(self.said({"olive_oil": 99.7, "bergamot_expressed": 0.3})))

    def test_whom_a_caution_is_for(self) -> None:
        """Of every ingredient of the tables: what is asked first in pregnancy or while nursing is said to those, and to
        nobody else; lanolin is kept from the breast of the nursing alone; a child's age is asked of children alone."""
        asked = {"pregnant": "ask first in pregnancy", "nursing": "ask first while nursing"}
        barred = {"pregnant": "in pregnancy", "nursing": "while nursing"}
        found, never = dict.fromkeys(asked, 0), dict.fromkeys(asked, 0)
        for item in shipped().ingredients.values():
            if item.key == "aroma" or item.water_bearing:
                continue
            composition = (
                Composition.of({"olive_oil": D("0.999"), item.key: D("0.001")}) if item.key != "olive_oil" else None
            )
            if composition is None:
                continue
            lines = {
                audience: [caution.line for caution in cautions(composition, Wearer(audience, "body", "cautious"))]
                for audience in ("adult", "pregnant", "nursing")
            }
            oil = item.aromatic
            columns = {"pregnant": oil.pregnancy_caution, "nursing": oil.nursing_caution} if oil else {}
            wanted = {audience: column == "yes" for audience, column in columns.items()}
            for audience, column in columns.items():
                stopped = any(line == f"{item.name}: not {barred[audience]}" for line in lines[audience])
                self.assertEqual(stopped, column == "never", (item.key, audience))
                never[audience] += stopped
            for audience, words in asked.items():
                said = {name: any(words in line for line in told) for name, told in lines.items()}
                if wanted:
                    self.assertEqual(said[audience], wanted[audience], (item.key, audience))
                    found[audience] += said[audience]
                self.assertFalse(any(said[name] for name in lines if name != audience), (item.key, audience))
            breast = {name: any("not for the breast" in line for line in told) for name, told in lines.items()}
            if item.group == "lanolin":
                self.assertEqual(breast, {"adult": False, "pregnant": False, "nursing": True}, item.key)
        self.assertGreater(min(found.values()), 5)
        self.assertGreater(min(never.values()), 0)

    def test_what_lips_swallow(self) -> None:
        """Every oil of the tables that lips wear with care says so on lips, and nowhere else; the others never do."""
        careful = 0
        for item in shipped().ingredients.values():
            if item.aromatic is None or item.key == "aroma" or item.aromatic.lip_suitable == "no":
                continue
            composition = Composition.of({"olive_oil": D("0.9999"), item.key: D("0.0001")})
            said = {
                area: [
                    c.line
                    for c in cautions(composition, Wearer("adult", area, "usual"))
                    if "with care on lips" in c.line
                ]
                for area in ("lips", "body", "face")
            }
            is_careful = item.aromatic.lip_suitable == "caution"
            self.assertEqual((bool(said["lips"]), said["body"], said["face"]), (is_careful, [], []), item.key)
            careful += is_careful
        self.assertGreater(careful, 5)

    def test_what_is_barred_offers_to_be_left_out(self) -> None:
        """In pregnancy and while nursing: what is barred can be taken out by a press; what is only to be asked about
        is asked about, and nothing is taken out for it."""
        counted = {"no": 0, "ask": 0}
        for item in shipped().ingredients.values():
            if item.aromatic or item.pregnancy not in counted or item.water_bearing:
                continue
            composition = Composition.of({"olive_oil": D("0.99"), item.key: D("0.01")})
            for audience in ("pregnant", "nursing"):
                (found,) = (
                    c for c in cautions(composition, Wearer(audience, "body", "usual"))
                    if c.line.startswith(item.name) and "usual at most" not in c.line and "the sun" not in c.line
                    and "not under" not in c.line
                )  # fmt: skip
                self.assertEqual(bool(found.remedy), item.pregnancy == "no", (item.key, audience))
                self.assertIn("midwife or doctor", found.text)
            plain = [c for c in cautions(composition, Wearer("adult", "body", "usual")) if c.level is not Level.NOTE]
            self.assertEqual([c.line for c in plain if "pregnan" in c.line], [], item.key)
            counted[item.pregnancy] += 1
        self.assertGreater(sum(counted.values()), 0)

    def test_our_most_is_the_least_of_all_that_binds(self) -> None:
        """Of every oil, everywhere it may be worn: at its most nothing is over, a hundredth of a percent more is; what
        is kept is one quiet line."""
        self.assertEqual(most_of(shipped().ingredient("petitgrain_mandarin"), Wearer()), D("0.0017"))
        tried = 0
        for item in shipped().ingredients.values():
            for area in ("body", "lips"):
                wearer = Wearer("adult", area, "usual")
                if item.aromatic is None or (area == "lips" and item.aromatic.lip_suitable == "no"):
                    continue
                if not (most := most_of(item, wearer)):
                    continue
                tried += 1
                for share, is_over in ((most, False), (most * D("1.03") + D("0.0001"), True)):
                    found = cautions(Composition.of({"olive_oil": 1 - share, item.key: share}), wearer)
                    stops = [caution.line for caution in found if caution.level is Level.STOP]
                    self.assertEqual(bool(stops), is_over, (item.key, area, share, stops))
                    told = [c.line for c in found if not c.is_fact and c.level is Level.NOTE]
                    self.assertEqual("Scents within their limits" in told[-1:], not is_over)  # what warns stands above
        self.assertGreater(tried, 120)

    def test_what_making_and_wearing_asks_of_others(self) -> None:
        """Dust of every powder, cats, and a herb that adds to the sun's warning."""
        dusty = [item for item in shipped().ingredients.values() if item.is_powder]
        self.assertGreater(len(dusty), 8)
        for item in dusty:
            self.assertIn(("note", "Powders: do not breathe the dust"), self.said({"olive_oil": 99, item.key: 1}))
        self.assertIn(("note", "Not where a cat licks it"), self.said({"olive_oil": 99.5, "tea_tree": 0.5}))
        wort = cautions(
            Composition.of({"st_johns_wort_oil": D("0.999"), "bergamot_expressed": D("0.001")}), Wearer("adult", "body")
        )
        sun = next(caution for caution in wort if caution.line.endswith("keep treated skin out of the sun"))
        self.assertIn("It adds to bergamot (expressed), which", sun.text)

    def test_water_nursing_colour_allergens_and_vegan(self) -> None:
        """Honey brings water; lanolin is kept from the breast; lips get lip colours; labels are told."""
        self.assertIn(("stop", "Honey brings water"), self.said({"olive_oil": 98, "honey": 2}))
        self.assertIn(
            ("stop", "Lanolin while nursing: not for the breast"),
            self.said({"olive_oil": 70, "lanolin": 30}, audience="nursing"),
        )
        colour = {"olive_oil": 98, "ultramarine_blue": 2}
        self.assertIn(("care", "Ultramarine blue: for lips only if its papers say so"), self.said(colour, area="lips"))
        self.assertIn(
            "Ultramarine blue: not permitted on lips in the United States", dict(map(reversed, self.said(colour)))
        )
        wax = cautions(Composition.of({"beeswax_white": 20, "sweet_almond_oil": 80}), Wearer("adult", "body", "usual"))
        self.assertEqual(
            [(c.line, c.text) for c in wax],
            [
                ("Allergens: bee products, tree nuts", "bee products (Beeswax, white); tree nuts (Sweet almond oil)."),
                ("Not vegan: beeswax, white", "It comes from animals."),
            ],
        )
        self.assertEqual(self.said({"candelilla_wax": 12, "olive_oil": 88}), [("note", "Vegan")])
        self.assertIn(("note", "Vegan only if the supplier says so"), self.said({"cetyl_alcohol": 5, "olive_oil": 90}))
        self.assertIn(
            ("care", "Carnauba wax 20.0 %, 15 % is usual at most"), self.said({"carnauba_wax": 20, "olive_oil": 80})
        )

    def test_what_several_oils_hold_adds_up(self) -> None:
        """Lemongrass 0.1 at 85 % and melissa 0.1 at 65 % make 0.15 % of citral: just the most; a little more is over."""
        fine = {"olive_oil": 99.8, "lemongrass": 0.1, "melissa": 0.1}
        self.assertNotIn("stop", dict(self.said(fine)))
        over = cautions(
            Composition.of({"olive_oil": 99.76, "lemongrass": 0.12, "melissa": 0.12}), Wearer("adult", "body", "usual")
        )
        self.assertEqual(over[0].line, "Citral about 0.18 %, 0.15 % is our most")
        self.assertEqual([item.key for item in over[0].about], ["lemongrass", "melissa"])
        self.assertEqual([str(share) for _, share in over[0].remedy], ["0.0010", "0.0010"])

    def test_lips_age_and_pregnancy_of_oils_that_are_no_scent(self) -> None:
        """Neem and arnica are kept from lips, children and pregnancy; a care on lips is told; wintergreen fits adults."""
        herbal = {"beeswax_white": 20, "neem_oil": 3, "arnica_oil": 20, "olive_oil": 57}
        lips = self.said(herbal, area="lips")
        self.assertIn(("stop", "Neem oil: not for lips"), lips)
        self.assertIn(("stop", "Arnica-infused oil: not for lips"), lips)
        self.assertIn(("stop", "Arnica-infused oil: not under 3 years"), self.said(herbal, audience="child_2_6y"))
        self.assertIn(("stop", "Neem oil: not in pregnancy"), self.said(herbal, audience="pregnant"))
        self.assertIn(("care", "St John's wort-infused oil: ask first while nursing"),
                      self.said({"olive_oil": 90, "st_johns_wort_oil": 10}, audience="nursing"))  # fmt: skip
        self.assertIn(
            ("care", "Ylang ylang: with care on lips"), self.said({"olive_oil": 99.9, "ylang_ylang": 0.1}, area="lips")
        )
        self.assertNotIn("stop", dict(self.said({"olive_oil": 99.95, "wintergreen": 0.05})))
        self.assertIn(
            ("stop", "Spearmint: not under 2 years"),
            self.said({"olive_oil": 99.9, "spearmint": 0.1}, audience="baby_3_24m"),
        )
        self.assertIn(
            ("care", "Beetroot powder: not near the eye"),
            self.said({"olive_oil": 98, "beetroot_powder": 2}, area="face"),
        )

    def test_a_caution_offers_the_remedy_that_arithmetic_can_give(self) -> None:
        """Own limits, the total, the sun and water: after the remedy the caution is gone."""
        for parts, area, offer in (
            ({"olive_oil": 98.5, "lavender": 1.5}, "lips", "Bring lavender to 0.5 %"),
            ({"olive_oil": 97, "lavender": 2, "geranium": 1}, "body", "Bring them down to 0.99 % together"),
            (
                {"olive_oil": 99.35, "bergamot_expressed": 0.3, "lime_expressed": 0.35},
                "body",
                "Bring them down to 0.52 % together",
            ),
            ({"olive_oil": 98, "honey": 2}, "body", "Take honey out"),
            ({"olive_oil": 75, "carnauba_wax": 25}, "body", "Bring carnauba wax to 15.0 %"),
        ):
            with self.subTest(offer):
                composition = Composition.of({key: D(str(percent)) / 100 for key, percent in parts.items()})
                first = next(c for c in cautions(composition, Wearer("adult", area, "cautious")) if c.offer == offer)
                mended = set_shares(composition, {item.key: share for item, share in first.remedy}, follow=True)
                self.assertNotIn(first.line, [c.line for c in cautions(mended, Wearer("adult", area, "cautious"))])
                self.assertNotIn(offer, [c.offer for c in cautions(mended, Wearer("adult", area, "cautious"))])

    def test_what_boils_off_and_what_does_not(self) -> None:
        """Spirit is driven off with care; honey and glycerin are left out, and never boiled."""
        for key, told in (("tincture", "electric plate"), ("aloe_gel", "water bath"), ("honey", "does not boil off"),
                          ("glycerin", "does not boil off"), ("food_dye_water", "does not boil off")):  # fmt: skip
            balm = Composition.of({key: D("0.02"), "beeswax_white": D("0.2"), "olive_oil": D("0.78")})
            stop = next(each for each in cautions(balm, Wearer()) if each.line.endswith("brings water"))
            self.assertIn(told, stop.text)
            self.assertEqual("drive" in stop.text, "boil off" not in stop.text, key)
