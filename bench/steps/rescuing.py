"""The drop on the cold plate was not right: what could be put into the pot, and what it would then be."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import ROUND_FLOOR, ROUND_HALF_UP, Decimal

from balmcore import units
from balmcore.advice.safety import most_scent
from balmcore.composition import Composition, percent_text
from balmcore.design.rescue import rescue, strengthen, wanted_firmness
from balmcore.errors import Problem
from balmcore.physics.firmness import WINDOW_C, word
from balmcore.physics.grain import HELD_ABOVE_CLEAR_K, HELD_MINUTES
from balmcore.tables import Ingredient, Role
from balmcore.trials.press import press, thumb
from balmcore.wording import in_sentence
from bench.state import Bench
from pantry.queries import in_stock
from workshop.web import FieldReader, Fields

SOFT, HARD, FAINT, GRAINY = "soft", "hard", "faint", "grainy"
WORDS = ((SOFT, "too soft"), (HARD, "too hard"), (FAINT, "too faint"), (GRAINY, "grainy"))
MOST_OFFERED = 4
PLAIN_WAX = "beeswax_yellow"
JUST = 3  # points: what is too soft and not more than that said
MORE_SCENT = Decimal("1.5")


@dataclass(frozen=True)
class Offer:
    """Something to put in: grams on the scale's grid, what the pot then is (``comes_to``, in words), what there is of
    it, and why it will not do, empty when it will."""

    item: Ingredient
    grams: Decimal
    firmness: float
    comes_to: str
    total_g: Decimal
    over_g: Decimal
    stock: Decimal | None
    reason: str = ""

    @property
    def short_g(self) -> Decimal:
        """What the stock lacks of it; nothing where no lot was ever written down."""
        return Decimal(0) if self.stock is None else max(Decimal(0), self.grams - self.stock)


@dataclass(frozen=True)
class Rescuing:
    """What was said of the drop, as typed, and what could be done about it."""

    trouble: str
    want: str
    thumb: str
    press_g: str
    rod_mm: str
    problems: dict[str, str]
    felt: float | None
    offers: tuple[Offer, ...]
    advice: str = ""

    @property
    def sentence(self) -> str:
        """What was said of the drop, in words."""
        return dict(WORDS).get(self.trouble, "")


def read(data: Fields, bench: Bench) -> Rescuing:
    """What the maker says of the drop, and the offers for what is in the pot now."""
    reading = FieldReader()
    kind = bench.batch.to_kind(bench.tables)
    middle = (kind.firm_low + kind.firm_high) / 2
    trouble = data.text("trouble", 10)
    want_text = data.text("want", 20) or f"{middle:.0f}"
    want = float(reading.value("want", lambda: _firmness(want_text), Decimal(str(middle))))
    felt = reading.value("felt", lambda: _felt(data, bench), None)
    typed = (data.text("thumb", 20), data.text("press_g", 40), data.text("rod_mm", 4))
    offers: Sequence[Offer] = ()
    advice = ""
    if trouble == GRAINY:
        advice = _smooth(bench)
    elif trouble and not reading.problems:
        offers = _offers(bench, trouble, want, felt)
        if not offers:
            advice = _nothing(trouble)
    return Rescuing(trouble, want_text, *typed, reading.problems, felt, tuple(offers), advice)


def _firmness(text: str) -> Decimal:
    number = units.number(text)
    wanted_firmness(number)
    return number


def _felt(data: Fields, bench: Bench) -> float | None:
    """How firm a drop of it was: by a press test where one is given, else by the thumb's word."""
    show = bench.prefs.show
    if text := data.text("press_g", 40).strip():
        grams = units.mass_g(text, show.mass, bench.prefs.kitchen)
        rod = data.whole("rod_mm")
        return press(float(grams), rod or 0, float(bench.batch.resolution_g)).firmness
    return thumb(data.text("thumb", 20)).firmness if data.text("thumb", 20) else None


def _offers(bench: Bench, trouble: str, want: float, felt: float | None) -> list[Offer]:
    pot = bench.batch.to_composition(bench.tables)
    if bench.pot_g <= 0:
        raise Problem("There is nothing in the pot yet: weigh first.")
    if trouble == FAINT:
        return list(_stronger(bench, pot))
    if felt is None:
        felt = _shifted(bench, trouble)
    found = [_firmer(bench, pot, item, want, felt) for item in _candidates(bench, pot, trouble)]
    good = [offer for offer in found if not offer.reason]
    small = [offer for offer in good if offer.grams * 2 <= bench.pot_g]
    return (small or good or found)[:MOST_OFFERED] if good else found[:1]


