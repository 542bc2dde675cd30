"""The clauses of a sentence as lines: what each names, how much of it, and what is asked."""

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from balmcore import units
from balmcore.display import mass_words
from balmcore.recipes.doubts import DOUBTED, LIKELY, LOST, UNSURE, Choice, Doubt, Doubted
from balmcore.recipes.grammar.clauses import amount_in, clauses
from balmcore.recipes.grammar.sentences import Kitchen, Sentence, by_of
from balmcore.recipes.lines import OUTSIDE, REST, Base, Fills, ReadLine, written_amount
from balmcore.recipes.measures import Measured, bare_unit, form_of, grams_of, value_of
from balmcore.recipes.said import Clause, Quantity, Sum
from balmcore.recipes.words.known import Meant, clean
from balmcore.recipes.words.meanings import tokens
from balmcore.recipes.words.names import exactly, nearly
from balmcore.recipes.words.source import source_of
from balmcore.recipes.words.tokens import AMOUNTS, ASIDE, Token
from balmcore.recipes.words.vocabulary import SHARES
from balmcore.tables import Ingredient, Tables
from balmcore.wording import listed

LEAVE_OUT = "-"  # the answer that a name is no ingredient
_OUT = (Choice("out", "leave it out"),)
MOST_SCENT_PERCENT = 3.0  # of which a plant's name alone means its essential oil
MOST_G = 1_000_000.0  # a ton: more is no bench's
_JOINTS = re.compile(r"(?:\s+(?:and|with|plus|to|or|then))+$", re.IGNORECASE)
_OF_AN_AMOUNT = AMOUNTS | {"A", "HEAP", "DASH", "TO", "OR", "_AND", "_PLUS", "MINUS", "ALT", "SLASH", "TIMES", "REST"}


def lines_of(sentence: Sentence, kitchen: Kitchen, first: int, keys: Counter[str]) -> list[ReadLine]:
    """The lines of a sentence, numbered from ``first``; ``keys`` counts the texts that stood before."""
    found = _split_of_one(clauses(sentence.tokens))
    spans = _spans(sentence, found)
    in_parts = all(quantity.unit == "part" for clause in found for way in clause.amounts for quantity in way)
    made = []
    for number, (clause, (start, end)) in enumerate(zip(found, spans, strict=True), first):
        inside = [token for token in sentence.tokens if start <= token.start < end]
        raw = sentence.original(start, end)
        text = _JOINTS.sub("", raw.strip(" ,;&+:-–—")).strip(" ,;&+:-–—") or sentence.text
        keys[text] += 1
        key = text if keys[text] == 1 else f"{text} ({keys[text]})"
        measured = Measured(
            key,
            kitchen.answering,
            kitchen=kitchen.name,
            form=form_of([token.text for token in inside if token.kind == "FORM"]),
            by=by_of(sentence, sentence.tokens if in_parts else inside, len(found)) or kitchen.by,
            written=_written(sentence, clause, inside),
            unit=kitchen.unit,
        )
        line = _line(text, clause, inside, _before(sentence, start), measured, kitchen.tables)
        made.append(replace(line, number=number, span=(sentence.start + start, sentence.start + end)))
    return made


def _split_of_one(found: list[Clause]) -> list[Clause]:
    """``100 g oil, half sunflower, half jojoba``: the parts of one amount that was named as a whole."""
    if len(found) < 3 or found[0].meant.ingredient is not None or not found[0].amounts:
        return found
    whole, parts = found[0], found[1:]
    shares = [clause.amounts[0][0] for clause in parts if clause.amounts]
    is_split = len(shares) == len(parts) and all(share.unit == "share" for share in shares)
    if not is_split or abs(sum(share.value for share in shares) - 1) > 0.005:
        return found
    return [
        replace(clause, amounts=whole.amounts, of_total=share.value)
        for clause, share in zip(parts, shares, strict=True)
    ]


def _spans(sentence: Sentence, found: Sequence[Clause]) -> list[tuple[int, int]]:
    """From where to where of the text each clause speaks, with the words that were set aside."""
    starts = [_with_extra(sentence, clause.tokens[0].start) if clause.tokens else 0 for clause in found]
    if len(set(starts)) < len(starts):
        return [(0, len(sentence.raw))] * len(found)
    return [
        (0 if number == 0 else start, starts[number + 1] if number + 1 < len(starts) else len(sentence.raw))
        for number, start in enumerate(starts)
    ]


