"""What views know of a request: fields as plain text, and whether htmx asked."""

from django.http import HttpRequest, QueryDict
from django_htmx.middleware import HtmxDetails

LONGEST = 500


class Request(HttpRequest):
    """A request as the htmx middleware leaves it."""

    htmx: HtmxDetails


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
        value = self.text(name)
        return int(value) if value.isascii() and value.isdigit() and len(value) < 16 else None
