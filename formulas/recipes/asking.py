"""The open questions of a formula's recipe, as the pages of the formula and of its batches show them."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from balmcore.composition import Composition
from balmcore.design.wishes import names_something, read_wishes
from balmcore.tables import Tables
from formulas.models import Question, Recipe, Version


@dataclass(frozen=True)
class Asked:
    """What is still open of a version's recipe, by ingredient, and what it wishes; ``address`` is the recipe's page,
    empty for none, ``against`` what the version holds against the wish."""

    address: str = ""
    by_key: Mapping[str, Sequence[Question]] = field(default_factory=dict)
    vegan: bool = False
    without: Sequence[str] = ()
    against: Sequence[str] = ()

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
    return Asked(recipe.get_absolute_url(), dict(found), recipe.vegan, recipe.without)


def with_wishes(asked: Asked, composition: Composition, tables: Tables) -> Asked:
    """With what a composition holds against what the recipe wishes."""
    words = [word for word in asked.without if names_something(word, tables)]
    wishes = read_wishes(tables, asked.vegan, words)
    return replace(asked, against=[item.name for item in composition.ingredients if not wishes.allow(item)])
