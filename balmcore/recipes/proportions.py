"""The lines of a recipe together: parts and percent become grams, the rest is solved, and each line has its percent of
the whole."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace

from balmcore.display import figure, mass_words
from balmcore.recipes.doubts import DOUBTED, UNSURE, Choice, Doubted
from balmcore.recipes.lines import OUTSIDE, REST, ReadLine
from balmcore.tables import Role

PART_G = 10.0  # of a part beside measures, and said so
WHOLES_G = (50, 100, 200, 250, 500, 1000, 2000, 5000)  # what a recipe is mostly made up to


@dataclass(frozen=True)
class Together:
    """The lines with their percent, what is to be said of all, and the grams of all where the text gave them."""

    lines: list[ReadLine]
    doubts: list[str]
    total_g: float | None


def to_percent(lines: list[ReadLine], said_g: float | None = None) -> Together:
    """Parts and percent to grams, and every line's percent of the whole. ``said_g`` is what the text says it makes."""
    filled = [line.fills.grams for line in lines if line.fills and line.fills.grams and not line.is_out]
    said_g = filled[0] if len(filled) == 1 else said_g
    lines = _in_the_hundred(lines)
    has_size = said_g is not None or any(line.grams is not None and not line.is_out for line in lines)
    grams_of_one, why_doubted, doubts = _what_one_is(lines, said_g)
    lines = [_weighed(line, grams_of_one) for line in lines]
    lines = [
        line.doubted(Doubted.AMOUNT, why_doubted[line.unit], DOUBTED) if line.unit in why_doubted else line
        for line in lines
    ]
    lines = _rests(lines, said_g)
    lines = [_per(line, lines) for line in lines]
    lines, told = _on_top(lines)
    doubts += told
    total = sum(line.grams or 0.0 for line in lines if not line.is_out)
    if not total:
        return Together(lines, [*doubts, "No amount could be read."], None)
    doubts += _twice(lines)
    if said_g and not filled and abs(total - said_g) > 0.02 * said_g:
        doubts.append(f"It says {mass_words(said_g)}; what was read of it is {mass_words(total)}.")
    lines = [
        replace(line, percent=None if line.grams is None or line.is_out else line.grams / total * 100) for line in lines
    ]
    return Together([_beside(line) for line in lines], doubts, total if has_size else None)


def _counted(lines: list[ReadLine], *units: str) -> list[ReadLine]:
    return [line for line in lines if line.unit in units and line.amount and not line.is_out]


@dataclass(frozen=True)
class _Shares:
    """What stands in percent and in parts beside the grams that are known."""

    percents: list[ReadLine]
    parts: list[ReadLine]
    grams: float
    has_rest: bool

    @property
    def percent(self) -> float:
        """The percent together."""
        return sum(_percent_of(line) for line in self.percents)

    @property
    def part(self) -> float:
        """The parts together."""
        return sum(line.amount or 0.0 for line in self.parts)

    @property
    def doubts(self) -> list[str]:
        """What to say where percent are all there is, and make no hundred."""
        if not self.percents or self.parts or self.grams or self.has_rest:
            return []
        return _percent_doubts(self.percents, self.percent)


def _what_one_is(lines: list[ReadLine], said_g: float | None) -> tuple[dict[str, float], dict[str, str], list[str]]:
    """The grams of one percent and of one part, why lines in either are doubted, and what to say of the whole."""
    found = _Shares(
        _counted(lines, "percent", "share"),
        _counted(lines, "part"),
        sum(line.grams or 0.0 for line in lines if not line.is_out),
        any(line.unit == REST and not line.is_out for line in lines),
    )
    doubts, why = found.doubts, dict[str, str]()
    if said_g:
        per_percent, per_part = said_g / 100, PART_G
        if found.parts and found.percent < 100:
            left = said_g - found.grams - found.percent * per_percent
            per_part = max(left, 0.0) / found.part or PART_G
    elif found.grams:
        per_percent, per_part, why, told = _beside_grams(found)
        doubts += told
    else:
        per_percent, per_part = 1.0, PART_G
        if found.percents and found.parts and found.percent < 100:
            per_part = (100 - found.percent) / found.part  # a percent beside proportions is of the whole
    if doubts and "share" not in why:
        why["share"] = "A fraction of what? All of them do not make a whole."
    return {"percent": per_percent, "share": 100 * per_percent, "part": per_part}, why, doubts


def _beside_grams(found: _Shares) -> tuple[float, float, dict[str, str], list[str]]:
    """The grams of a percent and of a part beside weights, why each is doubted, and what to say: percent beside weights
    mean percent of everything, so that the weights are the rest of the hundred."""
    doubts, why = [], {}
    per_percent = found.grams / (100 - found.percent) if found.percent < 100 else found.grams / 100
    if found.percents:
        doubts.append("Percent and weights are mixed: percent is taken as of the whole.")
        if found.percent >= 100:
            why["percent"] = why["share"] = "It is more than the whole beside weights."
    if found.parts:
        doubts.append(f"Parts and measures are mixed: a part is taken as {mass_words(PART_G)}.")
        why["part"] = f"A part is taken as {mass_words(PART_G)} beside measures."
    return per_percent, PART_G, why, doubts


def _percent_of(line: ReadLine) -> float:
    return (line.amount or 0.0) * (100 if line.unit == "share" else 1)


def _weighed(line: ReadLine, grams_of_one: Mapping[str, float]) -> ReadLine:
    """A line in percent or parts, in grams."""
    if line.amount is None or line.unit not in grams_of_one or line.base is not None:
        return line
    return replace(line, grams=line.amount * grams_of_one[line.unit])


