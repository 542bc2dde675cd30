"""Amounts of an ingredient in grams, with the doubts where a measure can mean two things."""

from dataclasses import dataclass

from balmcore import units
from balmcore.display import figure, mass_words
from balmcore.errors import Problem
from balmcore.recipes.doubts import DOUBTED, LIKELY, LOST, SURE, UNSURE, Asking, Choice, Doubted
from balmcore.recipes.said import Quantity, Sum
from balmcore.recipes.words.vocabulary import FORMS, HEAPED, MEASURES, SHARES, UNKNOWN_UNIT, VAGUE
from balmcore.tables import Ingredient, Role
from balmcore.tables.records import USUAL_DROPS_PER_ML

DROPPER_ML = 1.0  # a bottle's pipette when it is pressed once
CAPSULE_G = 0.3  # a common vitamin E capsule
GRATED = 0.7  # of the bulk density of pellets
WEIGHTS_AGREE = 1.06  # 1 oz is 28 or 30 g in most books
AGREE = 1.25  # two ways of one amount may differ by this factor: a cup is not weighed
# Millilitres of measures that differ between the United States and Britain.
TWO_SIZES = {"pint": (473.176473, 568.26125), "gill": (118.29411825, 142.0653125), "quart": (946.352946, 1136.5225)}
BARE_UNITS = {"g": "grams", "oz": "ounces", "part": "parts", "percent": "percent"}


@dataclass
class Measured(Asking):
    """The questions about a line while its amount becomes grams: in which kitchen, in what form, by what."""

    kitchen: str = "metric"
    form: str = ""
    by: str = ""  # "weight" or "volume" where the line says so
    written: str = ""  # the amount as it was written
    unit: str = ""  # what the text says its bare numbers are
    forms: tuple[Choice, ...] = ()  # in which something solid may lie in its cup
    taken_form: str = ""

    def doubts_of_share(self, percent: float) -> None:
        """A share beside a measure gives way to it; it is right where it comes to the same."""
        told = "A share stands beside a measure: the measure is taken."
        self.doubt(Doubted.AMOUNT, told, LIKELY, taken=f"{percent:g}", key=self.key("share"))


class Unweighed(Exception):
    """An amount that cannot be weighed until it is answered."""


def grams_of(amounts: tuple[Sum, ...], item: Ingredient | None, found: Measured) -> float | None:
    """Grams of an amount said in one or more ways, None where it has to be answered first; a weight is taken before a
    volume beside it."""
    values = []
    for way in (way for amount in amounts for way in _ways(amount)):
        try:
            values.append((_is_weight(way), sum(q.sign * _grams(q, item, found) for q in way)))
        except Unweighed:
            return None
    if not values:
        return None
    weights = [grams for heavy, grams in values if heavy]
    taken = weights[0] if weights else values[0][1]
    low, high = min(grams for _, grams in values), max(grams for _, grams in values)
    agree = len(values) == 1 or _agree(low, high, taken, len(weights) == len(values), item)
    if len(values) > 2 or not agree:
        told = " and ".join(mass_words(grams) for _, grams in values)
        found.doubt(
            Doubted.AMOUNT,
            f"Two amounts that are not the same: {told}. {mass_words(taken)} is taken.",
            DOUBTED,
            tuple(Choice(f"{figure(grams)} g", mass_words(grams)) for _, grams in values),
            f"{figure(taken)} g",
            found.key("amount"),
        )
    elif weights and len(values) > 1:
        # The weight beside it settles what a cup holds, and what an ounce is.
        found.doubts = [doubt for doubt in found.doubts if doubt.kind not in (Doubted.FORM, Doubted.UNIT)]
        found.sure = SURE if not found.doubts else found.sure
    elif (
        any(q.unit in TWO_SIZES for way in amounts for q in way) and (exact := _exact(amounts, item, found)) is not None
    ):
        # So does the exact volume beside a pint, which is the one that is meant.
        taken = exact
        found.doubts = [doubt for doubt in found.doubts if doubt.key != "unit:pint"]
        found.sure = SURE if not found.doubts else found.sure
    if taken < 0:
        found.doubt(Doubted.AMOUNT, "More is taken off than there is.", LOST)
        return None
    return taken


def _exact(amounts: tuple[Sum, ...], item: Ingredient | None, found: Measured) -> float | None:
    """Grams of a volume in metric measures, None where none stands there."""
    way = next((way for way in amounts if all(q.unit in ("ml", "cl", "dl", "l") for q in way)), None)
    return None if way is None or item is None else sum(q.sign * _grams(q, item, found) for q in way)


