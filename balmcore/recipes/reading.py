"""A recipe as people write it, read into ingredients and grams, with its doubts.

One line per ingredient or a sentence; weights, volumes, kitchen measures, drops, capsules,
parts and percent; fractions, ranges and words. A volume becomes grams by the ingredient's
density, or by its bulk density where it lies loosely in a cup. Nothing is guessed in silence:
what could be meant in two ways is a doubt, with the other figure beside it, and can be
answered.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from decimal import Decimal

from balmcore import units
from balmcore.composition import Composition, Line
from balmcore.errors import Problem
from balmcore.tables import Ingredient, Role, Tables, shipped
from balmcore.tables import name_lookup as names

LONGEST_TEXT = 10_000
MOST_LINES = 60
SURE, LIKELY, UNSURE = 0.95, 0.7, 0.4
DROPS_PER_ML = 22.0
DROPPER_ML = 1.0
CAPSULE_G = 0.3  # a common vitamin E capsule
GRATED = 0.7  # of the bulk density of pellets
PART_G = 10.0

# Words that are no measure, as (millilitres, grams): one of them is known, roughly.
VAGUE: dict[str, tuple[float | None, float | None]] = {
    "squeeze": (2.0, None), "squirt": (2.0, None), "splash": (5.0, None), "dash": (0.6, None),
    "drizzle": (5.0, None), "pinch": (None, 0.3), "knob": (None, 15.0), "handful": (None, 30.0),
    "spoonful": (12.0, None), "blob": (None, 5.0), "dollop": (None, 15.0), "bit": (None, 2.0), "little": (None, 2.0),
}  # fmt: skip
HEAPED = {"heaping": 1.25, "heaped": 1.25, "rounded": 1.15, "scant": 0.9, "level": 1.0, "generous": 1.15, "packed": 1.1}
NUMBER_WORDS = {
    "a": 1.0, "an": 1.0, "one": 1.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0, "seven": 7.0,
    "eight": 8.0, "nine": 9.0, "ten": 10.0, "twelve": 12.0, "half": 0.5, "quarter": 0.25, "couple": 2.0, "few": 3.0,
    "dozen": 12.0,
}  # fmt: skip
COUNTED = {
    "drop": "drop", "drops": "drop", "gtt": "drop", "capsule": "capsule", "capsules": "capsule", "caps": "capsule",
    "dropper": "dropper", "droppers": "dropper", "dropperful": "dropper", "dropperfuls": "dropper",
    "droppersful": "dropper", "part": "part", "parts": "part", "%": "percent", "percent": "percent", "pct": "percent",
}  # fmt: skip
_UNIT_WORDS = (
    "kilograms?|kilos?|kg|milligrams?|mg|grams?|grammes?|gm?|fluid ounces?|fl\\.? ?oz\\.?|ounces?|oz\\.?|"
    "pounds?|lbs?\\.?|"
    "millilit(?:re|er)s?|mls?|centilit(?:re|er)s?|cl|lit(?:re|er)s?|l|cups?|tablespoons?|tbsps?\\.?|tbs\\.?|"
    "teaspoons?|tsps?\\.?|" + "|".join(sorted((re.escape(word) for word in COUNTED), key=len, reverse=True))
)
_AMOUNT = r"(?:\d+\s+\d+/\d+|\d+/\d+|\d*[.,]\d+|\d+)"
_WORD_AMOUNT = "|".join(NUMBER_WORDS)
_QUANTITY = re.compile(
    rf"(?<![\w.,/])(?P<low>{_AMOUNT}|(?:{_WORD_AMOUNT})(?:\s+(?:a|an|of))?(?=\s))"
    rf"(?:\s*(?:-|–|—|to|or)\s*(?P<high>{_AMOUNT}))?"
    rf"\s*(?P<heap>{'|'.join(HEAPED)})?\s*(?P<unit>{_UNIT_WORDS})(?![a-z])",
    re.IGNORECASE | re.ASCII,
)
# "2 vitamin e capsules": what is counted stands behind the name.
_BEHIND = re.compile(
    rf"^\s*(?P<low>{_AMOUNT}|{_WORD_AMOUNT})\s+(?P<name>.+?)\s+(?P<unit>capsules?|caps|drops?)\s*$", re.IGNORECASE
)
_VAGUE = re.compile(
    rf"(?<!\w)(?:(?P<low>{_AMOUNT}|{_WORD_AMOUNT})\s+)?(?:\w+\s+)?(?P<unit>{'|'.join(VAGUE)})s?(?!\w)",
    re.IGNORECASE | re.ASCII,
)
_BARE = re.compile(rf"^\s*(?P<low>{_AMOUNT})(?=\s|$)|(?<=[\s:=])(?P<last>{_AMOUNT})\s*$", re.ASCII)
_FORMS = {
    "melted": "melted", "liquid": "melted", "grated": "grated", "shredded": "grated", "shaved": "grated",
    "pellets": "pellets", "pastilles": "pellets", "beads": "pellets", "flakes": "pellets", "chips": "pellets",
    "wafers": "pellets", "buttons": "pellets", "pieces": "pellets", "chunks": "pellets",
}  # fmt: skip
_NOISE = re.compile(
    r"\b(?:of|the|organic|pure|natural|raw|cold|pressed|extra|virgin|unscented|about|approx(?:imately)?|roughly|optional|"
    r"good|quality|cosmetic|grade|fresh|your|favou?rite|some|carrier|each|or so|ca|chopped|solid|add|then|stir|in|melt|"
    r"take|use|mix|finely|roughly|worth|heaping|heaped|packed|level|scant|rounded|generous|please|together|i|we)\b",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Ask:
    """A doubt that can be answered: its name, the options (value, label), and the one taken."""

    name: str
    options: tuple[tuple[str, str], ...]
    chosen: str


@dataclass(frozen=True)
class ReadLine:
    """What was understood of one line. ``ingredient`` is None when it was not understood, ``grams``
    None when there was no amount; ``sure`` runs from 0 to 1."""

    text: str
    ingredient: Ingredient | None
    grams: float | None
    percent: float | None
    sure: float
    doubts: tuple[str, ...]
    asks: tuple[Ask, ...] = ()
    unit: str = ""
    amount: float | None = None
    number: int = 0

    @property
    def name(self) -> str:
        """The ingredient's name, empty when it was not understood."""
        return self.ingredient.name if self.ingredient else ""

    @property
    def trust(self) -> str:
        """How sure, in a word."""
        return "sure" if self.sure >= 0.9 else "likely" if self.sure >= 0.6 else "unsure"