def _with_extra(sentence: Sentence, start: int) -> int:
    """Where a clause begins with the "optional" that leads it: ``…, optional 5 g lanolin``."""
    earlier = [token for token in sentence.tokens if token.start < start]
    if len(earlier) > 1 and earlier[-1].kind == "EXTRA" and earlier[-2].kind in ("_COMMA", "_AND", "_PLUS"):
        return earlier[-1].start
    return start


def _before(sentence: Sentence, start: int) -> str:
    """The kind of the token just before a clause, where it parts it from another or leads the sentence."""
    earlier = [token for token in sentence.tokens if token.start < start]
    leading = sentence.tokens[0].kind if sentence.tokens and start == 0 else ""
    return earlier[-1].kind if earlier else leading


def _written(sentence: Sentence, clause: Clause, inside: Sequence[Token]) -> str:
    """The amount as its line writes it."""
    if clause.of_total is not None and clause.amounts:
        first = clause.amounts[0][0]
        return written_amount(((replace(first, value=first.value * clause.of_total),),), "")
    runs: list[list[Token]] = [[]]
    for token in inside:
        if token.kind in _OF_AN_AMOUNT:
            runs[-1].append(token)
        elif token.kind not in ("FILLER", "COLON", "RIGHT") and runs[-1]:
            runs.append([])
    runs = [_trimmed(run) for run in runs if any(token.kind in AMOUNTS | {"REST"} for token in run)]
    best = next((run for run in runs if any(t.kind in ("UNIT", "COUNT", "VAGUE", "REST") for t in run)), None)
    best = best or next(iter(runs), None)
    return written_amount(clause.amounts, sentence.original(best[0].start, best[-1].end) if best else "")


def _trimmed(run: list[Token]) -> list[Token]:
    """Without the words that join it to what stands beside it."""
    joints = ("OR", "_AND", "_PLUS", "ALT", "SLASH", "DASH")
    while run and run[-1].kind in (*joints, "TO", "A"):
        run = run[:-1]
    while run and run[0].kind in joints:
        run = run[1:]
    return run


def _line(text: str, clause: Clause, inside: Sequence[Token], before: str, found: Measured, tables: Tables) -> ReadLine:
    """One clause as a line."""
    clause = _chosen(clause, found)
    meant, item, is_left = _ingredient(clause, found, tables)
    clause = _amended(clause, found, tables)
    if not clause.derived:
        bad = [str(token.value) for token in inside if token.kind == "BAD"]
        found.doubt(Doubted.AMOUNT, listed(bad) if bad else f"Not understood as a whole: “{text[:80]}”.", UNSURE)
    _bounds(inside, found)
    _solid(item, inside, found)
    ways, unit, amount = _share(clause, found)
    grams = None
    if clause.upto is not None:
        unit = REST
    elif not clause.amounts:
        found.doubt(Doubted.AMOUNT, "There is no amount here.", UNSURE, key=found.key("amount"))
    elif unit not in SHARES and not meant.refused:
        grams = _weighed(ways, item, clause, found)
    elif amount is not None and clause.of_total is not None:
        amount *= clause.of_total
    if unit == "part" and found.by == "volume" and item and amount is not None:
        amount *= item.density_g_ml
    unit, is_out = _extra(inside, before, unit, found)
    line = ReadLine(
        text=text,
        ingredient=item,
        grams=grams,
        percent=None,
        sure=round(found.sure, 2),
        doubts=tuple(found.doubts),
        settled=tuple(found.settled),
        told=tuple(found.told),
        unit=unit,
        amount=amount,
        key=found.line,
        written=found.written,
        form=found.taken_form,
        forms=found.forms,
        is_out=is_left or is_out,
        refused=meant.refused if item is None else "",
    )
    return _of_others(_unright(line), clause, found)


def _unright(line: ReadLine) -> ReadLine:
    """What has no grams cannot be called right as it stands: its amount has to be said, or it is left out."""
    if line.grams is not None or line.unit in (*SHARES, OUTSIDE):
        return line
    return replace(
        line,
        doubts=tuple(
            replace(doubt, key=f"out@{line.key}", choices=_OUT, taken="") if _is_without_choice(doubt) else doubt
            for doubt in line.doubts
        ),
    )


def _is_without_choice(doubt: Doubt) -> bool:
    """Whether nothing can be tapped to answer it, or only that it is right as it stands."""
    return doubt.key.startswith("right@") or not doubt.choices


def _solid(item: Ingredient | None, inside: Sequence[Token], found: Measured) -> None:
    """Pellets or beads of something liquid are another thing than it."""
    if item is None or item.bulk_density_g_ml is not None or item.group != "liquid_oil":
        return
    word = next((t.text.lower() for t in inside if t.kind == "FORM" and form_of([t.text]) in ("pellets", "grated")), "")
    if word:
        found.doubt(Doubted.NAME, f"{item.name} is liquid, and “{word}” are not: is it that?", DOUBTED)


