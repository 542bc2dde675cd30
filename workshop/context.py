"""What every page knows: the maker's preferences."""

from typing import Any

from django.http import HttpRequest

from workshop.services import preferences as read


def preferences(request: HttpRequest) -> dict[str, Any]:
    """Context processor: ``prefs`` and ``show``, the maker's way of reading quantities."""
    prefs = read()
    return {"prefs": prefs, "show": prefs.show}
