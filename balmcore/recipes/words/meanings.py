"""What tokens of a line mean beside one another: ratios, ranges, cells, what is said per cup, what is only a wish.

Each step takes the tokens of a line and gives them back, so that every one still has its words.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace

from balmcore.recipes.doubts import DOUBTED, LOST
from balmcore.recipes.words import names
from balmcore.recipes.words.asides import set_aside
from balmcore.recipes.words.figures import (
    betweens,
    columns,
    dashes,
    heaps,
    merged,
    method_numbers,
    number_words,
    ratios,
    totals,
)
from balmcore.recipes.words.known import Meant, clean
from balmcore.recipes.words.tokens import AMOUNTS, NUMBERS, Token, joined, words_of
from balmcore.recipes.words.vocabulary import CONTAINERS, GENERIC, MASSES, UNKNOWN_UNIT, VOLUMES
from balmcore.tables import Tables

MOST_GUESSES = 3  # in a line: one with more is no line of a recipe
_COUNTS = frozenset({"NUM", "FRAC", "WNUM", "FRACWORD", "A"})


def tokens(line: str, tables: Tables, heads: Sequence[str] = ()) -> list[Token]:
    """The tokens of a line, in order, with what they mean together; ``heads`` are the measures of a
    table's columns."""
    found = columns(words_of(line, tables), heads)
    for step in _STEPS:
        found = step(found)
    return _unknown(found, line, tables)


def _articles(found: list[Token]) -> list[Token]:
    """``a`` counts one before a measure, and is an article before anything else."""
    made: list[Token] = []
    for at, token in enumerate(found):
        if token.kind == "A":
            after = next((t.kind for t in found[at + 1 :] if t.kind not in ("FILLER", "PRAISE")), "")
            if after not in ("UNIT", "COUNT", "FRACWORD", "WNUM", "DOZEN", "VAGUE", "HEAP"):
                letter = bool(made) and made[-1].text.lower() == "vitamin"
                token = replace(token, kind="UNKNOWN" if letter else "FILLER")
        made.append(token)
    return made


def _refused(found: list[Token]) -> list[Token]:
    """``orange blossom hydrosol`` is a water, whatever it was made of, and ``soy candle wax`` is for candles."""
    made: list[Token] = []
    for token in found:
        is_refused = isinstance(token.value, Meant) and bool(token.value.refused)
        while is_refused and made and made[-1].kind in ("NAME", "UNKNOWN"):
            token = merged([made.pop(), token], "NAME", token.value)
        made.append(token)
    return made


def _parentheses(found: list[Token]) -> list[Token]:
    """A parenthesis that opens on an amount says the same in another measure; one that names, too, parts."""
    made = []
    for at, token in enumerate(found):
        if token.kind == "LEFT":
            inner = _inside(found, at)
            after = next((t.kind for t in inner if t.kind not in ("FILLER", "LEFT")), "")
            is_of_all = any(t.kind == "EACH" for t in inner)
            nested = is_of_all or (at > 0 and found[at - 1].kind == "LEFT")
            if after in _COUNTS and not nested and at > 0:
                names_too = any(t.kind == "NAME" for t in inner)
                token = replace(token, kind="_COMMA" if names_too else "ALT")
        made.append(token)
    return made


def _inside(found: list[Token], at: int) -> list[Token]:
    """What stands in the parenthesis that opens there."""
    end = next((i for i in range(at + 1, len(found)) if found[i].kind == "RIGHT"), len(found))
    return found[at + 1 : end]


def _generics(found: list[Token]) -> list[Token]:
    """``liquid oils (olive and jojoba)``: one name, with those to choose among."""
    made: list[Token] = []
    at = 0
    while at < len(found):
        token = found[at]
        run = [t for t in found[at : at + 3] if t.kind in ("UNKNOWN", "FORM", "FILLER", "PRAISE", "NAME")]
        left = next((i for i in range(at, min(at + 4, len(found))) if found[i].kind == "LEFT"), None)
        if left is not None and left > at and all(t in run for t in found[at:left]):
            named = " ".join(t.text.lower() for t in found[at:left])
            inner = _inside(found, left)
            keys = [t.value.ingredient.key for t in inner if isinstance(t.value, Meant) and t.value.ingredient]
            plain = all(t.kind in ("NAME", "_COMMA", "_AND", "OR", "SLASH", "FILLER") for t in inner)
            if named in GENERIC and len(keys) > 1 and plain:
                end = min(left + len(inner) + 2, len(found))
                told = f"“{named}” are several here: which, and how much of each?"
                made.append(merged(found[at:end], "NAME", Meant(None, tuple(keys), told)))
                at = end
                continue
        made.append(token)
        at += 1
    return made


