"""A slip of the hand is asked about before a weight is written; an honest weight is not."""

from decimal import Decimal as D

from hypothesis import given, settings
from hypothesis import strategies as st

from balmcore.display import OUNCE_G, Display
from balmcore.making.weighing import LEAST, MOST, WeightQuestion, weight_question
from balmcore.tests import CoreTestCase
from balmcore.units import mass_g

STEP = {"g": D("0.1"), "oz": D("0.01")}
PLENTY = D(10**9)
UNITS = st.sampled_from(["g", "oz"])
TARGETS = st.decimals(D(2), D(900), places=2)  # in the maker's unit


def asked(typed: str, wanted: D, unit: str, available_g: D | None = PLENTY) -> WeightQuestion | None:
    """The question about a text, of so much that is wanted in the maker's unit."""
    per = D(1) if unit == "g" else D(str(OUNCE_G))
    return weight_question(typed, mass_g(typed, unit), wanted * per, STEP[unit] * per, available_g, Display(unit))


class WeighingTests(CoreTestCase):
    @settings(max_examples=300, deadline=None)
    @given(TARGETS, UNITS)
    def test_every_slip_of_unit_or_ten_is_asked_with_the_weight_that_was_meant(self, target: D, unit: str) -> None:
        """Every target × the other unit, ten times, a tenth."""
        meant_g = target * (1 if unit == "g" else D(str(OUNCE_G)))
        for typed in (f"{target} {'oz' if unit == 'g' else 'g'}", f"{target * 10}", f"{target / 10}"):
            if not mass_g(typed, unit):
                continue
            found = asked(typed, target, unit)
            assert found is not None, typed
            assert found.suggest_g is not None, (typed, found.text)
            self.assertAlmostEqual(float(found.suggest_g / meant_g), 1, delta=0.21)
            self.assertIn("Did you mean", found.text)

    @settings(max_examples=300, deadline=None)
    @given(TARGETS, UNITS, st.data())
    def test_swapped_digits_are_asked_where_they_are_far_off(self, target: D, unit: str, data: st.DataObject) -> None:
        digits = list(str(target))
        places = [n for n, each in enumerate(digits) if each.isdigit()]
        one = data.draw(st.integers(0, len(places) - 2))
        first, second = places[one], places[one + 1]
        digits[first], digits[second] = digits[second], digits[first]
        swapped = "".join(digits)
        found = asked(swapped, target, unit)
        far = not LEAST * target <= D(swapped) <= MOST * target and abs(D(swapped) - target) > 5 * STEP[unit]
        if not D(swapped):
            return
        self.assertEqual(found is not None, far, (swapped, target))
        if found is not None:
            self.assertIsNotNone(found.suggest_g)

    @settings(max_examples=300, deadline=None)
    @given(TARGETS, UNITS, st.decimals(D("0.8"), D("1.2"), places=3))
    def test_no_honest_weight_is_asked(self, target: D, unit: str, part: D) -> None:
        """Within a fifth of the target, in the maker's unit, and in stock; nor five steps of a small one."""
        weight = round(target * part, 2)
        for typed in (f"{weight}", f"{weight} {unit}", f"{weight}".replace(".", ",") if weight < 100 else f"{weight}"):
            self.assertIsNone(asked(typed, target, unit), (typed, target))
        self.assertIsNone(asked(f"{STEP[unit] * 5}", STEP[unit], unit))

    def test_the_words_of_a_question(self) -> None:
        for typed, wanted, unit, held, text, suggest in (
            ("34.1 oz", "34.1", "g", PLENTY,
             "“34.1 oz” is 966.7 g, and 34.1 g are still to be weighed. Did you mean 34.1 g?", "34.1"),
            ("1.24", "12.4", "g", PLENTY,
             "“1.24” is 1.2 g, and 12.4 g are still to be weighed. Did you mean 12.4 g?", "12.4"),
            ("456", "45.6", "g", D("308.5"),
             "“456” is 456.0 g, and 45.6 g are still to be weighed. Did you mean 45.6 g?", "45.6"),
            ("45.6", "45.6", "g", D("30"),
             "45.6 g is more than the lots for this batch hold: 30.0 g. Is that what you took?", None),
            ("3", "45.6", "g", PLENTY,
             "“3” is 3.0 g, and 45.6 g are still to be weighed. Is that what the scale shows?", None),
            ("12 drops", "1", "g", None, None, None),
        ):  # fmt: skip
            found = None if "drops" in typed else asked(typed, D(wanted), unit, held)
            if text is None:
                self.assertIsNone(weight_question(typed, D("0.5"), D("0.6"), D("0.1"), None, Display()))
                continue
            assert found is not None, typed
            self.assertEqual((found.text, found.suggest_g), (text, None if suggest is None else D(suggest)))