def _agree(low: float, high: float, taken: float, all_weighed: bool, item: Ingredient | None) -> bool:
    """Whether two ways to say an amount may mean the same: weights nearly, a cup of something solid
    up to what it holds when pressed or melted."""
    if low <= 0 or item is None:
        return low > 0 and high <= AGREE * low
    if all_weighed:
        return high <= WEIGHTS_AGREE * low
    pressed = max(item.density_g_ml / (item.bulk_density_g_ml or item.density_g_ml), 1.0) if taken == high else 1.0
    return high <= AGREE * low * pressed


def _ways(amount: Sum) -> list[Sum]:
    """``1 cup and 225 g`` is one amount said twice; ``1 cup + 2 tbsp`` is a sum."""
    weights = tuple(q for q in amount if _kind(q) == "mass")
    others = tuple(q for q in amount if _kind(q) != "mass")
    return [weights, others] if weights and others else [amount]


def _kind(quantity: Quantity) -> str:
    return units.size(quantity.unit, "metric")[0]


def _is_weight(way: Sum) -> bool:
    return all(_kind(quantity) == "mass" for quantity in way)


def value_of(quantity: Quantity, found: Measured) -> float:
    """The number of a quantity: the lower end of a range until it is answered, heaped where it says so."""
    value = quantity.value
    if quantity.high is not None:
        said = MEASURES.get(quantity.unit, quantity.unit)
        ends = [f"{figure(end)} {said}".strip() for end in (quantity.value, quantity.high)]
        found.doubt(
            Doubted.AMOUNT,
            f"A range is no number: {ends[0]} until you say.",
            DOUBTED,
            tuple(Choice(end, end) for end in ends),
            ends[0],
            found.key("amount"),
        )
    if quantity.heap and HEAPED[quantity.heap] != 1.0:
        times = HEAPED[quantity.heap]
        found.doubt(Doubted.AMOUNT, f"“{quantity.heap}” is taken as {figure(times)} times.", LIKELY)
    return value * HEAPED.get(quantity.heap, 1.0)


def _grams(quantity: Quantity, item: Ingredient | None, found: Measured) -> float:
    """Grams of one quantity. Raises :class:`Unweighed`."""
    unit = quantity.unit
    if unit == "bare":
        quantity = _with_unit(quantity, found)
        unit = quantity.unit
    if unit.startswith(UNKNOWN_UNIT):
        raise _unknown_unit(unit.removeprefix(UNKNOWN_UNIT), found)
    amount = value_of(quantity, found)
    kind, size = units.size(unit, found.kitchen)
    if item is None:
        if kind != "mass":
            raise Unweighed
        return amount * size
    if unit in ("drop", "capsule", "dropper"):
        return _counted(unit, amount, item, found)
    if unit in VAGUE:
        return _vague(unit, amount, item, found)
    if unit in TWO_SIZES:
        return _volume(item, amount, _two_sizes(unit, found), unit, found)
    if not kind:
        found.doubt(Doubted.UNIT, f"“{unit}” cannot be weighed together with the rest.", LOST)
        raise Unweighed
    if kind == "mass":
        return _ounces(item, amount, size, found) if unit == "oz" and _pours(item) else amount * size
    return _volume(item, amount, size, unit, found)


def _with_unit(quantity: Quantity, found: Measured) -> Quantity:
    """A number without a unit, in the one that was answered for all such numbers. Raises :class:`Unweighed`."""
    choices = tuple(Choice(unit, name) for unit, name in BARE_UNITS.items())
    asks = "Numbers without a unit: what are they?"
    unit = found.choose(Doubted.UNIT, "unit:bare@recipe", asks, UNSURE, choices, "")
    found.sure = min(found.sure, UNSURE) if not unit else found.sure
    if not unit or unit in SHARES:
        raise Unweighed
    return Quantity(quantity.value, unit, quantity.high, quantity.heap, quantity.sign)


def bare_unit(found: Measured) -> str:
    """What numbers without a unit were said to be, empty while they are asked."""
    return found.answering.of("unit:bare@recipe")


def _unknown_unit(word: str, found: Measured) -> Unweighed:
    told = f"“{word}” is no measure that is known: what does it weigh?"
    found.doubt(Doubted.UNIT, told, UNSURE, (), "", found.key("amount"))
    return Unweighed()


def _counted(unit: str, amount: float, item: Ingredient, found: Measured) -> float:
    """Drops by the ingredient's own size; capsules and pipettes, which differ, by the usual one."""
    if unit == "drop":
        return amount / (item.drop_count or USUAL_DROPS_PER_ML) * item.density_g_ml
    if unit == "capsule":
        return amount * _own_weight("capsule", CAPSULE_G, "A capsule", "see its label", found)
    grams = DROPPER_ML * item.density_g_ml
    return amount * _own_weight("dropper", grams, "A dropper", f"it is {figure(DROPPER_ML)} mL", found)


