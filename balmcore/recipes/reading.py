"""A recipe as people write it, read into ingredients and grams, with its doubts.

One law: every word is accounted for. It is used; or it is left out on purpose (praise, method,
headings), which is said; or it is a doubt, and a doubtful line is never surer than a half.
What was answered, or is always meant, settles a doubt; what is still open says what is taken.
"""

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from balmcore import units
from balmcore.composition import Composition, Line
from balmcore.errors import Problem
from balmcore.recipes.doubts import Answering, Answers
from balmcore.recipes.grammar.sentences import Kitchen, Sentence, said_of_all
from balmcore.recipes.lines import ReadLine
from balmcore.recipes.marks import LEFT, Mark, marks_of
from balmcore.recipes.proportions import to_percent
from balmcore.recipes.understanding import lines_of
from balmcore.recipes.wanted import Wanted, said_total, says_wish, wanted
from balmcore.recipes.words import vocabulary
from balmcore.recipes.words.known import Meant
from balmcore.recipes.words.meanings import tokens
from balmcore.recipes.words.rows import Row, rows_of
from balmcore.recipes.words.source import Source, source_of
from balmcore.recipes.words.tokens import NUMBERS, Token
from balmcore.recipes.words.vocabulary import KIND_WORDS, NO_NAMES
from balmcore.tables import Ingredient, Tables, shipped

LONGEST_TEXT = 10_000  # letters: a long page
LONGEST_TITLE = 60
MOST_LINES = 60  # beyond any recipe
MANY_TIMES = 3  # an ingredient that stands so often is in several recipes


@dataclass(frozen=True)
class RecipeReading:
    """A whole recipe: its lines, the doubts about the whole, what was left out on purpose, what is kept as a note
    (conditions, denials, steps), what it wishes, its grams where it says them, and what became of its words."""

    lines: tuple[ReadLine, ...]
    doubts: tuple[str, ...]
    left_out: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    wishes: Wanted = field(default_factory=Wanted)
    total_g: float | None = None
    marks: tuple[Mark, ...] = ()

    @property
    def title(self) -> str:
        """What the recipe is called: a heading that says what it makes, else the one that it begins with; empty where
        there is none."""
        first = next((text for text in self.left_out if KIND_WORDS & _words(text)), "")
        if not first and self.left_out and self.marks and self.marks[0].what == LEFT:
            first = self.left_out[0]
            first = "" if _words(first) & NO_NAMES or first[:1].isdigit() else first
        return re.sub(r"\(.*?\)", "", first).strip(" :.!") if len(first) <= LONGEST_TITLE else ""

    @property
    def open_doubts(self) -> int:
        """How many questions are not answered yet."""
        return sum(len(line.doubts) for line in self.lines if not line.is_out)


def _words(text: str) -> set[str]:
    return set(re.findall(r"[a-z]+", re.sub(r"\(.*?\)", "", text.lower())))


def read(
    text: str,
    kitchen: str = "metric",
    answers: Answers | None = None,
    tables: Tables | None = None,
    always: Answers | None = None,
) -> RecipeReading:
    """Read a recipe. ``kitchen`` is us, metric or au; ``answers`` settle doubts by their keys, ``always`` by what the
    maker always means; names are those of the shipped tables or of ``tables``. Raises :class:`Problem` for an unknown
    kitchen or an empty text."""
    if kitchen not in units.KITCHENS:
        raise Problem(f"The kitchen should be one of {', '.join(units.KITCHENS)}.", "kitchen")
    source = source_of(text[:LONGEST_TEXT])
    rows = rows_of(source)
    if not rows:
        raise Problem("There is nothing to read: paste a recipe, one ingredient a line.", "text")
    known = tables or shipped()
    answering = Answering(answers or {}, always or {})
    found = _Found(source, Kitchen(kitchen, known, answering))
    found.take(rows[:MOST_LINES])
    together = to_percent(found.lines[:MOST_LINES], said_total(found.totals))
    cut = len(rows) > MOST_LINES or len(found.lines) > MOST_LINES
    doubts = [
        *([f"Only the first {LONGEST_TEXT} characters were read."] if len(text) > LONGEST_TEXT else []),
        *([f"Only the first {MOST_LINES} lines were read."] if cut else []),
        *_of_the_text(source, together.lines),
        *together.doubts,
    ]
    return RecipeReading(
        tuple(together.lines),
        tuple(dict.fromkeys(doubts)),
        tuple(found.left_out),
        tuple(found.notes),
        wanted(source.plain),
        together.total_g,
        marks_of(source, found.sentences, together.lines),
    )


