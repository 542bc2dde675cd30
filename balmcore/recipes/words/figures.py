"""Numbers and measures beside one another: what is a ratio, a range, a time, the whole, or in a column's measure."""

from collections.abc import Sequence
from dataclasses import replace

from balmcore.recipes.words.known import Meant
from balmcore.recipes.words.tokens import NUMBERS, Token
from balmcore.recipes.words.vocabulary import COUNTED, MASSES, UNITS, UNKNOWN_UNIT, VOLUMES

_MAKES = frozenset({"make", "makes", "yield", "yields", "making", "yielding", "enough for"})


def columns(found: list[Token], columns: Sequence[str]) -> list[Token]:
    """Numbers of a table in the measures of its columns."""
    if not columns:
        return found
    made: list[Token] = []
    column = 0
    for at, token in enumerate(found):
        made.append(token)
        if token.kind == "CELL":
            column += 1 if at else 0
            continue
        ends = at + 1 == len(found) or found[at + 1].kind == "CELL"
        begins = at == 0 or found[at - 1].kind == "CELL"
        if ends and begins and token.kind in NUMBERS and column < len(columns) and columns[column]:
            unit = "percent" if columns[column] == "%" else UNITS.get(columns[column], COUNTED.get(columns[column], ""))
            made.append(Token("UNIT", "", token.end, token.end, unit))
    return made


def merged(run: Sequence[Token], kind: str, value: "float | str | Meant | None" = None) -> Token:
    """Several tokens as one."""
    return Token(kind, " ".join(token.text for token in run), run[0].start, run[-1].end, value)


def number_words(found: list[Token]) -> list[Token]:
    """``twenty five`` and ``two hundred`` as one number, ``5 %`` of a hundred left alone."""
    made: list[Token] = []
    for token in found:
        last = made[-1] if made else None
        if token.kind == "NUM" and last and last.kind == "NUM" and _are_thousands(last.text, token.text):
            told = f"“{last.text} {token.text}” can be read in two ways: write thousands without a mark, as in 1000."
            made[-1] = merged([last, token], "BAD", told)
            continue
        if token.kind == "WNUM" and last and last.kind in ("WNUM", "NUM"):
            few, many = float(str(last.value)), float(str(token.value))
            if many == 100 and few < 100:
                made[-1] = merged([last, token], last.kind, few * many)
                continue
            if last.kind == "WNUM" and few % 10 == 0 and 20 <= few < 100 and many < 10:
                made[-1] = merged([last, token], "WNUM", few + many)
                continue
        if token.kind == "DASHED" and last and last.kind == "WNUM":
            continue  # twenty-five
        made.append(token)
    return made


def _are_thousands(before: str, after: str) -> bool:
    """Whether two numbers beside one another may be one of thousands: ``1 000``."""
    return before.isdigit() and len(before) <= 3 and after.isdigit() and len(after) == 3


def betweens(found: list[Token]) -> list[Token]:
    """``between 20 and 30 g`` as ``20-30 g``."""
    made = list(found)
    for at, token in enumerate(found[:-3]):
        joins = token.text.lower() in ("between", "from") and found[at + 2].kind in ("_AND", "TO")
        if joins and found[at + 1].kind in NUMBERS and found[at + 3].kind in NUMBERS:
            made[at], made[at + 2] = replace(token, kind="FILLER"), replace(found[at + 2], kind="DASH")
    return made


def ratios(found: list[Token]) -> list[Token]:
    """``1:4``, ``50/50``, ``3-4-1`` and ``ratio of 1 to 4`` as one token whose value is ``1:4``."""
    made: list[Token] = []
    at = 0
    while at < len(found):
        token, end = found[at], at + 1
        said = token.kind == "RATIO_WORD"
        start = at + 1 if said else at
        parts, end, marks = _run_of_numbers(found, start, said)
        if len(parts) > 1 and (said or "DASH" not in marks or len(parts) > 2):
            made.append(merged(found[at:end], "RATIO", ":".join(parts)))
            at = end
            continue
        halves = token.text.split("/")
        measured = at + 1 < len(found) and found[at + 1].kind in ("UNIT", "COUNT", "HEAP")
        if token.kind == "FRAC" and not measured and len(halves) == 2 and float(halves[0]) + float(halves[1]) == 100:
            token = replace(token, kind="RATIO", value=":".join(halves))
        made.append(replace(token, kind="METHOD") if said else token)
        at += 1
    return made


