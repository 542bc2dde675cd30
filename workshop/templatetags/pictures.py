"""Pictures in templates: ``{% tin formula.tin 48 %}``. Each is drawn in one place only."""

from collections.abc import Sequence
from functools import lru_cache

from django import template
from django.template.loader import render_to_string
from django.utils.html import escape
from django.utils.safestring import SafeString

from workshop.pictures.curve import Axes
from workshop.pictures.tin import Tin

register = template.Library()


@register.simple_tag
@lru_cache(maxsize=1024)
def tin(picture: Tin, size: int) -> str:
    """A tin at 24, 48, 96 or 240 pixels."""
    return render_to_string("pictures/tin.html", {"tin": picture, "size": size})


@register.simple_tag
@lru_cache(maxsize=16)
def curve_axes(axes: Axes) -> str:
    """What stands behind a curve: drawn once for each maker's rooms and unit."""
    return render_to_string("pictures/curve_axes.html", {"axes": axes})


@register.simple_tag
def curve_rows(table: Sequence[tuple[str, Sequence[str]]]) -> str:
    """The figures of a curve as rows of a table: a template's loop takes ten times as long for them."""
    return SafeString(
        "".join(
            f"<tr><th>{escape(temp)}</th>{''.join(f'<td>{escape(value)}</td>' for value in values)}</tr>"
            for temp, values in table
        )
    )
