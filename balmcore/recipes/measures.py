"""Amounts of an ingredient in grams, with the doubts where a measure can mean two things."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from balmcore import units
from balmcore.display import figure, mass_words
from balmcore.recipes.clauses import Quantity, Sum
from balmcore.recipes.vocabulary import FORMS, HEAPED, VAGUE
from balmcore.tables import Ingredient, Role
from balmcore.tables.records import USUAL_DROPS_PER_ML

SURE, LIKELY, DOUBTED, UNSURE = 0.95, 0.7, 0.45, 0.4  # how sure a line is: our grades, by how it was understood
DROPPER_ML = 1.0  # a bottle's pipette when it is pressed once
CAPSULE_G = 0.3  # a common vitamin E capsule
GRATED = 0.7  # of the bulk density of pellets
WEIGHTS_AGREE = 1.06  # 1 oz is 28 or 30 g in most books
AGREE = 1.25  # two ways of one amount may differ by this factor: a cup is not weighed

Answers = Mapping[tuple[int, str], str]


@dataclass(frozen=True)
class Ask:
    """A doubt that can be answered: its name, the options (value, label), and the one taken."""

    name: str
    options: tuple[tuple[str, str], ...]
    chosen: str


@dataclass
class Measured:
    """An amount while it becomes grams: what is doubted of it, what can be answered, what was said."""

    number: int
    answers: Answers
    kitchen: str
    form: str = ""
    by: str = ""  # "weight" or "volume" where the line says so
    sure: float = SURE
    doubts: list[str] = field(default_factory=list)
    asks: list[Ask] = field(default_factory=list)

    def doubt(self, sentence: str, sure: float) -> None:
        """Say a doubt, once, and be no surer than ``sure``."""
        if sentence not in self.doubts:
            self.doubts.append(sentence)
        self.sure = min(self.sure, sure)


def grams_of(amounts: tuple[Sum, ...], item: Ingredient, found: Measured) -> float | None:
    """Grams of an amount said in one or more ways; a weight is taken before a volume beside it."""
    ways = [way for amount in amounts for way in _ways(amount)]
    values = [(_is_weight(way), sum(q.sign * _grams(q, item, found) for q in way)) for way in ways]
    if not values:
        return None
    weights = [grams for heavy, grams in values if heavy]
    taken = weights[0] if weights else values[0][1]
    low, high = min(grams for _, grams in values), max(grams for _, grams in values)
    if len(values) > 2 or (len(values) > 1 and not _agree(low, high, taken, len(weights) == len(values), item)):
        told = " and ".join(f"{mass_words(grams)}" for _, grams in values)
        found.doubt(f"Two amounts that are not the same: {told}. {mass_words(taken)} is taken.", DOUBTED)
    elif weights and len(values) > 1:
        # The weight beside it settles what a cup holds.
        found.doubts = [told for told in found.doubts if not told.startswith("A volume of")]
        found.asks = [ask for ask in found.asks if ask.name != "form"]
        found.sure = SURE if not found.doubts else found.sure
    if taken < 0:
        found.doubt("More is taken off than there is.", 0.1)
        return None
    return taken


def _agree(low: float, high: float, taken: float, all_weighed: bool, item: Ingredient) -> bool:
    """Whether two ways to say an amount may mean the same: weights nearly, a cup of something solid
    up to what it holds when pressed or melted."""
    if low <= 0:
        return False
    if all_weighed:
        return high <= WEIGHTS_AGREE * low
    pressed = max(item.density_g_ml / (item.bulk_density_g_ml or item.density_g_ml), 1.0) if taken == high else 1.0
    return high <= AGREE * low * pressed


def _ways(amount: Sum) -> list[Sum]:
    """``1 cup 225 g`` is one amount said twice; ``1 lb 2 oz`` and ``1 cup + 2 tbsp`` are sums."""
    weights = tuple(q for q in amount if _kind(q) == "mass")
    others = tuple(q for q in amount if _kind(q) != "mass")
    return [weights, others] if weights and others else [amount]


def _kind(quantity: Quantity) -> str:
    return units.size(quantity.unit, "metric")[0]


def _is_weight(way: Sum) -> bool:
    return all(_kind(quantity) == "mass" for quantity in way)


def value_of(quantity: Quantity, found: Measured) -> float:
    """The number of a quantity: the middle of a range, heaped where it says so."""
    value = quantity.value
    if quantity.high is not None:
        value = (value + quantity.high) / 2
        found.doubt(f"A range: the middle, {figure(value)}, is taken.", LIKELY)
    if quantity.heap and HEAPED[quantity.heap] != 1.0:
        found.doubt(f"“{quantity.heap}” is taken as {figure(HEAPED[quantity.heap])} times.", LIKELY)
    return value * HEAPED.get(quantity.heap, 1.0)


def _grams(quantity: Quantity, item: Ingredient, found: Measured) -> float:
    """Grams of one quantity."""
    amount, unit = value_of(quantity, found), quantity.unit
    if unit == "bare":
        found.doubt("A number without a unit is taken as grams.", UNSURE)
        return amount
    if unit == "drop":
        return amount / (item.drop_count or USUAL_DROPS_PER_ML) * item.density_g_ml
    if unit == "capsule":
        found.doubt(f"A capsule is taken as {mass_words(CAPSULE_G)}: see its label.", LIKELY)
        return amount * CAPSULE_G
    if unit == "dropper":
        found.doubt(f"A dropper is taken as {figure(DROPPER_ML)} mL.", LIKELY)
        return amount * DROPPER_ML * item.density_g_ml
    if unit in VAGUE:
        ml, grams = VAGUE[unit]
        told = f"{figure(ml)} mL" if ml else mass_words(grams or 0.0)
        found.doubt(f"“{unit}” is no measure: taken as {told}.", UNSURE)
        return amount * (ml * item.density_g_ml if ml else grams or 0.0)
    kind, size = units.size(unit, found.kitchen)
    if not kind:
        found.doubt(f"“{unit}” cannot be weighed together with the rest.", 0.1)
        return 0.0
    if kind == "mass":
        return _ounces(item, amount, size, found) if unit == "oz" and _pours(item) else amount * size
    return _volume(item, amount * size, found)


def _pours(item: Ingredient) -> bool:
    return item.group in ("liquid_oil", "antioxidant", "aromatic") or item.water_bearing


def _ounces(item: Ingredient, amount: float, size: float, found: Measured) -> float:
    """Ounces of a liquid: weight, unless the answer, or the line itself, is by volume."""
    weight, fluid = amount * size, amount * units.size("fl_oz", "us")[1] * item.density_g_ml
    if found.by:
        return fluid if found.by == "volume" else weight
    chosen = found.answers.get((found.number, "ounces"), "weight")
    options = (("weight", f"by weight, {mass_words(weight)}"), ("fluid", f"fluid, {mass_words(fluid)}"))
    if (found.number, "ounces") not in found.answers:
        told = f"taken as weight, {mass_words(weight)}; fluid ounces would be {mass_words(fluid)}."
        found.doubt(f"Ounces of a liquid: {told}", LIKELY)
    found.asks.append(Ask("ounces", options, chosen))
    return fluid if chosen == "fluid" else weight


def _volume(item: Ingredient, ml: float, found: Measured) -> float:
    """A volume: by density when it pours, by bulk density when it lies loosely."""
    if item.bulk_density_g_ml is None:
        return ml * item.density_g_ml
    loose, melted = ml * item.bulk_density_g_ml, ml * item.density_g_ml
    options = [
        ("loose", f"{item.bulk_form or 'loose'}, {mass_words(loose)}"),
        ("melted", f"melted, {mass_words(melted)}"),
    ]
    if item.role == Role.WAX:
        options.insert(1, ("grated", f"grated, {mass_words(loose * GRATED)}"))
    if item.role == Role.EXTRA:
        options = options[:1]
    said = {"pellets": "loose"}.get(found.form, found.form)
    chosen = found.answers.get((found.number, "form"), said or "loose")
    if chosen not in dict(options):
        chosen = "loose"
    if not said and (found.number, "form") not in found.answers and len(options) > 1:
        other = f"melted it would be {mass_words(melted)}"
        told = f"A volume of something solid: taken as {item.bulk_form or 'loose'}, {mass_words(loose)}; {other}."
        found.doubt(told, LIKELY)
    if len(options) > 1 and not any(ask.name == "form" for ask in found.asks):
        found.asks.append(Ask("form", tuple(options), chosen))
    return {"loose": loose, "grated": loose * GRATED, "melted": melted}[chosen]


def form_of(words: list[str]) -> str:
    """The form that some words say: melted, grated or pellets; empty for none."""
    return next((form for word in words if (form := FORMS.get(word.lower(), ""))), "")
