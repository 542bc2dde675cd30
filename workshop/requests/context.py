"""What every page knows: the maker's preferences."""

from typing import Any

from workshop.web import Request


def preferences(request: Request) -> dict[str, Any]:
    """Context processor: ``prefs`` and ``show``, the maker's way of reading quantities."""
    return {"prefs": request.prefs, "show": request.prefs.show}
