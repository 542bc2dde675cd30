"""What every page knows: the maker's preferences."""

from typing import Any

from workshop.glossary import Word, words_on
from workshop.web import Request


def preferences(request: Request) -> dict[str, Any]:
    """Context processor: ``prefs`` and ``show``, the maker's way of reading quantities, and the ``words`` that ``?``
    explains here."""

    def words() -> tuple[Word, ...]:
        match = request.resolver_match
        return words_on(match.view_name if match else "")

    return {"prefs": request.prefs, "show": request.prefs.show, "words": words}
