"""What the text of a recipe wishes and promises: vegan, without nuts, that it makes 200 g."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from balmcore.recipes.words.vocabulary import NO_WISH

_VEGAN = re.compile(r"(?<!not )(?<!non-)(?<!non )\bvegan\b", re.IGNORECASE)
_WITHOUT = re.compile(
    r"\b(?:no|without(?: any)?|free (?:of|from)|omit|leave out|avoid)\s+(?:any\s+)?([a-z][a-z \-/]{1,60})",
    re.IGNORECASE,
)
_FREE = re.compile(r"\b([a-z]+)[- ]free\b", re.IGNORECASE)
_JOINED = re.compile(r"\s+(?:or|and|nor)\s+(?:any\s+)?|/")


@dataclass(frozen=True)
class Wanted:
    """Wishes in the text's own words: whether vegan, and what it is to be without. What the words name is for
    :mod:`balmcore.design.wishes` to say."""

    vegan: bool = False
    without: tuple[str, ...] = ()

    @property
    def any(self) -> bool:
        """True when it wishes anything."""
        return self.vegan or bool(self.without)


def wanted(plain: str) -> Wanted:
    """What a text wishes."""
    said = [found[1].lower() for found in (*_WITHOUT.finditer(plain), *_FREE.finditer(plain))]
    words = [" ".join(word.split()[:3]) for many in said for word in _JOINED.split(many) if word.strip()]
    words = [word for word in words if word.split()[0] not in NO_WISH]
    return Wanted(bool(_VEGAN.search(plain)), tuple(dict.fromkeys(words)))


def says_wish(text: str) -> bool:
    """Whether a sentence is nothing but a wish."""
    return bool(_VEGAN.fullmatch(text.strip(" .,!-"))) or bool(
        re.fullmatch(r"vegan (?:recipe|balm|salve)?", text.lower())
    )


class Says(Protocol):
    """A sentence that says how much it makes."""

    @property
    def mass_g(self) -> float | None:
        """The grams."""


def said_total(sentences: Sequence[Says]) -> float | None:
    """The grams that a text says it makes; None where it says none, or several."""
    said = {found.mass_g for found in sentences if found.mass_g}
    return said.pop() if len(said) == 1 else None
