"""The method's steps and figures."""

from dataclasses import replace
from decimal import Decimal as D
from itertools import pairwise

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.composition import Composition, Line, mixture
from balmcore.display import CELSIUS, COMMA, Display, speak_in
from balmcore.errors import Problem
from balmcore.making.bench.steps import BenchLine, bench_steps
from balmcore.making.method import method_for, usual_setup
from balmcore.making.method.temperatures import add_at, melt_to
from balmcore.making.pot import MELTED, STAGES, coldest_c, heat_limit, part_of, pour_temperature
from balmcore.making.scaling import Filling, scale
from balmcore.making.schedule import uses
from balmcore.making.steps import Handling, Method, Pace, Setup, Step, Vessels
from balmcore.physics.firmness import predict
from balmcore.physics.thermal import crowded, places
from balmcore.tables import shipped
from balmcore.tests import CoreTestCase

SCENTED = Composition.of(
    {"beeswax_yellow": 17, "shea_butter_refined": 23, "sunflower_oil_ho": 59, "vitamin_e_oil": 0.5, "lavender": 0.5}
)


def setup(composition: Composition = SCENTED, kind: str = "hand_balm", cooling: str = "rest_then_cold", room: float = 20,
          **counts: int) -> Setup:  # fmt: skip
    """A setup for so many of some containers, four 60 mL tins where nothing is said."""
    known, chosen = shipped().containers, shipped().kinds[kind]
    counts = counts or {"tin_screw_60": 4}
    fillings = tuple(Filling(key, known[key].capacity_ml, known[key].fill, n) for key, n in counts.items())
    pour_c = pour_temperature(composition)
    scaled = scale(composition, fillings, pour_c, D("0.1"), D(3), chosen.overrun)
    containers_by_key = {key: known[key] for key in counts}
    jug = known["jug_pouring_500"]
    vessels = Vessels(fillings, containers_by_key, jug)
    return Setup(composition, chosen, float(scaled.total_g), vessels, Handling(pour_c, chosen.overrun, room, cooling))


def step(found: Method, key: str) -> Step:
    """The step of that key."""
    return next(step for step in found.steps if step.key == key)


