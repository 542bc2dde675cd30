"""A line of a recipe as tokens: numbers, measures, names, and words set aside on purpose.

Every character that says something belongs to a token. What is in no vocabulary and no name is a name
that is not known, which the reader doubts. What tokens mean beside one another is settled in
:mod:`balmcore.recipes.words.meanings`.
"""

import re
import unicodedata
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from balmcore import units
from balmcore.errors import Problem
from balmcore.recipes.words import names
from balmcore.recipes.words import vocabulary as words
from balmcore.recipes.words.known import Meant, clean
from balmcore.recipes.words.plants import LONGEST_FORM, form_at
from balmcore.tables import Tables

# Tokens that say nothing of what and how much, and are left out on purpose.
ASIDE = frozenset(
    {"PRAISE", "FORM", "FILLER", "METHOD", "COLON", "DASHED", "LEFT", "RIGHT", "EXTRA", "WEIGHT", "VOLUME"}
    | {"CELL", "BOUND", "BASED", "NOTE", "LINK", "PRICE", "MARK", "TOTAL"}
)
NUMBERS = frozenset({"NUM", "FRAC", "WNUM", "FRACWORD", "DOZEN"})
AMOUNTS = NUMBERS | {"VAGUE", "UNIT", "COUNT", "RATIO"}
_PIECE = re.compile(
    r"(?P<link>https?://\S+|www\.\S+|[\w.+-]+@[\w-]+\.\w+)"
    r"|(?P<price>[$€£¥]\s?\d+(?:[.,]\d{1,2})?|\d+(?:[.,]\d{1,2})?\s?[$€£¥])"
    r"|(?P<number>[0-9]+/[0-9]+|[0-9]+e[0-9]+|[0-9]+(?:[.,][0-9]+)*|(?<![\w.,])\.[0-9]+)"
    r"|(?P<word>[Cc][Oo][2₂](?!\w)|[^\W\d_]+(?:['’][^\W\d_]+)*)|(?P<mark>[^\w\s])|(?P<other>\S)"
)
_SAYS_NOTHING = frozenset(".…'\"“”„‘’`´!?°#@\\^¿¡®©™")
_LONGEST_PHRASE = max(len(phrase) for phrase in words.PHRASES)


@dataclass(frozen=True)
class Token:
    """A word or more of a line. ``kind`` is a terminal of the grammar, or one of those set aside;
    ``value`` what it means: a number, a measure, or what a name means."""

    kind: str
    text: str
    start: int
    end: int
    value: "float | str | Meant | None" = None

    @property
    def ingredient_is_unknown(self) -> bool:
        """Whether it is a name that means no ingredient."""
        return isinstance(self.value, Meant) and self.value.ingredient is None


def words_of(line: str, tables: Tables) -> list[Token]:
    """The tokens of a line by themselves, in order."""
    pieces = [
        Token(match.lastgroup or "other", match.group(), match.start(), match.end()) for match in _PIECE.finditer(line)
    ]
    counted = next((piece.start for piece in pieces if piece.kind == "number"), len(line))
    pieces = [
        piece for piece in pieces if piece.text not in _SAYS_NOTHING or (piece.text == "?" and counted < piece.start)
    ]
    return list(_known(pieces, line, tables))


def _known(pieces: list[Token], line: str, tables: Tables) -> Iterator[Token]:
    """Names first, the longest; then phrases; then single words, numbers and marks."""
    at = 0
    while at < len(pieces):
        length, token = _name(pieces, at, line, tables) or _phrase(pieces, at) or (1, _single(pieces, at))
        yield token
        at += length


def joined(run: list[Token], line: str) -> Token:
    """Several tokens as one stretch of the line."""
    return Token("", line[run[0].start : run[-1].end], run[0].start, run[-1].end)


def _name(pieces: list[Token], at: int, line: str, tables: Tables) -> tuple[int, Token] | None:
    """The longest run of words from here that is a name; marks inside it may be skipped, as in
    "shea butter, refined"."""
    if pieces[at].kind != "word":
        return None
    if found := form_at([_plain(piece) for piece in pieces[at : at + LONGEST_FORM]], tables):
        return found[0], replace(joined(pieces[at : at + found[0]], line), kind="NAME", value=found[1])
    run: list[int] = []
    for i in range(at, len(pieces)):
        if pieces[i].kind in ("word", "number"):
            if not names.may_be_of_a_name(pieces[i].text, tables):
                break
            run.append(i)
        elif pieces[i].text not in "()-–’," or len(run) >= names.LONGEST_NAME:
            break
    for length in range(min(len(run), names.LONGEST_NAME), 0, -1):
        inner = [pieces[i] for i in run[:length]]
        texts = tuple(word for piece in inner for word in clean(piece.text).split())
        meant = names.exactly(texts, tables)
        # Praise alone, or at the end, is no part of a name: "olive oil, good".
        shorter = names.exactly(texts[:-1], tables) if texts[-1] in words.PRAISE else None
        if meant is None or meant == shorter:
            continue
        whole = pieces[at : run[length - 1] + 1]
        return len(whole), replace(joined(whole, line), kind="NAME", value=meant)
    return None


