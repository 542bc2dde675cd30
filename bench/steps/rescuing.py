"""The drop on the cold plate was not right: what could be put into the pot, and what it would then be.

What the drop was firmer than the model stays with the pot as a shift, so that a rescue is not forgotten at the next
look. A whipped butter's drop is judged as it is then, unwhipped; scent is judged once it is in.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import ROUND_FLOOR, ROUND_HALF_UP, Decimal

from balmcore import units
from balmcore.advice.brought import brought
from balmcore.advice.caution import Caution
from balmcore.advice.safety import most_scent
from balmcore.composition import Composition, percent_text
from balmcore.design.rescue import Rescue, choices, strengthen, wanted_firmness
from balmcore.errors import Problem
from balmcore.making.bench.steps import Task
from balmcore.making.method.flash import flash_caution
from balmcore.making.method.temperatures import limit
from balmcore.making.scaling import with_added
from balmcore.physics.firmness import HIGHEST, WINDOW_C, predict, word
from balmcore.physics.grain import HELD_ABOVE_CLEAR_K, HELD_MINUTES
from balmcore.tables import Ingredient, Role
from balmcore.trials.press import press, thumb
from balmcore.wording import in_sentence
from batches.models import BatchFinish
from bench.state import Bench
from pantry.queries import in_stock
from workshop.web import FieldReader, Fields

SOFT, HARD, FAINT, GRAINY = "soft", "hard", "faint", "grainy"
WORDS = ((SOFT, "too soft"), (HARD, "too hard"), (GRAINY, "grainy"), (FAINT, "too faint"))
DROP, SCENT = (SOFT, HARD, GRAINY), (FAINT,)
ROLES = {SOFT: (Role.WAX, Role.BUTTER), HARD: (Role.OIL, Role.BUTTER)}
MOST_OFFERED = 5
PLAIN_WAX = "beeswax_yellow"
JUST = 3  # points: what is too soft and not more than that said
A_WORD = 10  # points from one word to the next, for a pot that is too soft as it was planned
MORE_SCENT = Decimal("1.5")


@dataclass(frozen=True)
class Offer:
    """Something to put in: grams on the scale's grid, what the pot then is (``comes_to``, in words), what it ``brings``
    that has to be minded, what there is of it, and why it will not do, empty when it will."""

    item: Ingredient
    grams: Decimal
    firmness: float
    comes_to: str
    total_g: Decimal
    over_g: Decimal
    stock: Decimal | None
    brings: tuple[Caution, ...] = ()
    reason: str = ""

    @property
    def short_g(self) -> Decimal:
        """What the stock lacks of it; nothing where no lot was ever written down."""
        return Decimal(0) if self.stock is None else max(Decimal(0), self.grams - self.stock)


@dataclass(frozen=True)
class Rescuing:
    """What was said of the drop, as typed, and what could be done about it. ``shift`` are the points that the drop was
    firmer than the model, None where nothing was said of that."""

    trouble: str
    want: str
    thumb: str
    press_g: str
    rod_mm: str
    problems: dict[str, str]
    felt: float | None
    offers: tuple[Offer, ...]
    troubles: tuple[tuple[str, str], ...]
    shift: float | None = None
    advice: str = ""
    offered: str = ""

    @property
    def sentence(self) -> str:
        """What was said of the drop, in words."""
        return dict(WORDS).get(self.trouble, "")


def troubles_at(bench: Bench) -> tuple[tuple[str, str], ...]:
    """What can be wrong at the step shown: a drop at its test, a scent once it is in; nothing elsewhere."""
    if bench.here.step.task is Task.TEST:
        return tuple(pair for pair in WORDS if pair[0] in DROP)
    if not bench.here.step.key.startswith("add") and bench.here.step.task is not Task.FILL:
        return ()
    has_scent = any(item.group == "aromatic" for item in _scented(bench).ingredients)
    return tuple(pair for pair in WORDS if pair[0] in SCENT) if has_scent else ()


def read(data: Fields, bench: Bench) -> Rescuing:
    """What the maker says of the drop, and the offers for what is in the pot now."""
    reading, known = FieldReader(), troubles_at(bench)
    trouble = data.text("trouble", 10)
    trouble = trouble if trouble in dict(known) else ""
    felt = reading.value("felt", lambda: _felt(data, bench), None)
    shift = None if felt is None else felt - _model(bench)
    if felt is None and trouble in ROLES:
        felt = _shifted(bench, trouble)
        shift = None if felt is None else felt - _model(bench)
    stands = bench.verdict.firmness if felt is None else felt
    aim = f"{_aim(bench, trouble, stands):.0f}"
    # What was only offered gives way when more is said of the drop.
    typed_want = data.text("want", 20)
    want_text = aim if not typed_want or typed_want == data.text("offered", 20) else typed_want
    want = float(reading.value("want", lambda: _firmness(want_text), Decimal(round(stands))))
    typed = (data.text("thumb", 20), data.text("press_g", 40), data.text("rod_mm", 4))
    offers: Sequence[Offer] = ()
    advice = ""
    if trouble == GRAINY:
        advice = _smooth(bench)
    elif trouble and not reading.problems:
        offers = _offers(bench, trouble, want, felt)
        if not offers:
            advice = _nothing(trouble)
        elif bench.setup.rounds > 1:
            advice = f"These grams are for all {bench.setup.rounds} pitchers: an equal part goes into each."
    return Rescuing(trouble, want_text, *typed, reading.problems, felt, tuple(offers), known, shift, advice, aim)


def _firmness(text: str) -> Decimal:
    number = units.number(text)
    wanted_firmness(number)
    return number


def _model(bench: Bench) -> float:
    """What the model says of the pot as it is now, whatever was felt."""
    return bench.verdict.firmness - bench.batch.drop_shift


def _aim(bench: Bench, trouble: str, stands: float) -> float:
    """What is asked for where nothing else is said: the plan's aim, or what was asked for last; a word firmer or
    softer where the drop is that already, and its maker says that it is not right."""
    aim = bench.aim
    if trouble == SOFT and stands >= aim - 1:
        return min(stands + A_WORD, HIGHEST)
    if trouble == HARD and stands <= aim + 1:
        return max(stands - A_WORD, 5.0)
    return aim


def _felt(data: Fields, bench: Bench) -> float | None:
    """How firm a drop of it was: by a press test where one is given, else by the thumb's word."""
    show = bench.prefs.show
    if text := data.text("press_g", 40).strip():
        grams = units.mass_g(text, show.mass, bench.prefs.kitchen)
        rod = data.whole("rod_mm")
        return press(float(grams), rod or 0, float(bench.batch.resolution_g)).firmness
    return thumb(data.text("thumb", 20)).firmness if data.text("thumb", 20) else None


