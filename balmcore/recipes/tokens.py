"""A line of a recipe as tokens: numbers, measures, names, and words set aside on purpose.

Every character that says something belongs to a token. What is in no vocabulary and no name is a name
that is not known, which the reader doubts.
"""

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from balmcore import units
from balmcore.errors import Problem
from balmcore.recipes import names
from balmcore.recipes import vocabulary as words
from balmcore.recipes.names import Meant
from balmcore.tables import Tables

# Tokens that say nothing of what and how much, and are left out on purpose.
ASIDE = frozenset(
    {"PRAISE", "FORM", "FILLER", "METHOD", "COLON", "DASHED", "LEFT", "RIGHT", "EXTRA", "WEIGHT", "VOLUME"}
)
AMOUNTS = frozenset({"NUM", "FRAC", "WNUM", "FRACWORD", "DOZEN", "VAGUE", "UNIT", "COUNT", "RATIO"})
_PIECE = re.compile(
    r"(?P<number>[0-9]+/[0-9]+|[0-9]+e[0-9]+|[0-9]*[.,][0-9]+|[0-9]+(?:[.,][0-9]+)*)"
    r"|(?P<word>[^\W\d_]+(?:['’][^\W\d_]+)*)|(?P<mark>[^\w\s])|(?P<other>\S)"
)
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


def tokens(line: str, tables: Tables) -> list[Token]:
    """The tokens of a line, in order."""
    pieces = [
        Token(match.lastgroup or "other", match.group(), match.start(), match.end()) for match in _PIECE.finditer(line)
    ]
    pieces = [piece for piece in pieces if piece.text not in (".", "…", "'", '"', "“", "”", "!", "?", "°", "#", "@")]
    found = list(_known(pieces, line, tables))
    for step in (_ratios, _method_numbers, _articles, _alternatives):
        found = step(found)
    return _unknown(found, line, tables)


def _known(pieces: list[Token], line: str, tables: Tables) -> Iterator[Token]:
    """Names first, the longest; then phrases; then single words, numbers and marks."""
    at = 0
    while at < len(pieces):
        length, token = _name(pieces, at, line, tables) or _phrase(pieces, at) or (1, _single(pieces, at, line))
        yield token
        at += length


def _joined(pieces: list[Token], line: str) -> Token:
    return Token("", line[pieces[0].start : pieces[-1].end], pieces[0].start, pieces[-1].end)


def _name(pieces: list[Token], at: int, line: str, tables: Tables) -> tuple[int, Token] | None:
    """The longest run of words from here that is a name; marks inside it may be skipped, as in
    "shea butter, refined"."""
    if pieces[at].kind != "word":
        return None
    run: list[int] = []
    for i in range(at, len(pieces)):
        if pieces[i].kind in ("word", "number"):
            run.append(i)
        elif pieces[i].text not in "()-–’," or len(run) >= names.LONGEST_NAME:
            break
    for length in range(min(len(run), names.LONGEST_NAME), 0, -1):
        inner = [pieces[i] for i in run[:length]]
        texts = tuple(word for piece in inner for word in names.clean(piece.text).split())
        meant = names.exactly(texts, tables)
        # Praise alone, or at the end, is no part of a name: "olive oil, good".
        shorter = names.exactly(texts[:-1], tables) if texts[-1] in words.PRAISE else None
        if meant is None or meant == shorter:
            continue
        whole = pieces[at : run[length - 1] + 1]
        return len(whole), replace(_joined(whole, line), kind="NAME", value=meant)
    return None


def _phrase(pieces: list[Token], at: int) -> tuple[int, Token] | None:
    for length in range(_LONGEST_PHRASE, 0, -1):
        run = pieces[at : at + length]
        if len(run) == length and (meant := words.PHRASES.get(tuple(piece.text.lower() for piece in run))):
            text = " ".join(piece.text for piece in run)
            return length, Token(meant[0], text, run[0].start, run[-1].end, meant[1])
    return None


