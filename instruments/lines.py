"""What a line of a scale or a thermometer says.

Read are lines of our own (``S +12.34 g`` steady, ``U +12.30 g`` moving, ``T 71.3 C``, ``E over``) and
those that most instruments speak: a number with or without a unit, with status words before it
(``ST,GS,+  12.34g``, ``US,NT,-0.1 g``) or a sign set apart. What is none of these is said, never guessed.
"""

import math
import re
from dataclasses import dataclass

from balmcore.display import OUNCE_G, figure

LONGEST = 80
IN_GRAMS = {"g": 1.0, "kg": 1000.0, "oz": OUNCE_G, "lb": 16 * OUNCE_G, "mg": 0.001}
STEADY, MOVING = {"s", "st", "stable"}, {"u", "us", "unst", "sd", "d"}
OVERLOAD = {"ol", "over", "h", "ovl"}
HEAVIEST_G, COLDEST_C, HOTTEST_C = 60_000.0, -60.0, 250.0
# A whole line: status words, a number, its unit, status words again; nothing else may stand in it.
_BETWEEN = r"[\s,;:=]"
_LINE = re.compile(
    rf"(?:[a-zA-Z]+{_BETWEEN}*)*(?P<sign>[+-]?)\s*(?P<number>\d[\d.,]*)(?<![.,])(?:\s*(?P<unit>°?[a-zA-Z]{{1,3}}))?"
    rf"(?:{_BETWEEN}+[a-zA-Z]+)*{_BETWEEN}*"
)
_PLAIN = re.compile(r"\d{1,9}(?:[.,]\d{1,6})?")
_THOUSANDS = re.compile(r"\d{1,3}(?:(?P<mark>[.,])\d{3})(?:(?P=mark)\d{3})*(?!(?P=mark))[.,]\d{1,6}")
_TWO_WAYS = re.compile(r"[1-9]\d{0,2},\d{3}")
_WORDS = re.compile(r"[a-zA-Z]+")


@dataclass(frozen=True)
class Understood:
    """A line understood: grams or degrees C, or ``problem`` in a sentence. ``is_steady`` is what the
    instrument itself says of it, None where it says nothing."""

    value: float | None = None
    is_steady: bool | None = None
    problem: str = ""


def read_line(line: bytes, unit: str) -> Understood:
    """One line of an instrument that speaks in ``unit`` (g, oz, C or F) where it names none."""
    text = line[:LONGEST].decode("ascii", "replace").strip()
    if len(line) > LONGEST:
        return Understood(problem="It sends lines without an end: check its speed in bauds.")
    if not text:
        return Understood(problem="It sent an empty line.")
    words = {word.lower() for word in _WORDS.findall(text)}
    if set(text) & {"#", "^"} or text.strip("-_+ ") == "" or words & OVERLOAD:
        return Understood(problem="Too much: take something off, or it is at the end of its range.")
    if "e" in words and not any(ch.isdigit() for ch in text):
        return Understood(problem=f"It reports a fault: “{_shown(text)}”.")
    found = _LINE.fullmatch(text)
    number = _number(found["number"]) if found else None
    if found is None or number is None:
        return Understood(problem=f"“{_shown(text)}” is nothing that is understood here.")
    named = found["unit"]
    # A kitchen scale shows thousandths of a kilogram, but not of a gram, and no thousands of kilograms.
    if (named or unit).lower() in ("g", "oz", "mg") and _TWO_WAYS.fullmatch(found["number"]):
        return Understood(problem=f"“{_shown(text)}” can be read in two ways: let it show a point before decimals.")
    value = -number if found["sign"] == "-" else number
    steady = True if words & STEADY else False if words & MOVING else None
    return _in_unit(value, (named or unit).strip("°") or unit, unit, steady)


def _number(text: str) -> float | None:
    """A number with one mark before its decimals or, where it has both, with another between its thousands; None for
    what is none."""
    if _PLAIN.fullmatch(text):
        return float(text.replace(",", "."))
    if _THOUSANDS.fullmatch(text):
        decimals = max(text.rfind("."), text.rfind(","))
        return float(re.sub(r"[.,]", "", text[:decimals]) + "." + text[decimals + 1 :])
    return None


def _in_unit(value: float, named: str, unit: str, steady: bool | None) -> Understood:
    if unit in ("g", "oz"):
        factor = IN_GRAMS.get(named.lower())
        if factor is None:
            return Understood(problem=f"It speaks of “{named}”, which is no weight: set it to grams or ounces.")
        grams = value * factor
        if not math.isfinite(grams) or abs(grams) > HEAVIEST_G:
            return Understood(problem="It shows more than any kitchen scale weighs.")
        return Understood(grams, steady)
    if named.upper() not in ("C", "F"):
        return Understood(problem=f"It speaks of “{named}”, which is no temperature: set it to °C or °F.")
    celsius = (value - 32) / 1.8 if named.upper() == "F" else value
    if not COLDEST_C <= celsius <= HOTTEST_C:
        return Understood(
            problem=f"{figure(value)} °{named.upper()} is not this melt: is the probe broken, or in the flame?"
        )
    return Understood(celsius, steady)


def _shown(text: str) -> str:
    return "".join(ch if ch.isprintable() and ch != "�" else "·" for ch in text[:24])
