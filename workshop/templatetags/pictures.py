"""Pictures in templates: ``{% tin formula.tin 48 %}``. Each is drawn in one place only."""

from typing import Any

from django import template

from workshop.pictures.tin import Tin

register = template.Library()


@register.inclusion_tag("pictures/tin.html")
def tin(picture: Tin, size: int) -> dict[str, Any]:
    """A tin at 24, 48, 96 or 240 pixels."""
    return {"tin": picture, "size": size}