def _single(pieces: list[Token], at: int, line: str) -> Token:
    piece = pieces[at]
    if piece.kind == "number":
        return _number(piece)
    if piece.kind == "mark":
        return _mark(pieces, at, line)
    word = piece.text.lower().replace("’", "'")
    if unit := _unit(pieces, at):
        return replace(piece, kind="UNIT", value=unit)
    for kind, known in _SINGLE:
        if word in known or (kind == "VAGUE" and word.removesuffix("s") in known):
            return replace(piece, kind=kind, value=known[word if word in known else word.removesuffix("s")])
    for kind, words_of in _SETS:
        if word in words_of:
            return replace(piece, kind=kind)
    return replace(piece, kind="UNKNOWN")


def _unit(pieces: list[Token], at: int) -> str:
    """The measure a word is, empty for none; single letters are one only after a number."""
    text, before = pieces[at].text, pieces[at - 1] if at else None
    counted = before is not None and (before.kind == "number" or before.text.lower() in words.FRACTIONS)
    if len(text) > 1:
        return words.UNITS.get(text.lower(), "")
    if text in ("g", "G"):
        return "g"
    return words.LETTERS.get(text, words.UNITS.get(text, "")) if counted else ""


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


def _number(piece: Token) -> Token:
    kind = "FRAC" if "/" in piece.text else "NUM"
    if re.fullmatch(r"[1-9][0-9]{0,2}[.][0-9]00", piece.text):
        told = f"“{piece.text}” can be read in two ways: write thousands without a mark, as in 1000."
        return replace(piece, kind="BAD", value=told)
    try:
        return replace(piece, kind=kind, value=float(units.number(piece.text)))
    except Problem as problem:
        return replace(piece, kind="BAD", value=problem.sentence)


def _mark(pieces: list[Token], at: int, line: str) -> Token:
    piece = pieces[at]
    before = pieces[at - 1] if at else None
    after = pieces[at + 1] if at + 1 < len(pieces) else None
    between_numbers = bool(before and after and before.kind == after.kind == "number")
    if piece.text in "-–—‑" or piece.text == "−":
        if between_numbers or (before and before.kind in ("number", "word") and after and after.kind == "number"):
            mixed = after is not None and "/" in after.text and before is not None and "/" not in before.text  # 1-1/2
            return replace(piece, kind="DASH" if between_numbers and not mixed else "DASHED")
        return replace(piece, kind="DASHED")
    if piece.text == ":":
        return replace(piece, kind="RATIO_MARK" if between_numbers else "COLON")
    if piece.text == "%":
        return replace(piece, kind="UNIT", value="percent")
    return replace(piece, kind=words.MARKS.get(piece.text, "UNKNOWN"))


def _merged(run: list[Token], kind: str, value: "float | str | Meant | None" = None) -> Token:
    return Token(kind, " ".join(token.text for token in run), run[0].start, run[-1].end, value)


def _ratios(found: list[Token]) -> list[Token]:
    """``1:4``, ``50/50`` and ``ratio of 1 to 4`` as one token whose value is ``1:4``."""
    made: list[Token] = []
    at = 0
    while at < len(found):
        token, end = found[at], at + 1
        said = token.kind == "RATIO_WORD"
        start = at + 1 if said else at
        marks = ("RATIO_MARK", "TO") if said else ("RATIO_MARK",)
        end = start
        parts: list[str] = []
        while end < len(found) and found[end].kind == "NUM":
            parts.append(found[end].text)
            end += 1
            if end + 1 < len(found) and found[end].kind in marks and found[end + 1].kind == "NUM":
                end += 1
            else:
                break
        if len(parts) > 1:
            made.append(_merged(found[at:end], "RATIO", ":".join(parts)))
            at = end
            continue
        halves = token.text.split("/")
        measured = at + 1 < len(found) and found[at + 1].kind in ("UNIT", "COUNT", "HEAP")
        if token.kind == "FRAC" and not measured and len(halves) == 2 and float(halves[0]) + float(halves[1]) == 100:
            token = replace(token, kind="RATIO", value=":".join(halves))
        made.append(replace(token, kind="METHOD") if said else token)
        at += 1
    return made