def _rests(lines: list[ReadLine], said_g: float | None) -> list[ReadLine]:
    """What is missing to the whole, or the question of which whole."""
    rests = [line for line in lines if line.unit == REST and line.grams is None and not line.is_out]
    if not rests:
        return lines
    others = [line for line in lines if line not in rests and not line.is_out]
    known = sum(line.grams or 0.0 for line in others if line.unit != OUTSIDE)
    weighed = any(line.grams is not None and line.unit not in ("percent", "share", "part") for line in others)
    whole = said_g
    if whole is None and not weighed and any(line.unit in ("percent", "share") for line in others):
        whole = 100.0
    unknown = [line for line in others if line.grams is None and not line.base and line.unit != OUTSIDE]
    return [_filled(line, known, whole, len(rests), bool(unknown)) if line in rests else line for line in lines]


def _filled(line: ReadLine, known: float, whole: float | None, rests: int, is_open: bool) -> ReadLine:
    if rests > 1:
        return line.doubted(Doubted.AMOUNT, "Several lines are the rest: how much is this one?", UNSURE)
    if whole is None:
        wholes = [size for size in WHOLES_G if size > known][:3]
        choices = tuple(Choice(f"{size - known:.4g} g", f"to {mass_words(size)}") for size in wholes)
        return line.doubted(Doubted.AMOUNT, "The rest of what? Nothing says how much it makes.", UNSURE, choices)
    if known >= whole - 1e-9:
        return line.doubted(Doubted.AMOUNT, "Nothing is left for it: the others fill the whole.", UNSURE)
    line = replace(line, grams=whole - known)
    if is_open:
        return line.doubted(Doubted.AMOUNT, "The rest, while another amount is not known: it may be less.", DOUBTED)
    return line


def _per(line: ReadLine, lines: list[ReadLine]) -> ReadLine:
    """An amount said of so much of something, by as much of it as there is."""
    base = line.base
    if base is None or line.is_out or line.grams is None:
        return line
    of = [other for other in lines if other is not line and other.base is None and other.grams and not other.is_out]
    of = [other for other in of if base.of in (None, other.ingredient) and other.ingredient is not None]
    weighed = [other for other in of if other.unit not in ("part", "percent", "share", OUTSIDE)]
    if not weighed and base.grams and of:
        return replace(line, unit=OUTSIDE, amount=line.grams / base.grams * 100, grams=None)
    grams = sum(other.grams or 0.0 for other in weighed)
    ml = sum((other.grams or 0.0) / other.ingredient.density_g_ml for other in weighed if other.ingredient)
    if not weighed:
        told = f"It is said per {_base_words(line)}, and there is none of it here: how much is it?"
        return replace(line, grams=None).doubted(Doubted.AMOUNT, told, UNSURE)
    times = grams / base.grams if base.grams else ml / base.ml
    there = mass_words(grams) if base.grams else f"{figure(ml, 0)} mL"
    told = f"Per {_base_words(line)} of {there}: {figure(times, 2)} times."
    return replace(line, grams=line.grams * times, told=(*line.told, told))


def _base_words(line: ReadLine) -> str:
    assert line.base is not None
    size = mass_words(line.base.grams) if line.base.grams else f"{figure(line.base.ml, 0)} mL"
    return f"{size} {line.base.of.name}" if line.base.of else size


def _twice(lines: list[ReadLine]) -> list[str]:
    """What to say of ingredients that stand there more than once."""
    seen = Counter(line.ingredient for line in lines if line.ingredient and not line.is_out)
    return [
        f"{item.name} stands here {count} times; in a formula it becomes one line."
        for item, count in seen.items()
        if count > 1
    ]


def _in_the_hundred(lines: list[ReadLine]) -> list[ReadLine]:
    """Percent said to come on top are inside after all where only so they add to a hundred."""
    percents = [line for line in lines if line.unit in ("percent", OUTSIDE)]
    if abs(sum(line.amount or 0.0 for line in percents) - 100) < 0.005:
        return [replace(line, unit="percent") if line.unit == OUTSIDE else line for line in lines]
    return lines


def _on_top(lines: list[ReadLine]) -> tuple[list[ReadLine], list[str]]:
    """Percent that stand outside the hundred: of the rest, which they come on top of."""
    rest = sum(line.grams or 0.0 for line in lines if line.unit != OUTSIDE and not line.is_out)
    made, doubts = [], []
    for line in lines:
        if line.unit == OUTSIDE and line.amount is not None and not line.is_out:
            if rest and line.base is None:
                name = line.name or line.text
                doubts.append(f"{name} {figure(line.amount)} % comes on top of the hundred.")
            line = replace(line, grams=rest * line.amount / 100 if rest else line.amount)
            if not rest:
                told = "It comes on top, and there is nothing that it comes on top of."
                line = line.doubted(Doubted.AMOUNT, told, DOUBTED)
        made.append(line)
    return made, doubts


def _beside(line: ReadLine) -> ReadLine:
    """A percent beside a measure is right where it is what the measure makes of the whole."""
    doubt = next((doubt for doubt in line.doubts if doubt.key.startswith("share@")), None)
    if doubt is None or line.percent is None or abs(line.percent - float(doubt.taken)) > 0.6:
        return line
    left = tuple(other for other in line.doubts if other is not doubt)
    return replace(line, doubts=left, sure=line.sure if left else max(line.sure, 0.95))


def _percent_doubts(lines: list[ReadLine], total: float) -> list[str]:
    """What to say when percent do not add to a hundred."""
    if abs(total - 100) < 0.005:
        return []
    extras = sum(_percent_of(line) for line in lines if line.ingredient and line.ingredient.role == Role.EXTRA)
    if extras and abs(total - extras - 100) < 0.005:
        return [f"The base adds to 100 % and {figure(extras)} % come on top: each is turned into percent of the whole."]
    return [f"These add to {figure(total)} %, not 100: each is turned into percent of the whole."]