def _own_weight(unit: str, grams: float, name: str, why: str, found: Measured) -> float:
    """What one of something weighs by the maker's own word, or as usual."""
    key = f"weighs:{unit}"
    if told := found.answering.of(key):
        own = _told_grams(told, grams)
        found.settle(key, f"{name.lower()} is {mass_words(own)}")
        return own
    usual, taken = mass_words(grams), f"{grams:.4g} g"
    asks = f"{name} is taken as {usual}: {why}."
    found.doubt(Doubted.UNIT, asks, LIKELY, (Choice(taken, usual),), taken, key, key)
    return grams


def _told_grams(told: str, otherwise: float) -> float:
    """Grams that were typed, or what stands where they cannot be read."""
    try:
        return float(units.mass_g(told)) or otherwise
    except Problem:
        return otherwise


def _vague(unit: str, amount: float, item: Ingredient, found: Measured) -> float:
    ml, grams = VAGUE[unit]
    each = ml * item.density_g_ml if ml else grams or 0.0
    told = f"{figure(ml)} mL" if ml else mass_words(grams or 0.0)
    taken = f"{amount * each:.4g} g"
    more = f"{2 * amount * each:.4g} g"
    found.doubt(
        Doubted.UNIT,
        f"“{unit}” is no measure: taken as {told}.",
        UNSURE,
        (Choice(taken, mass_words(amount * each)), Choice(more, mass_words(2 * amount * each))),
        taken,
        found.key("amount"),
    )
    return amount * each


def _two_sizes(unit: str, found: Measured) -> float:
    """Millilitres of a pint, which are not the same on both sides of the water."""
    us, imperial = TWO_SIZES[unit]
    choices = (Choice("us", f"US, {figure(us, 0)} mL"), Choice("imperial", f"British, {figure(imperial, 0)} mL"))
    taken = "us" if found.kitchen == "us" else "imperial"
    labels = {choice.value: choice.label for choice in choices}
    asks = f"A {unit} is not the same everywhere: {labels[taken]} is taken."
    return us if found.choose(Doubted.UNIT, "unit:pint", asks, LIKELY, choices, taken) == "us" else imperial


def _pours(item: Ingredient) -> bool:
    return item.group in ("liquid_oil", "antioxidant", "aromatic") or item.water_bearing


def _ounces(item: Ingredient, amount: float, size: float, found: Measured) -> float:
    """Ounces of a liquid: weight, unless the answer, or the line itself, is by volume."""
    weight, fluid = amount * size, amount * units.size("fl_oz", "us")[1] * item.density_g_ml
    if found.by:
        return fluid if found.by == "volume" else weight
    choices = (Choice("weight", f"by weight, {mass_words(weight)}"), Choice("fluid", f"fluid, {mass_words(fluid)}"))
    asks = "Ounces of a liquid: taken as weight."
    return fluid if found.choose(Doubted.UNIT, "ounces:liquid", asks, LIKELY, choices, "weight") == "fluid" else weight


def _volume(item: Ingredient, amount: float, one_ml: float, unit: str, found: Measured) -> float:
    """A volume: by density when it pours, by bulk density when it lies loosely, or by what the maker weighed."""
    ml = amount * one_ml
    if item.bulk_density_g_ml is None:
        return ml * item.density_g_ml
    if told := found.answering.of(f"weighs:{unit} {item.key}"):
        own = _told_grams(told, one_ml * item.bulk_density_g_ml)
        found.settle(f"weighs:{unit} {item.key}", f"your {unit} of {item.name} is {mass_words(own)}")
        return amount * own
    loose, melted = ml * item.bulk_density_g_ml, ml * item.density_g_ml
    grams = {"loose": loose, "grated": loose * GRATED, "melted": melted}
    if item.role != Role.WAX:
        del grams["grated"]
    if item.role == Role.EXTRA:
        return loose
    names = {"loose": item.bulk_form or "loose"}
    choices = tuple(Choice(form, f"{names.get(form, form)}, {mass_words(one)}") for form, one in grams.items())
    found.forms = choices
    found.taken_form = {"pellets": "loose"}.get(found.form, found.form)
    if (told := found.answer("form")) in grams:
        found.taken_form = told
    elif found.taken_form not in grams:
        asks = f"A volume of something solid: taken as {names['loose']}."
        found.taken_form = found.choose(
            Doubted.FORM, f"form:{item.key}", asks, LIKELY, choices, "loose", f"weighs:{unit} {item.key}"
        )
    return grams[found.taken_form]


def form_of(words: list[str]) -> str:
    """The form that some words say: melted, grated or pellets; empty for none."""
    return next((form for word in words if (form := FORMS.get(word.lower(), ""))), "")
