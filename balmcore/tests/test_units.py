"""What makers type, read or refused in words."""

from datetime import date
from decimal import Decimal as D

from hypothesis import given
from hypothesis import strategies as st

from balmcore import units
from balmcore.composition import percent_text
from balmcore.days import read_day
from balmcore.display import CELSIUS, COMMA, DAY_FIRST, MONTH_FIRST, YEAR_FIRST, Display, mass_words, speak_in
from balmcore.errors import Problem
from balmcore.tests import CoreTestCase


class NumberTests(CoreTestCase):
    def test_numbers_as_people_write_them(self) -> None:
        """Comma or point, vulgar fractions, whole and fraction, full-width digits."""
        for text, value in {
            "12": "12", " 1,5 ": "1.5", "1.5": "1.5", "½": "0.5", "1½": "1.5", "1 1/2": "1.5", "3/4": "0.75",
            "¼": "0.25", ".5": "0.5", "5.": "5", "１２": "12", "-3": "-3", "+2": "2", "−4": "-4", "0": "0",
        }.items():  # fmt: skip
            with self.subTest(text):
                self.assertEqual(units.number(text), D(value))

    def test_what_is_no_number_is_quoted_back(self) -> None:
        """Words, infinities, exponents, other scripts, divisions by nothing, very long strings."""
        for text, said in {
            "abc": "“abc” is not a number", "NaN": "“NaN” is not a number", "inf": "“inf” is not",
            "1e400": "“1e400” is not a number", "٣": "is not a number", "": "A number is missing here.",
            "1/0": "“1/0” divides by nothing.", "1,000": "can be read in two ways", "1.000.000": "two ways",
            "3 4": "looks like two numbers", "9" * 30: "more than any bench holds", "9" * 5000: "999… ".strip(),
            "<b>1</b>": "“<b>1</b>” is not a number", "--1": "is not a number", "0x10": "is not a number",
        }.items():  # fmt: skip
            with self.subTest(text[:20]), self.assertRaises(Problem) as caught:
                units.number(text)
            self.assertIn(said, caught.exception.sentence)
            self.assertLess(len(caught.exception.sentence), 140)

    def test_a_share_lies_between_0_and_100_percent(self) -> None:
        """12 % and 12 are the same; above 100 and below 0 are refused."""
        self.assertEqual(units.share("12 %"), D("0.12"))
        self.assertEqual(units.share("0,125"), D("0.00125"))
        with self.assert_refused("“100.01” is more than the whole"):
            units.share("100.01")
        with self.assert_refused("“-1” is below nothing"):
            units.share("-1")

    def test_counts_are_whole_and_within_reason(self) -> None:
        """0, 2.5 and 10,000 pieces each have their sentence."""
        self.assertEqual(units.count("12", 5000), 12)
        for text, said in {
            "0": "At least one is needed", "2.5": "not a whole number of pieces", "10000": "more than 5000 pieces",
            "10,000": "can be read in two ways", "-1": "At least one is needed",
        }.items():  # fmt: skip
            with self.subTest(text), self.assert_refused(said):
                units.count(text, 5000)


class MeasureTests(CoreTestCase):
    def test_weights_and_volumes_to_grams(self) -> None:
        """Ounces, pounds and kilos; fluid ounces and millilitres by the density of the oil."""
        for text, grams in {
            "12": 12, "12 g": 12, "1,5 kg": 1500, "2 oz": 56.699, "½ lb": 226.796, "10 mL": 9.2, "2 fl oz": 54.415,
            "2 fl. oz": 54.415, "3 FL OZ": 81.623, "1 litre": 920,
        }.items():  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(float(units.mass_g(text, density_g_ml=0.92)), grams, places=3)
        self.assertAlmostEqual(float(units.mass_g("2", unit="oz")), 56.699, places=3)

    def test_cups_and_spoons_of_three_kitchens(self) -> None:
        """A cup of wax pellets is mostly air, and a tablespoon is not the same everywhere."""
        for kitchen, cup, tablespoon in (("us", 236.588, 14.787), ("metric", 250, 15), ("au", 250, 20)):
            with self.subTest(kitchen):
                oil = units.mass_g("1 cup", kitchen=kitchen, density_g_ml=0.92)
                self.assertAlmostEqual(float(oil), cup * 0.92, places=2)
                pellets = units.mass_g("2 tbsp", kitchen=kitchen, density_g_ml=0.96, bulk_density_g_ml=0.56)
                self.assertAlmostEqual(float(pellets), 2 * tablespoon * 0.56, places=2)

    def test_what_begins_like_a_name_of_the_machine_is_refused_as_any_other(self) -> None:
        """A temperature where a weight belongs, and names that only a program knows."""
        for text in ("100 °F", "21 °C", "5 __class__", "5 _g"):
            for read in (units.mass_g, units.volume_ml):
                with self.subTest(text), self.assert_refused("is not a measure used here"):
                    read(text)
        self.assertEqual(units.size("__class__", "metric"), ("", 0.0))

    def test_a_volume_where_a_weight_is_needed_and_the_other_way(self) -> None:
        """Without a density a cup is no weight; an ounce is never a volume; bananas are neither."""
        with self.assert_refused("“1 cup” is a volume: a weight is needed here."):
            units.mass_g("1 cup")
        with self.assert_refused("“2 oz” is a weight: a volume is needed, in mL or fl oz."):
            units.volume_ml("2 oz")
        with self.assert_refused("“bananas” is not a measure used here"):
            units.mass_g("5 bananas")
        self.assertAlmostEqual(units.volume_ml("2 fl oz"), 59.147, places=3)

    def test_temperatures_in_both_scales(self) -> None:
        """The letter wins over the maker's unit; a hot oven is no workshop."""
        self.assertAlmostEqual(units.temp_c("70 °F"), 21.111, places=3)
        self.assertAlmostEqual(units.temp_c("70", "F"), 21.111, places=3)
        self.assertEqual(units.temp_c("21,5 °C", "F"), 21.5)
        self.assertEqual(units.temp_c("-18"), -18)
        for text in ("900", "warm", "21 K"):
            with self.subTest(text), self.assertRaises(Problem):
                units.temp_c(text)


