"""Places where a page asks the apps above its own: the lower app names the place, a higher one answers.

So a formula's page can show pours, and a lot's page what was made from it, although neither
formulas nor the pantry know of pours. A higher app registers when it is ready.
"""

from collections.abc import Callable
from typing import Generic, NamedTuple, ParamSpec, TypeVar

P = ParamSpec("P")
R = TypeVar("R")


class Hook(Generic[P, R]):
    """One such place: answers are asked for in the order in which they were registered."""

    def __init__(self) -> None:
        self._answers: list[Callable[P, R]] = []

    def register(self, answer: Callable[P, R]) -> Callable[P, R]:
        """Take part in the answers; as a decorator it leaves the function as it is."""
        self._answers.append(answer)
        return answer

    def ask(self, *arguments: P.args, **named: P.kwargs) -> list[R]:
        """Everybody's answer."""
        return [answer(*arguments, **named) for answer in self._answers]


class SettingsPage(NamedTuple):
    """A page of settings that another app has: what it is called, where it stands, and what it is for."""

    name: str
    address: str
    help: str


settings_pages: Hook[[], SettingsPage] = Hook()
