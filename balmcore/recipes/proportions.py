"""The lines of a recipe together: parts and percent become grams, and each line its percent of the whole."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace

from balmcore.display import figure, mass_words
from balmcore.recipes.measures import DOUBTED, Ask
from balmcore.tables import Ingredient, Role

PART_G = 10.0  # of a part beside measures, and said so
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
    lines = _in_the_hundred(lines)
    grams_of_one, why_doubted, doubts = _what_one_is(lines)
    lines = [_weighed(line, grams_of_one) for line in lines]
    lines = [_doubted(line, why_doubted[line.unit]) if line.unit in why_doubted else line for line in lines]
    lines, told = _on_top(lines)
    doubts += told
    total = sum(line.grams or 0.0 for line in lines)
    if not total:
        return lines, [*doubts, "No amount could be read."]
    doubts += _twice(lines)
    return [replace(line, percent=None if line.grams is None else line.grams / total * 100) for line in lines], doubts


def _what_one_is(lines: list[ReadLine]) -> tuple[dict[str, float], dict[str, str], list[str]]:
    """The grams of one percent and of one part, why lines in either are doubted, and what to say of the whole."""
    percents = [line for line in lines if line.unit == "percent" and line.amount]
    parts = [line for line in lines if line.unit == "part" and line.amount]
    base = sum(line.grams or 0.0 for line in lines)
    percent = sum(line.amount or 0.0 for line in percents)
    is_weighed = any(line.grams is not None for line in lines)
    doubts = _percent_doubts(percents, percent) if percents and not is_weighed and not parts else []
    per_percent, why = 1.0, dict[str, str]()
    if percents and base:
        # Percent beside weights mean percent of everything: the weights are the rest of the hundred.
        doubts.append("Percent and weights are mixed: percent is taken as of the whole.")
        per_percent = base / (100 - percent) if percent < 100 else base / 100
        if percent >= 100:
            why["percent"] = "It is more than the whole beside weights."
    if parts and (is_weighed or percents):
        doubts.append(f"Parts and measures are mixed: a part is taken as {mass_words(PART_G)}.")
        why["part"] = f"A part is taken as {mass_words(PART_G)} beside measures."
    return {"percent": per_percent, "part": PART_G}, why, doubts


def _weighed(line: ReadLine, grams_of_one: Mapping[str, float]) -> ReadLine:
    """A line in percent or parts, in grams."""
    if line.ingredient is None or line.amount is None or line.unit not in grams_of_one:
        return line
    return replace(line, grams=line.amount * grams_of_one[line.unit])


def _twice(lines: list[ReadLine]) -> list[str]:
    """What to say of ingredients that stand there more than once."""
    seen = Counter(line.ingredient for line in lines if line.ingredient)
    return [
        f"{item.name} stands here {count} times; in a formula it becomes one line."
        for item, count in seen.items()
        if count > 1
    ]


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
