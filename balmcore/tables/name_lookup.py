"""What makers call things: a name as written to an ingredient's key, with how it was found."""

import csv
import re
from dataclasses import dataclass
from functools import lru_cache

from rapidfuzz import fuzz, process

from balmcore.tables import DATA, Tables

NEAR, CLOSE = 84, 92  # likeness in percent: good enough to propose, good enough not to ask
_OFFERED = 5


@dataclass(frozen=True)
class Meant:
    """What a name means. ``how`` is ``exactly``, ``nearly`` (ask), ``unknown`` (only ``near``)
    or ``nothing`` (no name there at all)."""

    key: str
    how: str
    near: tuple[str, ...] = ()


def clean(text: str) -> str:
    """Small letters and single spaces, without punctuation."""
    return " ".join(re.sub(r"[^\w\s]", " ", text.lower()).split())


def find(full: str, name: str, tables: Tables) -> Meant:
    """The ingredient meant by a cleaned text: ``full`` as written, ``name`` without forms and
    praise. Names of the tables first, then the words in any order, then a known name inside
    the text, then the likest."""
    known = _names(tables)
    if full in known:
        return Meant(known[full], "exactly")
    if key := _by_words(tables).get(_words(name)):
        return Meant(key, "exactly")
    for ending in (name.removesuffix(" oil"), name.removesuffix("s"), f"{name} oil", f"{name} butter"):
        if ending in known:
            return Meant(known[ending], "exactly")
    near = _nearest(name, tables)
    if inside := _inside(name, tables):
        rest = re.search(r"[a-z]{2}", name.replace(inside, " "))
        return Meant(known[inside], "nearly" if rest else "exactly", near)
    if not re.search(r"[a-z]{3}", name):
        return Meant("", "nothing")
    _, score, _ = process.extract(name, list(known), scorer=fuzz.token_sort_ratio, limit=1)[0]
    if score < NEAR:
        return Meant("", "unknown", near)
    return Meant(near[0], "exactly" if score >= CLOSE else "nearly", near)


def _nearest(name: str, tables: Tables) -> tuple[str, ...]:
    """The keys whose names are likest, the likest first."""
    known = _names(tables)
    likest = process.extract(name, list(known), scorer=fuzz.token_sort_ratio, limit=3 * _OFFERED)
    return tuple(dict.fromkeys(known[match] for match, _, _ in likest))[:_OFFERED]


@lru_cache(maxsize=4)
def _names(tables: Tables) -> dict[str, str]:
    """Every name a maker may use, in small letters, to its key."""
    found: dict[str, str] = {}
    for item in tables.ingredients.values():
        found.setdefault(clean(item.inci), item.key)
        found.setdefault(clean(re.sub(r"\(.*?\)", " ", item.inci)), item.key)
    for item in tables.ingredients.values():
        found[clean(item.name)] = item.key
        found[item.key.replace("_", " ")] = item.key
    with (DATA / "aliases.csv").open(encoding="utf-8", newline="") as file:
        for row in csv.DictReader(line for line in file if not line.startswith("#")):
            found[row["name"]] = tables.ingredient(row["key"], f"aliases.csv: {row['name']}").key
    found.pop("", None)
    return found


@lru_cache(maxsize=4)
def _by_words(tables: Tables) -> dict[tuple[str, ...], str]:
    """The names by their words in any order: "refined shea butter" is shea butter, refined."""
    found: dict[tuple[str, ...], str] = {}
    for name, key in _names(tables).items():
        found.setdefault(_words(name), key)
    return found


def _words(text: str) -> tuple[str, ...]:
    return tuple(sorted(text.split()))


def _inside(name: str, tables: Tables) -> str:
    """The longest known name of two words or more that stands whole inside a text, or nothing."""
    named = (known for known, key in _names(tables).items() if " " in known and key != "aroma")
    inside = (known for known in named if re.search(rf"(?<!\w){re.escape(known)}(?!\w)", name))
    return max(inside, key=len, default="")
