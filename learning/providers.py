"""What pages of the apps below show of what is learned."""

from django.urls import reverse

from balmcore.display import Display
from balmcore.tables import Tables
from batches.hooks import ladder_tests
from formulas.models import Version
from learning.trying import to_try, what_may_hurt
from pours.hooks import Part, pages_of_log, suggestions, urgent


@ladder_tests.register
def cups(version: Version) -> str:
    """Where the cups of a ladder are written down."""
    return reverse("learning:begin_ladder", args=[version.pk])


@suggestions.register
def suggestion(version: Version, tables: Tables, show: Display) -> Part | None:
    """The next thing to try with a version."""
    found = to_try(version, tables, show)
    return Part("learning/_suggestion.html", found) if found else None


@urgent.register
def hurts(version: Version) -> Part | None:
    """What may hurt, before anything else of it is searched for."""
    found = what_may_hurt(version)
    return Part("learning/_suggestion.html", found) if found else None


@pages_of_log.register
def learned() -> tuple[str, str]:
    """What the tests of all pours teach."""
    return "What your tests teach", reverse("learning:learned")