def _cells(found: list[Token]) -> list[Token]:
    """What bars part: ingredients, an amount in two measures, or nothing."""
    made: list[Token] = []
    for at, token in enumerate(found):
        if token.kind == "CELL":
            here, after = _cell(found, at, -1), _cell(found, at, 1)
            whole_before = any(t.kind == "NAME" for t in here) and any(t.kind in AMOUNTS for t in here)
            whole_after = any(t.kind == "NAME" for t in after) and any(t.kind in AMOUNTS for t in after)
            measured = here and here[-1].kind in ("UNIT", "COUNT") and after and after[0].kind in NUMBERS
            if whole_before and whole_after:
                token = replace(token, kind="_COMMA")
            elif measured and any(t.kind in ("UNIT", "COUNT") for t in after):
                token = replace(token, kind="ALT")
        made.append(token)
    return made


def _cell(found: list[Token], at: int, step: int) -> list[Token]:
    """The cell before a bar, or after it."""
    i, cell = at + step, list[Token]()
    while 0 <= i < len(found) and found[i].kind != "CELL":
        cell.append(found[i])
        i += step
    return cell[::step]


def _colons(found: list[Token]) -> list[Token]:
    """``a : b : c = 2 : 3 : 5`` and ``1 wax : 4 oil``: a colon between two of a proportion parts them."""
    has_ratio = any(token.kind == "RATIO" for token in found)
    made = list(found)
    for at in range(1, len(made) - 1):
        before, token, after = made[at - 1], made[at], made[at + 1]
        if token.kind in ("COLON", "SLASH") and has_ratio and before.kind == after.kind == "NAME":
            made[at] = replace(token, kind="_COMMA")
        elif token.kind in ("ALT", "COLON") and has_ratio and "RATIO" in (before.kind, after.kind):
            made[at] = replace(token, kind="DASHED")
        elif token.kind == "COLON" and _is_unknown(before) and after.kind in ("FRACWORD", "FRAC"):
            made[at] = replace(token, kind="_COMMA")  # 100 g oils: half olive, half jojoba
        elif token.text == "=" and any(t.kind == "_PLUS" for t in found[:at]):
            made[at] = replace(token, kind="BOUND")  # of the sum, or of the last
        elif token.kind == "COLON" and _is_of_a_proportion(found, at):
            made[at] = replace(token, kind="TO")
        elif token.kind in ("RATIO_MARK", "COLON") and before.kind in NUMBERS and after.kind in NUMBERS:
            made[at] = replace(token, kind="DASHED")
    return made


def _is_unknown(token: Token) -> bool:
    return token.kind == "UNKNOWN" or token.ingredient_is_unknown


def _is_of_a_proportion(found: list[Token], at: int) -> bool:
    """Whether a colon has a name and a bare number, or parts, on either side."""
    sides = (found[max(at - 3, 0) : at], found[at + 1 : at + 4])
    measured = {"UNIT", "COUNT", "VAGUE"}
    for side in sides:
        kinds = {token.kind for token in side if not (token.kind == "UNIT" and token.value == "part")}
        if not kinds & {"NAME", "UNKNOWN"} or not kinds & NUMBERS or kinds & measured:
            return False
    return True


def _doses(found: list[Token]) -> list[Token]:
    """``20 drops/100 g`` is so many per so much, and ``olive oil up to 100 %`` what is missing to it."""
    made = list(found)
    for at in range(1, len(found) - 2):
        token, before = found[at], found[at - 1]
        if token.kind == "SLASH" and before.value == "drop" and found[at + 2].value in MASSES | VOLUMES:
            made[at] = replace(token, kind="PER")
        elif token.text.lower() == "up to" and before.kind in ("NAME", "UNKNOWN"):
            made[at] = replace(token, kind="TO")
    return made


