"""Small parts that many pages share, each drawn in one place: ``{% options kinds chosen %}``."""

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from django import template

register = template.Library()


@register.inclusion_tag("partials/chip.html")
def chip(role: str) -> dict[str, Any]:
    """The small square of a material: its colour and its hatch."""
    return {"role": role}


@register.inclusion_tag("partials/options.html")
def options(choices: Iterable[Any], chosen: object) -> dict[str, Any]:
    """The options of a select: pairs of value and label, or things with a key and a name."""
    pairs = [choice if isinstance(choice, tuple) else (choice.key, choice.name) for choice in choices]
    return {"options": pairs, "chosen": chosen}


@register.simple_tag(takes_context=True)
def page_address(context: template.Context, number: int, name: str = "") -> str:
    """The address of the same page at another page of a list, whose number it calls ``name``."""
    query = context["request"].GET.copy()
    query[name or "page"] = number
    return f"?{query.urlencode()}"


@register.filter
def price(amount: Decimal | None) -> str:
    """An amount of money to the cent, nothing for None."""
    return "" if amount is None else f"{amount:.2f}"
