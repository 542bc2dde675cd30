"""The workshop's own ingredients and rests, known to the core while a request or a task runs."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache

from django.http import HttpRequest, HttpResponse

from balmcore.tables import Ingredient, stocked
from pantry.models import Leftover, LeftoverLine, OwnIngredient

Rows = tuple[tuple[object, ...], ...]


@contextmanager
def workshop() -> Iterator[None]:
    """A context in which the core's tables hold what this workshop added to them."""
    own = tuple(
        OwnIngredient.objects.values_list("pk", "name", "role", "like_key", "melt_low_c", "melt_high_c", "note")
    )
    rests = tuple(LeftoverLine.objects.values_list("leftover", "ingredient_key", "share", "leftover__name"))
    with stocked(_ingredients(own, rests)):
        yield


@lru_cache(maxsize=4)
def _ingredients(own: Rows, rests: Rows) -> tuple[Ingredient, ...]:
    """The ingredients of these rows; built once as long as the rows stay the same."""
    if not own and not rests:
        return ()
    plain = tuple(row.core() for row in OwnIngredient.objects.all())
    with stocked(plain):
        return plain + tuple(row.core() for row in Leftover.objects.prefetch_related("lines"))


class OwnIngredientsMiddleware:
    """Every request knows the workshop's own ingredients."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer within the workshop."""
        with workshop():
            return self.get_response(request)