def _chosen(clause: Clause, found: Measured) -> Clause:
    """Of several that may stand in one place, the one that was answered, or the first, which is asked."""
    if not clause.several:
        return clause
    labels = [_clause_words(one) for one in clause.several]
    choices = tuple(Choice(label, label) for label in labels)
    asks = f"One or the other: {labels[0]} is taken."
    told = found.choose(Doubted.ALTERNATIVE, found.key("alternative"), asks, DOUBTED, choices, labels[0])
    chosen = clause.several[labels.index(told)]
    found.written = " ".join(token.text for token in chosen.tokens if token.kind in _OF_AN_AMOUNT)
    return replace(chosen, tokens=clause.tokens)


def _clause_words(clause: Clause) -> str:
    return " ".join(token.text for token in clause.tokens)[:80]


def _ingredient(clause: Clause, found: Measured, tables: Tables) -> tuple[Meant, Ingredient | None, bool]:
    """What a clause names, the ingredient it stands for, and whether it was left out."""
    meant = clause.meant
    told = found.answer("ingredient")
    if told == LEAVE_OUT:
        return meant, meant.ingredient, True
    if told and (item := _typed(told, meant, found, tables)):
        return Meant(item), item, False
    if not meant.why or (meant.kind is Doubted.FORM and _says_scent(clause)):
        return meant, meant.ingredient, False
    options = [Choice(key, tables.ingredient(key).name) for key in meant.near if key in tables.ingredients]
    if meant.ingredient is None and not options and not meant.is_final:
        options.append(Choice(LEAVE_OUT, "leave it out"))
    if meant.is_final or not options:
        found.doubt(meant.kind, meant.why, meant.sure, key=found.key("ingredient"))
        return meant, meant.ingredient, False
    if ("" in meant.near or meant.ingredient is None) and options[-1].value != LEAVE_OUT:
        options.append(Choice(LEAVE_OUT, "leave it out"))
    taken = meant.ingredient.key if meant.ingredient else ""
    key = f"name:{meant.words}" if meant.words else found.key("ingredient")
    sure = meant.sure if meant.ingredient else LOST
    chosen = found.choose(meant.kind, key, meant.why, sure, tuple(options), taken)
    if chosen == LEAVE_OUT:
        return meant, meant.ingredient, True
    if found.answering.of(key) != chosen:
        found.sure = min(found.sure, sure)  # asked at an earlier line
    return meant, tables.ingredients.get(chosen), False


def _says_scent(clause: Clause) -> bool:
    """Whether an amount is that of a scent: drops, or few percent."""
    return any(
        quantity.unit in ("drop", "dropper") or (quantity.unit == "percent" and quantity.value <= MOST_SCENT_PERCENT)
        for way in clause.amounts
        for quantity in way
    )


def _typed(told: str, meant: Meant, found: Measured, tables: Tables) -> Ingredient | None:
    """The ingredient that was typed in a row, by its key or any of its names; None where it says nothing new."""
    if meant.ingredient and told == meant.ingredient.name:
        return None
    known = tables.ingredients.get(told) or next(
        (item for item in tables.ingredients.values() if item.name == told), None
    )
    if known is not None:
        return known
    said = exactly(tuple(clean(told).split()), tables) or nearly(told, tables)
    if said.ingredient is None or (said.sure < LIKELY and said.why):
        why = said.why or f"“{told[:40]}” is not in the pantry."
        found.doubt(said.kind, why, LOST, key=found.key("ingredient"))
        return None
    return said.ingredient


def _amended(clause: Clause, found: Measured, tables: Tables) -> Clause:
    """The clause with the amount that was answered in its row, where one was."""
    told = " ".join(source_of(found.answer("amount")).plain.split())
    if not told or told == found.written:
        return clause
    spoken = [token for token in tokens(told, tables) if token.kind not in ASIDE]
    amounts = amount_in(spoken)
    if amounts is None and len(spoken) == 1 and spoken[0].kind in ("NUM", "FRAC", "WNUM"):
        unit = clause.amounts[0][0].unit if clause.amounts else "bare"
        amounts = ((Quantity(float(str(spoken[0].value)), unit),),)
    if amounts is None:
        asks = f"“{told[:40]}” is no amount: write it like {mass_words(30)} or ½ cup."
        found.doubt(Doubted.AMOUNT, asks, UNSURE, key=found.key("amount"))
        return clause
    found.settle(found.key("amount"), f"instead of {found.written or 'none'}")
    found.form = form_of([token.text for token in tokens(told, tables) if token.kind == "FORM"]) or found.form
    return replace(clause, amounts=amounts, derived=True, of_total=None, upto=None, per=None)


