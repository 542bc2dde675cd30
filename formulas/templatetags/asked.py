"""The ring of a line whose recipe left something open."""

from collections.abc import Mapping, Sequence

from django import template

from formulas.models import Question

register = template.Library()


@register.inclusion_tag("formulas/_asked.html")
def asked(questions: Mapping[str, Sequence[Question]], key: str) -> dict[str, Sequence[Question]]:
    """The open ring of an ingredient that is asked about, leading to its question; nothing where none is open."""
    return {"questions": questions.get(key, ())}
