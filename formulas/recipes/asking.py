"""The open questions of a formula's recipe, as the pages of the formula and of its batches show them."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from formulas.models import Question, Recipe, Version


@dataclass(frozen=True)
class Asked:
    """What is still open of a version's recipe, by ingredient; ``address`` is the recipe's page, empty for none."""

    address: str = ""
    by_key: Mapping[str, Sequence[Question]] = field(default_factory=dict)

    @property
    def count(self) -> int:
        """How many questions are open."""
        return sum(len(questions) for questions in self.by_key.values())

    @property
    def on_amounts(self) -> int:
        """How many of them decide how much of something is in it."""
        return sum(question.is_on_amounts for questions in self.by_key.values() for question in questions)

    @property
    def not_in_it(self) -> list[str]:
        """The lines of the recipe that the formula does not hold, for want of an answer."""
        return list(dict.fromkeys(question.line for question in self.by_key.get("", ())))


def asked_of(version: Version) -> Asked:
    """What is open of a version's recipe, but for questions about what it no longer holds."""
    recipe = Recipe.objects.filter(formula=version.formula_id).prefetch_related("questions").first()
    if recipe is None:
        return Asked()
    held = {line.ingredient_key for line in version.lines.all()}
    found: defaultdict[str, list[Question]] = defaultdict(list)
    for question in recipe.questions.all():
        if not question.ingredient_key or question.ingredient_key in held:
            found[question.ingredient_key].append(question)
    return Asked(recipe.get_absolute_url(), dict(found))
