"""What the pantry's pages show of formulas."""

from formulas.models import Line, Version
from pantry.points import Use, needs_ingredient, uses_of_ingredient


@uses_of_ingredient.register
def versions_with(key: str) -> list[Use]:
    """The current versions that hold an ingredient, by name."""
    found = Version.objects.current().filter(lines__ingredient_key=key).select_related("formula")
    return [
        Use(f"{version.formula.name}, version {version.number}", version.formula.get_absolute_url())
        for version in found.order_by("formula__name")
    ]


@needs_ingredient.register
def stands_in_a_version(key: str) -> bool:
    """True when any version, an old one too, holds the ingredient."""
    return Line.objects.filter(ingredient_key=key).exists()