class MethodTests(CoreTestCase):
    def test_a_scented_balm_from_wiping_the_bench_to_the_rest(self) -> None:
        """Order, temperatures from the model, one temperature after the other without a jump."""
        made = setup()
        found = method_for(made)
        self.assertEqual(
            [step.key for step in found.steps],
            ["prepare", "weigh", "melt", "clear", "cool", "add", "pour", "cool_counter_0", "top_up",
             "cool_refrigerator_1", "cool_counter_2", "finish", "rest"],
        )  # fmt: skip
        melt = step(found, "melt")
        self.assertEqual(
            [(into.name, into.needs, into.limit) for into in melt.into],
            [
                ("Beeswax, yellow", "alone molten at 63 °C", "never above 85 °C"),
                ("Shea butter, refined", "alone molten at 38 °C", "never above 75 °C"),
                ("Sunflower oil, high oleic", "liquid already", "never above 80 °C"),
            ],
        )
        self.assertIn(
            "Hot wax burns skin. If wax catches fire, turn off the heat and cover it with a lid. Never use water.",
            melt.caution,
        )
        set_c = made.prediction.set_c
        clear_c = predict(part_of(SCENTED, made.items(*MELTED))).clear_c  # of what is in the pot by then
        # Shea forgets its crystals 20 K above clear, and stands 75 degrees. It is poured 8 K above where it sets.
        self.assertAlmostEqual(melt_to(made), clear_c + 20)
        self.assertIn(f"Keep it at {clear_c + 20:.0f} °C for 15 minutes", step(found, "clear").text)
        self.assertAlmostEqual(add_at(made), set_c + 8)
        add = step(found, "add")
        # It loses 2 K while two things are stirred in, and is poured at 59.
        self.assertIn("At 61 °C stir in vitamin E (tocopherol) and lavender", add.text)
        aims = [(s.key, s.aim, round(s.aim_c)) for s in found.steps if s.aim]
        self.assertEqual(
            aims,
            [("melt", "melt to", 72), ("clear", "hold at", 72), ("cool", "cool to", 61), ("add", "stir in at", 61),
             ("pour", "pour at", 59), ("cool_counter_0", "skin at", 51), ("top_up", "top up at", 59),
             ("cool_refrigerator_1", "firm at", 23), ("cool_counter_2", "down to", 22)],
        )  # fmt: skip
        self.assertIn(f"This melt sets at {set_c:.0f} °C, so the scent goes in warmer than it likes", add.caution)
        ends = [(s.temps_c[0], s.temps_c[-1]) for s in found.steps if s.temps_c.size][:-1]
        for (_, before), (after, _) in pairwise(ends[:5]):
            self.assertAlmostEqual(before, after, delta=0.2)
        top = step(found, "top_up")
        self.assertIn("dips, by up to 1.9 mL in the largest piece. Warm the rest to 59 °C", top.text)
        speak_in(Display(mark=COMMA))  # the same setup, for whoever writes so
        self.addCleanup(speak_in, CELSIUS)
        self.assertIn("dips, by up to 1,9 mL", step(method_for(made), "top_up").text)
        self.assertIn("about 6.6 g in all stay warm on the bath to top up with", step(found, "pour").text)
        self.assertTrue(top.hands)
        self.assertAlmostEqual(found.length, sum(step.length for step in found.steps))
        self.assertLess(found.hands_on, found.length)

    def test_a_window_too_short_says_after_how_many_to_warm_again(self) -> None:
        """100 tubes take 25 minutes; the pitcher sets before; the stove is needed meanwhile."""
        pour = step(method_for(setup(lip_tube_4_5g=100)), "pour")
        self.assertRegex(pour.text, r"100 pieces take about 25 minutes; the pitcher sets in 14 minutes: "
                         r"warm it again after every \d+ pieces\. Pour each a little short: about 14\.\d g")  # fmt: skip
        self.assertEqual(pour.at, "stove")
        self.assertIn("stays pourable for", step(method_for(setup(tin_screw_60=2)), "pour").text)

    def test_water_first_powders_last_and_a_flash_point_told(self) -> None:
        """Tincture is driven off before the wax; frankincense flashes at 35 °C."""
        wet = Composition.of({"beeswax_yellow": 15, "olive_oil": 78, "tincture": 3, "arrowroot": 3, "frankincense": 1})
        found = method_for(setup(wet, room=27))
        keys = [step.key for step in found.steps]
        self.assertEqual(keys[1:9], ["weigh_wet", "water_off", "weigh", "melt", "clear", "powders", "cool", "add"])
        made = setup(wet, room=27)
        # Of 3 % tincture 97 % boil away: 2.91 g of a hundred, weighed in on top of what the tins and the jug take.
        self.assertAlmostEqual(made.total_g - made.left_g, 0.0291 * made.total_g)
        self.assertAlmostEqual(made.left_g, sum(p.net_g * p.count for p in made.pieces) + 3, delta=0.1)
        self.assertIn("Weigh the pot again: it should be 6.1 g lighter.", step(found, "water_off").text)
        self.assertIn("herbal tincture and olive oil into a small pot of their own", step(found, "weigh_wet").text)
        dry = Composition.of({"beeswax_yellow": 15, "olive_oil": 78, "tincture": 0.09, "arrowroot": 3,
                              "frankincense": 1})  # fmt: skip
        self.assertAlmostEqual(made.prediction.firmness_at(21), predict(dry).firmness_at(21))
        self.assertIn("needs a preservative system that Calm Tin does not design", step(found, "water_off").caution)
        self.assertIn("is above the flash point of frankincense (35 °C)", step(found, "add").caution)
        self.assertIn("In this warm room it sets slowly", step(found, "prepare").text)

    def test_whipping_waits_for_the_dent_and_cold_whipping_refuses_wax(self) -> None:
        """Chilled in the refrigerator with its window; never-melted butter has no stove at all, its powder
        comes by half spoons."""
        start = Composition.of(dict(shipped().kinds["whipped_butter"].start))
        found = method_for(setup(start, "whipped_butter", jar_glass_100=4))
        chill = step(found, "chill")
        self.assertEqual(chill.at, "refrigerator")
        self.assertRegex(chill.text, r"about 5\d minutes, to 19 °C; scrape down")
        self.assertEqual(chill.text.count("minutes"), 1)
        self.assertIn("into crumbs: from 1", chill.reason)
        self.assertIn("has taken 100 % more room.", step(found, "whip").text)
        self.assertIn("Arrowroot powder by half spoons", step(found, "powders").text)
        cold = method_for(setup(start, "whipped_butter", "cold_whip", jar_glass_100=4))
        self.assertNotIn("stove", {use.what for use in uses(cold)})
        self.assertEqual([s.key for s in cold.steps[2:5]], ["whip", "powders", "add"])
        self.assertEqual({key for s in cold.steps for key in s.adds}, set(start.keys))
        with self.assert_refused("Honey brings water, which nothing drives off cold"):
            method_for(setup(Composition.of({"shea_butter": 98, "honey": 2}), "whipped_butter", "cold_whip"))
        with self.assert_refused("Beeswax, yellow has to be melted"):
            method_for(setup(cooling="cold_whip"))
        soft = method_for(
            setup(Composition.of({"olive_oil": 90, "shea_butter": 10}), "whipped_butter", jar_glass_100=1)
        )
        self.assertIn("It stays too soft to dent even in a refrigerator", step(soft, "chill").text)

    def test_a_wax_that_needs_more_heat_than_a_butter_bears_is_told(self) -> None:
        """Much carnauba is clear above the 75 °C that shea stands: it goes in off the heat, last, and by how much even
        that is too hot is said wherever it is hot."""
        found = method_for(setup(Composition.of({"carnauba_wax": 40, "kokum_butter": 50, "shea_butter_refined": 10})))
        self.assertNotIn("shea_butter_refined", step(found, "melt").adds)
        late = step(found, "delicate")
        self.assertEqual((late.adds, late.too_hot), (("shea_butter_refined",), ("shea_butter_refined",)))
        hotter = round(late.aim_c - 75)
        self.assertIn(f"Shea butter, refined suffers above 75 °C, and this is {hotter} °C hotter. Colder, the melt "
                      "would set.", late.caution)  # fmt: skip
        self.assertIn(f"this is {round(step(found, 'pour').aim_c - 75)} °C hotter", step(found, "pour").caution)

    def test_a_delicate_oil_goes_in_last_at_what_it_stands(self) -> None:
        """Cranberry seed oil stands 45 °C and the balm is clear from 41: off the heat, at 45; poured at 43 and no
        hotter; its glass is warmed, or it would set the melt; the drop is tested when it is in."""
        soft = Composition.of({"beeswax_yellow": 4, "shea_butter": 60, "olive_oil": 21, "cranberry_seed_oil": 14.5,
                               "vitamin_e_oil": 0.5})  # fmt: skip
        made = setup(soft, "body_butter")
        found = method_for(made)
        late = step(found, "delicate")
        self.assertEqual((late.adds, round(late.aim_c), late.too_hot), (("cranberry_seed_oil",), 45, ()))
        self.assertIn("warm cranberry seed oil to 45 °C in a glass of its own, and stir it in slowly", late.text)
        self.assertEqual(round(step(found, "pour").aim_c), 43)
        self.assertEqual((round(step(found, "add").aim_c), step(found, "add").too_hot), (45, ()))
        self.assertIn("cranberry seed oil and vitamin E (tocopherol) into small glasses", step(found, "weigh").text)
        lines = [BenchLine(item.key, item, D(10)) for item in made.items(*STAGES)]
        keys = [each.key for each in bench_steps(made, found, lines)]
        self.assertEqual(keys[keys.index("delicate") + 1], "test")
        self.assertLess(keys.index("weigh:olive_oil"), keys.index("weigh:cranberry_seed_oil"))
        cold = step(method_for(made.handled(pour_c=34.0)), "pour")
        self.assertRegex(cold.caution, r"clear only from 42 °C, \d °C above this: poured so cold it comes in lumps")

    @settings(max_examples=60, deadline=None)
    @given(st.dictionaries(st.sampled_from(sorted(shipped().ingredients)), st.floats(0.5, 60), min_size=1, max_size=6),
           st.sampled_from([15.0, 200.0, 900.0]), st.sampled_from([15.0, 21.0, 28.0]))  # fmt: skip
    def test_no_step_is_impossible(self, parts: dict[str, float], grams: float, room: float) -> None:
        """Of anything: no step is colder than what is in the pot is clear, all that does not stand one is named with it
        and only that, and nothing is hotter than need be where something suffers; all that is weighed goes in."""
        made = usual_setup(Composition.of(parts), shipped().kinds["pot_salve"], grams, shipped().containers, room)
        keys = [each.key for each in method_for(made).steps]
        self.assertEqual(len(keys), len(set(keys)))
        pot, named = set[str](), {item.key: item.name.lower() for item in made.composition.ingredients}
        for each in method_for(made).steps:
            pot |= set(each.adds)
            there = part_of(made.left, [item for item in made.left.ingredients if item.key in pot])
            if not (each.aim and each.asks and there.total):
                continue
            if each.key != "water_off" and (clear := predict(there).clear_c) is not None:
                self.assertGreaterEqual(each.aim_c, clear - 0.01, each.key)
            limits = {item.key: heat_limit(item) for item in there.ingredients}
            suffers = {key for key, most in limits.items() if most is not None and each.aim_c >= most + 0.5}
            self.assertEqual(suffers, set(each.too_hot), each.key)
            for key in suffers:
                self.assertIn(f"{named[key]} suffers above", each.caution.lower())
            if suffers:
                self.assertLess(each.aim_c, max(coldest_c(there), coldest_c(made.left)) + 4.5, each.key)
        self.assertEqual(pot, {line.key for line in made.composition.lines})

    def test_the_leftover_of_a_shea_melt_is_held_as_shea_is(self) -> None:
        """Its vitamin E was in the heat before, and does not keep it from being held 20 K above clear."""
        shea = Composition.of({"shea_butter_refined": 70, "sunflower_oil_ho": 29, "vitamin_e_oil": 1})
        rest = Composition((Line(mixture("rest", "Rest of a melt", shea), D(1)),))
        fresh, again = (step(method_for(setup(each, "body_butter")), "clear") for each in (shea, rest))
        self.assertEqual((again.length, fresh.length), (15, 15))
        self.assertAlmostEqual(again.aim_c, fresh.aim_c, delta=0.3)

    def test_ways_of_heating_have_a_course_and_cautions_each_and_a_flame_is_none(self) -> None:
        """A cooker is slower than a bath, bursts are quicker than either; wax and what bears water never go into a
        microwave; the pace of one is not that of another."""
        soft = Composition.of({"shea_butter_refined": 70, "olive_oil": 30})
        lengths = {}
        for key, text, caution in (
            ("bath", "Water bath at 78 °C, low heat; in this order", ""),
            ("thermostat", "Cooker or melter on low, at 75 °C", "A thermostat can fail and cook on"),
            ("microwave", "Microwave at half power, twenty seconds at a time", "A microwave heats in spots"),
        ):
            melt = step(method_for(setup(soft).handled(heating=key)), "melt")
            self.assertIn(text, melt.text)
            self.assertIn(caution, melt.caution)
            self.assertIn("Never use water.", melt.caution)
            self.assertAlmostEqual(melt.ends_c, melt.aim_c, delta=0.6)
            lengths[key] = melt.length
        self.assertLess(lengths["microwave"], lengths["bath"])
        self.assertLess(lengths["bath"], lengths["thermostat"])
        # 240 g from 20 to 57 °C take 27 kJ; of 250 W twenty seconds in sixty that is five and a half minutes.
        self.assertAlmostEqual(lengths["microwave"], 5.5, delta=1.0)
        slow = replace(setup(soft), pace=Pace(heating={"thermostat": 2.0}))
        for key, times in (("bath", 1), ("thermostat", 2)):
            melt = step(method_for(slow.handled(heating=key)), "melt")
            self.assertAlmostEqual(melt.length, lengths[key] * times, places=6)
        for composition, key, said in (
            (SCENTED, "microwave", "Beeswax, yellow takes up little in a microwave and hides spots"),
            (
                Composition.of({"shea_butter_refined": 70, "olive_oil": 27, "tincture": 3}),
                "microwave",
                "boil up and burn",
            ),
            (SCENTED, "direct", "burns like oil. Use a water bath"),
            (SCENTED, "kettle", "Choose how it is heated."),
        ):
            with self.assert_refused(said):
                method_for(setup(composition).handled(heating=key))

    def test_each_whipper_has_its_minutes_and_its_word(self) -> None:
        soft = Composition.of({"shea_butter_refined": 70, "coconut_oil": 15, "olive_oil": 15})
        for key, minutes, said in (("hand", 15, "Hand mixer. Start slow"), ("stand", 12, "Stand mixer. Whisk"),
                                   ("stick", 6, "Stick blender. In short runs")):  # fmt: skip
            whip = step(method_for(setup(soft, "whipped_butter").handled(whipper=key)), "whip")
            self.assertEqual(whip.length, minutes)
            self.assertIn(said, whip.text)
        with self.assert_refused("Choose what whips it."):
            method_for(setup(soft, "whipped_butter").handled(whipper="spoon"))

    def test_three_schools_of_melting(self) -> None:
        """Held by default; merely clear grains half as much again; with seeds it is poured where they are left, and
        waxes cannot."""
        butter = Composition.of({"shea_butter_refined": 70, "coconut_oil_refined": 5, "sunflower_oil_ho": 25})
        plain = setup(butter, "body_butter")
        held, clear = (method_for(plain.handled(melting=way)) for way in ("held", "clear"))
        assert held.cooled and clear.cooled
        self.assertAlmostEqual(clear.cooled.grain.score, 1.5 * held.cooled.grain.score)
        self.assertEqual((step(held, "clear").length, step(clear, "clear").length), (15, 3))
        with self.assertRaises(Problem) as refused:
            method_for(plain.handled(melting="seeded"))
        self.assertRegex(refused.exception.sentence, r"Its last lumps melt at 3\d °C, and poured hotter")
        seeded = method_for(plain.handled(melting="seeded", pour_c=33))
        self.assertRegex(step(seeded, "seeds").text, r"lumps the size of a lentil are left, at about 3[3-5] °C")
        self.assertNotIn("clear", [each.key for each in seeded.steps])
        with self.assertRaisesRegex(Problem, "Beeswax, yellow has to melt through"):
            method_for(setup().handled(melting="seeded"))
        with self.assertRaisesRegex(Problem, "Choose how far it is melted"):
            method_for(plain.handled(melting="boiled"))

    def test_what_differs_in_anything_has_a_method_of_its_own(self) -> None:
        """The same setup has the very same one; another vessel under its key, and a slower bench, have their own."""
        tins = setup()
        self.assertIs(method_for(tins), method_for(setup()))
        jars = replace(
            tins,
            vessels=replace(tins.vessels, containers_by_key={"tin_screw_60": shipped().containers["jar_glass_100"]}),
        )
        self.assertIn("Stand glass jars", step(method_for(jars), "prepare").text)
        slow = replace(tins, pace=Pace({tins.vessels.containers_by_key["tin_screw_60"].kind: 90}))
        self.assertAlmostEqual(step(method_for(slow), "pour").length, 6)
        self.assertNotEqual(step(method_for(tins), "pour").length, 6)

    def test_what_a_method_says_and_counts(self) -> None:
        """Glass jars stand warm, old butters are smelled; minutes in all and at the hands; moulds are emptied."""
        jars = method_for(setup(jar_glass_100=4))
        self.assertIn("Stand glass jars somewhere warm", step(jars, "prepare").text)
        self.assertIn("Smell the butters: what smells of crayons or old nuts is rancid and stays out.",
                      step(jars, "prepare").text)  # fmt: skip
        # Six tubes lose 8 K while one thing is stirred in: it goes in warmer, and the melt is warmer yet.
        tubes = method_for(setup(Composition.of({"beeswax_yellow": 25, "olive_oil": 74.5, "peppermint": 0.5}),
                                 "lip_balm_tube", lip_tube_4_5g=6))  # fmt: skip
        aims = [step(tubes, key).aim_c for key in ("melt", "add", "pour")]
        self.assertAlmostEqual(aims[0] - aims[1], 5)
        self.assertAlmostEqual(aims[1] - aims[2], 8.1, places=1)
        waxy = method_for(setup(Composition.of({"beeswax_yellow": 20, "olive_oil": 80}), room=15))
        self.assertNotIn("butters", step(waxy, "prepare").text)
        self.assertNotIn("glass", step(waxy, "prepare").text)
        self.assertIn("In this cold room it sets fast", step(waxy, "prepare").text)
        self.assertEqual((step(jars, "prepare").length, step(jars, "weigh").length), (15, 7))
        self.assertAlmostEqual(jars.hands_on, sum(s.length for s in jars.steps if s.hands))
        self.assertAlmostEqual(jars.length - jars.hands_on, sum(s.length for s in jars.steps if not s.hands))
        pour, finish = step(jars, "pour"), step(jars, "finish")
        self.assertAlmostEqual(pour.length, 40 / 60)
        self.assertEqual((finish.title, finish.length), ("Cap and label", 4.0))
        tubes = step(method_for(setup(lip_tube_4_5g=100)), "pour")
        window = method_for(setup(lip_tube_4_5g=100)).window_min
        self.assertAlmostEqual(tubes.length, 25 + 4 * int(25 / window))
        self.assertIn(f"warm it again after every {int(100 * window / 25)} pieces", tubes.text)

    def test_more_than_a_pitcher_is_made_in_rounds(self) -> None:
        """2.4 kg from a jug of 540 mL: every round fits, the grams of all rounds are the whole, each has its own steps
        and none is skipped; 53 g to 20 kg of anything has a method, the longer the more it is."""
        large = setup(tin_screw_60=48)
        self.assertEqual(large.rounds, 7)
        self.assertLess(large.one_round.left_g / large.prediction.density_g_ml, 540 * 0.75 + 1e-9)
        self.assertAlmostEqual(7 * large.one_round.total_g, large.total_g)
        found = method_for(large)
        keys = [each.key for each in found.steps]
        self.assertEqual(len(set(keys)), len(keys))
        for key in ("melt", "clear", "cool", "add", "pour"):
            self.assertEqual([k for k in keys if k.split("~")[0] == key], [*(f"{key}~{n}" for n in range(1, 7)), key])
        self.assertEqual(step(found, "melt~3").title, "Melt, pitcher 3 of 7")
        self.assertIn(f"{large.total_g / 7:.1f} g in this pitcher. ", step(found, "melt~3").text)
        self.assertRegex(
            step(found, "weigh").text,
            r"In 7 pitchers, one after another, \d+\.\d g in each. Into each: 5\d\.\d g beeswax",
        )
        self.assertIn("About 7 pieces take", step(found, "pour~1").text)
        self.assertIn("top them up then, while the next melts", step(found, "pour~1").text)
        self.assertNotIn("while the next melts", step(found, "pour").text)
        steps = bench_steps(large, found, [BenchLine("beeswax_yellow", shipped().ingredient("beeswax_yellow"), D(399))])
        self.assertEqual([each.task for each in steps if each.key.startswith("pour")], ["do"] * 6 + ["fill"])
        self.assertEqual(sum(each.task == "test" for each in steps), 1)
        self.assertIn("57.0 g into each of 7 pitchers.", steps[1].text)
        tables, before = shipped(), 0.0
        for grams in (53, 500, 2000, 8000, 20_000):
            for kind in tables.kinds.values():
                made = usual_setup(Composition.of(dict(kind.start)), kind, grams, tables.containers, 20)
                self.assertEqual(method_for(made).steps[-1].key, "rest")
            length = method_for(usual_setup(SCENTED, tables.kinds["hand_balm"], grams, tables.containers, 20)).hands_on
            self.assertGreater(length, before)
            before = length

    def test_a_full_refrigerator_takes_longer(self) -> None:
        """It carries off 90 W: a dozen tins are as quick as one, 150 share them; the counter has room for all."""
        few, many = (method_for(setup(cooling="cold", tin_screw_60=n)).cooled for n in (12, 150))
        one = setup(tin_screw_60=1)
        assert few is not None and many is not None
        fridge = places(20)["refrigerator"]
        self.assertEqual(crowded(fridge, one.largest_body, 12), fridge)
        shared = crowded(fridge, one.largest_body, 150)
        self.assertAlmostEqual(shared.h_w_m2_k * 150 * one.largest_body.area_m2 * 30, 90)
        self.assertGreater(many.firm_min, 2 * few.firm_min)
        self.assertEqual(crowded(places(20)["counter"], one.largest_body, 150), places(20)["counter"])