@dataclass(frozen=True)
class Reading:
    """A whole recipe: its lines, and the doubts about the whole."""

    lines: tuple[ReadLine, ...]
    doubts: tuple[str, ...]


@dataclass
class _Found:
    """A line while it is being read."""

    text: str
    sure: float = SURE
    doubts: list[str] = field(default_factory=list)
    asks: list[Ask] = field(default_factory=list)

    def doubt(self, sentence: str, sure: float) -> None:
        self.doubts.append(sentence)
        self.sure = min(self.sure, sure)


Answers = Mapping[tuple[int, str], str]


def read(text: str, kitchen: str = "metric", answers: Answers | None = None, tables: Tables | None = None) -> Reading:
    """Read a recipe. ``kitchen`` is us, metric or au; ``answers`` settles doubts by line number and
    the name of the ask; names are those of the shipped tables or of ``tables``. Raises
    :class:`Problem` for an unknown kitchen or an empty text."""
    if kitchen not in units.KITCHENS:
        raise Problem(f"The kitchen should be one of {', '.join(units.KITCHENS)}.", "kitchen")
    doubts = []
    if len(text) > LONGEST_TEXT:
        text = text[:LONGEST_TEXT]
        doubts.append(f"Only the first {LONGEST_TEXT} characters were read.")
    chunks = split(text)
    if not chunks:
        raise Problem("There is nothing to read: paste a recipe, one ingredient a line.", "text")
    if len(chunks) > MOST_LINES:
        chunks = chunks[:MOST_LINES]
        doubts.append(f"Only the first {MOST_LINES} lines were read.")
    lines = [_line(chunk, kitchen, n, answers or {}, tables or shipped()) for n, chunk in enumerate(chunks)]
    lines = [line for line in lines if line.ingredient or line.amount is not None or line.doubts]
    lines, more = _to_percent(lines)
    return Reading(tuple(lines), (*doubts, *more))