def _shifted(bench: Bench, trouble: str) -> float | None:
    """What a drop is when nothing more is said of it: as the model says, unless the model says that it is
    right already; then a word's width softer or harder than right."""
    kind, model = bench.batch.to_kind(bench.tables), bench.verdict.firmness
    if trouble == SOFT and model > kind.firm_low:
        return kind.firm_low - JUST
    if trouble == HARD and model < kind.firm_high:
        return kind.firm_high + JUST
    return None


def _candidates(bench: Bench, pot: Composition, trouble: str) -> list[Ingredient]:
    """What one would reach for: what is in it already, the strongest first."""
    roles = (Role.WAX, Role.BUTTER) if trouble == SOFT else (Role.OIL,)
    inside = [line for line in pot.lines if line.ingredient.role in roles and line.share]
    inside.sort(key=lambda line: (roles.index(line.ingredient.role), -line.share))
    found = [line.ingredient for line in inside]
    if trouble == SOFT and not any(item.role == Role.WAX for item in found):
        found.insert(0, bench.tables.ingredient(PLAIN_WAX))
    return found


def _firmer(bench: Bench, pot: Composition, item: Ingredient, want: float, felt: float | None) -> Offer:
    step = bench.batch.resolution_g
    ended = rescue(pot, float(bench.pot_g), want, item, felt)
    grams = (Decimal(str(ended.add_g)) / step).to_integral_value(ROUND_HALF_UP) * step
    comes_to = f"make it {ended.firmness:.0f}, {word(ended.firmness)}"
    return _offer(bench, item, grams, ended.firmness, comes_to, ended.reason)


def _offer(bench: Bench, item: Ingredient, grams: Decimal, firmness: float, comes_to: str, reason: str = "") -> Offer:
    total = bench.pot_g + grams
    held = in_stock([item.key])
    return Offer(item, grams, firmness, comes_to, total, _over(bench, grams), held.get(item.key), reason)


def _over(bench: Bench, grams: Decimal) -> Decimal:
    """How much more is then in the pot than was planned for its pieces."""
    planned = sum((line.target_g for line in bench.batch.base_lines), Decimal(0))
    weighed = sum((line.actual_g or Decimal(0) for line in bench.batch.base_lines), Decimal(0))
    return weighed + grams - planned


def _stronger(bench: Bench, pot: Composition) -> Iterator[Offer]:
    """More of each scent in the pot, by half as much again, never above what its wearer may have."""
    formula = bench.batch.version.formula
    limits = most_scent(pot, formula.to_wearer(bench.prefs.scent_policy), MORE_SCENT)
    step = bench.batch.resolution_g
    for line in pot.lines:
        if line.ingredient.group != "aromatic" or not line.share:
            continue
        before = line.share / pot.total
        wanted = limits.get(line.key, before * MORE_SCENT)
        grams, reason = Decimal(0), ""
        if wanted > before:
            more = Decimal(str(strengthen(pot, float(bench.pot_g), line.ingredient, wanted)))
            grams = (more / step).to_integral_value(ROUND_FLOOR) * step  # a coarse scale must not lift it over a limit
        if not grams:
            reason = f"There is as much {in_sentence(line.ingredient.name)} as may be, to the scale's step."
        share = (before * bench.pot_g + grams) / (bench.pot_g + grams)
        comes_to = f"make it {percent_text(round(share, 4), 2)} % of all"
        yield _offer(bench, line.ingredient, grams, bench.verdict.firmness, comes_to, reason)


def _smooth(bench: Bench) -> str:
    """What helps against grains in the drop."""
    clear = bench.setup.prediction.clear_c
    hot = "" if clear is None else f" to {bench.prefs.show.temp_text(clear + HELD_ABOVE_CLEAR_K)}"
    return (
        f"Nothing to add: warm it again{hot}, as far as its wax bears it, hold it there for {HELD_MINUTES:.0f} minutes "
        "so that it forgets its crystals, and cool it fast: the refrigerator once a skin has formed."
    )


def _nothing(trouble: str) -> str:
    if trouble == FAINT:
        return "There is no scent in the pot to make stronger. What is stirred into one finish is put right there."
    return f"Nothing in it makes it {'firmer' if trouble == SOFT else 'softer'}: add something of your own below."


def reached(bench: Bench) -> str:
    """How firm what is in the pot is, in words, and by what."""
    by, firmness = "your tests" if bench.tables.are_taught else "the model", bench.verdict.firmness
    return f"By {by}: {firmness:.0f}, {word(firmness)}, at {bench.prefs.show.temp_text(WINDOW_C)}"