class DisplayTests(CoreTestCase):
    def test_figures_show_the_step_of_the_scale(self) -> None:
        """0.1 g shows one decimal, 5 g none, 0.05 oz two; degrees never read -0."""
        self.assertEqual(Display().mass_text(12.34), "12.3 g")
        self.assertEqual(Display(resolution_g=5).mass_text(12.34), "12 g")
        self.assertEqual(Display(resolution_g=0.01).mass_text(1), "1.00 g")
        self.assertEqual(Display("oz", "F", 0.05 * 28.349523125).mass_text(28.349523125), "1.00 oz")
        self.assertEqual(Display().temp_text(-0.2), "0 °C")
        self.assertEqual(Display(temp="F").temp_text(40), "104 °F")

    def test_how_a_maker_reads_prices_steps_and_weights(self) -> None:
        """A price is for 100 g or an ounce; a step as short as it is exact; decimals that show every step, four at
        most; what is less than a step is never nothing."""
        grams, ounces = Display(), Display("oz", resolution_g=0.05 * 28.349523125)
        self.assertEqual((grams.price_mass, float(grams.price_grams)), ("100 g", 100))
        self.assertEqual((ounces.price_mass, float(ounces.price_grams)), ("1 oz", 28.349523125))
        for show, step, said in ((grams, 0.1, "0.1 g"), (grams, 0.001, "0.001 g"), (grams, 5, "5 g"),
                                 (ounces, 0.05 * 28.349523125, "0.05 oz"), (ounces, 0.005 * 28.349523125, "0.005 oz"),
                                 (Display(mark=COMMA), 0.25, "0,25 g")):  # fmt: skip
            self.assertEqual(show.step_text(step), said)
        for step, places in ((1, 0), (0.5, 1), (0.25, 2), (0.3, 1), (2, 0), (0.001, 3), (0.0003, 4), (1 / 3, 4)):
            self.assertEqual(Display(resolution_g=step).mass_places, places, step)
        self.assertEqual([grams.mass_words(g) for g in (500, 0.04, 12.30, 0)], ["500 g", "0.04 g", "12.3 g", "0 g"])
        self.assertEqual(ounces.mass_words(28.349523125), "1 oz")
        self.assertEqual(
            (grams.figure(1234567), grams.figure(0.1 + 0.2), grams.figure(-0.5, 0)), ("1.23457e+06", "0.3", "-0")
        )

    @given(st.dates(date(2000, 1, 1), date(2099, 12, 31)), st.sampled_from((DAY_FIRST, MONTH_FIRST, YEAR_FIRST)))
    def test_a_day_that_is_written_is_read_again(self, day: date, order: str) -> None:
        """In words, short and in figures, by whatever order its writer keeps."""
        show = Display(dates=order)
        for text in (show.day(day), show.short_day(day), show.day_field(day), day.isoformat()):
            self.assertEqual(read_day(text, order), day)

    def test_what_is_no_day(self) -> None:
        """Nothing is none; a word, a 31st of June and two parts are refused with an example in the own order; what
        fits only the other way round is taken so."""
        self.assertIsNone(read_day("  "))
        self.assertEqual(read_day("5/31/2026", DAY_FIRST), date(2026, 5, 31))
        self.assertEqual([read_day(text, YEAR_FIRST) for text in ("26-05-31", "2026 May 31")], [date(2026, 5, 31)] * 2)
        self.assertEqual(read_day("12/12/99"), date(2099, 12, 12))
        for text in ("13/13/2026", "soon", "31/6/2026", "5/2026", "1/2/3/4", "31 Ma 2026", "0/0/0"):
            with (
                self.subTest(text),
                self.assert_refused(f"“{text}” is no day: write it like 31/05/2026 or 31 May 2026."),
            ):
                read_day(text)

    def test_numbers_by_their_writer_s_mark(self) -> None:
        """Where commas mark decimals, 12,345 is twelve; what could be thousands is refused in either writing."""
        with self.assert_refused("“12,345” can be read in two ways"):
            units.number("12,345")
        speak_in(Display(mark=COMMA))
        self.addCleanup(speak_in, CELSIUS)
        self.assertEqual(str(units.number("12,345")), "12.345")
        self.assertEqual((mass_words(1234.56), percent_text(D("0.125"))), ("1234,6 g", "12,5"))
        for text in ("12.345", "1.234,5"):
            with self.assert_refused("can be read in two ways"):
                units.number(text)
