"""Answers that are kept, apart for each set of tables they were worked out from."""

from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

from balmcore.tables import library

P = ParamSpec("P")
T = TypeVar("T")


def per_library(size: int) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Keep up to ``size`` answers of a function that reads the tables, apart for each library."""

    def decorate(function: Callable[P, T]) -> Callable[P, T]:
        known: dict[tuple[object, ...], T] = {}

        @wraps(function)
        def answer(*arguments: P.args, **named: P.kwargs) -> T:
            asked = (library(), arguments, *named.items())
            if asked not in known:
                if len(known) >= size:
                    known.clear()
                known[asked] = function(*arguments, **named)
            return known[asked]

        return answer

    return decorate
