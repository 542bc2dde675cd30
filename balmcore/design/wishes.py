"""Wishes: what may not be in a balm, and what it may be made of alone.

A wish names an allergen, an ingredient, a family or a word of a name; what is not understood is
refused with the nearest. What the wishes bar may neither enter nor stay.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import lru_cache

from rapidfuzz import fuzz, process

from balmcore.errors import Problem
from balmcore.recipes.wanted import Wanted
from balmcore.tables import Ingredient, Role, Tables

# What people say, and the words of the tables it means as well.
ALSO = {"nut": ("peanut",), "bee": ("beeswax",), "gluten": ("wheat", "oat"), "dairy": ("milk",), "milk": ()}
NEAR = 60  # likeness in percent from which a name is worth proposing


@dataclass(frozen=True)
class Wishes:
    """What may be used. ``barred`` are ingredients that may not; with ``only`` nothing else than
    those may; ``words`` are the wishes as they were said."""

    vegan: bool = False
    barred: frozenset[Ingredient] = frozenset()
    only: frozenset[Ingredient] | None = None
    words: tuple[str, ...] = field(default=())

    @property
    def any(self) -> bool:
        """True when anything is wished."""
        return self.vegan or bool(self.barred) or self.only is not None

    def allow(self, item: Ingredient) -> bool:
        """True when an ingredient, and all it was mixed from, may be used."""
        if self.only is not None and item not in self.only:
            return False
        return all(
            part not in self.barred and (not self.vegan or part.vegan == "yes")
            for part, _ in ((item, 1.0), *item.parts)
        )


NONE = Wishes()


def read_wishes(
    tables: Tables, vegan: bool = False, without: Iterable[str] = (), only: Iterable[str] | None = None
) -> Wishes:
    """Wishes as they are said. Raises :class:`Problem` for a word that names nothing, with the nearest."""
    words = tuple(word for each in without if (word := " ".join(each.split())))
    barred = frozenset(item for word in words for item in named_by(word, tables))
    kept = None if only is None else frozenset(tables.ingredient(key, "wishes.only") for key in only)
    return Wishes(vegan, barred, kept, words)


def wished(wanted: Wanted, tables: Tables) -> Wishes:
    """What the text of a recipe wishes, as far as its words name something here; what they do not name stays with the
    notes of its reading."""
    words = []
    for word in wanted.without:
        tried = (word, " ".join(word.split()[:2]), word.split()[0])
        words += [next((each for each in tried if names_something(each, tables)), "")]
    return read_wishes(tables, wanted.vegan, dict.fromkeys(words))


def named_by(word: str, tables: Tables) -> frozenset[Ingredient]:
    """Every ingredient that a wish names. Raises :class:`Problem` when there is none."""
    wanted = _tokens(word)
    if wanted == {"tree", "nut"}:
        # Lists differ on whether shea counts as one: whoever wishes no nuts gets none.
        wanted = frozenset({"nut"})
    if word in tables.ingredients:
        return frozenset({tables.ingredients[word]})
    found = set()
    also = ALSO.get(next(iter(wanted)), ()) if len(wanted) == 1 else ()
    if wanted:
        for item, fields in _fields(tables):
            if wanted in ({"wax"}, {"butter"}, {"oil"}):
                hit = {str(item.role)} == wanted
            else:
                hit = any(wanted <= tokens for tokens in fields)
                hit = hit or any(other in tokens for other in also for tokens in fields)
            if hit:
                found.add(item)
    if not found:
        near = nearest_words(word, tables)
        told = f" Nearest: {', '.join(near)}." if near else " Say one such as tree nuts, shea or liquid oil."
        raise Problem(f"“{word[:40]}” is no allergen, ingredient or family here.{told}", "wishes.without")
    return frozenset(found)


def names_something(word: str, tables: Tables) -> bool:
    """Whether a wish names anything here."""
    try:
        return bool(named_by(word, tables))
    except Problem:
        return False


def nearest_words(text: str, tables: Tables, limit: int = 3) -> list[str]:
    """The allergens, families and names likest to a text."""
    known = wish_words(tables)
    scored = process.extract(text.lower(), known, scorer=fuzz.WRatio, limit=limit, score_cutoff=NEAR)
    return [name for name, _, _ in scored]


@lru_cache(maxsize=4)
def wish_words(tables: Tables) -> list[str]:
    """Every allergen, family and name that a wish may say."""
    found: dict[str, None] = {}
    for item in tables.ingredients.values():
        for word in (*item.allergens, item.group.replace("_", " "), item.name.lower()):
            found.setdefault(word.split(" (")[0])
    return list(found)


@lru_cache(maxsize=4)
def _fields(tables: Tables) -> tuple[tuple[Ingredient, tuple[frozenset[str], ...]], ...]:
    """Of every ingredient the texts that a wish may name, as sets of words."""
    return tuple(
        (item, tuple(map(_tokens, (item.name, item.key, item.inci, item.group, *item.allergens))))
        for item in tables.ingredients.values()
        if item.role in tuple(Role)
    )


@lru_cache(maxsize=4096)
def _tokens(text: str) -> frozenset[str]:
    """The words of a text in small letters, without their plural."""
    words = re.findall(r"[a-z]+", text.lower().replace("_", " "))
    return frozenset(
        word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word for word in words
    )