def split(text: str) -> list[str]:
    """The parts of a text that may each name one ingredient."""
    parts = []
    for raw in re.split(r"[\n\r;•·]+|(?<=[a-z)]{3})(?<!prox)\.\s+(?=[A-Z])", units.spread(text)):
        line = re.sub(r"^\s*(?:[-*–—+]|\d+[.)]\s)\s*", "", raw).strip()
        # A comma parts ingredients unless it is the comma of a number, or only says how
        # ("1 tbsp coconut oil, melted") or how much.
        pieces: list[str] = []
        for piece in re.split(r",(?!\d)|(?<!\d),", line):
            how = pieces and _has_amount(pieces[-1]) and not _has_amount(piece)
            # "Olive oil, 3/4 cup": an amount alone belongs to the name before it.
            how_much = pieces and not _has_amount(pieces[-1]) and _QUANTITY.fullmatch(piece.strip())
            if how or how_much:
                pieces[-1] += f" {piece}"
            else:
                pieces.append(piece)
        for piece in pieces:
            start = rf"(?:{_AMOUNT}|(?:{_WORD_AMOUNT})\s)"
            parts += re.split(rf"\s+(?:and|plus|with|&)\s+(?={start})|\s+\+\s+(?={start})", piece, flags=re.IGNORECASE)
    return [" ".join(part.split()) for part in parts if re.search(r"\w", part)]


def _has_amount(text: str) -> bool:
    return bool(re.search(r"\d", text) or _QUANTITY.search(text) or _VAGUE.search(text))


def _line(text: str, kitchen: str, number: int, answers: Answers, tables: Tables) -> ReadLine:
    found = _Found(text)
    plain = re.sub(r"\((.*?)\)", r" \1 ", text)
    amount, unit, rest = _quantity(plain, found)
    form = next((name for word, name in _FORMS.items() if re.search(rf"\b{word}\b", rest, re.IGNORECASE)), "")
    item = _ingredient(rest, found, number, answers, tables)
    if amount is not None and re.search(r"\d", re.sub(r"[a-z]-?\d+", "", rest, flags=re.IGNORECASE)):
        found.doubt("There are more numbers in this line than one amount.", UNSURE)
    grams = None
    if amount is None:
        found.doubt("There is no amount here.", UNSURE)
    elif item and unit not in ("part", "percent"):
        grams = _grams(item, amount, unit, form, kitchen, found, number, answers)
    return ReadLine(
        text, item, grams, None, round(found.sure, 2), tuple(found.doubts), tuple(found.asks), unit, amount, number
    )


def _quantity(text: str, found: _Found) -> tuple[float | None, str, str]:
    """Amount, unit and what is left of a line. A weight is taken before a volume beside it."""
    if matches := list(_QUANTITY.finditer(text)):
        heavy = [m for m in matches if units.size(_unit(m["unit"]), "metric")[0] == "mass"]
        first = (heavy or matches)[0]
        rest = _QUANTITY.sub(" ", text)
        value = _value(first["low"], first["high"], found)
        heap = (first["heap"] or "").lower()
        if heap and HEAPED[heap] != 1.0:
            found.doubt(f"“{heap}” is taken as {HEAPED[heap]:g} times.", LIKELY)
        return (None if value is None else value * HEAPED.get(heap, 1.0)), _unit(first["unit"]), rest
    if behind := _BEHIND.search(text):
        return _value(behind["low"], None, found), _unit(behind["unit"]), behind["name"]
    if vague := _VAGUE.search(text):
        word = vague["unit"].lower()
        ml, grams = VAGUE[word]
        told = f"{ml:g} mL" if ml else f"{grams:g} g"
        found.doubt(f"“{word}” is no measure: taken as {told}.", UNSURE)
        return _value(vague["low"] or "1", None, found), word, f"{text[: vague.start()]} {text[vague.end() :]}"
    if bare := _BARE.search(text):
        found.doubt("A number without a unit is taken as grams.", UNSURE)
        return _value(bare["low"] or bare["last"], None, found), "g", f"{text[: bare.start()]} {text[bare.end() :]}"
    return None, "", text


