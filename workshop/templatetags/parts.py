"""Small parts that many pages share, each drawn in one place: ``{% options kinds chosen %}``."""

from collections.abc import Iterable, Iterator
from datetime import date
from decimal import Decimal
from functools import lru_cache
from typing import Any

from django import template
from django.forms import BaseForm, BoundField
from django.template.base import FilterExpression, Parser, Token
from django.template.loader import render_to_string
from django.utils.html import format_html
from django.utils.safestring import SafeString

from balmcore.advice.claims import claims
from balmcore.display import Display, figure
from balmcore.making.cost import Bill
from balmcore.making.steps import BURNS
from workshop.forms import FieldError
from workshop.forms.days import DayInput
from workshop.requests.once import new_token

register = template.Library()


@register.simple_tag
@lru_cache(maxsize=16)
def chip(role: str) -> str:
    """The small square of a material: its colour and its hatch."""
    return render_to_string("partials/chip.html", {"role": role})


@register.simple_tag
@lru_cache(maxsize=1)
def lock() -> str:
    """The padlock beside a share, open or shut by the box before it."""
    return render_to_string("partials/lock.html")


@register.simple_tag
@lru_cache(maxsize=1)
def ring_open() -> str:
    """The small open ring of a doubt that is not answered, the same on every page."""
    return render_to_string("partials/ring.html")


@register.simple_tag
def burns() -> str:
    """What to mind of hot wax and fire, in the same words everywhere."""
    return BURNS


@register.inclusion_tag("partials/claims.html")
def claims_in(*texts: str) -> dict[str, Any]:
    """The words of a name or a note that a label may not say, each with why and a neutral one; a note may keep them."""
    return {"claims": claims(" ".join(text for text in texts if text))}


class DrawnNode(template.Node):
    """A group that is left as it is where the page has drawn it already."""

    def __init__(self, inside: template.NodeList, name: str, drawn_from: FilterExpression) -> None:
        self.inside, self.name, self.drawn_from = inside, name, drawn_from

    def render(self, context: template.Context) -> SafeString:
        """The group under a mark of what it is drawn from, and empty where a page asks that sent that very mark."""
        mark = f"{self.name}:{hash(self.drawn_from.resolve(context)):x}"
        request = context["request"]
        if request.htmx and mark in request.POST.getlist("drawn"):
            return format_html('<g id="{}" data-as-drawn></g>', self.name)
        return format_html('<g id="{}" data-drawn="{}">{}</g>', self.name, mark, self.inside.render(context))


@register.tag
def drawn(parser: Parser, token: Token) -> DrawnNode:
    """``{% drawn map-land map.land %} … {% enddrawn %}``: a group of a picture that an answer does not send again
    while it is drawn from the same (hashable) value; ``studio.js`` tells which the page has."""
    _, name, drawn_from = token.split_contents()
    inside = parser.parse(("enddrawn",))
    parser.delete_first_token()
    return DrawnNode(inside, name, parser.compile_filter(drawn_from))


@register.simple_tag
def options(choices: Iterable[Any], chosen: object) -> str:
    """The options of a select: pairs of value and label, or things with a key and a name."""
    pairs = (choice if isinstance(choice, tuple) else (choice.key, choice.name) for choice in choices)
    return _options(tuple(pairs), chosen)


@lru_cache(maxsize=256)
def _options(pairs: tuple[tuple[object, str], ...], chosen: object) -> str:
    return render_to_string("partials/options.html", {"options": pairs, "chosen": chosen})


@register.simple_tag
def day_input(name: str, value: date | str | None, **attributes: str) -> str:
    """A field for a day that stands in a template of its own."""
    return DayInput(attrs={key.replace("_", "-"): text for key, text in attributes.items()}).render(name, value)


@register.simple_tag
def once() -> str:
    """The hidden field by which a form is taken once, however often its button is pressed."""
    return format_html('<input type="hidden" name="once" value="{}" />', new_token())


@register.simple_tag(takes_context=True)
def page_address(context: template.Context, number: int, name: str = "") -> str:
    """The address of the same page at another page of a list, whose number it calls ``name``."""
    query = context["request"].GET.copy()
    query[name or "page"] = number
    return f"?{query.urlencode()}"


@register.filter
def price(amount: Decimal | None) -> str:
    """An amount of money to the cent, nothing for None."""
    return "" if amount is None else figure(amount, 2)


@register.filter
def price_per(bill: Bill, show: Display) -> str:
    """What 100 g of a melt, or an ounce, cost."""
    return figure(bill.per_100_g / 100 * show.price_grams, 2)


@register.inclusion_tag("partials/errors.html", takes_context=True)
def errors_here(context: template.Context) -> dict[str, list[FieldError]]:
    """What is wrong in any form of a page, told at its top with links; each stands beside its field as well."""
    forms = {id(form): form for form in _forms_in(context.flatten().values())}
    found: list[FieldError] = []
    for form in forms.values():
        if not form.is_bound or not form.errors:
            continue
        for name, sentences in form.errors.items():
            field: BoundField | None = form[name] if name in form.fields else None
            label, at = (f"{field.label}", field.id_for_label) if field else ("", "")
            found += [FieldError(label, at, f"{said}") for said in sentences]
    return {"found": found}


def _forms_in(values: Iterable[Any], deep: int = 2) -> Iterator[BaseForm]:
    """The forms among some values, and in what lists of them hold."""
    for value in values:
        if isinstance(value, BaseForm):
            yield value
        elif deep and isinstance(value, list | tuple):
            yield from _forms_in(value, deep - 1)