def _pers(found: list[Token]) -> list[Token]:
    """``to the cup``, ``per 100 g``: of what an amount is said; anything else after such a word is a filler."""
    made: list[Token] = []
    for at, token in enumerate(found):
        after = next((t for t in found[at + 1 :] if t.kind not in ("FILLER", "PRAISE")), None)
        if token.kind == "TO" and after and after.kind == "A" and at + 2 < len(found):
            unit = found[at + 2]
            token = replace(token, kind="PER") if unit.kind == "UNIT" and unit.value != "part" else token
        elif token.kind == "PER":
            is_amount = after is not None and after.kind in (*_COUNTS, "UNIT", "COUNT")
            of_a_tin = after is not None and after.text.split()[-1].lower() in CONTAINERS
            is_open = of_a_tin or not token.text.lower().startswith("to ")
            token = token if is_amount else replace(token, kind="BOUND" if is_open else "FILLER")
        made.append(token)
        if token.kind == "PER" and after is not None and after.kind in ("UNIT", "COUNT"):
            made.append(Token("NUM", "1", token.end, token.end, 1.0))
    return made


def _bases(found: list[Token]) -> list[Token]:
    """``1 % of the base`` comes on top of it, with its percent before; elsewhere it is a filler."""
    made: list[Token] = []
    for token in found:
        if token.kind == "BASED" and not any(t.value == "percent" for t in made):
            token = replace(token, kind="UNKNOWN")
        made.append(token)
    return made


def _unit_words(found: list[Token]) -> list[Token]:
    """A word that is not known, between a number and a name, stands where a measure would."""
    made: list[Token] = []
    for at, token in enumerate(found):
        if token.kind == "UNKNOWN" and made and made[-1].kind in NUMBERS and token.text[:1].isalpha():
            after = next((t for t in found[at + 1 :] if t.kind not in ("FILLER", "PRAISE", "FORM")), None)
            if after is not None and after.kind == "NAME":
                token = replace(token, kind="UNIT", value=UNKNOWN_UNIT + token.text.lower())
        made.append(token)
    return made


_STEPS: tuple[Callable[[list[Token]], list[Token]], ...] = (
    number_words,
    betweens,
    ratios,
    method_numbers,
    set_aside,
    _articles,
    _refused,
    heaps,
    totals,
    _generics,
    _parentheses,
    _cells,
    dashes,
    _colons,
    _doses,
    _pers,
    _bases,
    _unit_words,
)


def _unknown(found: list[Token], line: str, tables: Tables) -> list[Token]:
    """Runs with a word that is not known: the likest name to the run, or nothing, and always doubted."""
    made: list[Token] = []
    at = guesses = 0
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
        guesses += 1
        made.append(_guess(run, line, tables) if guesses <= MOST_GUESSES else _lost(run, line))
        at += len(run)
    return made


def _lost(run: list[Token], line: str) -> Token:
    whole = joined(run, line)
    return replace(whole, kind="NAME", value=Meant(None, (), f"“{whole.text[:40]}” was not understood.", sure=LOST))


def _guess(run: list[Token], line: str, tables: Tables) -> Token:
    """The name a run with an unknown word may be. A word before a name may be praise; one after it makes another
    thing of it."""
    whole = replace(joined(run, line), kind="NAME")
    meant = names.nearly(whole.text, tables)
    inside = [token.value for token in run if token.kind == "NAME" and isinstance(token.value, Meant)]
    if meant.ingredient is None and not meant.is_final and len(inside) == 1 and inside[0].ingredient:
        (one,) = inside
        assert one.ingredient
        other = " ".join(token.text for token in run if token.kind == "UNKNOWN")[:40]
        is_certain = not inside[0].why or inside[0].sure > DOUBTED
        changes = names.changes(other)
        near = () if changes else tuple(dict.fromkeys((one.ingredient.key, *meant.near)))
        if run[-1].kind == "NAME" and is_certain and not changes:
            meant = Meant(one.ingredient, near, f"“{other}” was not understood: read as {one.ingredient.name}.")
        else:
            near = () if one.ingredient.aromatic else near
            meant = Meant(
                None, near, f"“{clean(whole.text)[:60]}” is not in the pantry, nor is it {one.ingredient.name}."
            )
    return replace(whole, value=meant)
