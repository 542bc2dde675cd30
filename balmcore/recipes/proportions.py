"""The lines of a recipe together: parts and percent become grams, and each line its percent of the whole."""

from dataclasses import dataclass, replace

from balmcore.display import figure, mass_words
from balmcore.recipes.measures import DOUBTED, Ask
from balmcore.tables import Ingredient, Role

PART_G = 10.0
OUTSIDE = "outside"  # the unit of percent that come on top of the hundred


@dataclass(frozen=True)
class ReadLine:
    """What was understood of one ingredient. ``ingredient`` is None when it was not understood, ``grams``
    None when there was no amount; ``sure`` runs from 0 to 1."""

    text: str
    ingredient: Ingredient | None
    grams: float | None
    percent: float | None
    sure: float
    doubts: tuple[str, ...]
    asks: tuple[Ask, ...] = ()
    unit: str = ""
    amount: float | None = None
    number: int = 0

    @property
    def name(self) -> str:
        """The ingredient's name, empty when it was not understood."""
        return self.ingredient.name if self.ingredient else ""

    @property
    def trust(self) -> str:
        """How sure, in a word."""
        return "sure" if self.sure >= 0.9 else "likely" if self.sure >= 0.6 else "unsure"


def to_percent(lines: list[ReadLine]) -> tuple[list[ReadLine], list[str]]:
    """Parts and percent to grams, and every line's percent of the whole."""
    doubts: list[str] = []
    lines = _in_the_hundred(lines)
    percents = [line for line in lines if line.unit == "percent" and line.amount]
    parts = [line for line in lines if line.unit == "part" and line.amount]
    weighed = [line for line in lines if line.grams is not None]
    percent = sum(line.amount or 0.0 for line in percents)
    if percents and not weighed and not parts:
        doubts += _percent_doubts(percents, percent)
    # Percent beside weights mean percent of everything: the weights are the rest of the hundred.
    base = sum(line.grams or 0.0 for line in weighed)
    per_percent = 1.0
    mixed: dict[str, str] = {}
    if percents and base:
        doubts.append("Percent and weights are mixed: percent is taken as of the whole.")
        per_percent = base / (100 - percent) if percent < 100 else base / 100
        mixed |= {} if percent < 100 else {"percent": "It is more than the whole beside weights."}
    if parts and (weighed or percents):
        doubts.append(f"Parts and measures are mixed: a part is taken as {mass_words(PART_G)}.")
        mixed["part"] = f"A part is taken as {mass_words(PART_G)} beside measures."
    grams_of_one = {"percent": per_percent, "part": PART_G}
    lines = [
        replace(line, grams=line.amount * grams_of_one[line.unit])
        if line.ingredient and line.amount is not None and line.unit in grams_of_one
        else line
        for line in lines
    ]
    lines = [_doubted(line, mixed[line.unit]) if line.unit in mixed else line for line in lines]
    lines, told = _on_top(lines)
    doubts += told
    total = sum(line.grams or 0.0 for line in lines)
    if not total:
        return lines, [*doubts, "No amount could be read."]
    seen: dict[Ingredient, int] = {}
    for line in lines:
        if line.ingredient:
            seen[line.ingredient] = seen.get(line.ingredient, 0) + 1
    for item in (item for item, count in seen.items() if count > 1):
        doubts.append(f"{item.name} stands here {seen[item]} times; in a formula it becomes one line.")
    return [replace(line, percent=None if line.grams is None else line.grams / total * 100) for line in lines], doubts


def _doubted(line: ReadLine, sentence: str) -> ReadLine:
    return replace(line, sure=min(line.sure, DOUBTED), doubts=(*line.doubts, sentence))


def _in_the_hundred(lines: list[ReadLine]) -> list[ReadLine]:
    """Percent said to come on top are inside after all where only so they add to a hundred."""
    percents = [line for line in lines if line.unit in ("percent", OUTSIDE)]
    if abs(sum(line.amount or 0.0 for line in percents) - 100) < 0.005:
        return [replace(line, unit="percent") if line.unit == OUTSIDE else line for line in lines]
    return lines


def _on_top(lines: list[ReadLine]) -> tuple[list[ReadLine], list[str]]:
    """Percent that stand outside the hundred: of the rest, which they come on top of."""
    rest = sum(line.grams or 0.0 for line in lines if line.unit != OUTSIDE)
    made, doubts = [], []
    for line in lines:
        if line.unit == OUTSIDE and line.amount is not None and line.ingredient:
            if rest:
                doubts.append(f"{line.name} {figure(line.amount)} % comes on top of the hundred.")
            line = replace(line, grams=rest * line.amount / 100 if rest else line.amount)
            if not rest:
                line = _doubted(line, "It comes on top, and there is nothing that it comes on top of.")
        made.append(line)
    return made, doubts


def _percent_doubts(lines: list[ReadLine], total: float) -> list[str]:
    """What to say when percent do not add to a hundred."""
    if abs(total - 100) < 0.005:
        return []
    extras = sum(line.amount or 0.0 for line in lines if line.ingredient and line.ingredient.role == Role.EXTRA)
    if extras and abs(total - extras - 100) < 0.005:
        return [f"The base adds to 100 % and {figure(extras)} % come on top: each is turned into percent of the whole."]
    return [f"These add to {figure(total)} %, not 100: each is turned into percent of the whole."]