def _offers(bench: Bench, trouble: str, want: float, felt: float | None) -> list[Offer]:
    if trouble == FAINT:
        return list(_stronger(bench))
    if bench.pot_g <= 0:
        raise Problem("There is nothing in the pot yet: weigh first.")
    pot = bench.batch.to_composition(bench.tables)
    candidates, held = _candidates(bench, pot, trouble)
    found = choices(pot, float(bench.pot_g), want, candidates, felt, bench.batch.drop_shift)
    good = [_firmer(bench, pot, each, held) for each in found if each.success]
    # What there is enough of comes first, and what brings nothing to be minded before what brings a stop.
    good.sort(key=lambda offer: (any(c.level == "stop" for c in offer.brings), offer.short_g > 0, offer.grams))
    small = [offer for offer in good if offer.grams * 2 <= bench.pot_g]
    return (small or good)[:MOST_OFFERED] or [_firmer(bench, pot, each, held) for each in found[:2]]


def _shifted(bench: Bench, trouble: str) -> float | None:
    """What a drop is when nothing more is said of it: as an earlier drop told, or the model, unless it is right by the
    model already; then a little softer or harder than right."""
    if bench.batch.drop_shift:
        return None
    kind, known = bench.batch.to_kind(bench.tables), bench.verdict.firmness
    low, high = (bench.aim, bench.aim) if bench.is_to_be_whipped else (kind.firm_low, kind.firm_high)
    if trouble == SOFT and known > low:
        return low - JUST
    if trouble == HARD and known < high:
        return high + JUST
    return None


def _candidates(bench: Bench, pot: Composition, trouble: str) -> tuple[list[Ingredient], dict[str, Decimal]]:
    """What one would reach for: what is in the pot already, and what is in stock; and what there is of each."""
    roles = ROLES[trouble]
    inside = {line.ingredient for line in pot.lines if line.ingredient.role in roles and line.share}
    every = [item for item in bench.tables.ingredients.values() if item.role in roles and not item.unknown]
    held = in_stock([item.key for item in every])
    found = [item for item in every if item in inside or held.get(item.key, 0) > 0]
    if trouble == SOFT and not any(item.role == Role.WAX for item in found):
        found.append(bench.tables.ingredient(PLAIN_WAX))
    return found, held


