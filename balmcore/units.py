"""Kitchen measures to grams, millilitres and degrees C; the way back is :mod:`balmcore.display`.

Every quantity people type comes through here: ``1,5`` and ``1.5``, ``½`` and ``1 1/2``, grams,
ounces, fluid ounces, and the cups and spoons of three kitchens. What cannot be read is a
:class:`~balmcore.errors.Problem` whose sentence shows what was typed.
"""

import re
import unicodedata
from decimal import Decimal
from functools import cache
from pathlib import Path

import pint

from balmcore.display import COMMA, POINT, mass_words, spoken
from balmcore.errors import Problem

FLUID_OUNCE_ML = 29.5735295625  # US
KITCHENS = ("us", "metric", "au")
MICROGRAM = Decimal("0.000001")  # grams are kept exactly to it
MOST_G = Decimal(1_000_000)  # a ton: more is no workshop's
_HIGHEST = Decimal(10) ** 9  # beyond anything that is weighed or paid
_NUMBER = re.compile(r"([+-]?)(?:(\d+)\s+)?(?:(\d+)/(\d+)|(\d*[.,]?\d+|\d+[.,]))", re.ASCII)
# What may mean thousands, by the mark that its writer puts before decimals.
_THOUSANDS = {
    POINT: re.compile(r"[+-]?\d{1,3}(,\d{3})+(\.\d+)?|[+-]?\d{1,3}(\.\d{3}){2,}", re.ASCII),
    COMMA: re.compile(r"[+-]?\d{1,3}(\.\d{3})+(,\d+)?|[+-]?\d{1,3}(,\d{3}){2,}", re.ASCII),
}
_SPOONS = {
    "cup": "cup", "cups": "cup", "c": "cup",
    "tablespoon": "tablespoon", "tablespoons": "tablespoon", "tbsp": "tablespoon", "tbs": "tablespoon",
    "teaspoon": "teaspoon", "teaspoons": "teaspoon", "tsp": "teaspoon",
}  # fmt: skip


@cache
def _registry() -> "pint.UnitRegistry[float]":
    registry: pint.UnitRegistry[float] = pint.UnitRegistry(None)
    registry.load_definitions(str(Path(__file__).parent / "units.txt"))
    return registry


def _is_unit(name: str) -> bool:
    """True for the name of a unit. The registry has attributes of its own, which begin with an underscore."""
    return name.isidentifier() and not name.startswith("_") and name in _registry()


def _shown(text: str) -> str:
    """What was typed, short enough to quote."""
    text = " ".join(text.split())
    return text if len(text) <= 40 else text[:40] + "…"


def spread(text: str) -> str:
    """Vulgar fractions as n/d with a space before, full-width digits as plain ones; lines stay."""
    open_out = "".join(
        " " + unicodedata.normalize("NFKC", char).replace("\N{FRACTION SLASH}", "/")
        if unicodedata.decomposition(char).startswith("<fraction>")
        else char
        for char in text
    )
    plain = unicodedata.normalize("NFKC", open_out).replace("\N{FRACTION SLASH}", "/")
    return plain.replace("\N{MINUS SIGN}", "-")


def _plain(text: str) -> str:
    """What was typed, spread out, on one line."""
    return " ".join(spread(text).split())


def size(unit: str, kitchen: str) -> tuple[str, float]:
    """Whether a unit is a ``mass`` or a ``volume``, and its grams or millilitres; ("", 0) for
    anything else."""
    spoon = _SPOONS.get(unit.lower())
    name = f"{kitchen}_{spoon}" if spoon else unit.replace(" ", "_")
    if name.lower() in ("nan", "inf", "infinity") or not _is_unit(name):
        return "", 0.0
    one = _registry().Quantity(1.0, name)
    if one.is_compatible_with("gram"):
        return "mass", float(one.to("gram").magnitude)
    return ("volume", float(one.to("millilitre").magnitude)) if one.is_compatible_with("millilitre") else ("", 0.0)