def _run_of_numbers(found: list[Token], start: int, said: bool) -> tuple[list[str], int, set[str]]:
    """Numbers with the marks of a ratio between, where they end, and the marks."""
    allowed = ("RATIO_MARK", "COLON", "DASH", "TO") if said else ("RATIO_MARK", "DASH")
    parts: list[str] = []
    marks: set[str] = set()
    end = start
    while end < len(found) and found[end].kind in ("NUM", "WNUM"):
        parts.append(str(found[end].value) if found[end].kind == "WNUM" else found[end].text)
        end += 1
        if end + 1 < len(found) and found[end].kind in allowed and found[end + 1].kind in ("NUM", "WNUM"):
            marks.add(found[end].kind)
            end += 1
        else:
            break
    measured = end < len(found) and found[end].kind in ("UNIT", "COUNT", "HEAP") and found[end].value != "part"
    return ([] if measured else parts), end, marks


def method_numbers(found: list[Token]) -> list[Token]:
    """Times, temperatures and the containers that are filled: numbers of the method, not of an ingredient."""
    made: list[Token] = []
    for token in found:
        letters = (token.kind == "UNKNOWN" and token.text in ("F", "C")) or (token.text == "C" and token.value == "cup")
        hot = letters and made and made[-1].kind == "NUM" and float(str(made[-1].value)) >= 30
        if token.kind in ("TIME", "CONTAINER") or hot:
            kinds = {"NUM", "FRAC", "WNUM", "FRACWORD", "A", "DASH", "TO", "OR", "DOZEN", "TIMES"}
            kinds |= {"UNIT"} if token.kind == "CONTAINER" else set()
            counted: list[Token] = []
            while made and made[-1].kind in kinds:
                counted.insert(0, made.pop())
            while counted and counted[0].kind in ("TO", "OR", "UNIT"):
                made.append(counted.pop(0))
            token = merged([*counted, token], "METHOD")
        made.append(token)
    return _sticks(made, found)


def _sticks(made: list[Token], found: list[Token]) -> list[Token]:
    """``1 stick cocoa butter`` is an amount and no tube: its measure is not known."""
    after = next((token for token in made[1:] if token.kind not in ("FILLER", "PRAISE")), None)
    if not after or made[0].kind != "METHOD" or after.kind != "NAME" or after.ingredient_is_unknown:
        return made
    last = made[0].text.split()[-1].lower()
    counted = [token for token in found if token.end <= made[0].end]
    if last not in ("stick", "sticks", "jar", "jars", "tub", "tin", "tins", "bottle", "bottles", "pot"):
        return made
    return [*counted[:-1], replace(counted[-1], kind="UNIT", value=UNKNOWN_UNIT + last), *made[1:]]


def heaps(found: list[Token]) -> list[Token]:
    """``half a cup packed`` as ``half a packed cup``."""
    made = list(found)
    for at in range(1, len(made)):
        if made[at].kind == "HEAP" and made[at - 1].kind == "UNIT":
            made[at - 1], made[at] = made[at], made[at - 1]
    return made


def totals(found: list[Token]) -> list[Token]:
    """``(makes 80 g)``, ``, enough for 60 g``: what all of it comes to, and no amount of the name before."""
    made = list(found)
    is_shared = any(token.kind in ("EQUAL", "RATIO", "EACH") for token in found)
    for at in range(len(found)):
        end = _end_of_amount(found, at)
        if not end or is_shared:
            continue
        verb = next((i for i in range(at - 1, -1, -1) if found[i].kind != "FILLER"), -1)
        says_so = verb >= 0 and found[verb].kind == "METHOD" and found[verb].text.lower() in _MAKES
        after = found[end].kind if end < len(found) else ""
        parted = verb >= 0 and found[verb].kind in ("_COMMA", "LEFT")
        if (says_so and after in ("", "RIGHT", "_COMMA")) or (parted and after == "TOGETHER"):
            end += after == "TOGETHER"
            made[verb:end] = [replace(token, kind="TOTAL") for token in found[verb:end]]
    return made


def _end_of_amount(found: list[Token], at: int) -> int:
    """Where a weight that begins there ends, 0 where none does."""
    is_weight = at + 1 < len(found) and found[at].kind == "NUM" and found[at + 1].value in MASSES
    return at + 2 if is_weight and found[at + 1].kind == "UNIT" else 0


def dashes(found: list[Token]) -> list[Token]:
    """``10 g - 12 g`` is a range, ``22 g – 22 %`` the same in another measure."""
    made = list(found)
    for at in range(1, len(made) - 2):
        if made[at].kind == "DASHED" and made[at - 1].kind in ("UNIT", "COUNT") and made[at + 1].kind in NUMBERS:
            unit = next((t for t in made[at + 2 : at + 4] if t.kind in ("UNIT", "COUNT")), None)
            if unit is not None:
                same = any({unit.value, made[at - 1].value} <= group for group in (MASSES, VOLUMES))
                same = same or unit.value == made[at - 1].value
                made[at] = replace(made[at], kind="DASH" if same else "ALT")
    return made
