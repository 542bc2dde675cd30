"""Quantities in templates, in the maker's units: ``{{ grams|mass:show }}``."""

from collections.abc import Iterable, Sequence
from datetime import date
from decimal import Decimal

from django import template
from django.utils.html import format_html

from balmcore import display, units, wording
from balmcore.composition import pack, percent_text
from balmcore.display import Display, day_words, near_day_words, short_day_words
from balmcore.tables import Ingredient
from balmcore.wording import in_sentence

register = template.Library()


@register.filter
def mass(grams: float | Decimal, show: Display) -> str:
    """``12.3 g`` to the scale's resolution."""
    return show.mass_text(grams)


@register.filter
def columned(amount: str) -> str:
    """A figure and its unit or word, each in a column of its own, so that figures stand under each other."""
    number, _, unit = str(amount).partition(" ")
    return format_html('{} <span class="unit">{}</span>', number, unit) if unit else number


@register.filter
def mass_sum(grams: Iterable[Decimal], show: Display) -> str:
    """The sum of masses as they are shown, without the unit: ``12.3``."""
    return show.mass_number(show.shown_sum_g(grams))


@register.filter
def mass_number(grams: float | Decimal, show: Display) -> str:
    """``12.3`` without the unit, for columns that name it on top."""
    return show.mass_number(grams)


@register.filter
def figure(value: float | Decimal | None, places: int | None = None) -> str:
    """A number with the maker's mark, to so many places or as short as it goes; nothing for None."""
    return "" if value is None else display.figure(value, places)


@register.filter
def written(text: str) -> str:
    """A text of the reference tables with the maker's mark in its numbers."""
    return display.spoken().written(text)


@register.filter(expects_localtime=True)
def day(when: date | None) -> str:
    """``31 May 2026``, in the maker's order; nothing for None."""
    return day_words(when) if when else ""


@register.filter(expects_localtime=True)
def short_day(when: date | None) -> str:
    """``31 Dec 2026``."""
    return short_day_words(when) if when else ""


@register.filter(expects_localtime=True)
def near_day(when: date | None) -> str:
    """``31 May``, where the year is plain."""
    return near_day_words(when) if when else ""


@register.filter(expects_localtime=True)
def day_field(when: date | None) -> str:
    """``31/05/2026``, as a field for a day holds it."""
    return display.spoken().day_field(when) if when else ""


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
def as_percent(share: float) -> str:
    """A share as percent to a tenth: ``24.0``."""
    return display.figure(share * 100, 1)


@register.filter
def percent_short(share: float) -> str:
    """A share as percent, as short as it goes: ``5``, ``0.5``."""
    return display.figure(share * 100)


@register.filter
def cut_underscore(key: str) -> str:
    """A key as words: ``plant wax``."""
    return key.replace("_", " ")


@register.filter
def packed(shares: tuple[tuple[Ingredient, Decimal], ...]) -> str:
    """Shares of ingredients for a hidden value: ``lavender:0.005``."""
    return pack((item.key, share) for item, share in shares)


@register.filter
def percent_whole(share: Decimal | None) -> str:
    """A share as whole percent: ``93``; nothing for None."""
    return "" if share is None else f"{share * 100:.0f}"


@register.simple_tag(takes_context=True)
def amount_of(context: template.Context, value: Decimal, is_container: bool) -> str:
    """Grams in the maker's unit, or pieces."""
    return f"{value:.0f} pieces" if is_container else context["show"].mass_text(value)


@register.simple_tag(takes_context=True)
def amount_number(context: template.Context, value: Decimal, is_container: bool) -> str:
    """Grams in the maker's unit, or pieces, without the unit."""
    return f"{value:.0f}" if is_container else context["show"].mass_number(value)


@register.filter
def lower_first(name: str) -> str:
    """A name in the middle of a sentence: ``vitamin E``."""
    return in_sentence(name)


@register.filter
def listed(names: Sequence[str]) -> str:
    """Names in the middle of a sentence: ``beeswax, yellow and jojoba oil``."""
    return wording.listed(names)


@register.filter
def firmer_than_planned(points: int) -> str:
    """A difference of two firmnesses as they are shown: ``2 softer than planned``."""
    if not points:
        return "as planned"
    return f"{abs(points)} {'firmer' if points > 0 else 'softer'} than planned"


@register.filter
def fluid_ounces(millilitres: float) -> str:
    """Millilitres as US fluid ounces, which are room: ``2.1``."""
    return display.figure(millilitres / units.FLUID_OUNCE_ML, 1)


@register.filter
def ounces(grams: float) -> str:
    """Grams as ounces of weight: ``1.75``."""
    return display.figure(Display("oz").in_mass(grams), 2)