def number(text: str, where: str = "") -> Decimal:
    """The number typed: finite, below a thousand million. Either mark stands before decimals; three digits after the
    one that its writer does not use could mean thousands, and are refused.

    >>> [str(number(text)) for text in ("12", "1,5", "½", "1 1/2")]
    ['12', '1.5', '0.5', '1.5']
    """
    plain = _plain(text)
    if not plain:
        raise Problem("A number is missing here.", where)
    if _THOUSANDS[spoken().mark].fullmatch(plain) and len(plain.lstrip("+-0,.")) > 3:
        raise Problem(f"“{_shown(text)}” can be read in two ways: write thousands without a mark, as in 1000.", where)
    match = _NUMBER.fullmatch(plain) if len(plain) <= 60 else None
    if match is None:
        raise Problem(f"“{_shown(text)}” is not a number: write it like 12.5, 12,5 or 12 1/2.", where)
    sign, whole, top, bottom, decimal = match.groups()
    if whole and decimal:
        raise Problem(f"“{_shown(text)}” looks like two numbers: write one.", where)
    if bottom and not int(bottom):
        raise Problem(f"“{_shown(text)}” divides by nothing.", where)
    value = Decimal(whole or 0) + (Decimal(top) / Decimal(bottom) if top else Decimal(decimal.replace(",", ".")))
    if value >= _HIGHEST:
        raise Problem(f"“{_shown(text)}” is more than any bench holds.", where)
    return -value if sign == "-" else value


def share(text: str, where: str = "") -> Decimal:
    """A percentage typed, as a share from 0 to 1, to a ten-thousandth of a percent."""
    value = number(text.strip().removesuffix("%"), where)
    if value < 0:
        raise Problem(f"“{_shown(text)}” is below nothing: a percentage lies between 0 and 100.", where)
    if value > 100:
        raise Problem(f"“{_shown(text)}” is more than the whole: a percentage lies between 0 and 100.", where)
    return round(value / 100, 6)


def count(text: str, most: int, where: str = "") -> int:
    """A whole number of things, from 1 to ``most``."""
    value = number(text, where)
    if value != value.to_integral_value():
        raise Problem(f"“{_shown(text)}” is not a whole number of pieces.", where)
    if value < 1:
        raise Problem("At least one is needed: to leave it out, remove the row.", where)
    if value > most:
        raise Problem(f"“{_shown(text)}” is more than {most} pieces: split it into several batches.", where)
    return int(value)


def drops(text: str, most: int, where: str = "") -> int | None:
    """How many drops are typed (``12 drops``), None for an amount of another sort."""
    plain = text.strip().lower()
    word = next((word for word in ("drops", "drop") if plain.endswith(word)), "")
    return count(plain.removesuffix(word), most, where) if word else None


def _measure(text: str, unit: str, kitchen: str, where: str) -> "tuple[Decimal, pint.Unit]":
    """Number and Pint unit of a text; ``unit`` when none is written."""
    plain = _plain(text)
    match = re.fullmatch(r"([-+\d.,/\s]*)([^\d]*)", plain, re.ASCII)
    if match is None or (plain and not match[1].strip()):
        raise Problem(f"“{_shown(text)}” is not an amount: write it like {mass_words(12.5)}.", where)
    value, word = number(match[1], where), match[2].strip().rstrip(".")
    if value < 0:
        raise Problem(f"“{_shown(text)}” is below nothing.", where)
    word = re.sub(r"\W+", "_", word) or unit
    spoon = _SPOONS.get(word.lower())
    name = f"{kitchen}_{spoon}" if spoon else word
    for candidate in (name, name.lower()):
        if _is_unit(candidate):
            return value, _registry().Unit(candidate)
    raise Problem(
        f"“{_shown(match[2].strip())}” is not a measure used here: g, kg, oz, lb, mL, fl oz, cup, tbsp or tsp.", where
    )


