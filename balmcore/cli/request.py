"""Fields of a request, read and refused."""

import json
import math
from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from balmcore.composition import Composition, Line
from balmcore.errors import Problem
from balmcore.tables import Ingredient, shipped
from balmcore.tables.herbs import of_recipe, parts_of

Request = Mapping[str, Any]
Answer = dict[str, Any]


def number_of(value: object, where: str, low: float = -math.inf, high: float = math.inf) -> float:
    """A finite number within bounds. Raises :class:`Problem`."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e15:
        raise Problem(f"{where} should be a number, not {json.dumps(value)[:60]}.", where)
    if not low <= value <= high:
        raise Problem(f"{where} should be between {low:g} and {high:g}, not {value:g}.", where)
    return float(value)


def ingredient_of(key: str, where: str) -> Ingredient:
    """The ingredient of a key, also of one that ``read`` gives to an oil with a herb in it. Raises :class:`Problem`."""
    herbs, base = parts_of(key)
    if herbs:
        return of_recipe(shipped().ingredient(base, where), *herbs)
    return shipped().ingredient(key, where)


def mixed(amounts: Mapping[str, Decimal], where: str) -> Composition:
    """The composition of amounts by key. Raises :class:`Problem`."""
    return Composition(tuple(Line(ingredient_of(key, f"{where}.{key}"), amount) for key, amount in amounts.items()))


def composition_of(request: Request) -> Composition:
    """The composition of the field ``percent``. Raises :class:`Problem`."""
    percent = request.get("percent")
    if not isinstance(percent, dict) or not percent:
        raise Problem("percent should be an object of ingredient keys and numbers.", "percent")
    for key, value in percent.items():
        ingredient_of(key, f"percent.{key}")
        number_of(value, f"percent.{key}", 0)
    return mixed({key: Decimal(str(value)) / 100 for key, value in percent.items()}, "percent").require_mass()


def listed_of(request: Request, name: str) -> list[Any]:
    """A list of at least one. Raises :class:`Problem`."""
    value = request.get(name)
    if not isinstance(value, list) or not value or len(value) > 10_000:
        raise Problem(f"{name} should be a list of at least one.", name)
    return value


def percent_of(composition: Composition) -> dict[str, float]:
    """A composition as percent by key."""
    return {line.key: float(line.share * 100) for line in composition.lines}


def names_of(request: Request, name: str) -> tuple[str, ...]:
    """A list of names; empty when it is not given."""
    value = request.get(name, [])
    if not isinstance(value, list) or not all(isinstance(word, str) for word in value) or len(value) > 200:
        raise Problem(f"{name} should be a list of names.", name)
    return tuple(value)


def keys_of(request: Request, name: str) -> tuple[str, ...]:
    """A list of ingredient keys; empty when it is not given."""
    return tuple(shipped().ingredient(word, name).key for word in names_of(request, name))


def object_of(request: Request, name: str) -> Request:
    """An object, empty when it is not given. Raises :class:`Problem`."""
    value = request.get(name) or {}
    if not isinstance(value, dict):
        raise Problem(f"{name} should be an object.", name)
    return value


def decimal_of(value: object, where: str, low: float = -math.inf, high: float = math.inf) -> Decimal:
    """A number as it was written. Raises :class:`Problem`."""
    return Decimal(str(number_of(value, where, low, high)))


def choice_of(request: Request, name: str, allowed: Sequence[str], usual: str) -> str:
    """One of some words. Raises :class:`Problem`."""
    value = request.get(name, usual)
    if value not in allowed:
        raise Problem(f"{name} should be one of {', '.join(allowed)}.", name)
    return str(value)