def _value(low: str, high: str | None, found: _Found) -> float | None:
    words = low.lower().split()
    try:
        value = NUMBER_WORDS[words[0]] if words and words[0] in NUMBER_WORDS else float(units.number(low))
        if high:
            top = float(units.number(high))
            found.doubt(f"A range: the middle, {(value + top) / 2:g}, is taken.", LIKELY)
            value = (value + top) / 2
    except Problem as problem:
        found.doubt(problem.sentence, 0.1)
        return None
    return value


def _unit(word: str) -> str:
    plain = " ".join(word.lower().replace(".", "").split())
    if plain in COUNTED:
        return COUNTED[plain]
    return {"gm": "g", "fl oz": "fl_oz", "floz": "fl_oz", "fluid ounce": "fl_oz", "fluid ounces": "fl_oz", "mls": "ml",
            "tbsps": "tbsp", "tsps": "tsp", "lbs": "lb"}.get(plain, plain)  # fmt: skip


def _ingredient(rest: str, found: _Found, number: int, answers: Answers, tables: Tables) -> Ingredient | None:
    """The ingredient a text means, or None with the nearest as an ask."""
    if (told := answers.get((number, "ingredient"), "")) in tables.ingredients:
        return tables.ingredients[told]
    name = names.clean(re.sub(rf"\b(?:{'|'.join(_FORMS)})\b", " ", _NOISE.sub(" ", rest), flags=re.IGNORECASE))
    meant = names.find(names.clean(rest), name, tables)
    if meant.how == "exactly":
        return tables.ingredient(meant.key)
    if meant.how == "nothing":
        found.doubt("No ingredient is named here.", 0.1)
        return None
    options = tuple((key, tables.ingredient(key).name) for key in meant.near)
    if meant.key:
        found.doubt(f"Read as {tables.ingredient(meant.key).name}.", LIKELY)
        found.asks.append(Ask("ingredient", options, meant.key))
        return tables.ingredient(meant.key)
    found.doubt(f"“{name[:40]}” is not in the pantry. Nearest: {', '.join(label for _, label in options[:3])}.", 0.2)
    found.asks.append(Ask("ingredient", (("", "leave it out"), *options), ""))
    return None


def _grams(
    item: Ingredient, amount: float, unit: str, form: str, kitchen: str, found: _Found, number: int, answers: Answers
) -> float | None:
    """Grams of an amount, with doubts where a unit can mean two things."""
    if unit == "drop":
        return amount / (item.drops_per_ml or DROPS_PER_ML) * item.density_g_ml
    if unit == "capsule":
        found.doubt(f"A capsule is taken as {CAPSULE_G:g} g: see its label.", LIKELY)
        return amount * CAPSULE_G
    if unit == "dropper":
        found.doubt(f"A dropper is taken as {DROPPER_ML:g} mL.", LIKELY)
        return amount * DROPPER_ML * item.density_g_ml
    if unit in VAGUE:
        ml, grams = VAGUE[unit]
        return amount * (ml * item.density_g_ml if ml else grams or 0.0)
    kind, size = units.size(unit, kitchen)
    if kind == "mass":
        pours = item.group in ("liquid_oil", "antioxidant", "aromatic") or item.water_bearing
        if unit.startswith(("oz", "ounce")) and pours:
            return _ounces(item, amount, size, found, number, answers)
        return amount * size
    return _volume(item, amount * size, unit, form, found, number, answers)


def _ounces(item: Ingredient, amount: float, size: float, found: _Found, number: int, answers: Answers) -> float:
    """Ounces of a liquid: weight, unless the answer is fluid."""
    weight, fluid = amount * size, amount * units.size("fl_oz", "us")[1] * item.density_g_ml
    chosen = answers.get((number, "ounces"), "weight")
    options = (("weight", f"by weight, {weight:.1f} g"), ("fluid", f"fluid, {fluid:.1f} g"))
    if (number, "ounces") not in answers:
        found.doubt(
            f"Ounces of a liquid: taken as weight, {weight:.1f} g; fluid ounces would be {fluid:.1f} g.", LIKELY
        )
    found.asks.append(Ask("ounces", options, chosen))
    return fluid if chosen == "fluid" else weight


