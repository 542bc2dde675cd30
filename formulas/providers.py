"""What pages of the apps below show of formulas."""

from formulas.models import Formula, Line, Version
from pantry.hooks import Use, needs_ingredient, uses_of_ingredient
from workshop.kinds import needs_kind


@uses_of_ingredient.register
def versions_with(key: str) -> list[Use]:
    """The current versions that hold an ingredient, by name."""
    found = Version.objects.current().filter(lines__ingredient_key=key).select_related("formula")
    return [
        Use(f"{version.formula.name}, version {version.number}", version.formula.get_absolute_url())
        for version in found.order_by("formula__name")
    ]


@needs_kind.register
def formulas_of(key: str) -> bool:
    """True when any formula is of the kind."""
    return Formula.objects.filter(kind_key=key).exists()


@needs_ingredient.register
def stands_in_a_version(key: str) -> bool:
    """True when any version, an old one too, holds the ingredient."""
    return Line.objects.filter(ingredient_key=key).exists()