class _Found:
    """What is found in the sentences of a text, one after another."""

    def __init__(self, source: Source, kitchen: Kitchen) -> None:
        self.source, self.kitchen = source, kitchen
        self.lines: list[ReadLine] = []
        self.left_out: list[str] = []
        self.notes: list[str] = []
        self.totals: list[Sentence] = []
        self.sentences: list[Sentence] = []
        self._keys: Counter[str] = Counter()

    def take(self, rows: Sequence[Row]) -> None:
        """Read all of them: the list first, then the method, whose names are no new ingredients."""
        all_of_them = [part for row in rows for part in _headed(row, self.source, self.kitchen.tables)]
        self.sentences = all_of_them
        self.kitchen = said_of_all(all_of_them, self.kitchen)
        later: list[Sentence] = []
        for sentence in all_of_them:
            self.notes += [sentence.noted] if sentence.noted else []
            self.totals += [sentence] if sentence.is_total else []
            if sentence.is_total and not sentence.names:
                self.left_out.append(sentence.text)
            elif sentence.says_nothing:
                self._leave(sentence)
            elif sentence.is_method or (not sentence.measures and sentence.is_heading):
                later.append(sentence)
            elif len(self.lines) <= MOST_LINES:
                self._read(sentence)
        listed = {line.ingredient for line in self.lines if line.amount is not None}
        for sentence in later:
            if self._is_a_step(sentence, listed):
                (self.notes if sentence.measures else self.left_out).append(sentence.text)
            else:
                self._read(sentence)

    def _is_a_step(self, sentence: Sentence, listed: set[Ingredient | None]) -> bool:
        """Whether what it names was listed before, so that it only says what to do with it."""
        known = [meant.ingredient for meant in sentence.names if meant.ingredient]
        if sentence.measures:
            return bool(listed) and all(item in listed for item in known)
        there = {line.ingredient for line in self.lines if line.amount is not None}
        return all(item in there for item in known)

    def _leave(self, sentence: Sentence) -> None:
        if says_wish(sentence.text):
            self.notes.append(sentence.text)
        elif sentence.text and not sentence.noted:
            self.left_out.append(sentence.text)

    def _read(self, sentence: Sentence) -> None:
        self.lines += lines_of(sentence, self.kitchen, len(self.lines), self._keys)
        self.left_out += sentence.trifles


def _headed(row: Row, source: Source, tables: Tables) -> list[Sentence]:
    """A sentence, after the heading that stood before its colon."""
    raw = source.plain[row.start : row.end]
    found = tokens(raw, tables, row.units)
    if row.is_head:
        return [Sentence(raw, row.start, tuple(replace(token, kind="HEADING") for token in found), source)]
    whole = Sentence(raw, row.start, tuple(found), source)
    at = next((i for i, token in enumerate(found) if token.kind == "COLON"), None)
    measured = NUMBERS | {"REST", "EXTRA", "VAGUE", "COUNT", "RATIO"}
    if at is None or any(token.kind in measured for token in found[:at]):
        return [whole]
    before, after = found[:at], found[at + 1 :]
    spoken = set(re.findall(r"[a-z']+", raw[: found[at].start].lower()))
    is_heading = spoken <= vocabulary.HEADINGS | vocabulary.FILLERS and not any(t.kind == "NOTE" for t in before)
    says_nothing = all(not isinstance(token.value, Meant) or token.value.ingredient is None for token in before)
    is_group = says_nothing and bool(after) and any(token.kind == "NAME" for token in after)
    if not is_heading and not (says_nothing and not after) and not is_group:
        return [whole]
    first = after[: next((i for i, token in enumerate(after) if token.kind == "_COMMA"), len(after))]
    if after and not any(token.kind == "NAME" for token in first) and not any(t.kind == "EACH" for t in first):
        return [whole]
    offset = found[at].end
    heading = Sentence(raw[:offset], row.start, tuple(_as_heading(t) for t in found[: at + 1]), source)
    rest = raw[offset:]
    if not rest.strip():
        return [heading]
    return [heading, Sentence(rest, row.start + offset, tuple(tokens(rest, tables, row.units)), source)]


def _as_heading(token: Token) -> Token:
    """A token of a heading; a measure in one is that of the numbers below it."""
    return token if token.kind in ("UNIT", "WEIGHT", "VOLUME") else replace(token, kind="HEADING")


def _of_the_text(source: Source, lines: Sequence[ReadLine]) -> list[str]:
    """What is to be said of a text as a whole: that it is no recipe, or several, or in other words than ours."""
    told = ["It was a page's own code: its tags were left out."] if source.has_tags else []
    letters = [char for char in source.plain if char.isalpha()]
    if letters and sum(char > "\u024f" for char in letters) > len(letters) / 2:
        return [*told, "Most of it is in another script: names are read in Latin letters, and the words of English."]
    unknown = [line for line in lines if line.ingredient is None and not line.refused]
    if len(lines) > 1 and len(unknown) > 0.6 * len(lines):
        told.append("Most of it was not understood: is it a recipe, in English, one ingredient a line?")
    seen = Counter(line.ingredient for line in lines if line.ingredient)
    if len(lines) > 12 and seen and seen.most_common(1)[0][1] >= MANY_TIMES:
        told.append("There seem to be several recipes here, read as one: paste one at a time.")
    return told


def composition(reading: RecipeReading) -> Composition:
    """Grams by ingredient, lines of the same one together; lines that were not understood or are out are not in it."""
    grams: dict[Ingredient, Decimal] = {}
    for line in reading.lines:
        if line.is_counted and line.ingredient:
            amount = Decimal(str(round(line.grams or 0.0, 6)))
            grams[line.ingredient] = grams.get(line.ingredient, Decimal(0)) + amount
    return Composition(tuple(Line(item, amount) for item, amount in grams.items()))