def _plain(piece: Token) -> str:
    return clean(piece.text) if piece.kind == "word" else piece.text


def _phrase(pieces: list[Token], at: int) -> tuple[int, Token] | None:
    for length in range(_LONGEST_PHRASE, 0, -1):
        run = pieces[at : at + length]
        if len(run) == length and (meant := words.PHRASES.get(tuple(piece.text.lower() for piece in run))):
            text = " ".join(piece.text for piece in run)
            return length, Token(meant[0], text, run[0].start, run[-1].end, meant[1])
    return None


def _single(pieces: list[Token], at: int) -> Token:
    piece = pieces[at]
    if piece.kind == "number":
        return _number(pieces, at)
    if piece.kind == "mark":
        return _mark(pieces, at)
    if piece.kind in ("link", "price"):
        return replace(piece, kind=piece.kind.upper())
    word = piece.text.lower().replace("’", "'")
    if unit := _unit(pieces, at):
        return replace(piece, kind="UNIT", value=unit)
    for kind, known in _SINGLE:
        single = next((one for one in (word, word.removesuffix("s"), word.removesuffix("es")) if one in known), "")
        if single == word or (single and kind == "VAGUE"):
            return replace(piece, kind=kind, value=known[single])
    for kind, words_of_kind in _SETS:
        if word in words_of_kind:
            return replace(piece, kind=kind)
    return replace(piece, kind="UNKNOWN")


def _unit(pieces: list[Token], at: int) -> str:
    """The measure a word is, empty for none; single letters are one only after a number."""
    text, before = pieces[at].text, pieces[at - 1] if at else None
    counted = before is not None and (
        before.kind == "number"
        or before.text == CELL_MARK
        or before.text.lower() in words.FRACTIONS
        or before.text.lower() in words.HEAPED
    )
    if len(text) > 1:
        return words.UNITS.get(text.lower(), "")
    if text in ("g", "G"):
        return "g"
    return words.LETTERS.get(text, words.UNITS.get(text, "")) if counted else ""


CELL_MARK = "|"
_SINGLE: tuple[tuple[str, Mapping[str, float | str]], ...] = (
    ("COUNT", words.COUNTED),
    ("WNUM", words.NUMBERS),
    ("FRACWORD", words.FRACTIONS),
    ("HEAP", words.HEAPED),
    ("VAGUE", {word: word for word in words.VAGUE}),
    ("FORM", words.FORMS),
)
_SETS: tuple[tuple[str, Iterable[str]], ...] = (
    *((kind, (word,)) for word, kind in words.WORDS.items()),
    ("TIME", words.TIMES),
    ("CONTAINER", words.CONTAINERS),
    ("PRAISE", words.PRAISE),
    ("FILLER", words.FILLERS),
    ("METHOD", words.METHOD),
)


def _number(pieces: list[Token], at: int) -> Token:
    piece = pieces[at]
    kind = "FRAC" if "/" in piece.text else "NUM"
    if re.fullmatch(r"[1-9][0-9]{0,2}[.][0-9]00", piece.text):
        told = f"“{piece.text}” can be read in two ways: write thousands without a mark, as in 1000."
        return replace(piece, kind="BAD", value=told)
    try:
        return replace(piece, kind=kind, value=float(units.number(piece.text)))
    except Problem as problem:
        return replace(piece, kind="BAD", value=problem.sentence)


def _mark(pieces: list[Token], at: int) -> Token:
    piece = pieces[at]
    before = pieces[at - 1] if at else None
    after = pieces[at + 1] if at + 1 < len(pieces) else None
    between_numbers = bool(before and after and before.kind == after.kind == "number")
    if piece.text in "-–—‑" or piece.text == "−":
        mixed = after is not None and "/" in after.text and before is not None and "/" not in before.text  # 1-1/2
        return replace(piece, kind="DASH" if between_numbers and not mixed else "DASHED")
    if piece.text in ":∶":
        return replace(piece, kind="RATIO_MARK" if between_numbers else "COLON")
    if piece.text == "%":
        return replace(piece, kind="UNIT", value="percent")
    if unicodedata.category(piece.text) in ("So", "Sk", "Cf", "Mn", "Co", "Cn"):
        return replace(piece, kind="MARK")  # emoji and their joints
    return replace(piece, kind=words.MARKS.get(piece.text, "UNKNOWN"))
