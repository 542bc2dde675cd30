"""A recipe as people write it, read into ingredients and grams, with its doubts.

One law: every word is accounted for. It is used; or it is left out on purpose (praise, method,
headings), which is said; or it is a doubt, and a doubtful line is never surer than a half.
A volume becomes grams by the ingredient's density, or by its bulk density where it lies loosely
in a cup. What can be meant in two ways shows the other figure, and can be answered.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from balmcore import units
from balmcore.composition import Composition, Line
from balmcore.errors import Problem
from balmcore.recipes import vocabulary
from balmcore.recipes.clauses import Clause, Sum, clauses
from balmcore.recipes.measures import (
    DOUBTED,
    LIKELY,
    UNSURE,
    Answers,
    Ask,
    Measured,
    form_of,
    grams_of,
    value_of,
)  # fmt: skip
from balmcore.recipes.names import Meant
from balmcore.recipes.proportions import OUTSIDE, ReadLine, to_percent
from balmcore.recipes.tokens import AMOUNTS, Token, tokens
from balmcore.tables import Ingredient, Tables, shipped
from balmcore.wording import listed

LONGEST_TEXT = 10_000  # letters: a long page
LONGEST_LINE = 600  # letters: a sentence's worth
MOST_LINES = 60  # beyond any recipe
_JOINTS = re.compile(r"(?:\s+(?:and|with|plus|to|or|then))+$", re.IGNORECASE)
_KIND_WORDS = frozenset(["salve", "balm", "bar", "bars", "ointment", "stick", "recipe", "lotion"])


@dataclass(frozen=True)
class RecipeReading:
    """A whole recipe: its lines, the doubts about the whole, and what was left out on purpose."""

    lines: tuple[ReadLine, ...]
    doubts: tuple[str, ...]
    left_out: tuple[str, ...] = ()


@dataclass(frozen=True)
class _Sentence:
    """A sentence with its tokens: a heading before its colon is off."""

    text: str
    tokens: tuple[Token, ...]

    @property
    def names(self) -> list[Meant]:
        return [token.value for token in self.tokens if isinstance(token.value, Meant)]

    def has(self, *kinds: str) -> bool:
        return any(token.kind in kinds for token in self.tokens)

    @property
    def measures(self) -> bool:
        return self.has(*AMOUNTS, "BAD", "EQUAL")

    @property
    def says_nothing(self) -> bool:
        """Neither an amount nor a name that is known, or an amount of the method."""
        if not self.names:
            return self.is_method or not self.has("NUM", "FRAC", "WNUM", "BAD")
        return not self.measures and all(meant.ingredient is None for meant in self.names)

    @property
    def is_method(self) -> bool:
        return self.has("METHOD")

    @property
    def is_heading(self) -> bool:
        return self.has("COLON") or bool(_KIND_WORDS & set(re.findall(r"[a-z]+", self.text.lower())))


def read(
    text: str, kitchen: str = "metric", answers: Answers | None = None, tables: Tables | None = None
) -> RecipeReading:
    """Read a recipe. ``kitchen`` is us, metric or au; ``answers`` settles doubts by line number and
    the name of the ask; names are those of the shipped tables or of ``tables``. Raises
    :class:`Problem` for an unknown kitchen or an empty text."""
    if kitchen not in units.KITCHENS:
        raise Problem(f"The kitchen should be one of {', '.join(units.KITCHENS)}.", "kitchen")
    doubts, known = [], tables or shipped()
    if len(text) > LONGEST_TEXT:
        text = text[:LONGEST_TEXT]
        doubts.append(f"Only the first {LONGEST_TEXT} characters were read.")
    sentences = split(text)
    if not sentences:
        raise Problem("There is nothing to read: paste a recipe, one ingredient a line.", "text")
    if len(sentences) > MOST_LINES:
        sentences = sentences[:MOST_LINES]
        doubts.append(f"Only the first {MOST_LINES} lines were read.")
    lines, left_out = _read_all(sentences, kitchen, answers or {}, known)
    if len(lines) > MOST_LINES:
        lines = lines[:MOST_LINES]
        doubts.append(f"Only the first {MOST_LINES} lines were read.")
    lines, more = to_percent(lines)
    return RecipeReading(tuple(lines), (*dict.fromkeys(doubts), *more), tuple(left_out))


def _read_all(
    sentences: Sequence[str], kitchen: str, answers: Answers, tables: Tables
) -> tuple[list[ReadLine], list[str]]:
    """The lines of all sentences, and what was left out on purpose."""
    by = _said_of_all(sentences, tables)
    lines: list[ReadLine] = []
    named_only: list[_Sentence] = []
    left_out: list[str] = []
    for raw in sentences:
        sentence, heading = _headed(raw, tables)
        left_out += [heading] if heading else []
        if sentence.says_nothing:
            left_out += [sentence.text] if sentence.text else []
        elif not sentence.measures and (sentence.is_method or sentence.is_heading):
            named_only.append(sentence)
        else:
            lines += _lines(sentence, kitchen, len(lines), answers, tables, by)
    measured = {line.ingredient for line in lines if line.amount is not None}
    for sentence in named_only:  # a name in the method is no new ingredient, if it was measured elsewhere
        if all(meant.ingredient in measured for meant in sentence.names if meant.ingredient):
            left_out.append(sentence.text)
        else:
            lines += _lines(sentence, kitchen, len(lines), answers, tables, by)
    return lines, left_out


def split(text: str) -> list[str]:
    """The sentences of a text: its lines, and what a full stop ends inside one; bullets are off."""
    parts: list[str] = []
    for raw in re.split(r"[\n\r;•·]+|(?<=[a-z)]{3})(?<!prox)(?<!tbsp)(?<!tsp)\.\s+(?=[A-Z])", units.spread(text)):
        line = re.sub(r"^\s*(?:[-*–—]+|[0-9]{1,2}[.)]\s)\s*", "", raw)
        line = " ".join(line.split())
        while len(line) > LONGEST_LINE:
            cut = line.rfind(" ", 1, LONGEST_LINE)
            cut = cut if cut > 0 else LONGEST_LINE
            parts.append(line[:cut])
            line = line[cut:].strip()
        parts.append(line)
    return [part for part in parts if re.search(r"\w", part)]


def _headed(raw: str, tables: Tables) -> tuple[_Sentence, str]:
    """A sentence, and the heading that stood before its colon."""
    found = tokens(raw, tables)
    at = next((i for i, token in enumerate(found) if token.kind == "COLON"), None)
    if at is None or any(token.kind in AMOUNTS or token.kind == "EXTRA" for token in found[:at]):
        return _Sentence(raw, tuple(found)), ""
    before, after = found[:at], found[at + 1 :]
    spoken = set(re.findall(r"[a-z']+", raw[: found[at].start].lower()))
    says_nothing = all(not isinstance(token.value, Meant) or token.value.ingredient is None for token in before)
    if not (says_nothing or spoken <= vocabulary.HEADINGS | vocabulary.FILLERS):
        return _Sentence(raw, tuple(found)), ""
    if after and not any(token.kind == "NAME" for token in after):
        return _Sentence(raw, tuple(found)), ""
    offset = found[at].end
    rest = raw[offset:].strip()
    return _Sentence(rest, tuple(tokens(rest, tables)) if rest else ()), raw[:offset].strip()


def _said_of_all(sentences: Sequence[str], tables: Tables) -> str:
    """By weight or by volume, where a sentence that names nothing says so of everything."""
    for raw in sentences:
        if re.search(r"\b(?:weight|volume)\b", raw, re.IGNORECASE):
            found = _Sentence(raw, tuple(tokens(raw, tables)))
            if not any(meant.ingredient for meant in found.names):
                return _by(found, found.tokens, 1)
    return ""


def _lines(sentence: _Sentence, kitchen: str, first: int, answers: Answers, tables: Tables, by: str) -> list[ReadLine]:
    found = clauses(sentence.tokens)
    spans = _spans(sentence, found)
    in_parts = all(quantity.unit == "part" for clause in found for way in clause.amounts for quantity in way)
    made = []
    for number, (clause, (start, end)) in enumerate(zip(found, spans, strict=True), first):
        inside = [token for token in sentence.tokens if start <= token.start < end]
        measured = Measured(
            number,
            answers,
            kitchen,
            form_of([token.text for token in inside if token.kind == "FORM"]),
            _by(sentence, sentence.tokens if in_parts else inside, len(found)) or by,
        )
        text = _JOINTS.sub("", sentence.text[start:end].strip(" ,&+")).strip(" ,&+")
        made.append(_line(text or sentence.text, clause, inside, _before(sentence, start), measured, tables))
    return made


def _spans(sentence: _Sentence, found: Sequence[Clause]) -> list[tuple[int, int]]:
    """From where to where of the text each clause speaks, with the words that were set aside."""
    starts = [_with_extra(sentence, clause.tokens[0].start) if clause.tokens else 0 for clause in found]
    if len(set(starts)) < len(starts):
        return [(0, len(sentence.text))] * len(found)
    return [
        (0 if number == 0 else start, starts[number + 1] if number + 1 < len(starts) else len(sentence.text))
        for number, start in enumerate(starts)
    ]


def _with_extra(sentence: _Sentence, start: int) -> int:
    """Where a clause begins with the "optional" that leads it: ``…, optional 5 g lanolin``."""
    earlier = [token for token in sentence.tokens if token.start < start]
    if len(earlier) > 1 and earlier[-1].kind == "EXTRA" and earlier[-2].kind in ("_COMMA", "_AND", "_PLUS"):
        return earlier[-1].start
    return start


def _before(sentence: _Sentence, start: int) -> str:
    """The kind of the token just before a clause, where it parts it from another or leads the sentence."""
    earlier = [token for token in sentence.tokens if token.start < start]
    leading = sentence.tokens[0].kind if sentence.tokens and start == 0 else ""
    return earlier[-1].kind if earlier else leading


def _by(sentence: _Sentence, inside: Sequence[Token], clauses_there: int) -> str:
    """Whether a clause, or the sentence at its end, says by weight or by volume."""
    last = sentence.tokens[-1] if sentence.tokens else None
    after_comma = len(sentence.tokens) > 1 and sentence.tokens[-2].kind in ("_COMMA", "LEFT", "FILLER")
    said = [token.kind for token in inside if token.kind in ("WEIGHT", "VOLUME")]
    if not said and last and last.kind in ("WEIGHT", "VOLUME") and after_comma and clauses_there > 1:
        said = [last.kind]
    return {"WEIGHT": "weight", "VOLUME": "volume"}[said[0]] if said else ""


def _line(text: str, clause: Clause, inside: Sequence[Token], before: str, found: Measured, tables: Tables) -> ReadLine:
    """One clause as a line."""
    item = _ingredient(clause, found, tables)
    if not clause.derived:
        bad = [str(token.value) for token in inside if token.kind == "BAD"]
        found.doubt(listed(bad) if bad else f"Not understood as a whole: “{text[:80]}”. Check it.", UNSURE)
    if any(token.text.lower() == "few" for token in inside):
        found.doubt("“A few” is taken as 3.", DOUBTED)
    amounts, unit, amount = _share(clause, item, found)
    grams = None
    if not clause.amounts:
        found.doubt("There is no amount here.", UNSURE)
    elif item and unit not in ("part", "percent"):
        grams = grams_of(amounts, item, found)
        if grams is not None and clause.of_total is not None:
            grams *= clause.of_total
    elif unit in ("part", "percent") and amount is not None and clause.of_total is not None:
        amount *= clause.of_total
    if unit == "part" and found.by == "volume" and item and amount is not None:
        amount *= item.density_g_ml
    extra = next((str(token.value) for token in inside if token.kind == "EXTRA"), "")
    if unit == "percent" and (extra or before == "_PLUS"):
        unit = OUTSIDE
    elif extra and amount is not None:
        found.doubt("It is said to be optional or extra: it is counted.", LIKELY)
    return ReadLine(
        text,
        item,
        grams,
        None,
        round(found.sure, 2),
        tuple(found.doubts),
        tuple(found.asks),
        unit,
        amount,
        found.number,
    )


def _share(clause: Clause, item: Ingredient | None, found: Measured) -> tuple[tuple[Sum, ...], str, float | None]:
    """The amounts to weigh by, and unit and number of the first; a share beside a measure gives way to it."""
    shares = [way for way in clause.amounts if any(q.unit in ("part", "percent") for q in way)]
    measures = tuple(way for way in clause.amounts if way not in shares)
    if shares and measures:
        found.doubt("A share stands beside a measure: the measure is taken.", LIKELY)
    ways = measures or clause.amounts
    if not ways:
        return (), "", None
    first = ways[0][0]
    if ways is not measures and len({q.unit for q in ways[0]}) > 1:
        found.doubt("A share and a measure cannot be added.", 0.1)
        return (), first.unit, None
    amount = sum(q.sign * value_of(q, found) for q in ways[0] if q.unit == first.unit)
    return ways, first.unit, amount


def _ingredient(clause: Clause, found: Measured, tables: Tables) -> Ingredient | None:
    """The ingredient a clause means, or None, with the nearest as an ask."""
    meant = clause.meant
    if (told := found.answers.get((found.number, "ingredient"), "")) in tables.ingredients:
        return tables.ingredients[told]
    if meant.why:
        found.doubt(meant.why, DOUBTED if meant.ingredient else 0.1)
    options = tuple((key, tables.ingredient(key).name) for key in meant.near)
    if meant.ingredient and len(options) > 1:
        found.asks.append(Ask("ingredient", options, meant.ingredient.key))
    elif options and meant.ingredient is None:
        found.asks.append(Ask("ingredient", (("", "leave it out"), *options), ""))
    return meant.ingredient


def composition(reading: RecipeReading) -> Composition:
    """Grams by ingredient, lines of the same one together; lines that were not understood are out."""
    grams: dict[Ingredient, Decimal] = {}
    for line in reading.lines:
        if line.ingredient and line.grams:
            grams[line.ingredient] = grams.get(line.ingredient, Decimal(0)) + Decimal(str(round(line.grams, 6)))
    return Composition(tuple(Line(item, amount) for item, amount in grams.items()))
