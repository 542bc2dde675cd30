"""What views know of a request: fields as plain text, and whether htmx asked."""

from collections.abc import Callable
from decimal import Decimal
from typing import TypeVar

from django.http import HttpRequest, QueryDict
from django_htmx.middleware import HtmxDetails

from balmcore.errors import Problem
from balmcore.tables import Tables
from workshop.models import Preferences

LONGEST = 500
T = TypeVar("T")


class Request(HttpRequest):
    """A request as the middlewares leave it: whether htmx asked, the maker's preferences, and the
    tables with the workshop's own rows, and whether it comes from a phone."""

    htmx: HtmxDetails
    prefs: Preferences
    tables: Tables
    is_on_phone: bool


class Fields:
    """Posted or queried fields: always text, never missing, never endless."""

    def __init__(self, data: QueryDict) -> None:
        self._data = data

    def text(self, name: str, longest: int = LONGEST) -> str:
        """The value of a field, empty when it is not there."""
        return (self._data.get(name) or "")[:longest]

    def texts(self, name: str) -> list[str]:
        """All values of a repeated field."""
        return [value[:LONGEST] for value in self._data.getlist(name)]

    def whole(self, name: str) -> int | None:
        """A whole number such as a row's number, None for anything else."""
        return _whole(self.text(name))

    def wholes(self, name: str) -> list[int]:
        """The whole numbers of a repeated field; anything else among them is left out."""
        return [number for number in map(_whole, self.texts(name)) if number is not None]


def _whole(text: str) -> int | None:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 16 else None


class Reading:
    """Reads typed fields one by one and collects a sentence for each that cannot be used."""

    def __init__(self) -> None:
        self.problems: dict[str, str] = {}

    def value(self, name: str, how: Callable[[], T], otherwise: T) -> T:
        """What the field says, or ``otherwise`` with its problem noted."""
        try:
            return how()
        except Problem as problem:
            self.problems[name] = problem.sentence
            return otherwise

    def amount(
        self, name: str, how: Callable[[], Decimal], low: float, high: float, told: Callable[[float], str]
    ) -> Decimal:
        """A number between two others."""

        def between() -> Decimal:
            number = how()
            if not low <= number <= high:
                raise Problem(f"This should be between {told(low)} and {told(high)}.")
            return number

        return self.value(name, between, Decimal(0))
