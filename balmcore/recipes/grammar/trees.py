"""The trees of the grammar in ``recipe.lark`` as clauses."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from lark import Token as Leaf
from lark import Tree

from balmcore.recipes.said import Clause, Per, Quantity, Sum, Upto
from balmcore.recipes.words.tokens import Token
from balmcore.recipes.words.vocabulary import SHARES


class Shape:
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

    def items(self, tree: "Tree[Leaf]", is_proportion: bool = False) -> list[Clause]:
        """Ingredients with their amounts, one after another; where one is said in parts, a bare number is some."""
        ways = {"either": self.either, "rest": self.rest, "dosed": self.dosed, "dosed_last": self.dosed}
        found = [ways.get(child.data, self.item)(child) for child in _trees(tree)]
        units = {clause.amounts[0][0].unit for clause in found if clause.amounts}
        if units <= {"part", "bare", "share"} and (is_proportion or {"part", "bare"} <= units):
            return [_in_parts(clause) for clause in found]
        return found

    named_items = items

    def parts(self, tree: "Tree[Leaf]") -> list[Clause]:
        """Items in proportion: a bare number among them is one of parts, where the others are."""
        return self.items(tree, is_proportion=True)

    def either(self, tree: "Tree[Leaf]") -> Clause:
        """The first of several, with the others."""
        several = tuple(self.item(child) for child in _trees(tree))
        return replace(several[0], tokens=self._tokens(tree), several=several)

    def rest(self, tree: "Tree[Leaf]") -> Clause:
        """What fills up a whole."""
        names = next(self.name(child) for child in _trees(tree) if child.data == "name")
        amounts = next((self.amount(child) for child in _trees(tree) if child.data == "amount"), ())
        return Clause(names, (), self._tokens(tree), upto=Upto(amounts))

    def dosed(self, tree: "Tree[Leaf]") -> Clause:
        """An amount said of so much of something."""
        item = next((self.item(child) for child in _trees(tree) if child.data in ("item", "bare", "counted")), None)
        base = next((child for child in _trees(tree) if child.data == "per_base"), None)
        amounts = [self.amount(child) for child in _trees(tree) if child.data == "amount"]
        names = next((self.name(child) for child in _trees(tree) if child.data == "name"), ())
        if item is None:
            item = Clause(names, amounts[0], ())
        if base is None:  # 20 drops per 100 g lavender
            per = Per(amounts[1])
        else:
            per = Per(
                next(self.amount(child) for child in _trees(base) if child.data == "amount"),
                next((self.name(child) for child in _trees(base) if child.data == "name"), ()),
            )
        return replace(item, tokens=self._tokens(tree), per=per)

    def split(self, tree: "Tree[Leaf]") -> list[Clause]:
        """One amount in parts of it."""
        total = next(child for child in _trees(tree) if child.data == "total")
        amounts = self.amount(next(child for child in _trees(total) if child.data == "amount"))
        found = []
        for child in _trees(tree):
            if child.data == "share_of":
                share = next(self.number(part) for part in _trees(child) if part.data == "part")
                name = next(self.name(part) for part in _trees(child) if part.data == "name")
                found.append((name, share))
        derived = abs(sum(share for _, share in found) - 1) < 0.005
        return [Clause(name, amounts, self._tokens(tree), derived, share) for name, share in found]

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
                if unit == "bare" and next(_trees(child), child).data == "part":
                    unit = "share"  # three quarters shea
                amounts = ((Quantity(self.number(child), unit),),)
        if tree.data == "multiplied":
            times = next(self.number(child) for child in _trees(tree) if child.data in _NUMBERS)
            amount = next(self.amount(child) for child in _trees(tree) if child.data == "amount")
            amounts = tuple(tuple(replace(q, value=times * q.value) for q in way) for way in amount)
        return Clause(names, amounts, self._tokens(tree))

    def name(self, tree: "Tree[Leaf]") -> tuple[Token, ...]:
        """What an ingredient is called; with "or" in several ways."""
        return tuple(self._token(leaf) for leaf in tree.children if isinstance(leaf, Leaf) and leaf.type == "NAME")

    def _listed(self, tree: "Tree[Leaf]") -> list["Tree[Leaf]"]:
        names = next(child for child in tree.children if isinstance(child, Tree) and child.data == "names")
        return [child for child in names.children if isinstance(child, Tree) and child.data == "name"]

    def shared(self, tree: "Tree[Leaf]") -> list[Clause]:
        """The same amount of each."""
        amount = next((child for child in _trees(tree) if child.data == "amount"), None)
        if amount is None:
            share = next(self.number(child) for child in _trees(tree) if child.data in _NUMBERS)
            amounts: tuple[Sum, ...] = ((Quantity(share, "share" if share < 1 else "bare"),),)
        else:
            amounts = self.amount(amount)
        return [Clause(self.name(name), amounts, self._tokens(tree)) for name in self._listed(tree)]

    def equal(self, tree: "Tree[Leaf]") -> list[Clause]:
        """As much of one as of the other."""
        return self._proportioned(tree, None)

    def ratio(self, tree: "Tree[Leaf]") -> list[Clause]:
        """Several in proportion."""
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
            derived = derived and not any(quantity.unit in SHARES for way in amounts for quantity in way)
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
        """The numbers of a proportion."""
        if isinstance(tree.children[0], Leaf):
            return [float(part.replace(",", ".")) for part in str(self._token(tree.children[0]).value).split(":")]
        return [self.number(child) for child in tree.children if isinstance(child, Tree)]

    # --- amounts ---

    def amount(self, tree: "Tree[Leaf]") -> tuple[Sum, ...]:
        """One or more ways to say an amount; measures of two sorts side by side are two ways."""
        return tuple(
            way for child in tree.children if isinstance(child, Tree) for way in _apart(self.sum(child), child)
        )

    def sum(self, tree: "Tree[Leaf]") -> Sum:
        """The quantities of an amount."""
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


def _trees(tree: "Tree[Leaf]") -> Iterator["Tree[Leaf]"]:
    return (child for child in tree.children if isinstance(child, Tree))


def _in_parts(clause: Clause) -> Clause:
    return replace(clause, amounts=((replace(clause.amounts[0][0], unit="part"),),)) if clause.amounts else clause


def _apart(found: Sum, tree: "Tree[Leaf]") -> list[Sum]:
    """``1 lb 2 oz`` is a sum; ``22 g 22 %`` says an amount twice, and ``10 g 12 g`` two of them."""
    if tree.data != "beside" or tuple(quantity.unit for quantity in found) in _COMPOUND:
        return [found]
    return [(quantity,) for quantity in found]


_VALUED = frozenset({"NUM", "FRAC", "WNUM", "FRACWORD"})
_NUMBERS = frozenset({"number", "whole", "plus_part", "part", "dozens"})
# Measures that stand side by side as one amount.
_COMPOUND = frozenset(
    {("lb", "oz"), ("kg", "g"), ("l", "ml"), ("cup", "tbsp"), ("tbsp", "tsp"), ("cup", "tsp"), ("pint", "fl_oz")}
)
