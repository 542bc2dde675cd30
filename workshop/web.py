"""What views know of a request: fields as plain text, and whether htmx asked; and answers that need no template."""

from collections.abc import Callable
from typing import TypeVar

from django.http import HttpRequest, HttpResponse, QueryDict
from django.utils.html import format_html, format_html_join
from django_htmx.http import reswap, retarget
from django_htmx.middleware import HtmxDetails

from balmcore.errors import Problem
from balmcore.tables import Tables
from balmcore.trials.experience import Experience
from workshop.models import Preferences

LONGEST = 500
T = TypeVar("T")


class Request(HttpRequest):
    """A request as the middlewares leave it: whether htmx asked, the maker's preferences, the
    tables with the workshop's own rows, what the maker's records teach, and whether it comes from a phone."""

    htmx: HtmxDetails
    prefs: Preferences
    tables: Tables
    experience: Experience
    is_on_phone: bool


def typed_fields(request: HttpRequest) -> list[tuple[str, str]]:
    """The fields of a post, so that nothing typed is lost with the page that held it; none of another request."""
    post = request.POST
    return [(name, value) for name in post for value in post.getlist(name) if name != "csrfmiddlewaretoken"]


def plain_page(request: HttpRequest, words: str, status: int) -> HttpResponse:
    """A sentence and what was typed, by no template and no database, as nothing else may be working."""
    typed = format_html_join("", "<dt>{}</dt><dd>{}</dd>", typed_fields(request))
    page = format_html("<!doctype html><title>Calm Tin</title><p>{}</p><dl>{}</dl>", words, typed)
    return HttpResponse(page, status=status)


def notice(words: str, status: int) -> HttpResponse:
    """A sentence for htmx in the place of refusals, so that the page that asked stays as it was typed."""
    told = HttpResponse(format_html('<p class="notice" role="alert">{}</p>', words), status=status)
    return retarget(reswap(told, "innerHTML"), "#refused")


class Fields:
    """Posted or queried fields: always text, never missing, never endless."""

    def __init__(self, data: QueryDict) -> None:
        self._data = data

    def __contains__(self, name: str) -> bool:
        """Whether a field is there, empty or not."""
        return name in self._data

    def text(self, name: str, longest: int = LONGEST) -> str:
        """The value of a field, empty when it is not there."""
        return (self._data.get(name) or "")[:longest]

    def texts(self, name: str) -> list[str]:
        """All values of a repeated field."""
        return [value[:LONGEST] for value in self._data.getlist(name)]

    def names(self, start: str) -> list[str]:
        """The names of the fields that begin so."""
        return [name for name in self._data if name.startswith(start)]

    def whole(self, name: str) -> int | None:
        """A whole number such as a row's number, None for anything else."""
        return _whole(self.text(name))

    def wholes(self, name: str) -> list[int]:
        """The whole numbers of a repeated field; anything else among them is left out."""
        return [number for number in map(_whole, self.texts(name)) if number is not None]


def _whole(text: str) -> int | None:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 16 else None


class FieldReader:
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