def _method_numbers(found: list[Token]) -> list[Token]:
    """Times, temperatures and the containers that are filled: numbers of the method, not of an ingredient."""
    made: list[Token] = []
    for token in found:
        letters = (token.kind == "UNKNOWN" and token.text in ("F", "C")) or (token.text == "C" and token.value == "cup")
        hot = letters and made and made[-1].kind == "NUM" and float(str(made[-1].value)) >= 30
        if token.kind in ("TIME", "CONTAINER") or hot:
            kinds = {"NUM", "FRAC", "WNUM", "FRACWORD", "A", "DASH", "TO", "OR", "DOZEN", "TIMES"}
            kinds |= {"UNIT"} if token.kind == "CONTAINER" else set()
            counted: list[Token] = []
            while made and made[-1].kind in kinds:
                counted.insert(0, made.pop())
            while counted and counted[0].kind in ("TO", "OR", "UNIT"):
                made.append(counted.pop(0))
            token = _merged([*counted, token], "METHOD")
        made.append(token)
    return made


def _articles(found: list[Token]) -> list[Token]:
    """``a`` counts one before a measure, and is an article before anything else."""
    made = []
    for at, token in enumerate(found):
        if token.kind == "A":
            after = next((t.kind for t in found[at + 1 :] if t.kind not in ("FILLER", "PRAISE")), "")
            if after not in ("UNIT", "COUNT", "FRACWORD", "WNUM", "DOZEN", "VAGUE", "HEAP"):
                token = replace(token, kind="FILLER")
        made.append(token)
    return made


def _alternatives(found: list[Token]) -> list[Token]:
    """A parenthesis that opens on an amount says the same in another measure."""
    made = []
    for at, token in enumerate(found):
        if token.kind == "LEFT":
            after = next((t.kind for t in found[at + 1 :] if t.kind not in ("FILLER", "LEFT")), "")
            nested = at > 0 and found[at - 1].kind == "LEFT"
            if after in ("NUM", "FRAC", "WNUM", "FRACWORD", "A") and not nested and at > 0:
                token = replace(token, kind="ALT")
        made.append(token)
    return made


def _unknown(found: list[Token], line: str, tables: Tables) -> list[Token]:
    """Runs with a word that is not known: the likest name to the run, or nothing, and always doubted."""
    made: list[Token] = []
    at = 0
    while at < len(found):
        end = at
        while end < len(found) and found[end].kind in ("UNKNOWN", "NAME", "PRAISE", "FORM"):
            end += 1
        run = found[at:end]
        while run and run[-1].kind in ("PRAISE", "FORM"):
            run.pop()
        while run and run[0].kind in ("PRAISE", "FORM"):
            made.append(run.pop(0))
            at += 1
        if not any(token.kind == "UNKNOWN" for token in run):
            made += run or found[at : at + 1]
            at += len(run) or 1
            continue
        made.append(_guess(run, line, tables))
        at += len(run)
    return made


def _guess(run: list[Token], line: str, tables: Tables) -> Token:
    whole = replace(_joined(run, line), kind="NAME")
    meant = names.nearly(whole.text, tables)
    inside = [token.value for token in run if token.kind == "NAME" and isinstance(token.value, Meant)]
    if meant.ingredient is None and len(inside) == 1 and inside[0].ingredient:
        (one,) = inside
        other = " ".join(token.text for token in run if token.kind == "UNKNOWN")
        near = tuple(dict.fromkeys((one.ingredient.key, *meant.near))) if one.ingredient else meant.near
        why = f"“{other[:40]}” was not understood: read as {one.ingredient.name}." if one.ingredient else ""
        meant = Meant(one.ingredient, near, why)
    return replace(whole, value=meant)
