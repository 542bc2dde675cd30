"""The words of the trade, each with the pages on which it stands: what ``?`` explains."""

import re
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

from balmcore.display import temp_words
from balmcore.tables.csv_rows import Row, read

_CELSIUS = re.compile(r"(\d+) °C")
FILE = Path(__file__).parent / "data" / "glossary.csv"


@dataclass(frozen=True)
class Word:
    """A word, what it means, and the apps (``pours``) and pages (``learning:learned``) on which it stands."""

    word: str
    meaning: str
    where: tuple[str, ...]


@cache
def glossary() -> tuple[Word, ...]:
    """All words, by the alphabet."""
    return tuple(read(FILE, _word).values())


def words_on(view_name: str) -> tuple[Word, ...]:
    """The words that stand on a page, by the name of its view, their temperatures in the maker's unit."""
    app = view_name.partition(":")[0]
    found = (word for word in glossary() if app in word.where or view_name in word.where)
    return tuple(replace(word, meaning=_CELSIUS.sub(_in_own_unit, word.meaning)) for word in found)


def _in_own_unit(found: re.Match[str]) -> str:
    return temp_words(float(found[1]))


def _word(row: Row) -> tuple[str, Word]:
    word = row.need("word")
    return word, Word(word, row.need("meaning"), row.words("where"))
