"""A field in which an ingredient is chosen by typing, where no form draws it."""

from django import template
from django.utils.safestring import SafeString

from pantry.picking import PickInput

register = template.Library()


@register.simple_tag
def pick_input(name: str, value: str = "", roles: str = "", **attributes: str) -> SafeString:
    """The field of a name; ``roles`` narrows it, with commas between. Attributes with an underscore get a hyphen."""
    widget = PickInput(roles=[role for role in roles.split(",") if role])
    return widget.render(name, value, {key.replace("_", "-"): text for key, text in attributes.items()})


@register.simple_tag
def pick_several(value: str, row: int) -> SafeString:
    """The field for what is received in a row of several: an ingredient or a container."""
    return PickInput(with_containers=True).render("item", value, {"aria-label": f"What, row {row}"})