def _bounds(inside: Sequence[Token], found: Measured) -> None:
    """What leaves an amount open, or says it roughly."""
    if found.answer("amount"):
        return
    if any(token.text.lower() == "few" for token in inside):
        found.doubt(Doubted.AMOUNT, "“A few” is taken as 3.", DOUBTED)
    for token in inside:
        if token.kind == "BOUND":
            told = f"“{token.text}” leaves the amount open: {found.written or 'nothing'} is taken."
            found.doubt(Doubted.AMOUNT, told, DOUBTED)


def _extra(inside: Sequence[Token], before: str, unit: str, found: Measured) -> tuple[str, bool]:
    """What is said to be optional, or to come on top: the unit, and whether it is out."""
    extra = next((str(token.value) for token in inside if token.kind == "EXTRA"), "")
    based = any(token.kind == "BASED" for token in inside)
    if unit == "percent" and (extra == "extra" or based or before == "_PLUS" or (extra and before != "more")):
        unit = OUTSIDE
    elif extra and unit:
        choices = (Choice("in", "it is in"), Choice("out", "leave it out"))
        said = "more of what stands above" if extra == "more" else "optional or extra"
        asks = f"It is said to be {said}: it is counted."
        sure = DOUBTED if extra == "more" else LIKELY
        found.choose(Doubted.LEFT_OUT, found.key("out"), asks, sure, choices, "in")
    return unit, found.answer("out") == "out"


def _weighed(ways: tuple[Sum, ...], item: Ingredient | None, clause: Clause, found: Measured) -> float | None:
    """Grams of a clause's amount."""
    grams = grams_of(ways, item, found)
    if grams is None:
        found.sure = min(found.sure, UNSURE)
        return None
    grams *= clause.of_total if clause.of_total is not None else 1.0
    if grams > MOST_G:
        asks = f"“{found.written}” is more than any bench holds."
        found.doubt(Doubted.AMOUNT, asks, LOST, key=found.key("amount"))
        return None
    return grams


def _share(clause: Clause, found: Measured) -> tuple[tuple[Sum, ...], str, float | None]:
    """The amounts to weigh by, and unit and number of the first; a share beside a measure gives way to it."""
    told = bare_unit(found) or found.unit
    ways = tuple(
        tuple(replace(q, unit=told) if q.unit == "bare" and told else q for q in way) for way in clause.amounts
    )
    shares = [way for way in ways if any(q.unit in SHARES for q in way)]
    measures = tuple(way for way in ways if way not in shares)
    if shares and measures:
        percent = shares[0][0].value if shares[0][0].unit == "percent" else -1.0
        found.doubts_of_share(percent)
    ways = measures or ways
    if not ways:
        return (), "", None
    first = ways[0][0]
    if ways is not measures and len({q.unit for q in ways[0]}) > 1:
        found.doubt(Doubted.UNIT, "A share and a measure cannot be added.", LOST)
        return (), first.unit, None
    amount = sum(q.sign * value_of(q, found) for q in ways[0] if q.unit == first.unit)
    return ways, first.unit, amount


def _of_others(line: ReadLine, clause: Clause, found: Measured) -> ReadLine:
    """A line whose amount depends on others: the rest of a whole, or so much per so much."""
    if clause.upto is not None:
        whole = _mass(clause.upto.amounts)
        return replace(line, fills=Fills(whole))
    if clause.per is not None:
        (first, *_), *_ = clause.per.amounts
        kind, size = units.size(first.unit, found.kitchen)
        named = next((t.value.ingredient for t in clause.per.names if isinstance(t.value, Meant)), None)
        if kind and first.value > 0:
            amount = first.value * size
            return replace(
                line, base=Base(amount if kind == "mass" else 0.0, amount if kind == "volume" else 0.0, named)
            )
        asks = "It is said per something that cannot be weighed: how much is it?"
        return replace(line, grams=None).doubted(Doubted.AMOUNT, asks, UNSURE)
    return line


def _mass(amounts: tuple[Sum, ...]) -> float | None:
    """Grams of the first weight among some amounts, None where there is none."""
    for way in amounts:
        sizes = [units.size(q.unit, "metric") for q in way]
        if sizes and all(kind == "mass" for kind, _ in sizes):
            return sum(q.sign * q.value * size for q, (_, size) in zip(way, sizes, strict=True))
    return None
