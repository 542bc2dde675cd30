"""What a line says that is no amount of anything: what it is without, what to do if it is too soft."""

from dataclasses import replace

from balmcore.recipes.words.tokens import NUMBERS, Token

_PARTING = frozenset({"_COMMA", "LEFT", "RIGHT"})


def set_aside(found: list[Token]) -> list[Token]:
    """The tokens, those of a negation or a condition as notes: they are kept, and never counted."""
    found = _free_of(found)
    if not any(token.kind in ("NOT", "IF") for token in found):
        return found
    made: list[Token] = []
    conditional = False
    for part in _parts(found):
        kinds = {token.kind for token in part}
        if any(token.text.lower() == "unless" for token in part) and _is_whole(part):
            at = next(i for i, token in enumerate(part) if token.text.lower() == "unless")
            part = [
                *part[:at],
                *_noted(part[at:]),
                replace(part[at], kind="EXTRA", value="optional", start=part[at].end),
            ]
        elif "IF" in kinds:
            conditional, part = True, _noted(part)
        elif conditional and not _is_whole(part):
            part = _noted(part)
        else:
            conditional = conditional and not _is_whole(part)
            part = _negated(part)
        made += part
    return made


def _free_of(found: list[Token]) -> list[Token]:
    """``nut-free`` denies what stands before it."""
    made = list(found)
    for at, token in enumerate(found):
        if token.text.lower() == "free" and at:
            start = at - 2 if found[at - 1].kind == "DASHED" else at - 1
            if start >= 0 and found[start].kind in ("NAME", "UNKNOWN", "CONTAINER"):
                made[start : at + 1] = _noted(found[start : at + 1])
    return made


def _parts(found: list[Token]) -> list[list[Token]]:
    """What stands between commas and parentheses, with the mark that leads it."""
    parts: list[list[Token]] = [[]]
    for token in found:
        if token.kind in _PARTING:
            parts.append([])
        parts[-1].append(token)
    return [part for part in parts if part]


def _is_whole(part: list[Token]) -> bool:
    """Whether a part is an ingredient of its own: named, measured, and not said as more of something to add."""
    kinds = {token.kind for token in part}
    is_more = any(token.kind == "EXTRA" and token.value == "more" for token in part)
    return "NAME" in kinds and bool(kinds & NUMBERS) and "METHOD" not in kinds and not is_more


def _noted(part: list[Token]) -> list[Token]:
    return [token if token.kind in ("LEFT", "RIGHT") else replace(token, kind="NOTE") for token in part]


def _negated(part: list[Token]) -> list[Token]:
    """From the word that denies to the end of its part: ``100 g shea without salt``."""
    at = next((i for i, token in enumerate(part) if token.kind == "NOT"), None)
    if at is None:
        return part
    if all(token.kind in (*_PARTING, "FILLER", "DASHED", "_AND") for token in part[:at]):
        at = 0
    return [*part[:at], *_noted(part[at:])]