def _firmer(bench: Bench, pot: Composition, ended: Rescue, held: dict[str, Decimal]) -> Offer:
    step = bench.batch.resolution_g
    grams = (Decimal(str(ended.add_g)) / step).to_integral_value(ROUND_HALF_UP) * step
    comes_to = f"make it {ended.firmness:.0f}, {word(ended.firmness)}"
    if bench.is_to_be_whipped:
        whipped = predict(ended.composition, bench.batch.overrun).firmness_at(WINDOW_C) + ended.shift
        comes_to += f"; whipped {max(0.0, whipped):.0f}"
    return _offer(bench, pot, ended.ingredient, grams, ended.firmness, comes_to, held, ended.reason)


def _offer(
    bench: Bench,
    pot: Composition,
    item: Ingredient,
    grams: Decimal,
    firmness: float,
    comes_to: str,
    held: dict[str, Decimal],
    reason: str = "",
) -> Offer:
    wearer = bench.batch.version.formula.to_wearer(bench.prefs.scent_policy)
    brings = brought(pot, with_added(pot, bench.pot_g, ((item, grams),)), wearer) if grams and not reason else ()
    total, stock = bench.pot_g + grams, held.get(item.key)
    return Offer(item, grams, firmness, comes_to, total, _over(bench, grams), stock, brings, reason)


def _over(bench: Bench, grams: Decimal) -> Decimal:
    """How much more is then in the pot than was planned for its pieces."""
    planned = sum((line.target_g for line in bench.batch.base_lines), Decimal(0))
    weighed = sum((line.actual_g or Decimal(0) for line in bench.batch.base_lines), Decimal(0))
    return weighed + grams - planned


def finish_at(bench: Bench) -> BatchFinish | None:
    """The finish that the step shown is for; None for the whole melt."""
    return bench.finish_of(bench.here.step.finish)


def _scented(bench: Bench) -> Composition:
    """What a scent is judged in at the step shown."""
    return bench.batch.to_composition(bench.tables, finish_at(bench))


def _stronger(bench: Bench) -> Iterator[Offer]:
    """More of each scent in it, by half as much again, never above what its wearer may have."""
    whole, finish = _scented(bench), finish_at(bench)
    mass_g = bench.pot_g if finish is None else whole.total
    limits = most_scent(whole, bench.batch.version.formula.to_wearer(bench.prefs.scent_policy), MORE_SCENT)
    step = bench.batch.resolution_g
    scents = [line for line in whole.lines if line.ingredient.group == "aromatic" and line.share]
    held = in_stock([line.key for line in scents])
    for line in scents:
        before = line.share / whole.total
        wanted = limits.get(line.key, before * MORE_SCENT)
        grams, reason = Decimal(0), ""
        if wanted > before:
            more = Decimal(str(strengthen(whole, float(mass_g), line.ingredient, wanted)))
            grams = (more / step).to_integral_value(ROUND_FLOOR) * step  # a coarse scale must not lift it over a limit
        if not grams:
            reason = f"There is as much {in_sentence(line.ingredient.name)} as may be, to the scale's step."
        share = (before * mass_g + grams) / (mass_g + grams)
        comes_to = f"make it {percent_text(round(share, 4), 2)} % of all"
        yield _offer(bench, whole, line.ingredient, grams, bench.verdict.firmness, comes_to, held, reason)


def _smooth(bench: Bench) -> str:
    """What helps against grains in the drop."""
    clear = bench.setup.prediction.clear_c
    hot_c = None if clear is None else max(clear, min(clear + HELD_ABOVE_CLEAR_K, limit(bench.setup)[0]))
    hot = "" if hot_c is None else f" to {bench.prefs.show.temp_text(hot_c)}"
    told = (
        f"Nothing to add: warm it again{hot}, hold it there for {HELD_MINUTES:.0f} minutes so that it forgets its "
        "crystals, and cool it fast: the refrigerator once a skin has formed."
    )
    scented = flash_caution(_scented(bench).ingredients, hot_c or 0.0, bench.prefs.show)
    return f"{told} {scented}".strip()


def _nothing(trouble: str) -> str:
    if trouble == FAINT:
        return "There is no scent in it to make stronger."
    return f"Nothing in it makes it {'firmer' if trouble == SOFT else 'softer'}: add something of your own below."


def reached(bench: Bench) -> str:
    """How firm what is in the pot is, in words, and by what."""
    firmness, shift = bench.verdict.firmness, bench.batch.drop_shift
    by = "your tests" if bench.tables.are_taught else "the model"
    at = bench.prefs.show.temp_text(WINDOW_C)
    if shift:
        said = f"By your drop: {firmness:.0f}, {word(firmness)}, at {at}; {by} would say {_model(bench):.0f}"
    else:
        said = f"By {by}: {firmness:.0f}, {word(firmness)}, at {at}"
    return f"{said}. Whipped it will be {bench.whipped:.0f}" if bench.is_to_be_whipped else said
