"""What makers call things: runs of words as written to an ingredient, with how it was found."""

import csv
import re
from dataclasses import dataclass
from functools import lru_cache

from rapidfuzz import fuzz, process

from balmcore.recipes.vocabulary import GENERIC, PRAISE
from balmcore.tables import DATA, Ingredient, Tables

NEAR = 84  # likeness in percent: good enough to propose
LONGEST_NAME = 9  # words
# What is mostly water, whatever else stands beside it.
WATERS = frozenset(("water", "waters", "juice", "milk", "hydrosol", "hydrolate", "vinegar", "tea", "broth"))
# Words that say a plant itself is meant, and not the oil that was made with it.
PLANT_ITSELF = frozenset(
    ("fresh", "dried", "petal", "petals", "flower", "flowers", "leaf", "leaves", "herb", "herbs", "root", "powder")
)
_OFFERED = 5  # of the nearest names: more are not read


@dataclass(frozen=True)
class Meant:
    """What a run of words means: the ingredient, or None; ``near`` are keys to choose among, and
    ``why`` is what has to be said, empty when it is certain."""

    ingredient: Ingredient | None
    near: tuple[str, ...] = ()
    why: str = ""


def clean(text: str) -> str:
    """Small letters and single spaces, without punctuation."""
    return " ".join(re.sub(r"[^\w\s]", " ", text.lower().replace("'", "").replace("’", "")).split())


def exactly(words: tuple[str, ...], tables: Tables) -> Meant | None:
    """What a run of words certainly names, in any order, with praise or without; None for no name."""
    if not words or len(words) > LONGEST_NAME:
        return None
    plain = tuple(word for word in words if word not in PRAISE)
    for tried in dict.fromkeys((words, plain)):
        if tried and (found := _known(tried, tables)):
            return found
    return None


def _known(words: tuple[str, ...], tables: Tables) -> Meant | None:
    scent = words[-1] == "eo" or words[-2:] in (("essential", "oil"), ("essential", "oils"))
    stem = tuple(words[: -1 if words[-1] == "eo" else -2]) if scent else words
    if scent and not stem:
        return None
    core = stem[:-1] if stem and stem[-1] in ("oil", "oils") else stem
    if why := _refused().get(" ".join(words)) or _refused().get(" ".join(core)):
        return Meant(None, (), _not_worn(" ".join(core), why))
    if herb := _plant_itself(words, tables):
        said = f"{' '.join(words).capitalize()} is the plant itself: steep it in oil first, and write that oil down"
        return Meant(None, (herb.key,), f"{said}. {herb.caution}".strip())
    if bare := _bare().get(" ".join(core)):
        near = tuple(key for key in bare if key in tables.ingredients)
        item = tables.ingredient(near[0])
        if scent or item.aromatic is None or len(core) == len(words) or core != words:
            return Meant(item, near, f"It does not say which: read as {item.name}, the strictest of them.")
    known = _by_words(tables)
    for tried in _spellings(stem, scent):
        key = known.get(tuple(sorted(tried)))
        if key and (not scent or tables.ingredients[key].aromatic):
            return Meant(tables.ingredients[key])
    return None


def _not_worn(name: str, why: str) -> str:
    return f"{name.capitalize()} is not for anything worn. {why}"


def refusal(text: str) -> str:
    """Why something that a text names anywhere is not for anything worn; empty where it names no such thing."""
    words = f" {clean(text)} "
    found = (_not_worn(name, why) for name, why in _refused().items() if f" {name} " in words)
    return next(found, "")


def _plant_itself(words: tuple[str, ...], tables: Tables) -> Ingredient | None:
    """The infused oil of a plant that is meant itself: ``dried calendula petals``, ``turmeric powder``."""
    rest = tuple(word for word in words if word not in PLANT_ITSELF)
    if not rest or rest == words:
        return None
    by_words = _by_words(tables)
    if by_words.get(tuple(sorted(words))):
        return None  # a powder of the table's own
    tried = (by_words.get(tuple(sorted(words))) for words in _spellings(rest, False))
    item = tables.ingredients.get(next((key for key in tried if key), ""))
    is_infused = item is not None and ("infused" in item.name.lower() or item.key == "infused_oil")
    return item if is_infused else None


def _spellings(words: tuple[str, ...], scent: bool) -> list[tuple[str, ...]]:
    """The words themselves, without their plural, and with the role that is often left out."""
    single = (*words[:-1], words[-1].removesuffix("s")) if len(words[-1]) > 3 else words
    tried = [words, single]
    for stem in (words, single):
        if stem[-1] == "oil" and len(stem) > 1:
            tried.append(stem[:-1])
        elif not scent and stem[-1] not in ("oil", "butter", "wax"):
            tried += [(*stem, "oil"), (*stem, "butter")]
    return tried


def nearly(text: str, tables: Tables) -> Meant:
    """The likest to words that name nothing: proposed when near enough, and always to be asked."""
    name = clean(text)
    if wet := next((word for word in name.split() if word in WATERS), ""):
        return Meant(None, (), f"{wet.capitalize()} does not mix with fat and grows mould: it is not for a balm.")
    if name in GENERIC:
        return Meant(None, (), f"Which one? “{name}” can be any.")
    if not re.search(r"[a-z]{3}", name):
        return Meant(None, (), f"“{text.strip()[:40]}” was not understood.")
    known = _names(tables)
    likest = process.extract(name, list(known), scorer=fuzz.token_sort_ratio, limit=3 * _OFFERED)
    near = tuple(dict.fromkeys(known[match] for match, _, _ in likest))[:_OFFERED]
    if likest[0][1] >= NEAR:
        return Meant(tables.ingredients[near[0]], near, f"Read as {tables.ingredients[near[0]].name}.")
    told = ", ".join(tables.ingredients[key].name for key in near[:3])
    return Meant(None, near, f"“{name[:40]}” is not in the pantry. Nearest: {told}.")


@lru_cache(maxsize=4)
def _names(tables: Tables) -> dict[str, str]:
    """Every name a maker may use, in small letters, to its key."""
    found: dict[str, str] = {}
    for item in tables.ingredients.values():
        found.setdefault(clean(item.inci), item.key)
        found.setdefault(clean(re.sub(r"\(.*?\)", " ", item.inci)), item.key)
    for item in tables.ingredients.values():
        found.setdefault(clean(re.sub(r"\(.*?\)", " ", item.name)), item.key)
        found[clean(item.name)] = item.key
        found[item.key.replace("_", " ")] = item.key
    for row in _rows("aliases.csv"):
        found[clean(row["name"])] = tables.ingredient(row["key"], f"aliases.csv: {row['name']}").key
    return {name: key for name, key in found.items() if name and key != "aroma" and name not in GENERIC}


@lru_cache(maxsize=4)
def _by_words(tables: Tables) -> dict[tuple[str, ...], str]:
    """The names by their words in any order: "refined shea butter" is shea butter, refined."""
    found: dict[tuple[str, ...], str] = {}
    for name, key in _names(tables).items():
        found.setdefault(tuple(sorted(name.split())), key)
    return found


@lru_cache(maxsize=1)
def _bare() -> dict[str, tuple[str, ...]]:
    return {row["name"]: (row["key"], *row["others"].split(";")) for row in _rows("bare_names.csv")}


@lru_cache(maxsize=1)
def _refused() -> dict[str, str]:
    return {row["name"]: row["why"] for row in _rows("refused_names.csv")}


def _rows(file: str) -> list[dict[str, str]]:
    with (DATA / file).open(encoding="utf-8", newline="") as lines:
        return list(csv.DictReader(line for line in lines if not line.startswith("#")))
