"""What a clause of a recipe says: how much, of what, and of how much of something else."""

from dataclasses import dataclass

from balmcore.recipes.doubts import Doubted
from balmcore.recipes.words.known import Meant
from balmcore.recipes.words.tokens import Token


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
class Upto:
    """What is missing to a whole: of so much, or of what the others leave of it."""

    amounts: tuple[Sum, ...] = ()


@dataclass(frozen=True)
class Per:
    """Of what an amount is said: so much of something, or of all the rest."""

    amounts: tuple[Sum, ...]
    names: tuple[Token, ...] = ()


@dataclass(frozen=True)
class Clause:
    """One ingredient of a line: how it is named, the amount in one or more ways, and whether the
    grammar derived it. ``of_total`` is its part of an amount said of several together, ``several`` those of which
    it is one, ``upto`` the whole that it fills, ``per`` what its amount is said of; ``tokens`` are those it was
    read from."""

    names: tuple[Token, ...]
    amounts: tuple[Sum, ...]
    tokens: tuple[Token, ...]
    derived: bool = True
    of_total: float | None = None
    several: tuple["Clause", ...] = ()
    upto: Upto | None = None
    per: Per | None = None

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
        return Meant(first, near, told, Doubted.ALTERNATIVE)


def _keys(meant: Meant) -> tuple[str, ...]:
    return (meant.ingredient.key,) if meant.ingredient else meant.near
