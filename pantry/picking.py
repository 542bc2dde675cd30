"""The one way in which an ingredient is chosen: by typing, with what the letters could mean below the field."""

from collections.abc import Iterable, Mapping
from typing import Any
from urllib.parse import urlencode

from django import forms
from django.core.exceptions import ValidationError
from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_safe

from balmcore.errors import Problem
from balmcore.recipes.words.picking import offered, picked
from balmcore.tables import Ingredient, Tables
from pantry.queries import containers, in_stock
from workshop.models import Preferences
from workshop.web import Fields, Request

SHOWN = 8
VESSEL = "vessel"  # what is only in the kitchen, and never bought for a batch


def container_names() -> dict[str, str]:
    """The names of what is bought by the piece, by key."""
    return {key: each.name for key, each in containers().items() if each.kind != VESSEL}


def pick(tables: Tables, text: str, others: Mapping[str, str] | None = None, roles: Iterable[str] = ()) -> list[str]:
    """The keys that a few letters could mean; rests of melts of which nothing is left are none of them."""
    keys = offered(text, tables, others, tuple(roles))
    return _with_rests_last(keys, tables)[:SHOWN]


def _with_rests_last(keys: list[str], tables: Tables) -> list[str]:
    """Rests of melts of which something is left, the newest first, after all else."""
    rests = [key for key in keys if key in tables.ingredients and tables.ingredients[key].made_of]
    if not rests:
        return keys
    left = in_stock(rests)
    kept = sorted((key for key in rests if left.get(key)), key=lambda key: -int(key.rpartition("-")[2]))
    return [key for key in keys if key not in set(rests)] + kept


def rest_words(items: Iterable[Ingredient], prefs: Preferences) -> dict[str, str]:
    """What is said of rests among some ingredients: when it was melted, and how much is left."""
    rests = {item.key: item for item in items if item.made_of}
    left = in_stock(rests) if rests else {}
    return {key: f"{item.note} {prefs.show.mass_text(left.get(key, 0))} left." for key, item in rests.items()}


@require_safe
def pick_page(request: Request) -> HttpResponse:
    """What a few letters could mean. ``of`` names the field they stand in; ``with`` asks for containers too, ``role``
    narrows to roles."""
    fields = Fields(request.GET)
    words = fields.text(fields.text("of") or "q")
    others = container_names() if fields.text("with") else {}
    keys = pick(request.tables, words, others, fields.texts("role")[:4])
    known = request.tables.ingredients
    rests = rest_words((known[key] for key in keys if key in known), request.prefs)
    found = [
        (key, known[key].role if key in known else "", name, rests.get(key, known[key].inci if key in known else ""))
        for key in keys
        for name in (known[key].name if key in known else others[key],)
    ]
    return render(request, "pantry/_picked.html", {"picked": found, "q": words.strip()[:60]})


class PickInput(forms.TextInput):
    """A text field with what could be meant below it."""

    template_name = "forms/pick.html"

    def __init__(self, with_containers: bool = False, roles: Iterable[str] = (), **options: Any) -> None:
        super().__init__(**options)
        self.asks = {"with": "containers"} if with_containers else {}
        self.roles = tuple(roles)

    def get_context(self, name: str, value: Any, attrs: dict[str, Any] | None) -> dict[str, Any]:
        """With the address that is asked."""
        asked = {"of": name, "role": self.roles} | self.asks
        return super().get_context(name, value, attrs) | {
            "pick_at": f"{reverse('pantry:pick')}?{urlencode(asked, True)}"
        }


class PickField(forms.CharField):
    """An ingredient, or with ``others`` something else with a key; its value is the key."""

    def __init__(
        self, tables: Tables, others: Mapping[str, str] | None = None, roles: Iterable[str] = (), **options: Any
    ) -> None:
        self.tables, self.others, self.roles = tables, others or {}, tuple(roles)
        options.setdefault("widget", PickInput(bool(others), self.roles))
        super().__init__(**{"max_length": 120, **options})

    def clean(self, value: Any) -> str:
        """The key of what was typed, empty where nothing was and nothing is needed."""
        text: str = super().clean(value)
        if not text:
            return ""
        try:
            return picked(text, self.tables, self.others, self.roles)
        except Problem as problem:
            raise ValidationError(problem.sentence) from None

    def prepare_value(self, value: Any) -> Any:
        """The name of a key; what was typed as it was typed."""
        if value in self.tables.ingredients:
            return self.tables.ingredients[value].name
        return self.others.get(value, value) if isinstance(value, str) else value
