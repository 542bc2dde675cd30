"""Every name that the tables and makers give to things, and what a run of words can mean."""

import re
from dataclasses import dataclass
from functools import lru_cache

from balmcore.recipes.doubts import DOUBTED, LOST, Doubted
from balmcore.recipes.words.vocabulary import GENERIC
from balmcore.tables import DATA, Ingredient, Tables
from balmcore.tables.csv_rows import rows


@dataclass(frozen=True)
class Meant:
    """What a run of words means: the ingredient, or None; ``near`` are keys to choose among, and ``why`` is what has
    to be said, empty when it is certain. ``words`` are those that an answer is remembered under; ``refused`` says why
    it must not be used."""

    ingredient: Ingredient | None
    near: tuple[str, ...] = ()
    why: str = ""
    kind: Doubted = Doubted.NAME
    words: str = ""
    sure: float = DOUBTED
    refused: str = ""

    @property
    def is_final(self) -> bool:
        """Whether it is known what it is, and that it is no ingredient."""
        return self.kind in (Doubted.HARM, Doubted.WATER)


def clean(text: str) -> str:
    """Small letters and single spaces, without punctuation."""
    return " ".join(re.sub(r"[^\w\s]", " ", text.lower().replace("₂", "2").replace("'", "").replace("’", "")).split())


@lru_cache(maxsize=4)
def names_known(tables: Tables) -> dict[str, str]:
    """Every name a maker may use, in small letters, to its key."""
    found: dict[str, str] = {}
    for item in tables.ingredients.values():
        found.setdefault(clean(item.inci), item.key)
        found.setdefault(clean(re.sub(r"\(.*?\)", " ", item.inci)), item.key)
    for item in tables.ingredients.values():
        found.setdefault(clean(re.sub(r"\(.*?\)", " ", item.name)), item.key)
        found[clean(item.name)] = item.key
        found[item.key.replace("_", " ")] = item.key
    for row in rows(DATA / "aliases.csv"):
        name = row.text("name")
        found[clean(name)] = tables.ingredient(row.text("key"), f"aliases.csv: {name}").key
    return {name: key for name, key in found.items() if name and key != "aroma" and name not in GENERIC}


@lru_cache(maxsize=4)
def by_words(tables: Tables) -> dict[tuple[str, ...], str]:
    """The names by their words in any order: "refined shea butter" is shea butter, refined."""
    found: dict[tuple[str, ...], str] = {}
    for name, key in names_known(tables).items():
        found.setdefault(tuple(sorted(name.split())), key)
    return found


@dataclass(frozen=True)
class BareName:
    """A row of ``bare_names.csv``: a name, the keys it can mean, and whether they differ little."""

    name: str
    keys: tuple[str, ...]
    is_mild: bool


@lru_cache(maxsize=1)
def bare_rows() -> dict[str, BareName]:
    """The names that do not say which of several is meant, by the name."""
    return {
        row.text("name"): BareName(
            row.text("name"), (row.text("key"), *row.words("others")), row.text("differ") == "little"
        )
        for row in rows(DATA / "bare_names.csv")
    }


@lru_cache(maxsize=1)
def refused_names() -> dict[str, str]:
    """Why each name that is not to be used in anything worn is refused."""
    return {row.text("name"): row.text("why") for row in rows(DATA / "refused_names.csv")}


def _not_worn(name: str, why: str) -> str:
    return f"{name.capitalize()} is not for anything worn. {why}"


def barred(name: str, why: str) -> Meant:
    """What must not be used, and why: water in a balm, or what harms."""
    is_water = ("water" in why.split(":")[0] and "colour" not in why) or why.startswith("It does not mix with fat")
    told = f"{name.capitalize()} is not for a balm. {why}" if is_water else _not_worn(name, why)
    return Meant(None, (), told, Doubted.WATER if is_water else Doubted.HARM, sure=LOST, refused=why)


def watery(word: str) -> Meant:
    """Water by another name, which no balm holds."""
    why = f"{word.capitalize()} does not mix with fat and grows mould: it is not for a balm."
    return Meant(None, (), why, Doubted.WATER, sure=LOST, refused=why)


def refusal(text: str) -> str:
    """Why something that a text names anywhere is not for anything worn; empty where it names no such thing."""
    return found.why if (found := barred_inside(text)) else ""


def barred_inside(text: str) -> Meant | None:
    """What a text names anywhere that must not be used; None where it names no such thing."""
    words = f" {clean(text)} "
    return next((barred(name, why) for name, why in refused_names().items() if f" {name} " in words), None)