def mass_g(
    text: str,
    unit: str = "g",
    kitchen: str = "metric",
    density_g_ml: float | None = None,
    bulk_density_g_ml: float | None = None,
    where: str = "",
) -> Decimal:
    """Grams of an amount typed. A volume is turned with the density; cups and spoons of
    pellets, flakes and powders with the bulk density, since a cup of them is mostly air. Exact to a
    microgram, at most a ton.

    >>> f"{mass_g('2 oz'):.2f}", f"{mass_g('1 cup', kitchen='us', density_g_ml=0.92, bulk_density_g_ml=0.6):.1f}"
    ('56.70', '142.0')
    """
    value, measured = _measure(text, unit, kitchen, where)
    if measured.is_compatible_with("gram"):
        return _exact(value * Decimal(str(_registry().Quantity(1.0, measured).to("gram").magnitude)), text, where)
    density = (bulk_density_g_ml if "poon" in str(measured) or "cup" in str(measured) else None) or density_g_ml
    if density is None:
        raise Problem(f"“{_shown(text)}” is a volume: a weight is needed here.", where)
    volume = value * Decimal(str(_registry().Quantity(1.0, measured).to("millilitre").magnitude))
    return _exact(volume * Decimal(str(density)), text, where)


_NEXT_READING = re.compile(r"(?:\s*;\s*|\s+(?:and\s+)?)(?=[\d½⅓⅔¼¾⅛.,])")


def apart(text: str) -> list[str]:
    """The texts of several weights written one after another.

    >>> apart("260 262,5 g; 9.2 oz,")
    ['260', '262,5 g', '9.2 oz']
    """
    parts = _NEXT_READING.split(text.strip().rstrip(",;"))
    return [part.rstrip(",") for part in parts if part]


def masses_g(text: str, unit: str = "g", where: str = "") -> tuple[Decimal, ...]:
    """Several weights written one after another, in grams.

    >>> [str(round(grams, 1)) for grams in masses_g("260 262,5 g; 9.2 oz")]
    ['260.0', '262.5', '260.8']
    """
    return tuple(mass_g(part, unit, where=where) for part in apart(text))


def _exact(grams: Decimal, text: str, where: str) -> Decimal:
    """Grams to a microgram, within what a workshop can hold."""
    if grams > MOST_G:
        raise Problem(f"“{_shown(text)}” is more than any bench holds.", where)
    exact = grams.quantize(MICROGRAM)
    if grams and not exact:
        raise Problem(f"“{_shown(text)}” is less than any scale shows.", where)
    return exact


def volume_ml(text: str, unit: str = "ml", kitchen: str = "metric", where: str = "") -> float:
    """Millilitres of a volume typed. Plain ounces are refused: they are a weight."""
    value, measured = _measure(text, unit, kitchen, where)
    if not measured.is_compatible_with("millilitre"):
        raise Problem(f"“{_shown(text)}” is a weight: a volume is needed, in mL or fl oz.", where)
    return float(_registry().Quantity(float(value), measured).to("millilitre").magnitude)


def temp_c(text: str, unit: str = "C", where: str = "") -> float:
    """Degrees C of a temperature typed: ``21``, ``21 °C``, ``70F``; ``unit`` when none is written."""
    plain = _plain(text)
    match = re.fullmatch(r"([-+\d.,/\s]*?)\s*(?:°|deg|degrees)?\s*([cCfF]?)", plain)
    if match is None:
        raise Problem(f"“{_shown(text)}” is not a temperature: write it like 21 °C or 70 °F.", where)
    value = float(number(match[1], where))
    degrees = (value - 32) / 1.8 if (match[2] or unit).upper() == "F" else value
    if not -40 <= degrees <= 150:
        raise Problem(f"“{_shown(text)}” is no temperature of a workshop.", where)
    return degrees
