"""Cautions: who wears it, where, by which policy; limits, what several oils share, and what ends a caution."""

from decimal import Decimal as D
from itertools import combinations

from balmcore.advice.caution import Level
from balmcore.advice.safety import Wearer, cautions, most_of, most_scent
from balmcore.advice.wearers import AREAS, AUDIENCES
from balmcore.composition import Composition, set_shares
from balmcore.labels.declaration import declare
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
        self.assertIn("Use less of them", found[0].text)
        self.assertNotIn("stop", dict(self.said({"olive_oil": 99.7, "bergamot_expressed": 0.3})))

    def test_every_scent_for_every_wearer_and_place(self) -> None:
        """Every aromatic × audience × place, a trace of it in oil: under two years only the mild ones, none around the
        eyes, tea tree under six; pregnancy and nursing by the strictest answer of the oil and the substances that it is
        known for; scented and nursing keeps it off the breast; what is always said of wearer and place is said."""
        mild, tried = {"lavender", "chamomile_roman", "chamomile_german", "mandarin"}, 0
        answers = {"pregnant": ("pregnancy", "in pregnancy"), "nursing": ("nursing", "while nursing")}
        for item in shipped().ingredients.values():
            oil = item.aromatic
            if oil is None:
                continue
            trace = Composition.of({"olive_oil": D("0.9999"), item.key: D("0.0001")})
            known_for = [each for each in shipped().substances.values() if each.share_in(item) >= 0.1]
            for audience, (_, years) in AUDIENCES.items():
                for area in AREAS:
                    wearer, where = Wearer(audience, area, "usual"), (item.key, audience, area)
                    found = cautions(trace, wearer)
                    stops = [each.line for each in found if each.level is Level.STOP]
                    if area == "eyes" or audience == "newborn_0_3m":
                        self.assertIn(f"No scent at all {wearer.words}", stops, where)
                    if years < 2:
                        self.assertEqual(f"{item.name}: not under 2 years" in stops or bool(oil.avoid_under_years),
                                         item.key not in mild, where)  # fmt: skip
                    if oil.avoid_under_years and years < oil.avoid_under_years:
                        self.assertTrue(any(f"{item.name}: not under" in line for line in stops), where)
                    said = " ".join(f"{each.line}. {each.text}" for each in found).lower()
                    for sentence in wearer.note.lower().rstrip(".").split(". "):
                        self.assertIn(sentence, said, where)
                    lines = [each.line for each in found]
                    self.assertEqual("Scented: not on the breast" in lines, audience == "nursing", where)
                    for asked, (of_substance, when) in answers.items():
                        columns = {getattr(oil, f"{of_substance}_caution")}
                        columns |= {getattr(each, of_substance) for each in known_for}
                        strictest = "never" if "never" in columns else "yes" if "yes" in columns else "no"
                        here = audience == asked
                        self.assertEqual(f"{item.name}: not {when}" in stops, here and strictest == "never", where)
                        said = f"{item.name}: ask first {when}" in lines
                        self.assertEqual(said, here and strictest == "yes", where)
                    tried += 1
        self.assertGreater(tried, 5000)
        self.assertIn(
            ("stop", "Tea tree: not under 6 years"), self.said({"olive_oil": 99.9, "tea_tree": 0.1}, "child_2_6y")
        )
        self.assertIn(
            ("stop", "Tea tree 0.3 %, 0.1 % is its own most on the face"),
            self.said({"olive_oil": 99.7, "tea_tree": 0.3}, area="face", school="usual"),
        )

    def test_a_shared_substance_adds_up_everywhere(self) -> None:
        """Every pair of oils that share a substance × place: two thirds of what is allowed of each, together, is over;
        a quarter of each is not. Methyleugenol is told from the European figure on."""
        pairs = 0
        for substance in shipped().substances.values():
            for (one, part), (other, share) in combinations(substance.content, 2):
                for area in AREAS:
                    limit = substance.limit_on(area)
                    for factor, is_over in ((2 / 3, True), (0.25, False)):
                        shares = {one: D(str(limit * factor / part)), other: D(str(limit * factor / share))}
                        balm = Composition.of({"olive_oil": max(D(0), 1 - sum(shares.values())), **shares})
                        balm = Composition.of(shares) if sum(shares.values()) > 1 else balm
                        if balm.total > 1 or sum(shares.values()) > 1:
                            continue
                        lines = [each.line for each in cautions(balm, Wearer("adult", area, "usual"))
                                 if each.level is Level.STOP and each.line.startswith(f"{substance.name} about")]  # fmt: skip
                        self.assertEqual(bool(lines), is_over, (one, other, area))
                        pairs += 1
        self.assertGreater(pairs, 300)
        for percent, level in ((0.02, "care"), (0.6, "stop"), (0.009, "")):
            said = self.said({"olive_oil": 100 - percent, "rose_otto": percent}, school="usual")
            self.assertEqual([one for one, line in said if "Methyleugenol" in line], [level] if level else [])
        both = self.said({"olive_oil": 99.92, "wintergreen": 0.04, "birch_sweet": 0.04})
        self.assertIn(("stop", "Methyl salicylate about 0.078 %, 0.06 % is our most on the body"), both)

    def test_lanolin_is_kept_from_the_breast(self) -> None:
        """Of everything of its family, and of the nursing alone."""
        for item in (each for each in shipped().ingredients.values() if each.group == "lanolin"):
            for audience in AUDIENCES:
                said = [line for _, line in self.said({"olive_oil": 90, item.key: 10}, audience)]
                self.assertEqual("Lanolin while nursing: not for the breast" in said, audience == "nursing")

    def test_castor_oil_separates_from_hydrocarbons(self) -> None:
        """Above 15 % beside more than 10 % of petrolatum, mineral oil or polyisobutene."""
        for other in ("petrolatum", "mineral_oil", "hydrogenated_polyisobutene"):
            for castor, much, separates in ((20, 15, True), (14, 15, False), (20, 9, False)):
                said = [
                    line for _, line in self.said({"castor_oil": castor, other: much, "olive_oil": 100 - castor - much})
                ]
                self.assertEqual(any("the balm separates" in line for line in said), separates, (other, castor, much))

    def test_what_only_papers_can_say_is_open(self) -> None:
        """A perfume's allergens and a mica's colours, on a formula and on a label."""
        for key, words in (("fragrance_oil", "its allergens"), ("mica_coloured", "the exact list of its colours")):
            composition = Composition.of({"olive_oil": D("0.999"), key: D("0.001")})
            found = next(each for each in cautions(composition, Wearer("adult", "body", "usual")) if each.is_open)
            self.assertIn(words, found.line)
            self.assertIn(words, " ".join(declare(composition).doubts))

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
                    and "not under" not in c.line and not c.is_open
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
        self.assertEqual(over[0].line, "Citral about 0.18 %, 0.15 % is our most on the body")
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
        """Spirit evaporates away from all that lights it; honey and glycerin are left out, and never boiled."""
        for key, told in (("tincture", "let its spirit evaporate"), ("aloe_gel", "water bath"), ("honey", "does not boil off"),
                          ("glycerin", "does not boil off"), ("food_dye_water", "does not boil off")):  # fmt: skip
            balm = Composition.of({key: D("0.02"), "beeswax_white": D("0.2"), "olive_oil": D("0.78")})
            stop = next(each for each in cautions(balm, Wearer()) if each.line.endswith("brings water"))
            self.assertIn(told, stop.text)
            self.assertEqual("until" in stop.text or "evaporate" in stop.text, "boil off" not in stop.text, key)
