"""A sentence of a recipe: what its tokens say it is, and what it says of all the others."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

from balmcore import units
from balmcore.recipes.doubts import Answering
from balmcore.recipes.words.known import Meant
from balmcore.recipes.words.source import Source
from balmcore.recipes.words.tokens import AMOUNTS, NUMBERS, Token
from balmcore.recipes.words.vocabulary import KIND_WORDS, TOTAL_WORDS
from balmcore.tables import Tables


@dataclass(frozen=True)
class Sentence:
    """A stretch of the plain text that begins at ``start``, with its tokens."""

    raw: str
    start: int
    tokens: tuple[Token, ...]
    source: Source

    @cached_property
    def text(self) -> str:
        """Its words, without marks at its ends."""
        return self.original(0, len(self.raw))

    def original(self, start: int, end: int) -> str:
        """A stretch of it as it was written."""
        begin, stop = self.source.span(self.start + start, self.start + end)
        return " ".join(self.source.text[begin:stop].replace("|", " ").split()).strip()

    @property
    def names(self) -> list[Meant]:
        """What its names mean."""
        return [t.value for t in self.tokens if t.kind == "NAME" and isinstance(t.value, Meant)]

    def has(self, *kinds: str) -> bool:
        """Whether it holds a token of one of these kinds."""
        return any(token.kind in kinds for token in self.tokens)

    @property
    def measures(self) -> bool:
        """Whether it says an amount."""
        return self.has(*AMOUNTS, "BAD", "EQUAL", "REST")

    @property
    def noted(self) -> str:
        """The words that are kept as a note, empty for none."""
        kept = [token for token in self.tokens if token.kind == "NOTE"]
        return self.original(kept[0].start, kept[-1].end).strip(" ,;") if kept else ""

    @property
    def trifles(self) -> list[str]:
        """Links and prices, which are left out."""
        return [token.text for token in self.tokens if token.kind in ("LINK", "PRICE")]

    @property
    def says_nothing(self) -> bool:
        """Neither an amount nor a name that is known, or an amount of the method."""
        if not self.names:
            return self.is_method or not self.has(*NUMBERS, "BAD")
        return not self.measures and all(meant.ingredient is None and not meant.refused for meant in self.names)

    @property
    def is_method(self) -> bool:
        """Whether it says what to do."""
        return self.has("METHOD")

    @property
    def is_heading(self) -> bool:
        """Whether it may be the name of what it makes."""
        return self.has("COLON") or bool(KIND_WORDS & set(re.findall(r"[a-z]+", self.text.lower())))

    @property
    def mass_g(self) -> float | None:
        """The grams of the first weight it says to be of all, or says at all; None for none."""
        of_all = [token for token in self.tokens if token.kind == "TOTAL"]
        for pair in pairwise(of_all):
            kind, size = units.size(str(pair[1].value), "metric")
            if kind == "mass" and isinstance(pair[0].value, float):
                return pair[0].value * size
        for number, unit in pairwise(self.tokens):
            if number.kind == "NUM" and unit.kind == "UNIT":
                kind, size = units.size(str(unit.value), "metric")
                if kind == "mass":
                    return float(str(number.value)) * size
        return None

    @property
    def is_total(self) -> bool:
        """Whether it says how much it makes."""
        words = set(re.findall(r"[a-z]+", self.text.lower()))
        speaks = bool(words & TOTAL_WORDS) or self.has("TOGETHER")
        return self.has("TOTAL") or (
            speaks and not self.names and not self.has("PER", "NOTE") and self.mass_g is not None
        )


@dataclass(frozen=True)
class Kitchen:
    """Where a recipe is read: whose cups, which names, what was answered, and what it says of all its amounts."""

    name: str
    tables: Tables
    answering: Answering
    by: str = ""  # "weight" or "volume"
    unit: str = ""  # of numbers without one


def said_of_all(sentences: Sequence[Sentence], kitchen: Kitchen) -> Kitchen:
    """With what a sentence that names nothing says of everything: by weight or by volume, in grams."""
    for sentence in sentences:
        if any(meant.ingredient for meant in sentence.names):
            continue
        by = by_of(sentence, sentence.tokens, 1)
        unit = next((str(token.value) for token in sentence.tokens if token.kind == "UNIT"), "")
        counts = sentence.has(*NUMBERS)
        kitchen = replace(kitchen, by=kitchen.by or by, unit=kitchen.unit or ("" if counts else unit))
    return kitchen


def by_of(sentence: Sentence, inside: Sequence[Token], clauses_there: int) -> str:
    """Whether a clause, or the sentence at its end, says by weight or by volume."""
    last = sentence.tokens[-1] if sentence.tokens else None
    after_comma = len(sentence.tokens) > 1 and sentence.tokens[-2].kind in ("_COMMA", "LEFT", "FILLER")
    said = [token.kind for token in inside if token.kind in ("WEIGHT", "VOLUME")]
    if not said and last and last.kind in ("WEIGHT", "VOLUME") and after_comma and clauses_there > 1:
        said = [last.kind]
    return {"WEIGHT": "weight", "VOLUME": "volume"}[said[0]] if said else ""