def _volume(item: Ingredient, ml: float, unit: str, form: str, found: _Found, number: int, answers: Answers) -> float:
    """A volume: by density when it pours, by bulk density when it lies loosely."""
    if item.bulk_density_g_ml is None:
        return ml * item.density_g_ml
    loose, melted = ml * item.bulk_density_g_ml, ml * item.density_g_ml
    options = [("loose", f"{item.bulk_form or 'loose'}, {loose:.1f} g"), ("melted", f"melted, {melted:.1f} g")]
    if item.role == Role.WAX:
        options.insert(1, ("grated", f"grated, {loose * GRATED:.1f} g"))
    if item.role == Role.EXTRA:
        options = options[:1]
    said = {"pellets": "loose"}.get(form, form)
    chosen = answers.get((number, "form"), said or "loose")
    if chosen not in dict(options):
        chosen = "loose"
    if not said and (number, "form") not in answers and len(options) > 1:
        other = f"melted it would be {melted:.1f} g"
        found.doubt(
            f"A volume of something solid: taken as {item.bulk_form or 'loose'}, {loose:.1f} g; {other}.", LIKELY
        )
    if len(options) > 1:
        found.asks.append(Ask("form", tuple(options), chosen))
    return {"loose": loose, "grated": loose * GRATED, "melted": melted}[chosen]


def _to_percent(lines: list[ReadLine]) -> tuple[list[ReadLine], list[str]]:
    """Parts and percent to grams, and every line's percent of the whole."""
    doubts = []
    amounts = {unit: [line for line in lines if line.unit == unit and line.amount] for unit in ("percent", "part")}
    weighed = [line for line in lines if line.grams is not None]
    percent = sum(line.amount or 0.0 for line in amounts["percent"])
    if amounts["percent"] and not weighed and not amounts["part"]:
        doubts += _percent_doubts(amounts["percent"], percent)
    # Percent beside weights mean percent of everything: the weights are the rest of the hundred.
    base = sum(line.grams or 0.0 for line in weighed)
    per_percent = 1.0
    if amounts["percent"] and base:
        doubts.append("Percent and weights are mixed: percent is taken as of the whole.")
        per_percent = base / (100 - percent) if percent < 100 else base / 100
    if amounts["part"] and weighed:
        doubts.append(f"Parts and measures are mixed: a part is taken as {PART_G:g} g.")
    grams_of = {"percent": per_percent, "part": PART_G}
    lines = [
        replace(line, grams=line.amount * grams_of[line.unit])
        if line.ingredient and line.amount is not None and line.unit in grams_of
        else line
        for line in lines
    ]
    total = sum(line.grams or 0.0 for line in lines)
    if not total:
        return lines, [*doubts, "No amount could be read."]
    seen: dict[Ingredient, int] = {}
    for line in lines:
        if line.ingredient:
            seen[line.ingredient] = seen.get(line.ingredient, 0) + 1
    for item in (item for item, count in seen.items() if count > 1):
        doubts.append(f"{item.name} stands here {seen[item]} times; in a formula it becomes one line.")
    return [replace(line, percent=None if line.grams is None else line.grams / total * 100) for line in lines], doubts


def _percent_doubts(lines: list[ReadLine], total: float) -> list[str]:
    """What to say when percent do not add to a hundred."""
    if abs(total - 100) < 0.005:
        return []
    extras = sum(line.amount or 0.0 for line in lines if line.ingredient and line.ingredient.role == Role.EXTRA)
    if extras and abs(total - extras - 100) < 0.005:
        return [f"The base adds to 100 % and {extras:g} % come on top: each is turned into percent of the whole."]
    return [f"These add to {total:g} %, not 100: each is turned into percent of the whole."]


def composition(reading: Reading) -> Composition:
    """Grams by ingredient, lines of the same one together; lines that were not understood are out."""
    grams: dict[Ingredient, Decimal] = {}
    for line in reading.lines:
        if line.ingredient and line.grams:
            grams[line.ingredient] = grams.get(line.ingredient, Decimal(0)) + Decimal(str(round(line.grams, 6)))
    return Composition(tuple(Line(item, amount) for item, amount in grams.items()))
