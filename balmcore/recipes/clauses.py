"""Tokens to clauses: what a line says of how much of what, by the grammar in ``recipe.lark``."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path

from lark import Lark, Tree
from lark import Token as Leaf
from lark.common import LexerConf
from lark.exceptions import LarkError
from lark.lexer import Lexer

from balmcore.recipes.names import Meant
from balmcore.recipes.tokens import ASIDE, Token

LONGEST_LINE = 120  # tokens that the grammar is tried on
LONGEST_AMOUNT = 12  # tokens


@dataclass(frozen=True)
class Quantity:
    """A number of a unit. ``high`` is the other end of a range; ``heap`` the word that heaps it; ``sign``
    -1 where it is taken off."""

    value: float
    unit: str
    high: float | None = None
    heap: str = ""
    sign: int = 1


Sum = tuple[Quantity, ...]


@dataclass(frozen=True)
class Clause:
    """One ingredient of a line: how it is named, the amount in one or more ways, and whether the
    grammar derived it. ``of_total`` is its part of an amount said of several together; ``tokens`` are
    those it was read from."""

    names: tuple[Token, ...]
    amounts: tuple[Sum, ...]
    tokens: tuple[Token, ...]
    derived: bool = True
    of_total: float | None = None

    @property
    def meant(self) -> Meant:
        """What it names; with "or" the first, and the others to choose among."""
        said = [token.value for token in self.names if isinstance(token.value, Meant)]
        if not said:
            return Meant(None, (), "No ingredient is named here.")
        if len(said) == 1:
            return said[0]
        near = tuple(dict.fromkeys(key for one in said for key in _keys(one)))
        first = next((one.ingredient for one in said if one.ingredient), None)
        told = f"One or the other: {first.name} is taken." if first else "One or the other, and none of them is known."
        return Meant(first, near, told)


def _keys(meant: Meant) -> tuple[str, ...]:
    return ((meant.ingredient.key,) if meant.ingredient else ()) + meant.near


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
    return None if tree is None else _Shape(spoken).clauses(tree.children[0])  # type: ignore[arg-type]


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
            return _Shape(spoken[start:end]).amount(tree)
    return ()


class _Shape:
    """Reads a tree of the grammar over the tokens it was made of."""

    def __init__(self, spoken: Sequence[Token]) -> None:
        self.spoken = spoken

    def clauses(self, tree: "Tree[Leaf]") -> list[Clause]:
        """The clauses of a line's tree."""
        found: list[Clause] = getattr(self, tree.data)(tree)
        return found

    def _token(self, leaf: Leaf) -> Token:
        return self.spoken[leaf.start_pos or 0]

    def _tokens(self, tree: "Tree[Leaf]") -> tuple[Token, ...]:
        places = [leaf.start_pos or 0 for leaf in tree.scan_values(lambda value: isinstance(value, Leaf))]
        return tuple(self.spoken[min(places) : max(places) + 1]) if places else ()

    # --- shapes of a line ---

    def items(self, tree: "Tree[Leaf]") -> list[Clause]:
        return [self.item(child) for child in tree.children if isinstance(child, Tree)]

    named_items = items
    parts = items

    def item(self, tree: "Tree[Leaf]") -> Clause:
        """A name with its amount."""
        names: tuple[Token, ...] = ()
        amounts: tuple[Sum, ...] = ()
        count = next((self._token(leaf) for leaf in tree.children if isinstance(leaf, Leaf)), None)
        for child in tree.children:
            if not isinstance(child, Tree):
                continue
            if child.data == "name":
                names = self.name(child)
            elif child.data == "amount":
                amounts += self.amount(child)
            else:
                unit = str(count.value) if tree.data == "counted" and count else "bare"
                amounts = ((Quantity(self.number(child), unit),),)
        return Clause(names, amounts, self._tokens(tree))

    def name(self, tree: "Tree[Leaf]") -> tuple[Token, ...]:
        return tuple(self._token(leaf) for leaf in tree.children if isinstance(leaf, Leaf) and leaf.type == "NAME")

    def _listed(self, tree: "Tree[Leaf]") -> list["Tree[Leaf]"]:
        names = next(child for child in tree.children if isinstance(child, Tree) and child.data == "names")
        return [child for child in names.children if isinstance(child, Tree) and child.data == "name"]

    def shared(self, tree: "Tree[Leaf]") -> list[Clause]:
        """The same amount of each."""
        amount = next(child for child in tree.children if isinstance(child, Tree) and child.data == "amount")
        return [Clause(self.name(name), self.amount(amount), self._tokens(tree)) for name in self._listed(tree)]

    def equal(self, tree: "Tree[Leaf]") -> list[Clause]:
        return self._proportioned(tree, None)

    def ratio(self, tree: "Tree[Leaf]") -> list[Clause]:
        return self._proportioned(
            tree, next(c for c in tree.children if isinstance(c, Tree) and c.data == "proportion")
        )

    def _proportioned(self, tree: "Tree[Leaf]", proportion: "Tree[Leaf] | None") -> list[Clause]:
        """Parts of several names, or of an amount said of them together."""
        names = self._listed(tree)
        shares = [1.0] * len(names) if proportion is None else self.proportion(proportion)
        derived = len(shares) == len(names)
        if not derived:
            shares = [1.0] * len(names)
        total = next((child for child in tree.children if isinstance(child, Tree) and child.data == "total"), None)
        amounts: tuple[Sum, ...] = ()
        if total is not None:
            amounts = self.amount(next(c for c in total.children if isinstance(c, Tree) and c.data == "amount"))
        return [
            Clause(
                self.name(name),
                amounts or ((Quantity(share, "part"),),),
                self._tokens(tree),
                derived,
                share / sum(shares) if amounts and sum(shares) else None,
            )
            for name, share in zip(names, shares, strict=True)
        ]

    def proportion(self, tree: "Tree[Leaf]") -> list[float]:
        if isinstance(tree.children[0], Leaf):
            return [float(part.replace(",", ".")) for part in str(self._token(tree.children[0]).value).split(":")]
        return [self.number(child) for child in tree.children if isinstance(child, Tree)]

    # --- amounts ---

    def amount(self, tree: "Tree[Leaf]") -> tuple[Sum, ...]:
        """One or more ways to say an amount; measures of two sorts side by side are two ways."""
        return tuple(self.sum(child) for child in tree.children if isinstance(child, Tree))

    def sum(self, tree: "Tree[Leaf]") -> Sum:
        found = []
        for child in tree.children:
            assert isinstance(child, Tree)
            if child.data == "less":
                found.append(replace(self.quantity(child.children[-1]), sign=-1))  # type: ignore[arg-type]
            else:
                found.append(self.quantity(child))
        return tuple(found)

    def quantity(self, tree: "Tree[Leaf]") -> Quantity:
        """A number of a unit, in one of the ways to say it."""
        numbers = [self.number(child) for child in tree.children if isinstance(child, Tree) and child.data in _NUMBERS]
        leaves = {leaf.type: self._token(leaf) for leaf in tree.children if isinstance(leaf, Leaf)}
        units = [token for child in tree.find_data("unit") for token in self._tokens(child)]
        first = numbers[0] if numbers else 1.0
        if tree.data == "vague":
            return Quantity(first, str(leaves["VAGUE"].value))
        if tree.data == "times":
            inner = self.quantity(tree.children[-1])  # type: ignore[arg-type]
            return replace(inner, value=first * inner.value)
        unit = str(units[-1].value)
        if tree.data == "and_part":
            return Quantity(first + float(str(leaves["FRACWORD"].value)), unit)
        heap = leaves["HEAP"].text.lower() if "HEAP" in leaves else ""
        if tree.data == "range":
            if len(units) == 2 and units[0].value != units[1].value:
                return Quantity(first, f"{units[0].value} to {unit}")
            return Quantity(first, unit, numbers[1], heap)
        return Quantity(first, unit, None, heap)

    def number(self, tree: "Tree[Leaf]") -> float:
        """The value of a number, however it is written."""
        leaves = [self._token(leaf) for leaf in tree.children if isinstance(leaf, Leaf)]
        inner = [self.number(child) for child in tree.children if isinstance(child, Tree)]
        values = {token.kind: float(str(token.value)) for token in leaves if token.kind in _VALUED}
        if tree.data == "dozens":
            return 12.0 * values.get("NUM", values.get("WNUM", 1.0))
        if tree.data == "whole":
            return sum(values.values())
        if tree.data == "fraction":
            product = values.get("FRACWORD", 1.0) * values.get("WNUM", values.get("NUM", 1.0))
            return values.get("FRAC", product)
        return sum(inner)


_VALUED = frozenset({"NUM", "FRAC", "WNUM", "FRACWORD"})
_NUMBERS = frozenset({"number", "whole", "plus_part", "part", "dozens"})
