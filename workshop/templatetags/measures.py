"""Quantities in templates, in the maker's units: ``{{ grams|mass:show }}``."""

from decimal import Decimal

from django import template

from balmcore.formula import pack, percent_text
from balmcore.units import Display

register = template.Library()


@register.filter
def mass(grams: float | Decimal, show: Display) -> str:
    """``12.3 g`` to the scale's resolution."""
    return show.mass_text(grams)


@register.filter
def mass_number(grams: float | Decimal, show: Display) -> str:
    """``12.3`` without the unit, for columns that name it on top."""
    return show.mass_number(grams)


@register.filter
def temp(celsius: float, show: Display) -> str:
    """``41 °C``."""
    return show.temp_text(celsius)


@register.filter
def percent(share: Decimal) -> str:
    """A share as percent without the sign: ``24.0``."""
    return percent_text(Decimal(share))


@register.filter
def points(firmness: float) -> str:
    """A firmness as whole points."""
    return f"{firmness:.0f}"


@register.filter
def temp_number(celsius: float, show: Display) -> str:
    """``41`` without the unit, for columns that name it on top."""
    return show.temp_number(celsius)


@register.filter
def percent_short(share: float) -> str:
    """A share as percent, as short as it goes: ``5``, ``0.5``."""
    return f"{share * 100:g}"


@register.filter
def cut_underscore(key: str) -> str:
    """A key as words: ``plant wax``."""
    return key.replace("_", " ")


@register.filter
def packed(shares: tuple[tuple[str, Decimal], ...]) -> str:
    """Shares by key for a hidden value: ``lavender:0.005``."""
    return pack(shares)
