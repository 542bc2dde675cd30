"""The ring of a line whose recipe left something open."""

from collections.abc import Mapping, Sequence

from django import template
from django.utils.safestring import SafeString

from balmcore.recipes.lines import ReadLine
from formulas.models import Question
from pantry.picking import PickInput

register = template.Library()


@register.simple_tag
def row_pick(key: str, line: ReadLine) -> SafeString:
    """The field for the ingredient of a line that was read."""
    label = f"Ingredient of “{line.text}”"
    said = {"aria-label": label, "placeholder": "not understood: which?", "maxlength": "120"}
    return PickInput().render(f"row:ingredient@{key}", line.name, said)


@register.inclusion_tag("formulas/_asked.html")
def asked(questions: Mapping[str, Sequence[Question]], key: str) -> dict[str, Sequence[Question]]:
    """The open ring of an ingredient that is asked about, leading to its question; nothing where none is open."""
    return {"questions": questions.get(key, ())}
