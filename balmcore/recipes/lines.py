"""What was understood of one ingredient of a recipe."""

from dataclasses import dataclass, replace

from balmcore.recipes.doubts import LIKELY_FROM, SURE_FROM, Choice, Doubt, Doubted, Settled
from balmcore.recipes.said import Quantity
from balmcore.recipes.words.vocabulary import MEASURES
from balmcore.tables import Ingredient

OUTSIDE = "outside"  # the unit of percent that come on top of the hundred
REST = "rest"  # the unit of what is missing to a whole


@dataclass(frozen=True)
class Fills:
    """The whole that a line fills up: grams, or None for one that nothing says or that is a hundred percent."""

    grams: float | None = None


@dataclass(frozen=True)
class Base:
    """Of what an amount is said: so many grams or millilitres of an ingredient, or of all others."""

    grams: float = 0.0
    ml: float = 0.0
    of: Ingredient | None = None


@dataclass(frozen=True)
class ReadLine:
    """What was understood of one ingredient. ``ingredient`` is None when it was not understood, ``grams`` None when
    there was no amount; ``sure`` runs from 0 to 1; ``doubts`` are the questions that are open, ``settled`` those that
    were answered, ``told`` what was reckoned. ``written`` is the amount as it stands there, ``form`` how something
    solid lies in its cup, of ``forms``; ``span`` is where it stands in the plain text; ``refused`` says why it must
    not be used."""

    text: str
    ingredient: Ingredient | None
    grams: float | None
    percent: float | None
    sure: float
    doubts: tuple[Doubt, ...] = ()
    settled: tuple[Settled, ...] = ()
    told: tuple[str, ...] = ()
    unit: str = ""
    amount: float | None = None
    number: int = 0
    key: str = ""
    written: str = ""
    form: str = ""
    is_out: bool = False
    refused: str = ""
    fills: Fills | None = None
    base: Base | None = None
    span: tuple[int, int] = (0, 0)
    forms: tuple[Choice, ...] = ()

    @property
    def name(self) -> str:
        """The ingredient's name, empty when it was not understood."""
        return self.ingredient.name if self.ingredient else ""

    @property
    def trust(self) -> str:
        """How sure, in a word."""
        return "sure" if self.sure >= SURE_FROM else "likely" if self.sure >= LIKELY_FROM else "unsure"

    @property
    def is_counted(self) -> bool:
        """Whether it comes into a formula: known, weighed and in."""
        return self.ingredient is not None and bool(self.grams) and not self.is_out

    def doubted(self, kind: Doubted, asks: str, sure: float, choices: tuple[Choice, ...] = ()) -> "ReadLine":
        """With one more question, about its amount."""
        made = Doubt(kind, asks, choices, "", f"amount@{self.key}")
        return replace(self, sure=min(self.sure, sure), doubts=(*self.doubts, made))


def written_amount(quantities: tuple[tuple[Quantity, ...], ...], texts: str) -> str:
    """How an amount was written, short enough for a field; rebuilt where its words stand apart."""
    if texts:
        return " ".join(texts.split())
    if not quantities:
        return ""
    first = quantities[0][0]
    return f"{first.value:g} {MEASURES.get(first.unit, first.unit)}".strip()
