"""Tokens to clauses: what a line says of how much of what, by the grammar in ``recipe.lark``."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

from lark import Lark, Tree
from lark import Token as Leaf
from lark.common import LexerConf
from lark.exceptions import LarkError
from lark.lexer import Lexer

from balmcore.recipes.grammar.trees import Shape
from balmcore.recipes.said import Clause, Sum
from balmcore.recipes.words.known import Meant
from balmcore.recipes.words.tokens import ASIDE, Token

LONGEST_LINE = 120  # tokens that the grammar is tried on
LONGEST_AMOUNT = 12  # tokens


class _Given(Lexer):
    """A lexer of terminals that are there already; each leaf keeps its place among them."""

    def __init__(self, conf: LexerConf) -> None:
        pass

    def lex(self, data: Sequence[str]) -> Iterator[Leaf]:  # type: ignore[override]
        for place, kind in enumerate(data):
            yield Leaf(kind, kind, place)


@lru_cache(maxsize=2)
def _parser(start: str) -> Lark:
    grammar = (Path(__file__).parent / "recipe.lark").read_text(encoding="utf-8")
    return Lark(grammar, parser="earley", lexer=_Given, ambiguity="resolve", start=start)


@lru_cache(maxsize=4096)
def _tree(start: str, kinds: tuple[str, ...]) -> "Tree[Leaf] | None":
    """The tree of a row of terminals, None when the grammar does not derive it. Most lines of most
    recipes have one of a few shapes, so that they are worth keeping."""
    try:
        return _parser(start).parse(kinds)
    except LarkError:
        return None


def amount_in(spoken: Sequence[Token]) -> tuple[Sum, ...] | None:
    """The amount that some tokens are, None where they are none, or more than that."""
    tree = _tree("amount", tuple(token.kind for token in spoken)) if spoken else None
    return None if tree is None else Shape(spoken).amount(tree)


def clauses(line: Sequence[Token]) -> list[Clause]:
    """The clauses of a line. One that the grammar does not derive, as a whole or comma by comma, is read word
    by word, none of it ``derived``."""
    spoken = _tidied([token for token in line if token.kind not in ASIDE])
    found = _derived(spoken)
    if found is None:
        found = _by_commas(spoken)
    return found if found is not None else _word_by_word(spoken)


def _tidied(spoken: list[Token]) -> list[Token]:
    """Without separators that part nothing."""
    joints = ("_COMMA", "_AND", "_PLUS", "TO", "OR", "ALT")
    made: list[Token] = []
    for token in spoken:
        if made and made[-1].kind == "_COMMA" and token.kind in ("_COMMA", "_AND", "_PLUS"):
            made.pop()
        elif token.kind == "_COMMA" and made and made[-1].kind in ("_AND", "_PLUS"):
            continue
        made.append(token)
    while made and made[-1].kind in joints:
        made.pop()
    while made and made[0].kind in joints:
        made.pop(0)
    return made


def _derived(spoken: Sequence[Token]) -> list[Clause] | None:
    if not spoken or len(spoken) > LONGEST_LINE:
        return None
    tree = _tree("start", tuple(token.kind for token in spoken))
    return None if tree is None else Shape(spoken).clauses(tree.children[0])  # type: ignore[arg-type]


def _by_commas(spoken: Sequence[Token]) -> list[Clause] | None:
    """Each part between commas by itself, where each names and measures, or says nothing known."""
    parts: list[list[Token]] = [[]]
    for token in spoken:
        if token.kind == "_COMMA":
            parts.append([])
        else:
            parts[-1].append(token)
    if len(parts) < 2:
        return None
    found: list[Clause] = []
    for part in parts:
        part = _tidied(part)
        if not part:
            continue
        made = _derived(part)
        if made:
            found += made
        elif found and all(_is_unknown(token) for token in part):
            last = found.pop()
            found.append(replace(last, tokens=(*last.tokens, *part), derived=False))
        else:
            return None
    return found


def _is_unknown(token: Token) -> bool:
    return token.kind == "NAME" and isinstance(token.value, Meant) and token.value.ingredient is None


def _word_by_word(spoken: Sequence[Token]) -> list[Clause]:
    """Every name with the amount nearest before it, or after it; doubted as a whole."""
    whole = tuple(spoken)
    places = [i for i, token in enumerate(spoken) if token.kind == "NAME"]
    if not places:
        return [Clause((), _nearest(spoken, len(spoken)), whole, derived=False)] if spoken else []
    found = []
    for number, place in enumerate(places):
        start = places[number - 1] + 1 if number else 0
        end = places[number + 1] if number + 1 < len(places) else len(spoken)
        before, after = spoken[start:place], spoken[place + 1 : end]
        if places[0] == 0:  # names come first in this line
            amounts = _nearest(after, 0) or (() if number else _nearest(before, len(before)))
        else:
            amounts = _nearest(before, len(before)) or _nearest(after, 0)
        found.append(Clause((spoken[place],), amounts, whole, derived=False))
    return found


def _nearest(spoken: Sequence[Token], place: int) -> tuple[Sum, ...]:
    """The longest amount that ends at a place, or begins there when it is the first."""
    least = max(place - LONGEST_AMOUNT, 0)
    ends = [(i, place) for i in range(least, place)]
    if not place:
        ends = [(0, i) for i in range(min(len(spoken), LONGEST_AMOUNT), 0, -1)]
    for start, end in ends:
        tree = _tree("amount", tuple(token.kind for token in spoken[start:end]))
        if tree is not None:
            return Shape(spoken[start:end]).amount(tree)
    return ()
